"""What the made-up firm's part list says of the pump: part number, material and layer by part name."""

from __future__ import annotations

import fnmatch

MATERIALS: list[tuple[str, str]] = [
    ("Case*, cast", "EN AC-44300, powder coated"),
    ("Head body, cast", "EN AC-44300, blasted"),
    ("*crew M*", "Steel 8.8, zinc plated"),
    ("Roller*", "Steel 1.4305"),
    ("Standoff", "Brass CuZn39Pb3"),
    ("Gear*", "Brass CuZn39Pb3"),
    ("Hose barb", "Brass CuZn39Pb3"),
    ("Hose 6 x 9", "Silicone 60 Shore A"),
    ("Seam gasket", "EPDM"),
    ("Foot", "EPDM"),
    ("Head cover", "Polycarbonate, clear"),
    ("Display glass", "PMMA, tinted"),
    ("Panel", "ABS, dark grey"),
    ("Knob body", "ABS, dark grey"),
    ("Button*", "ABS"),
    ("Rotor", "Aluminium EN AW-6082, anodised"),
    ("Base plate", "Aluminium EN AW-6082"),
    ("Motor bracket", "Steel DC01"),
    ("Circuit board", "FR4"),
]
"""Later ones win."""
LAYERS: list[tuple[str, str]] = [
    ("*crew M*", "fasteners"),
    ("*print", "print"),
    ("*mark*", "print"),
    ("Transport lock", "shipping"),
    ("Lifting jig", "shipping"),
]


def material(name: str) -> str | None:
    found = [words for pattern, words in MATERIALS if fnmatch.fnmatch(name, pattern)]
    return found[-1] if found else None


def layer(name: str) -> str:
    return next((words for pattern, words in LAYERS if fnmatch.fnmatch(name, pattern)), "parts")


def number(name: str, seen: dict[str, str]) -> str:
    """The part's number: counted on in the order in which parts are first met."""
    return seen.setdefault(name, f"DP40-{101 + len(seen)}")
