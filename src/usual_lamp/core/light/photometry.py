"""Reads photometric files: ANSI/IES LM-63 (1986 to 2002), type C, as makers of luminaires publish them.

The format is written down here from memory of the standard's text: keyword lines, a TILT line, then numbers.
"""

from __future__ import annotations

import re
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy.interpolate import RegularGridInterpolator

from usual_lamp.core.light.lamps import MOST_CANDELA, whole_turn

Array = NDArray[np.float64]
MOST_BYTES = 1 << 20
HEAD = 13
"""Numbers between the TILT line and the angles."""


class UnreadablePhotometry(ValueError):
    """No photometric file that can be used; the message says why, for the user."""


@dataclass(frozen=True)
class Photometry:
    """What a file says of its luminaire."""

    label: str
    vertical: Array
    """Degrees from straight down."""
    horizontal: Array
    candela: Array
    """(horizontal, vertical)."""
    notes: tuple[str, ...]


def read_photometry(data: bytes) -> Photometry:
    """Return the intensities in a file. Raises UnreadablePhotometry."""
    if len(data) > MOST_BYTES:
        raise UnreadablePhotometry("A photometric file is a short text; this one is larger than 1 MB.")
    lines = data.decode("utf-8", "replace").replace("\r", "\n").split("\n")
    tilt = next((k for k, line in enumerate(lines) if line.strip().upper().startswith("TILT=")), None)
    if tilt is None:
        raise UnreadablePhotometry(
            "This is no photometric file: it has no TILT line. Select a file with the ending .ies."
        )
    numbers = _numbers(lines[tilt + 1 :])
    notes = []
    kind = lines[tilt].split("=", 1)[1].strip().upper()
    if kind == "INCLUDE":
        pairs = int(_taken(numbers, 1, 1)[0])
        numbers = numbers[2 + 2 * max(pairs, 0) :]
    if kind != "NONE":
        notes.append("How its light changes with the tilt of the lamp is left out.")
    count_v, count_h, scale = _head(_taken(numbers, 0, HEAD))
    vertical = _angles(_taken(numbers, HEAD, count_v), 180.0)
    horizontal = _angles(_taken(numbers, HEAD + count_v, count_h), 360.0)
    table = _taken(numbers, HEAD + count_v + count_h, count_v * count_h).reshape(count_h, count_v) * scale
    if table.min() < 0 or not table.max() > 0 or table.max() > 1e9:
        raise UnreadablePhotometry("The intensities in this file are zero, negative or far too high.")
    horizontal, table = _symmetric(horizontal, table)
    if table.size > MOST_CANDELA:
        vertical, horizontal, table = _thinned(vertical, horizontal, table)
        notes.append("Its table was thinned out to one value every 2° by 15°.")
    return Photometry(_label(lines[:tilt]), vertical, horizontal, table, tuple(notes))


def _numbers(lines: list[str]) -> Array:
    words = re.split(r"[\s,]+", " ".join(lines).strip())
    try:
        found = np.array([float(word) for word in words if word])
    except ValueError as error:
        raise UnreadablePhotometry(f"There are words among the numbers of this file ({error}).") from error
    if not np.isfinite(found).all():
        raise UnreadablePhotometry("There are values in this file that are no numbers.")
    return found


def _taken(numbers: Array, first: int, count: int) -> Array:
    if count < 0 or first + count > len(numbers):
        raise UnreadablePhotometry("This file ends too early. Get it again from its maker.")
    return numbers[first : first + count]


def _head(head: Array) -> tuple[int, int, float]:
    """Counts of vertical and horizontal angles, and what the intensities are multiplied by."""
    _, _, multiplier, count_v, count_h, kind, *_ = head
    if kind != 1:
        raise UnreadablePhotometry(
            "Only type C photometry is read, as most luminaires have it. Ask the maker for a type C file."
        )
    if not (2 <= count_v <= 721 and 1 <= count_h <= 721):
        raise UnreadablePhotometry("The numbers of angles in this file make no sense.")
    return int(count_v), int(count_h), float(multiplier * head[10] * head[11])


def _angles(angles: Array, most: float) -> Array:
    if (np.diff(angles) <= 0).any() or angles[0] < 0 or angles[-1] > most:
        raise UnreadablePhotometry("The angles in this file do not grow from line to line.")
    return angles


def _symmetric(horizontal: Array, table: Array) -> tuple[Array, Array]:
    """Tables from 90° to 270° are mirrored to the other side; all others are left as they are."""
    if horizontal[0] != 90.0 or horizontal[-1] != 270.0:
        return horizontal, table
    # Seen from the plane of symmetry at 90°, it is a table from 0° to 180°.
    whole, around = whole_turn(horizontal - 90.0, table)
    at = (around[:-1] + 90.0) % 360.0
    order = np.argsort(at)
    return at[order], whole[:-1][order]


def _thinned(vertical: Array, horizontal: Array, table: Array) -> tuple[Array, Array, Array]:
    columns, around = whole_turn(horizontal, table)
    down, turn = np.linspace(vertical[0], vertical[-1], 91), np.linspace(0.0, 360.0, 25)
    read = RegularGridInterpolator((around, vertical), columns)
    return down, turn, read(tuple(np.meshgrid(turn, down, indexing="ij")))


def _label(lines: list[str]) -> str:
    for key in ("LUMINAIRE", "LUMCAT", "LAMP"):
        for line in lines:
            found = re.match(rf"\s*\[{key}\]\s*(.+)", line)
            if found:
                return found[1].strip()[:60]
    return "Photometric lamp"
