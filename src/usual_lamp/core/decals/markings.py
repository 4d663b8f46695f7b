"""Markings: arrows and warning signs."""

from __future__ import annotations

import numpy as np

from usual_lamp.core.decals.drawings import MarkingDrawing
from usual_lamp.core.decals.sheets import Sheet

BOLT = (
    (0.56, 0.27), (0.40, 0.60), (0.495, 0.60), (0.45, 0.80), (0.415, 0.785), (0.445, 0.93),
    (0.55, 0.82), (0.515, 0.81), (0.60, 0.53), (0.505, 0.53), (0.62, 0.27),
)  # fmt: skip
"""Outline of the sign for voltage, as shares of the triangle's side and height; drawn by hand."""


def marking(drawing: MarkingDrawing) -> Sheet:
    """The sheet of an arrow or a warning sign, mm."""
    if drawing.kind == "arrow":
        return _arrow(drawing)
    return _turning(drawing) if drawing.kind == "turning arrow" else _triangle(drawing)


def _arrow(drawing: MarkingDrawing) -> Sheet:
    """A straight arrow to the right; its head is three lines wide (common practice, no published source)."""
    s, w = drawing.size, drawing.size * drawing.line
    head, half = min(2.6 * w, 0.6 * s), 1.6 * w
    neck = s - head
    points = [(0, -w / 2), (neck, -w / 2), (neck, -half), (s, 0), (neck, half), (neck, w / 2), (0, w / 2)]
    path = " ".join(f"{x + w:.4f},{y + half + w:.4f}" for x, y in points)
    return Sheet(f'<polygon points="{path}" fill="{drawing.color}"/>', s + 2 * w, 2 * half + 2 * w)


def _turning(drawing: MarkingDrawing) -> Sheet:
    """An arc over the top with a head at its right end: clockwise."""
    w = drawing.size * drawing.line
    r, middle = (drawing.size - w) / 2, drawing.size / 2 + 2 * w
    half = np.radians(drawing.sweep / 2)
    head = min(2.6 * w / r, 1.6 * half)

    def at(angle: float, radius: float) -> str:
        """A point by its angle from straight up, clockwise, as SVG writes it."""
        return f"{middle + radius * np.sin(angle):.4f} {middle - radius * np.cos(angle):.4f}"

    # The arc ends a little within the head, so that no seam shows.
    end = half - 0.9 * head
    arc = f"M{at(-half, r)}A{r:.4f} {r:.4f} 0 {int(half + end > np.pi)} 1 {at(end, r)}"
    tip = f"M{at(half - head, r - 1.6 * w)}L{at(half - head, r + 1.6 * w)}L{at(half, r)}z"
    body = f'<path d="{arc}" fill="none" stroke="{drawing.color}" stroke-width="{w:.4f}"/>'
    body += f'<path d="{tip}" fill="{drawing.color}"/>'
    return Sheet(body, 2 * middle, 2 * middle)


def _triangle(drawing: MarkingDrawing) -> Sheet:
    """A warning sign: a yellow triangle with a black edge and sign (the layout of ISO 3864-1 and the signs W001 and
    W012 of ISO 7010; proportions from memory)."""
    s = drawing.size
    high, edge = s * np.sqrt(3) / 2, 0.05 * s
    points = [(s / 2, 0.0), (s, high), (0.0, high)]
    body = f'<g stroke-linejoin="round" transform="translate({edge:.4f} {edge:.4f})">'
    outline = " ".join(f"{x:.4f},{y:.4f}" for x, y in points)
    body += f'<polygon points="{outline}" fill="#F9A800" stroke="#000000" stroke-width="{1.5 * edge:.4f}"/>'
    if drawing.kind == "warning":
        top, stroke = f"M{0.452 * s:.4f} {0.34 * high:.4f}h{0.096 * s:.4f}", f"l{-0.022 * s:.4f} {0.36 * high:.4f}"
        body += f'<path d="{top}{stroke}h{-0.052 * s:.4f}z"/>'
        body += f'<circle cx="{s / 2:.4f}" cy="{0.81 * high:.4f}" r="{0.05 * s:.4f}"/>'
    else:
        bolt = ((0.075 + 0.83 * x, 0.14 + 0.8 * y) for x, y in BOLT)
        body += '<polygon points="' + " ".join(f"{x * s:.4f},{y * high:.4f}" for x, y in bolt) + '"/>'
    return Sheet(body + "</g>", s + 2 * edge, high + 2 * edge)
