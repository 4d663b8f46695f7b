"""The survey of a still, kept beside its light: what a compositing program masks, blurs and relights by.

Numbers that must not be averaged are those of the pixel's middle. Parts and appearances are told by number, -1 for
none; which number is which stands in the file's header.
"""

from __future__ import annotations

import json
from collections.abc import Iterable, Iterator, Sequence
from itertools import chain
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from usual_lamp.core.camera import Camera
from usual_lamp.core.exr import Channel, ChannelReader, ChannelWriter, UnreadablePicture
from usual_lamp.core.picture.area import Area
from usual_lamp.core.picture.blocks import BLOCK, IN_ONE, MARGIN, bands_of
from usual_lamp.core.picture.develop import without_grain
from usual_lamp.core.picture.tone import Image

EXACT = ("depth", "part", "appearance")
"""Kept as float numbers; the others as half numbers, true to 0.05 percent."""
ROUNDED = ("alpha", "occlusion")


def write_survey(path: Path, size: tuple[int, int], bands: Iterable[dict[str, Image]]) -> None:
    """Write bands of a survey, see `core.trace.jobs.survey`, of a picture of that width and height, from the top:
    (n, W) each, and the normal (n, W, 3), the grain of their occlusion taken away. Where things are can be told from
    the depth, and is left out. Raises OSError."""
    kinds: dict[str, type[np.floating]] = {f"{name}.Y": np.float32 for name in EXACT}
    kinds |= {f"{name}.Y": np.float16 for name in ROUNDED} | {f"surface_normal.{axis}": np.float16 for axis in "XYZ"}
    file = ChannelWriter(path, size, kinds)
    try:
        for band in _with_clean_occlusion(bands):
            channels: dict[str, Channel] = {f"{name}.Y": band[name] for name in (*EXACT, *ROUNDED)}
            file.put(channels | {f"surface_normal.{axis}": band["normal"][..., k] for k, axis in enumerate("XYZ")})
    finally:
        file.close()


def _with_clean_occlusion(bands: Iterable[dict[str, Image]]) -> Iterator[dict[str, Image]]:
    """The bands, without grain in their occlusion; rows of those beside them are looked at."""
    before: dict[str, Image] | None = None
    band: dict[str, Image] | None = None
    for after in chain(bands, [None]):
        if band is not None:
            parts = [*([_some(before, -MARGIN, None)] if before else []), band]
            parts += [_some(after, 0, MARGIN)] if after else []
            first = len(parts[0]["occlusion"]) if before else 0
            around, normal = (np.concatenate([part[name] for part in parts]) for name in ("occlusion", "normal"))
            yield band | {"occlusion": _cleaned(around, normal)[first : first + len(band["occlusion"])]}
        before, band = band, after


def _cleaned(values: Image, normal: Image) -> Image:
    """Numbers without grain, (n, W), a block at a time where that is much."""
    width = values.shape[1]
    if values.size <= IN_ONE:
        return without_grain(values, normal)
    blocks = []
    for left in range(0, width, BLOCK):
        start, end = max(0, left - MARGIN), min(width, left + BLOCK + MARGIN)
        found = without_grain(values[:, start:end], normal[:, start:end])
        blocks.append(found[:, left - start : left - start + BLOCK])
    return np.concatenate(blocks, axis=1)


def _some(band: dict[str, Image], first: int, last: int | None) -> dict[str, Image]:
    return {name: band[name][first:last] for name in ("occlusion", "normal")}


class SurveyFile:
    """A survey that was kept. Raises UnreadablePicture for a file that is none."""

    def __init__(self, path: Path) -> None:
        self.file = ChannelReader(path)
        if not {f"{name}.Y" for name in (*EXACT, *ROUNDED)} <= set(self.file.kinds):
            raise UnreadablePicture("The picture that was kept could not be read.")

    def channels(self, camera: Camera, first: int, last: int) -> dict[str, Channel]:
        """Rows [first, last) of its channels, and of the positions (mm; 0 where nothing is) that follow from depth and
        camera. Raises UnreadablePicture."""
        found: dict[str, Channel] = dict(self.file.rows(first, last))
        depth = found["depth.Y"]
        there = np.isfinite(depth)
        points = camera.points(np.where(there, depth, 0.0), first, self.file.height).astype(np.float32)
        for k, axis in enumerate("XYZ"):
            found[f"position.{axis}"] = np.where(there, points[..., k], np.float32(0.0))
        return found

    def bare(self, first: int, last: int) -> NDArray[np.bool_]:
        """(n, W): the pixels of rows [first, last) of which no part covers anything. Raises UnreadablePicture."""
        return np.asarray(self.file.rows(first, last, ["alpha.Y"])["alpha.Y"] == 0)


def write_part(path: Path, survey: SurveyFile, area: Area) -> None:
    """Write an area of a survey as a survey of its own. Raises OSError, UnreadablePicture."""
    size = area.right - area.left, area.bottom - area.top
    file = ChannelWriter(path, size, survey.file.kinds)
    try:
        for first, last in bands_of(size):
            found = survey.file.rows(area.top + first, area.top + last)
            file.put({name: values[:, area.left : area.right] for name, values in found.items()})
    finally:
        file.close()


SINGLE = frozenset({f"{name}.Y" for name in EXACT} | {f"position.{axis}" for axis in "XYZ"})
"""Channels that half numbers cannot hold."""


def matte_words(parts: Sequence[str], appearances: Sequence[str]) -> dict[str, str]:
    """What the numbers of the mattes stand for, as JSON in the header of a file."""
    listed = {"parts": parts, "appearances": appearances}
    return {name: json.dumps(dict(enumerate(names)), ensure_ascii=False) for name, names in listed.items() if names}
