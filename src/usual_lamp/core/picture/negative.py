"""The negative of a still: its light without grain, and its backdrop apart, from which any exposure is developed.

As an OpenEXR file of half numbers: the light relative to white at the reference exposure, the backdrop as it is shown.
It is written and read some rows at a time, so that a large picture takes no more room than a small one.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator
from pathlib import Path

import numpy as np

from usual_lamp.core.camera import Finish, exposure_scale
from usual_lamp.core.exr import Channel, ChannelReader, ChannelWriter, UnreadablePicture, channels_of
from usual_lamp.core.light.surroundings import REFERENCE_EV
from usual_lamp.core.picture.area import Area
from usual_lamp.core.picture.finishing import AT_ONCE, Clean, Light
from usual_lamp.core.picture.tone import Image

MOST = np.float32(65000.0)
"""Of a half number. Light that is so much above white is white at any exposure that a person sets."""


def write_negative(path: Path, size: tuple[int, int], bands: Iterable[Clean]) -> None:
    """Write bands of a picture of that width and height, from the top; all have a backdrop and tell what is bare, or
    none. Raises OSError."""
    file: ChannelWriter | None = None
    try:
        for band in bands:
            layers = {"light": np.minimum(band.color * np.float32(exposure_scale(REFERENCE_EV)), MOST)}
            if band.backdrop is not None:
                layers["backdrop"] = band.backdrop
            if band.bare is not None:
                layers["bare"] = np.repeat(band.bare[..., None].astype(np.float32), 3, axis=2)
            channels = channels_of(layers, np.float16)
            if file is None:
                file = ChannelWriter(path, size, dict.fromkeys(channels, np.float16))
            file.put(channels)
    finally:
        if file is not None:
            file.close()


class Negative:
    """A file of one, true to half numbers. Raises UnreadablePicture for one that is no negative."""

    def __init__(self, path: Path) -> None:
        self._file = ChannelReader(path)
        self._told = {name.partition(".")[0] for name in self._file.kinds}
        if "light.R" not in self._file.kinds:
            raise UnreadablePicture("The picture that was kept could not be read.")

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


def in_bands(light: Light) -> Iterator[Clean]:
    """All of a light, some rows at a time."""
    width, height = light.size
    step = max(1, AT_ONCE // width)
    return (light.rows(first, min(first + step, height)) for first in range(0, height, step))


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
    width, height = light.size
    kind: type[np.floating] = np.float16 if half else np.float32
    file: ChannelWriter | None = None
    step = max(1, AT_ONCE // width)
    try:
        for first in range(0, height, step):
            last = min(first + step, height)
            channels = channels_of(_scene_linear(light.rows(first, last), look), np.float32)
            channels |= more(first, last) if more else {}
            kinds = {name: np.float32 if name in single else kind for name in channels}
            if half:
                channels |= {n: np.clip(channels[n], -MOST, MOST) for n in channels if n not in single}
            if file is None:
                file = ChannelWriter(path, light.size, kinds, words)
            file.put(channels)
    finally:
        if file is not None:
            file.close()


def _scene_linear(clean: Clean, look: Finish) -> dict[str, Image]:
    exposed = np.maximum(clean.color @ look.matrix().T.astype(np.float32), 0.0)
    backdrop = np.zeros_like(exposed) if clean.backdrop is None else clean.backdrop
    return {"": exposed + backdrop, "light": clean.color, "backdrop": backdrop}
