"""Scales: ticks with numbers, along a line or an arc."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from usual_lamp.core.decals.drawings import MOST_TICKS, ScaleDrawing
from usual_lamp.core.decals.fonts import FontOf, font_named
from usual_lamp.core.decals.sheets import CannotDraw, Sheet, width_of, words_at

Point = NDArray[np.float64]
SHORT, LINE = 0.55, 0.14
"""Of a long tick: the length of a short one, and the width of all."""


def scale(drawing: ScaleDrawing, font_of: FontOf | None = None) -> Sheet:
    """The sheet of a scale, mm. Raises CannotDraw for one without ticks or with far too many, LookupError for a font
    that is not there."""
    values = _values(drawing)
    font = font_named(drawing.font, font_of)
    size = drawing.cap_height / font.cap_height
    labels = [_number(value, drawing.step * drawing.long_every) for value in values]
    widths = [width_of(label, font, size, 0.0) for label in labels]
    # What lies beyond the ticks on every side.
    margin = drawing.tick + 1.8 * size + max(widths)
    body = []
    for k, (value, label, width) in enumerate(zip(values, labels, widths, strict=True)):
        is_long = k % drawing.long_every == 0
        foot, out = _foot(drawing, abs(value - drawing.first) / abs(drawing.last - drawing.first), margin)
        tip = foot + out * drawing.tick * (1.0 if is_long else SHORT)
        body.append(
            f'<path d="M{foot[0]:.4f} {foot[1]:.4f}L{tip[0]:.4f} {tip[1]:.4f}" stroke="{drawing.color}" '
            f'stroke-width="{LINE * drawing.tick:.4f}"/>'
        )
        if drawing.numbers and is_long:
            # Numbers stand upright outside the ticks, clear of them on every side.
            clear = abs(out[0]) * width / 2 + abs(out[1]) * drawing.cap_height / 2
            place = foot + out * (drawing.tick + 0.45 * size + clear)
            body.append(words_at(label, place[0], place[1] + drawing.cap_height / 2, size, font, drawing.color))
    if drawing.kind == "scale line":
        return Sheet("".join(body), drawing.length + 2 * margin, margin + LINE * drawing.tick, (font,))
    side = 2 * (drawing.radius + margin)
    return Sheet("".join(body), side, side, (font,), crop=False)


def _values(drawing: ScaleDrawing) -> Point:
    count = int(np.floor(abs(drawing.last - drawing.first) / drawing.step + 1e-6)) + 1
    if count > MOST_TICKS:
        raise CannotDraw(f"That would be {count} ticks, and {MOST_TICKS} are the most. Take a larger step.")
    if count < 2:
        raise CannotDraw("A scale needs at least two ticks. Take a smaller step.")
    return np.asarray(drawing.first + np.sign(drawing.last - drawing.first) * drawing.step * np.arange(count))


def _foot(drawing: ScaleDrawing, share: float, margin: float) -> tuple[Point, Point]:
    """Where a tick stands, mm from the top left, and the direction in which it points."""
    if drawing.kind == "scale line":
        return np.array([margin + share * drawing.length, margin]), np.array([0.0, -1.0])
    angle = np.radians((share - 0.5) * drawing.sweep)
    out = np.array([np.sin(angle), -np.cos(angle)])
    return drawing.radius + margin + out * drawing.radius, out


def _number(value: float, step: float) -> str:
    """A tick's number, with as many digits as the step needs."""
    digits = next((d for d in range(6) if abs(round(step, d) - step) < 1e-9 * max(1.0, step)), 6)
    return f"{value + 0.0:.{digits}f}".replace("-", "−") if round(value, digits) else f"{0:.{digits}f}"
