"""Pictures that are made by rule, not photographed: grains, weaves and surface textures at their real size.

Each tiles without a seam, since its noise is filtered in the frequency domain, where a picture is periodic. Heights go
from 0 to 1 (what that is in mm, the texture's strength says), colours are sRGB as pictures are stored.
"""

from __future__ import annotations

import re
from collections.abc import Callable
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

Picture = NDArray[np.float64]
PREFIX = "made:"
SIZE = 512


@dataclass(frozen=True)
class Made:
    """How large one repeat is, and how it is made: (SIZE, SIZE) values or (SIZE, SIZE, 3) colours, row 0 on top."""

    label: str
    width: float
    """mm."""
    height: float
    make: Callable[[], Picture]
    flake: float | None = None
    """Size in mm of one flake, of what is made of flakes."""


def is_made(name: str) -> bool:
    """Whether there is a made picture of this name, without the prefix."""
    return name in MADE or bool(FLAKES_THAT_COVER.fullmatch(name))


def picture(name: str) -> NDArray[np.uint8]:
    """(SIZE, SIZE, 4) pixels of a made picture by its name without the prefix. Raises KeyError."""
    return _pixels(name)


@lru_cache(maxsize=64)
def _pixels(name: str) -> NDArray[np.uint8]:
    covering = FLAKES_THAT_COVER.fullmatch(name)
    made = _flakes(int(covering[1]) / 100) if covering else MADE[name].make()
    found = np.clip(made, 0.0, 1.0)
    colors = found if found.ndim == 3 else np.repeat(found[..., None], 3, axis=2)
    opaque = np.ones((*colors.shape[:2], 1))
    return np.round(np.concatenate([colors, opaque], axis=2) * 255).astype(np.uint8)


# -- noise -----------------------------------------------------------------------------------------------------


def _random(seed: int) -> np.random.Generator:
    return np.random.default_rng(seed)


def _frequencies() -> tuple[Picture, Picture]:
    """Cycles over the picture, down and across."""
    f = np.fft.fftfreq(SIZE, 1 / SIZE)
    v, u = np.meshgrid(f, f, indexing="ij")
    return v, u


def _noise(seed: int, weight: Picture) -> Picture:
    """Noise whose spectrum has this weight, evened out to values spread over 0..1."""
    white = np.fft.fft2(_random(seed).normal(size=(SIZE, SIZE)))
    weight = weight.copy()
    weight[0, 0] = 0.0
    found = np.real(np.fft.ifft2(white * weight))
    found /= max(float(found.std()), 1e-12)
    # The normal distribution's own curve takes a normal value to an even one.
    return np.asarray(0.5 * (1 + np.tanh(0.8 * found)))


def _band(low: float, high: float) -> Picture:
    """Frequencies between two numbers of cycles, softly."""
    v, u = _frequencies()
    f = np.hypot(v, u)
    return np.asarray(np.exp(-((f / high) ** 2)) * (1 - np.exp(-((f / low) ** 2))))


def _streaks(seed: int, along: float, across: float) -> Picture:
    """Noise drawn out along u: up to so many cycles along and across."""
    v, u = _frequencies()
    return _noise(seed, np.exp(-((u / along) ** 2) - (v / across) ** 2) * (np.hypot(v, u) > 0))


def _grid() -> tuple[Picture, Picture]:
    """v downwards and u, 0..1."""
    steps = (np.arange(SIZE) + 0.5) / SIZE
    v, u = np.meshgrid(steps, steps, indexing="ij")
    return v, u


def _cells(seed: int, count: int, ragged: float = 0.0) -> tuple[NDArray[np.int64], Picture]:
    """Which of so many scattered points is nearest, and how far it is in shares of the picture; tiles.

    Ragged edges stray by so many shares of the picture.
    """
    from scipy.spatial import cKDTree

    points = _random(seed).random((count, 2))
    v, u = _grid()
    if ragged:
        v, u = ((t + ragged * (_noise(seed + k, _band(20, 120)) - 0.5)) % 1.0 for k, t in ((1, v), (2, u)))
    distance, owner = cKDTree(points, boxsize=1.0).query(np.stack([v.ravel(), u.ravel()], axis=1))
    return owner.reshape(SIZE, SIZE), distance.reshape(SIZE, SIZE)


