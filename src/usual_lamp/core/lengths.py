"""How sentences of the core tell lengths, so that the page can tell them in the unit that a person reads in.

Number and unit stand apart by a narrow no-break space, as ISO 80000-1 has a space between them; what is always in mm,
such as the focal length of a lens, has an ordinary one.
"""

from __future__ import annotations

UNIT = "\u202fmm"


def said(mm: float, digits: int = 1) -> str:
    """A length of the product or its surroundings in words."""
    return f"{mm:,.{digits}f}{UNIT}"


def said_to(mm: float, figures: int = 3) -> str:
    """The same to so many significant figures."""
    return f"{mm:.{figures}g}{UNIT}"
