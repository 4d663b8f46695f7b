"""Fonts that drawings are set in: those that ship with the application, DejaVu, and files of one's own."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from functools import lru_cache
from pathlib import Path
from typing import Any

from usual_lamp.core.exr import UnreadablePicture

HERE = Path(__file__).parent / "fonts"
DEJAVU = Path("/usr/share/fonts/truetype/dejavu")
OWN = "font:"
"""Begins the name of a font of one's own; its content hash follows."""
FontOf = Callable[[str], Path]
"""Content hash to the file of a font of one's own."""


@dataclass(frozen=True)
class Font:
    """A font file with the numbers that a layout needs."""

    path: Path
    family: str
    """As the file names it."""
    cap_height: float
    """Of the em."""
    advances: dict[int, float]
    """By code point, of the em: which glyphs there are, and how wide."""


SHIPPED: dict[str, tuple[str, Path]] = {
    "barlow": ("Barlow", HERE / "barlow-500.ttf"),
    "barlow-bold": ("Barlow, bold", HERE / "barlow-700.ttf"),
    "barlow-narrow": ("Barlow, narrow", HERE / "barlow-semi-condensed-500.ttf"),
    "mono": ("Spline Sans Mono", HERE / "spline-sans-mono-500.ttf"),
    "dejavu": ("DejaVu Sans", DEJAVU / "DejaVuSans.ttf"),
    "dejavu-bold": ("DejaVu Sans, bold", DEJAVU / "DejaVuSans-Bold.ttf"),
    "dejavu-serif": ("DejaVu Serif", DEJAVU / "DejaVuSerif.ttf"),
}
"""Name on the page and file, by the name that drawings keep."""
FALLBACK = "dejavu"
"""Gives the glyphs that a font lacks: Greek, Cyrillic, arrows, signs of measure."""


def font_named(name: str, font_of: FontOf | None = None) -> Font:
    """Raises LookupError for a font that is not there, ValueError for a file that is none."""
    if name.startswith(OWN):
        if font_of is None:
            raise LookupError("That font is not to be had here.")
        return read_font(font_of(name.removeprefix(OWN)))
    if name not in SHIPPED:
        raise LookupError(f"There is no font called {name}.")
    return read_font(SHIPPED[name][1])


def fallback() -> Path | None:
    """The font that gives missing glyphs; None where the system does not have it."""
    path = SHIPPED[FALLBACK][1]
    return path if path.exists() else None


def decode(request: dict[str, Any], say: Callable[..., None]) -> dict[str, Any]:
    """In the sandbox: see whether the file `source` is a font, and copy it into the job's folder as `font`.

    Raises UnreadablePicture.
    """
    try:
        font = read_font(Path(request["source"]))
    except ValueError as error:
        raise UnreadablePicture(f"{error} Select a TTF or OTF file.") from error
    (Path(request["folder"]) / "font").write_bytes(font.path.read_bytes())
    return {"family": font.family}


@lru_cache(maxsize=32)
def read_font(path: Path) -> Font:
    """A TrueType or OpenType file. Raises ValueError."""
    from fontTools.pens.boundsPen import BoundsPen
    from fontTools.ttLib import TTFont

    try:
        with TTFont(path, lazy=True) as file:
            em = float(file["head"].unitsPerEm)
            widths, cmap = file["hmtx"].metrics, file.getBestCmap() or {}
            names = file["name"]
            # As high as its H; what the file says of it may be missing or wrong.
            glyphs, cap = file.getGlyphSet(), 0.7 * em
            if ord("H") in cmap:
                pen = BoundsPen(glyphs)
                glyphs[cmap[ord("H")]].draw(pen)
                cap = float(pen.bounds[3]) if pen.bounds else cap
            advances = {code: widths[glyph][0] / em for code, glyph in cmap.items() if glyph in widths}
            family = names.getDebugName(16) or names.getDebugName(1)
    except Exception as error:  # whatever the reader raises on damaged bytes
        raise ValueError("The file is no TrueType or OpenType font that can be read.") from error
    if not advances or not family:
        raise ValueError("The font has no glyphs or no name.")
    return Font(path, str(family), cap / em, advances)
