"""Decodes a picture from outside, in the sandbox: whatever its file is made to do, it does it there."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import Any

from usual_lamp.core.picture.read import read_picture, safe_picture


def decode(request: dict[str, Any], say: Callable[..., None]) -> dict[str, Any]:
    """Write the file `source` as `picture` into the job's folder, in the form that is kept; its kind and its size.

    Raises UnreadablePicture, also for one of more than `most_pixels`.
    """
    block, media = safe_picture(Path(request["source"]).read_bytes(), request["most_pixels"])
    (Path(request["folder"]) / "picture").write_bytes(block)
    height, width = read_picture(block, color=False).shape[:2]
    return {"media": media, "width": width, "height": height}
