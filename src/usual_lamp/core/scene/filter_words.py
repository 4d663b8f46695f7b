"""The filter of the parts schedule: words, and tests of one field each, all of which must hold.

    screw                 the name, the definition's or a sub-assembly's holds the word
    material:steel        a field holds the text; `layer:"sheet 2"` with quotes where there are spaces
    size<5  size>1.2in    a number is smaller, or larger; a length in mm, cm, m or in; also =
    -motor  -layer:print  not this

Any property that the file gives a part is a field by its own name, with or without its spaces.
"""

from __future__ import annotations

import re
from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

NUMBERS = ("size", "volume", "triangles", "quantity")
"""Fields that are compared as numbers: mm, cm³, and counts."""
MM = {"": 1.0, "mm": 1.0, "cm": 10.0, "m": 1000.0, "in": 25.4}
"""mm in one; an inch is 25.4 mm (international yard and pound agreement, 1959)."""
WORDS = ("name", "part", "in", "material", "layer", "color", "kind", "appearance", "why", "state")
TOKEN = re.compile(r'(-?)(?:("[^"]*"|[^\s:<>="]+)\s*([:<>=])\s*("[^"]*"|[^\s"]*)|("[^"]*"|[^\s"]+))')


class FilterProblem(ValueError):
    """The filter cannot be understood; the message says which part of it."""


@dataclass(frozen=True)
class Facts:
    """What can be asked of one part; text fields in lower case."""

    uid: str
    words: dict[str, str]
    numbers: dict[str, float]
    around: str
    """Name, definition's name and the names of the sub-assemblies, in one text."""


def plain(field: str) -> str:
    """A field's name as it is compared: lower case without spaces, hyphens and underscores."""
    return re.sub(r"[\s_-]+", "", field.lower())


def filtered(facts: list[Facts], text: str) -> list[str]:
    """Uids of the parts for which every term holds. Raises FilterProblem."""
    known = set().union(*(fact.words for fact in facts)) | set(NUMBERS)
    tests = [_test(match, known) for match in TOKEN.finditer(text)]
    return [fact.uid for fact in facts if all(test(fact) for test in tests)]


def _test(match: re.Match[str], known: set[str]) -> Callable[[Facts], bool]:
    minus, field, sign, value, word = match.groups()
    negative = minus == "-"
    if word is not None:
        wanted = word.strip('"').lower()
        return lambda fact: (wanted in fact.around) != negative
    name, value = plain(field.strip('"')), value.strip('"').lower()
    name = {"colour": "color"}.get(name, name)
    if name not in known:
        raise FilterProblem(f"No part has a field called {field}.")
    if not value:
        return lambda fact: True
    if name in NUMBERS:
        number = _length(value) if name == "size" else _number(value)
        return lambda fact: _stands(fact.numbers[name], sign, number) != negative
    if sign in "<>":
        number = _number(value)
        return lambda fact: _compares(fact.words.get(name, ""), sign, number) != negative
    if sign == "=":
        return lambda fact: (fact.words.get(name, "") == value) != negative
    return lambda fact: (value in fact.words.get(name, "")) != negative


def _number(text: str) -> float:
    found = re.match(r"[-+]?\d+(?:[.,]\d+)?", text)
    if not found:
        raise FilterProblem(f"“{text}” is no number.")
    return float(found.group().replace(",", "."))


def _length(text: str) -> float:
    """mm of a length, which may name its unit."""
    number, unit = _number(text), re.sub(r"^[-+\d.,\s]*", "", text)
    if unit not in MM:
        raise FilterProblem(f"“{unit}” is no unit of length; there are mm, cm, m and in.")
    return number * MM[unit]


def _compares(text: str, sign: str, number: float) -> bool:
    found = re.match(r"[-+]?\d+(?:\.\d+)?", text)
    return bool(found) and _stands(float(found.group()), sign, number)  # type: ignore[union-attr]


def _stands(value: float, sign: str, number: float) -> bool:
    if sign in "<>":
        return value < number if sign == "<" else value > number
    return bool(np.isclose(value, number))
