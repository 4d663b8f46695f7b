"""How sentences of the core tell lengths and numbers, so that the page can tell them as a person reads them.

Number and unit of a length stand apart by a narrow no-break space, as ISO 80000-1 has a space between them, and the
page changes both to the unit that is selected; what is always in mm, such as the focal length of a lens, has an
ordinary one. Before another number that is written otherwise elsewhere, with a point or thousands apart, stands a word
joiner, which takes no room.
"""

from __future__ import annotations

UNIT = "\u202fmm"
NUMBER = "\u2060"


def said(mm: float, digits: int = 1) -> str:
    """A length of the product or its surroundings in words."""
    return f"{mm:,.{digits}f}{UNIT}"


def said_to(mm: float, figures: int = 3) -> str:
    """The same to so many significant figures."""
    return f"{mm:.{figures}g}{UNIT}"


def told(value: float, digits: int = 0, sign: bool = False) -> str:
    """A number that is no length in words, with so many digits behind the point."""
    return _marked(f"{value:+,.{digits}f}" if sign else f"{value:,.{digits}f}")


def told_short(value: float) -> str:
    """The same with no more digits than it needs, six figures at most."""
    return _marked(f"{value:g}")


def _marked(text: str) -> str:
    return NUMBER + text if "." in text or "," in text else text
