"""Sheets that drawings are written on: SVG in mm, with the fonts it is set in."""

from __future__ import annotations

from dataclasses import dataclass
from xml.sax.saxutils import escape

from usual_lamp.core.decals.fonts import FALLBACK, Font, fallback, font_named


class CannotDraw(ValueError):
    """The drawing cannot be made; the message says what to change."""


@dataclass(frozen=True)
class Sheet:
    """An SVG's body and the canvas that surely holds it, mm."""

    body: str
    width: float
    height: float
    fonts: tuple[Font, ...] = ()
    crop: bool = True
    """Whether the picture ends where its ink does."""
    grid: float | None = None
    """mm that take a whole number of pixels, as a code's bars do."""


def words_at(
    words: str, x: float, y: float, size: float, font: Font, color: str, anchor: str = "middle", spacing: float = 0.0
) -> str:
    """One line with its baseline at y, mm."""
    gap = f' letter-spacing="{spacing * size:.4f}"' if spacing else ""
    return (
        f'<text x="{x:.4f}" y="{y:.4f}" font-family="{escape(font.family, {chr(34): ""})}" font-size="{size:.4f}" '
        f'fill="{color}" text-anchor="{anchor}" xml:space="preserve"{gap}>{escape(words)}</text>'
    )


def width_of(line: str, font: Font, size: float, spacing: float) -> float:
    """mm. Raises CannotDraw for a sign that neither the font nor the one in its place has."""
    spare = font_named(FALLBACK).advances if fallback() else {}
    missing = [c for c in line if ord(c) not in font.advances and ord(c) not in spare and not c.isspace()]
    if missing:
        raise CannotDraw(f"This font has no “{missing[0]}”. Leave it out, or select another font.")
    unknown = [c for c in line if ord(c) < 32 and c != "\t"]
    if unknown:
        raise CannotDraw("The text holds control characters. Type it anew.")
    return sum(font.advances.get(ord(c), spare.get(ord(c), 0.5)) + max(spacing, 0) for c in line) * size
