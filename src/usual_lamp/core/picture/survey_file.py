"""The survey of a still, kept beside its light: what a compositing program masks, blurs and relights by.

Numbers that must not be averaged are those of the pixel's middle. Parts and appearances are told by number, -1 for
none; which number is which stands in the file's header.
"""

from __future__ import annotations

import json
from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from usual_lamp.core.camera import Camera
from usual_lamp.core.exr import Channel, channels_to_exr, read_channels
from usual_lamp.core.picture.develop import without_grain
from usual_lamp.core.picture.tone import Image

EXACT = ("depth", "part", "appearance")
"""Kept as float numbers; the others as half numbers, true to 0.05 percent."""
ROUNDED = ("alpha", "occlusion")


def to_survey_file(found: dict[str, Image]) -> bytes:
    """OpenEXR of a survey, see `core.trace.jobs.survey`: (H, W) each, and the normal (H, W, 3), the grain of its
    occlusion taken away. Where things are can be told from the depth, and is left out."""
    found = found | {"occlusion": without_grain(found["occlusion"], found["normal"])}
    channels: dict[str, Channel] = {f"{name}.Y": found[name].astype(np.float32) for name in EXACT}
    channels |= {f"{name}.Y": found[name].astype(np.float16) for name in ROUNDED}
    normal = found["normal"].astype(np.float16)
    channels |= {f"surface_normal.{axis}": np.ascontiguousarray(normal[..., k]) for k, axis in enumerate("XYZ")}
    return channels_to_exr(channels)


def survey_channels(data: bytes, camera: Camera) -> dict[str, Channel]:
    """The channels of a survey file, and the positions (mm; 0 where nothing is) that follow from depth and camera.
    Raises UnreadablePicture."""
    found = read_channels(data)
    depth = found["depth.Y"]
    there = np.isfinite(depth)
    points = camera.points(np.where(there, depth, 0.0)).astype(np.float32)
    for k, axis in enumerate("XYZ"):
        found[f"position.{axis}"] = np.where(there, points[..., k], np.float32(0.0))
    return found


def bare_in(survey: bytes) -> NDArray[np.bool_]:
    """(H, W): the pixels of which no part covers anything. Raises UnreadablePicture."""
    return np.asarray(read_channels(survey)["alpha.Y"] == 0)


def matte_words(parts: Sequence[str], appearances: Sequence[str]) -> dict[str, str]:
    """What the numbers of the mattes stand for, as JSON in the header of a file."""
    listed = {"parts": parts, "appearances": appearances}
    return {name: json.dumps(dict(enumerate(names)), ensure_ascii=False) for name, names in listed.items() if names}