def _ridge(seed: int, count: int) -> Picture:
    """How much farther the second of scattered points is than the nearest: 0 where two cells meet."""
    from scipy.spatial import cKDTree

    v, u = _grid()
    points = _random(seed).random((count, 2))
    near = cKDTree(points, boxsize=1.0).query(np.stack([v.ravel(), u.ravel()], axis=1), k=2)[0]
    return np.asarray((near[:, 1] - near[:, 0]).reshape(SIZE, SIZE))


def _between(share: Picture, *colors: str) -> Picture:
    """From the first colour to the last as the share goes from 0 to 1."""
    stops = np.array([[int(c[i : i + 2], 16) / 255 for i in (1, 3, 5)] for c in colors])
    at = np.linspace(0, 1, len(stops))
    return np.stack([np.interp(share, at, stops[:, k]) for k in range(3)], axis=-1)


# -- pictures --------------------------------------------------------------------------------------------------


def _wood(seed: int, rings: float, *colors: str) -> Picture:
    """Growth rings cut lengthwise: sine of a warped distance, with pores drawn out along the grain."""
    v, _ = _grid()
    warp = _streaks(seed, 2, 5)
    ring = 0.5 + 0.5 * np.sin(2 * np.pi * (rings * v + 1.6 * warp))
    fibres = _streaks(seed + 1, 10, 170)
    pores = _streaks(seed + 2, 6, 90) > 0.86
    share = np.clip(0.55 * ring**0.7 + 0.3 * fibres + 0.15 * _streaks(seed + 3, 3, 30), 0, 1)
    return np.clip(_between(share, *colors) * (1 - 0.12 * pores[..., None]), 0, 1)


def _weave(over: int, shift: int, count: int) -> tuple[Picture, NDArray[np.bool_]]:
    """Height of a weave of so many threads each way, and where the lengthwise thread lies on top.

    Each thread goes over so many and under as many, the next one shifted: 1 and 1 is plain weave, 2 and 1 twill.
    """
    v, u = _grid()
    row, column = np.floor(v * count).astype(int), np.floor(u * count).astype(int)
    y, x = v * count - row, u * count - column
    on_top = ((column + shift * row) % (2 * over)) < over
    crown = np.where(on_top, np.sin(np.pi * y), np.sin(np.pi * x))
    bend = np.where(on_top, np.sin(np.pi * x), np.sin(np.pi * y))
    return np.asarray(0.25 + 0.6 * crown**0.6 + 0.15 * bend), on_top


def _twill() -> Picture:
    """Carbon: lengthwise and crosswise bundles send light different ways, here by how dark they are."""
    height, on_top = _weave(2, 1, 8)
    fibres = np.where(on_top, _streaks(31, 8, 200), _streaks(32, 8, 200).T)
    share = np.where(on_top, 0.78, 0.42) * height**0.5 + 0.25 * (fibres - 0.5)
    return _between(np.clip(share, 0, 1), "#0E0F10", "#33363A", "#85898E")


def _knurl() -> Picture:
    """Two crossing sets of ridges at 30 degrees to the axis (DIN 82 form RGE)."""
    v, u = _grid()

    def tooth(t: Picture) -> Picture:
        return np.asarray(1 - np.abs(2 * (t % 1.0) - 1))

    return np.asarray(np.minimum(tooth(6 * u + 4 * v), tooth(6 * u - 4 * v)))


def _rings() -> Picture:
    """Feed marks of a turning tool: grooves across v, the tool's tip round, the depth a little uneven."""
    v, _ = _grid()
    groove = np.abs(2 * ((24 * v) % 1.0) - 1) ** 2
    return np.asarray(0.8 * groove + 0.2 * _streaks(41, 2, 60))


