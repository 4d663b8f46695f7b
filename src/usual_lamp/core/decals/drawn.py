"""Pictures of drawings: each is written as SVG in mm, and rasterised as finely as a decal can be."""

from __future__ import annotations

import io
from dataclasses import dataclass

import numpy as np
from PIL import Image

from usual_lamp.core.decals.drawings import (
    MOST_TICKS,
    CodeDrawing,
    Drawing,
    ScaleDrawing,
    TextDrawing,
)
from usual_lamp.core.decals.fonts import FontOf, font_named
from usual_lamp.core.decals.markings import marking
from usual_lamp.core.decals.sheets import CannotDraw, Sheet, fallback, width_of, words_at

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
            sheet = _scale(drawing, font_of)
        else:
            sheet = marking(drawing)
    except LookupError as error:
        raise CannotDraw(str(error)) from error
    return _rastered(sheet)


def _rastered(sheet: Sheet) -> Drawn:
    import resvg_py

    scale = min(FINEST, LARGEST / max(sheet.width, sheet.height))
    width, height = (max(1, round(side * scale)) for side in (sheet.width, sheet.height))
    svg = (
        f'<svg xmlns="http://www.w3.org/2000/svg" width="{width}" height="{height}" '
        f'viewBox="0 0 {sheet.width:.6f} {sheet.height:.6f}">{sheet.body}</svg>'
    )
    files = [str(path) for path in dict.fromkeys([*(f.path for f in sheet.fonts), *fallback()])]
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
    return Drawn(found.getvalue(), round(pixels.shape[1] / scale, 3), round(pixels.shape[0] / scale, 3))


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
    return Sheet(behind + ink, width, tall, crop=False)


def _scale(drawing: ScaleDrawing, font_of: FontOf | None) -> Sheet:
    count = int(np.floor(abs(drawing.last - drawing.first) / drawing.step + 1e-6)) + 1
    if count > MOST_TICKS:
        raise CannotDraw(f"That would be {count} ticks, and {MOST_TICKS} are the most. Take a larger step.")
    if count < 2:
        raise CannotDraw("A scale needs at least two ticks. Take a smaller step.")
    font = font_named(drawing.font, font_of)
    size = drawing.cap_height / font.cap_height
    sign = 1.0 if drawing.last >= drawing.first else -1.0
    values = drawing.first + sign * drawing.step * np.arange(count)
    span = abs(drawing.last - drawing.first)
    long, short, w = drawing.tick, 0.55 * drawing.tick, 0.14 * drawing.tick
    labels = [_number(value, drawing.step * drawing.long_every) for value in values]
    margin = long + 1.8 * size + max(width_of(label, font, size, 0.0) for label in labels)
    body = []
    for k, (value, label) in enumerate(zip(values, labels, strict=True)):
        share = abs(value - drawing.first) / span
        is_long = k % drawing.long_every == 0
        tick = long if is_long else short
        if drawing.kind == "scale line":
            x = margin + share * drawing.length
            ends = (x, margin, x, margin - tick)
            at, anchor = (x, margin - long - 0.55 * size), "middle"
        else:
            angle = np.radians((share - 0.5) * drawing.sweep)
            out, middle = np.array([np.sin(angle), -np.cos(angle)]), drawing.radius + margin
            near, far = middle + out * drawing.radius, middle + out * (drawing.radius + tick)
            ends = (*near, *far)
            # Numbers stand upright outside the ticks, clear of them on every side.
            half = width_of(label, font, size, 0.0) / 2
            clear = abs(out[0]) * half + abs(out[1]) * 0.5 * drawing.cap_height
            place = middle + out * (drawing.radius + long + 0.45 * size + clear)
            at, anchor = (place[0], place[1] + drawing.cap_height / 2), "middle"
        x1, y1, x2, y2 = ends
        body.append(f'<path d="M{x1:.4f} {y1:.4f}L{x2:.4f} {y2:.4f}" stroke="{drawing.color}" stroke-width="{w:.4f}"/>')
        if drawing.numbers and is_long:
            body.append(words_at(label, *at, size, font, drawing.color, anchor))
    if drawing.kind == "scale line":
        return Sheet("".join(body), drawing.length + 2 * margin, margin + 2 * w, (font,))
    side = 2 * (drawing.radius + margin)
    return Sheet("".join(body), side, side, (font,), crop=False)


def _number(value: float, step: float) -> str:
    """A tick's number, with as many digits as the step needs."""
    digits = next((d for d in range(6) if abs(round(step, d) - step) < 1e-9 * max(1.0, step)), 6)
    return f"{value + 0.0:.{digits}f}".replace("-", "−") if round(value, digits) else f"{0:.{digits}f}"
