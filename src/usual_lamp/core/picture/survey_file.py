"""The survey of a still, kept beside its light: what a compositing program masks, blurs and relights by.

Numbers that must not be averaged are those of the pixel's middle. Parts and appearances are told by number, -1 for
none; which number is which stands in the file's header.
"""

from __future__ import annotations

import json
from collections.abc import Sequence
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from usual_lamp.core.camera import Camera
from usual_lamp.core.exr import NOT_READ, Channel, ChannelReader, UnreadablePicture, write_channels
from usual_lamp.core.picture.area import Area
from usual_lamp.core.picture.develop import without_grain
from usual_lamp.core.picture.finishing import spans
from usual_lamp.core.picture.tone import Image

EXACT = ("depth", "part", "appearance")
"""Kept as float numbers; the others as half numbers, true to 0.05 percent."""
ROUNDED = ("alpha", "occlusion")


def write_survey(path: Path, found: dict[str, Image], inner: tuple[slice, slice] = (slice(None), slice(None))) -> None:
    """Write a survey, see `core.trace.jobs.survey`: (H, W) each, and the normal (H, W, 3), the grain of its occlusion
    taken away; or its `inner` rows and columns, the rest being looked at only. Where things are can be told from the
    depth, and is left out. Raises OSError."""
    seen = found | {"occlusion": without_grain(found["occlusion"], found["normal"])}
    kinds: dict[str, type[np.floating]] = {f"{name}.Y": np.float32 for name in EXACT}
    kinds |= {f"{name}.Y": np.float16 for name in ROUNDED} | {f"surface_normal.{axis}": np.float16 for axis in "XYZ"}
    channels: dict[str, Channel] = {f"{name}.Y": seen[name][inner] for name in (*EXACT, *ROUNDED)}
    channels |= {f"surface_normal.{axis}": seen["normal"][..., k][inner] for k, axis in enumerate("XYZ")}
    height, width = channels["depth.Y"].shape
    write_channels(path, (width, height), [channels], kinds)


class SurveyFile:
    """A survey that was kept. Raises UnreadablePicture for a file that is none."""

    def __init__(self, path: Path) -> None:
        self.file = ChannelReader(path)
        if not {f"{name}.Y" for name in (*EXACT, *ROUNDED)} <= set(self.file.kinds):
            raise UnreadablePicture(NOT_READ)

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

    def bare(self, area: Area) -> NDArray[np.bool_]:
        """(n, m): the pixels of an area of which no part covers anything. Raises UnreadablePicture."""
        alpha = self.file.rows(area.top, area.bottom, ["alpha.Y"])["alpha.Y"]
        return np.asarray(alpha[:, area.left : area.right] == 0)


def write_part(path: Path, survey: SurveyFile, area: Area) -> None:
    """Write an area of a survey as a survey of its own. Raises OSError, UnreadablePicture."""
    rows = (survey.file.rows(area.top + first, area.top + last) for first, last in spans(area.size))
    cut = ({name: values[:, area.left : area.right] for name, values in found.items()} for found in rows)
    write_channels(path, area.size, cut, survey.file.kinds)


SINGLE = frozenset({f"{name}.Y" for name in EXACT} | {f"position.{axis}" for axis in "XYZ"})
"""Channels that half numbers cannot hold."""


def matte_words(parts: Sequence[str], appearances: Sequence[str]) -> dict[str, str]:
    """What the numbers of the mattes stand for, as JSON in the header of a file."""
    listed = {"parts": parts, "appearances": appearances}
    return {name: json.dumps(dict(enumerate(names)), ensure_ascii=False) for name, names in listed.items() if names}