def _holes() -> Picture:
    """A staggered sheet of round holes, open share 40 percent: 0 in the hole."""
    v, u = _grid()
    radius = np.sqrt(0.40 / (2 * np.pi))

    def beside(cv: float, cu: float) -> Picture:
        dv, du = np.abs(v - cv), np.abs(u - cu)
        return np.asarray(np.hypot(np.minimum(dv, 1 - dv), np.minimum(du, 1 - du)))

    distance = np.minimum(beside(0.25, 0.25), beside(0.75, 0.75))
    return np.asarray(np.clip((distance - radius) * SIZE / 2 + 0.5, 0, 1))


def _leather() -> Picture:
    return np.clip(_ridge(51, 900) / 0.018, 0, 1) ** 0.5 * 0.85 + 0.15 * _noise(52, _band(20, 120))


FLAKES = 16_000
"""In one repeat: a repeat is so many flakes wide as the root of it."""
FLAKES_THAT_COVER = re.compile(r"flakes ([1-9]\d?)")
"""So many percent of the paint."""


COVER = 67
"""Percent, where the name says nothing."""


def _flakes(cover: float = COVER / 100) -> Picture:
    """Normals of metal flakes in paint, as in tangent-space maps: one tilt a flake; what they leave bare is level."""
    owner, _ = _cells(61, FLAKES)
    random = _random(62)
    tilt = np.radians(random.rayleigh(7.0, FLAKES)) * (random.random(FLAKES) < cover)
    turn = random.random(FLAKES) * 2 * np.pi
    normal = np.stack([np.sin(tilt) * np.cos(turn), np.sin(tilt) * np.sin(turn), np.cos(tilt)], axis=-1)[owner]
    return 0.5 + 0.5 * normal


FLUTES = 8
"""In one repeat; flutes of form B stand about 6.5 mm apart."""


def _flute() -> Picture:
    """Corrugated board's face: it sinks a little between the crests that it is glued to."""
    _, u = _grid()
    return 0.45 + 0.35 * (1 - np.abs(np.sin(np.pi * FLUTES * u)) ** 3) + 0.2 * (_noise(71, _band(8, 90)) - 0.5)


def _board(*colors: str) -> Picture:
    """Short fibres that lie all ways, most of them along the sheet."""
    share = 0.15 * _noise(25, _band(2, 9)) + 0.35 * _streaks(28, 45, 150) + 0.2 * _streaks(29, 45, 150).T
    return _between(share + 0.3 * _noise(30, _band(60, 220)), *colors)


def _fluted_board() -> Picture:
    """Where it is glued to a crest, the face is a shade darker."""
    _, u = _grid()
    crest = (1 - np.abs(np.sin(np.pi * FLUTES * u))) ** 2
    return _board("#AB8354", "#BC9465", "#C9A577") * (1 - 0.1 * crest[..., None])


def _speckled(seed: int, *colors: str) -> Picture:
    share = 0.55 * _noise(seed, _band(2, 14)) + 0.45 * _noise(seed + 1, _band(30, 160))
    return _between(share, *colors)


def _concrete() -> Picture:
    """Cement with sand in it, hardly clouded, with a few pores."""
    share = 0.25 * _noise(21, _band(2, 7)) + 0.25 * _noise(22, _band(30, 90)) + 0.5 * _noise(20, _band(90, 250))
    _, distance = _cells(19, 260)
    pore = np.clip(1.6 - distance * SIZE, 0, 1)[..., None] * (_noise(18, _band(4, 12)) > 0.45)[..., None]
    return _between(share, "#8F8D88", "#A3A19B", "#B4B1AA") * (1 - 0.45 * pore)


