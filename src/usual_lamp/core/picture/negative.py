"""The negative of a still: its light without grain, and its backdrop apart, from which any exposure is developed.

As an OpenEXR file of half numbers: the light relative to white at the reference exposure, the backdrop as it is shown.
It is written and read some rows at a time, so that a large picture takes no more room than a small one.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Callable
from dataclasses import replace
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from usual_lamp.core.camera import Finish, exposure_scale
from usual_lamp.core.exr import (
    NOT_READ,
    Channel,
    ChannelReader,
    UnreadablePicture,
    channels_of,
    join_files,
    write_channels,
)
from usual_lamp.core.light.surroundings import REFERENCE_EV
from usual_lamp.core.picture.area import Area
from usual_lamp.core.picture.blocks import blocks_of, cleaned_block, is_small, rows_of_blocks
from usual_lamp.core.picture.develop import Effort, Layers, scales_of
from usual_lamp.core.picture.finishing import Clean, Light, spans
from usual_lamp.core.picture.tone import Image

MOST = np.float32(65000.0)
"""Of a half number. Light that is so much above white is white at any exposure that a person sets."""


def write_negative(path: Path, light: Light) -> None:
    """Write the negative of a light. Raises OSError."""
    rows = (_kept(light.rows(*span)) for span in spans(light.size))
    write_channels(path, light.size, rows, np.float16)


def _kept(clean: Clean) -> dict[str, Channel]:
    layers = {"light": np.minimum(clean.color * np.float32(exposure_scale(REFERENCE_EV)), MOST)}
    if clean.backdrop is not None:
        layers["backdrop"] = clean.backdrop
    if clean.bare is not None:
        layers["bare"] = np.repeat(clean.bare[..., None].astype(np.float32), 3, axis=2)
    return channels_of(layers, np.float16)


def clean_into(
    path: Path,
    size: tuple[int, int],
    layers_of: Callable[[Area], Layers],
    sketch: Callable[[], Layers],
    effort: Effort,
    bare_of: Callable[[Area], NDArray[np.bool_]] | None = None,
) -> None:
    """Write the negative of a picture of that width and height, which is cleaned block by block; blocks lie beside it
    until then. `sketch` gives all of it, as small as one likes, and `bare_of` what is bare of a transparent one.
    Raises OSError."""
    scales = None if is_small(size) else scales_of(sketch())
    files = []
    for number, area in enumerate(blocks_of(size)):
        clean = cleaned_block(size, area, layers_of, scales, effort)
        files.append(path.with_name(f"{path.stem}-{number}.exr"))
        write_negative(files[-1], replace(clean, bare=bare_of(area)) if bare_of else clean)
    join_files(path, size, [[files[number] for number in row] for row in rows_of_blocks(size)])


class Negative:
    """A file of one, true to half numbers. Raises UnreadablePicture for one that is no negative."""

    def __init__(self, path: Path) -> None:
        self._file = ChannelReader(path)
        self._told = {name.partition(".")[0] for name in self._file.kinds}
        if "light.R" not in self._file.kinds:
            raise UnreadablePicture(NOT_READ)

    @property
    def size(self) -> tuple[int, int]:
        """Width and height, px."""
        return self._file.width, self._file.height

    def rows(self, first: int, last: int) -> Clean:
        """Rows [first, last). Raises UnreadablePicture."""
        found = self._file.rows(first, last)

        def layer(name: str) -> Image:
            """One of its layers, (n, W, 3)."""
            return np.stack([found[f"{name}.{c}"] for c in "RGB"], axis=-1)

        light = layer("light") / np.float32(exposure_scale(REFERENCE_EV))
        backdrop = layer("backdrop") if "backdrop" in self._told else None
        return Clean(light, backdrop, found["bare.R"] > 0.5 if "bare" in self._told else None)


class Cut:
    """An area of a light, as a light of its own."""

    def __init__(self, light: Light, area: Area) -> None:
        self.light, self.left, self.top = light, area.left, area.top
        self.size = area.size

    def rows(self, first: int, last: int) -> Clean:
        """Rows [first, last) of the area."""
        whole = self.light.rows(self.top + first, self.top + last)
        return whole.part(slice(None), slice(self.left, self.left + self.size[0]))


def write_scene_linear(
    path: Path,
    light: Light,
    look: Finish,
    words: dict[str, str],
    half: bool = False,
    more: Callable[[int, int], dict[str, Channel]] | None = None,
    single: frozenset[str] = frozenset(),
) -> None:
    """OpenEXR for compositing: R, G, B as `look` exposes and balances it, linear and without a tone curve, 1 is white;
    beside it the light alone in cd/m² and the backdrop; with `words` in the header. `more` gives further channels of
    rows [first, last), by name. Numbers are float, or `half` ones, which hold up to 65,000; those of the names in
    `single` are float always. Raises OSError.
    """
    kind: type[np.floating] = np.float16 if half else np.float32

    def channels(first: int, last: int) -> dict[str, Channel]:
        """All of some rows, within what their numbers hold."""
        found = channels_of(_scene_linear(light.rows(first, last), look), np.float32)
        found |= more(first, last) if more else {}
        return found | ({n: np.clip(found[n], -MOST, MOST) for n in found if n not in single} if half else {})

    kinds = defaultdict(lambda: kind, dict.fromkeys(single, np.float32))
    write_channels(path, light.size, (channels(*span) for span in spans(light.size)), kinds, words)


def _scene_linear(clean: Clean, look: Finish) -> dict[str, Image]:
    exposed = np.maximum(clean.color @ look.matrix().T.astype(np.float32), 0.0)
    backdrop = np.zeros_like(exposed) if clean.backdrop is None else clean.backdrop
    return {"": exposed + backdrop, "light": clean.color, "backdrop": backdrop}
