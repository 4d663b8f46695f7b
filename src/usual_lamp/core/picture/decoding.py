"""Decodes a picture from outside, in the sandbox: whatever its file is made to do, it does it there."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import Any

from usual_lamp.core.decals.vector_files import PDF_START, is_svg, pdf_picture, svg_picture
from usual_lamp.core.picture.read import read_picture, safe_picture, safe_png


def decode(request: dict[str, Any], say: Callable[..., None]) -> dict[str, Any]:
    """Write the file `source` as `picture` into the job's folder, in the form that is kept; its kind and its size.

    Of a PDF it is the `page`, from 1; `pages` tells how many there are. Raises UnreadablePicture, also for one of more
    than `most_pixels`.
    """
    data = Path(request["source"]).read_bytes()
    pages = 1
    if data.startswith(PDF_START) or is_svg(data):
        drawn, pages = (svg_picture(data), 1) if is_svg(data) else pdf_picture(data, request["page"])
        block, media = safe_png(drawn, request["most_pixels"]), "image/png"
    else:
        block, media = safe_picture(data, request["most_pixels"])
    (Path(request["folder"]) / "picture").write_bytes(block)
    height, width = read_picture(block, color=False).shape[:2]
    return {"media": media, "width": width, "height": height, "pages": pages}