def _granite() -> Picture:
    """Feldspar and quartz in grains of 1 to 3 mm, with dark mica between."""
    random = _random(82)
    large, small = _cells(81, 1600, ragged=0.02)[0], _cells(84, 9000, ragged=0.012)[0]
    light = random.random(large.max() + 1)[large] * 0.55 + random.random(small.max() + 1)[small] * 0.45
    mica = (random.random(small.max() + 1) < 0.13)[small]
    share = np.where(mica, 0.05, 0.3 + 0.6 * light) + 0.1 * (_noise(83, _band(60, 220)) - 0.5)
    return _between(np.clip(share, 0, 1), "#2C2D2F", "#6F6F70", "#A5A19C", "#D8D4CD")


def _marble() -> Picture:
    veins = np.abs(2 * _noise(22, _band(1.5, 7)) - 1) ** 0.35
    return _between(0.9 * veins + 0.1 * _noise(23, _band(10, 80)), "#8E9094", "#DCDAD6", "#F0EEEA")


def _cloth() -> Picture:
    share = 0.7 * _weave(1, 1, 12)[0] + 0.3 * _noise(27, _band(60, 200))
    return _between(share, "#6E6A62", "#8E897F", "#ABA69B")


MADE: dict[str, Made] = {
    "brushed": Made("brushed lines, height", 40, 10, lambda: _streaks(1, 3, 150)),
    "rings": Made("turned grooves, height", 8, 4, _rings),
    "knurl": Made("diamond knurl, height", 6, 7, _knurl),
    "cast": Made("cast skin, height", 24, 24, lambda: _noise(2, _band(6, 60))),
    "blasted": Made("blasted, height", 8, 8, lambda: _noise(3, _band(40, 140))),
    "grain": Made("moulded grain, height", 20, 20, lambda: _noise(8, _band(11, 36))),
    "spark": Made("spark-eroded mould, height", 12, 12, lambda: _noise(4, _band(50, 120))),
    "peel": Made("orange peel, height", 30, 30, lambda: _noise(5, _band(6, 18))),
    "fine": Made("fine-texture coating, height", 16, 16, lambda: _noise(6, _band(25, 70))),
    "flakes": Made("metal flakes, normals", 8, 8, _flakes, flake=8 / FLAKES**0.5),
    "leather": Made("leather-like, height", 34, 34, _leather),
    "plain weave": Made("plain weave, height", 12, 12, lambda: _weave(1, 1, 12)[0]),
    "twill": Made("twill of 2 mm bundles, height", 16, 16, lambda: _weave(2, 1, 8)[0]),
    "carbon": Made("carbon twill, colour", 16, 16, _twill),
    "holes": Made("perforated sheet, opacity", 7, 7, _holes),
    "flute": Made("corrugated board, height", 52, 52, _flute),
    "foam": Made("open foam, height", 14, 14, lambda: np.clip(_cells(7, 700)[1] / 0.03, 0, 1)),
    "oak": Made("oak, colour", 220, 90, lambda: _wood(11, 7, "#8A6238", "#B98C57", "#D3AD78")),
    "beech": Made("beech, colour", 220, 90, lambda: _wood(12, 9, "#B98B62", "#D4AC83", "#E3C3A0")),
    "walnut": Made("walnut, colour", 240, 110, lambda: _wood(13, 6, "#3B2617", "#5E4029", "#86623F")),
    "maple": Made("maple, colour", 260, 110, lambda: _wood(14, 5, "#C9A677", "#E0C598", "#EBD7B3")),
    "concrete": Made("concrete, colour", 200, 200, _concrete),
    "granite": Made("granite, colour", 120, 120, _granite),
    "marble": Made("marble, colour", 420, 420, _marble),
    "paper": Made("paper, colour", 60, 60, lambda: _speckled(24, "#E6E2D8", "#EFECE4", "#F6F4EE")),
    "board": Made("cardboard, colour", 60, 60, lambda: _board("#AB8354", "#BC9465", "#C9A577")),
    "fluted board": Made("corrugated board, colour", 52, 52, _fluted_board),
    "cork": Made("cork, colour", 50, 50, lambda: _speckled(26, "#5E3F22", "#A87B4C", "#C99F6D", "#D8B583")),
    "cloth": Made("cloth, colour", 12, 12, _cloth),
}
