"""Pictures of drawings: each is written as SVG in mm, and rasterised as finely as a decal can be."""

from __future__ import annotations

import io
from dataclasses import dataclass

import numpy as np
from PIL import Image

from usual_lamp.core.decals.drawings import (
    CodeDrawing,
    Drawing,
    ScaleDrawing,
    TextDrawing,
)
from usual_lamp.core.decals.fonts import FontOf, fallback, font_named
from usual_lamp.core.decals.markings import marking
from usual_lamp.core.decals.scales import scale
from usual_lamp.core.decals.sheets import CannotDraw, Sheet, width_of, words_at

LARGEST = 2048
"""Pixels along a drawing's longer side at most."""
FINEST = 60.0
"""Pixels per mm at most: finer than print."""
QUIET_QR, QUIET_128 = 4, 10
"""Modules left free round a code (ISO/IEC 18004; ISO/IEC 15417)."""


@dataclass(frozen=True)
class Drawn:
    """A drawing as a picture."""

    png: bytes
    """8-bit RGBA."""
    width: float
    """mm."""
    height: float


def draw(drawing: Drawing, font_of: FontOf | None = None) -> Drawn:
    """The picture of a drawing and its size. Raises CannotDraw."""
    try:
        if isinstance(drawing, TextDrawing):
            sheet = _text(drawing, font_of)
        elif isinstance(drawing, CodeDrawing):
            sheet = _qr(drawing) if drawing.kind == "qr" else _code128(drawing)
        elif isinstance(drawing, ScaleDrawing):
            sheet = scale(drawing, font_of)
        else:
            sheet = marking(drawing)
    except LookupError as error:
        raise CannotDraw(str(error)) from error
    return _rastered(sheet)


def _rastered(sheet: Sheet) -> Drawn:
    import resvg_py

    per_mm = min(FINEST, LARGEST / max(sheet.width, sheet.height))
    if sheet.grid and per_mm * sheet.grid > 1:
        per_mm = int(per_mm * sheet.grid) / sheet.grid
    width, height = (max(1, round(side * per_mm)) for side in (sheet.width, sheet.height))
    svg = (
        f'<svg xmlns="http://www.w3.org/2000/svg" width="{width}" height="{height}" '
        f'viewBox="0 0 {sheet.width:.6f} {sheet.height:.6f}">{sheet.body}</svg>'
    )
    files = [str(path) for path in dict.fromkeys([*(f.path for f in sheet.fonts), *filter(None, [fallback()])])]
    png = resvg_py.svg_to_bytes(svg_string=svg, skip_system_fonts=True, font_files=files)
    pixels = np.asarray(Image.open(io.BytesIO(bytes(png))).convert("RGBA"))
    if sheet.crop:
        rows, columns = (np.flatnonzero(pixels[..., 3].any(axis=axis)) for axis in (1, 0))
        if not len(rows):
            raise CannotDraw("There is nothing to be seen of it: type something that has ink.")
        # One clear pixel all round, so that the edge is as smooth as the rest.
        top, left = max(rows[0] - 1, 0), max(columns[0] - 1, 0)
        pixels = pixels[top : rows[-1] + 2, left : columns[-1] + 2]
    found = io.BytesIO()
    Image.fromarray(np.ascontiguousarray(pixels), "RGBA").save(found, "PNG", compress_level=4)
    return Drawn(found.getvalue(), round(pixels.shape[1] / per_mm, 3), round(pixels.shape[0] / per_mm, 3))


# -- text --------------------------------------------------------------------------------------------------------


def _text(drawing: TextDrawing, font_of: FontOf | None) -> Sheet:
    font = font_named(drawing.font, font_of)
    size = drawing.cap_height / font.cap_height
    lines = drawing.text.replace("\r", "").split("\n")
    wide = max(width_of(line, font, size, drawing.spacing) for line in lines)
    width = wide * 1.15 + 2 * size
    anchor = {"left": "start", "center": "middle", "right": "end"}[drawing.align]
    x = size + (width - 2 * size) * {"left": 0.0, "center": 0.5, "right": 1.0}[drawing.align]
    body = "".join(
        words_at(line, x, size * (1.2 + k * drawing.line), size, font, drawing.color, anchor, drawing.spacing)
        for k, line in enumerate(lines)
    )
    return Sheet(body, width, size * (1.8 + (len(lines) - 1) * drawing.line), (font,))


# -- codes -------------------------------------------------------------------------------------------------------


def _qr(drawing: CodeDrawing) -> Sheet:
    import segno

    try:
        code = segno.make_qr(drawing.text, error="m")
    except (segno.DataOverflowError, ValueError) as error:
        raise CannotDraw("That is too much for a QR code. Shorten the text.") from error
    rows = [bytes(row) for row in code.matrix]
    return _modules(drawing, rows, drawing.module, QUIET_QR, QUIET_QR)


def _code128(drawing: CodeDrawing) -> Sheet:
    import barcode

    try:
        (pattern,) = barcode.get_barcode_class("code128")(drawing.text).build()
    except Exception as error:  # the library raises several kinds of its own
        raise CannotDraw("A Code 128 holds Latin letters, digits and signs only. Change the text.") from error
    return _modules(drawing, [bytes(c == "1" for c in pattern)], drawing.height, QUIET_128, 0)


def _modules(drawing: CodeDrawing, rows: list[bytes], height: float, beside: int, above: int) -> Sheet:
    """Dark modules as rectangles with their quiet zone; neighbours in a row are one, so that no seam shows."""
    module = drawing.module
    width, tall = (len(rows[0]) + 2 * beside) * module, len(rows) * height + 2 * above * module
    parts = []
    for j, row in enumerate(rows):
        dark = np.flatnonzero(np.diff(np.r_[0, np.frombuffer(row, np.uint8), 0].astype(np.int8)))
        parts += [
            f"M{(beside + a) * module:.4f} {above * module + j * height:.4f}h{(b - a) * module:.4f}v{height:.4f}"
            f"h{-(b - a) * module:.4f}z"
            for a, b in zip(dark[::2], dark[1::2], strict=True)
        ]
    behind = f'<rect width="{width}" height="{tall}" fill="{drawing.behind}"/>' if drawing.behind else ""
    ink = f'<path d="{"".join(parts)}" fill="{drawing.color}" shape-rendering="crispEdges"/>'
    return Sheet(behind + ink, width, tall, crop=False, grid=module)
