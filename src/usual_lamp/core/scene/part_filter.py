"""The filter of the parts schedule: words, and tests of one field each, all of which must hold.

    screw                 the name, the definition's or a sub-assembly's holds the word
    material:steel        a field holds the text; `layer:"sheet 2"` with quotes where there are spaces
    size<5                a number is smaller (mm); also > and =
    -motor  -layer:print  not this

Any property that the file gives a part is a field by its own name, with or without its spaces.
"""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from usual_lamp.core.appearance import linear_to_hex
from usual_lamp.core.assembly import Assembly, Occurrence
from usual_lamp.core.scene.document import Scene
from usual_lamp.core.scene.resolution import imported_look, resolve_part

NUMBERS = ("size", "volume", "triangles", "quantity")
"""Fields that are compared as numbers: mm, cm³, and counts."""
WORDS = ("name", "part", "in", "material", "layer", "color", "appearance", "why", "state")
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


def facts_of(assembly: Assembly, scene: Scene) -> list[Facts]:
    counts = Counter(part.definition for part in assembly.parts())
    return [_facts(assembly, scene, part, counts[part.definition]) for part in assembly.parts()]


def _facts(assembly: Assembly, scene: Scene, part: Occurrence, quantity: int) -> Facts:
    definition = assembly.definition_of(part)
    above = [node.name for node in assembly.ancestors(part.uid)]
    worn = resolve_part(assembly, scene, part)
    whole, faces = imported_look(assembly, part)
    colors = [linear_to_hex(a.params.base_color) for a in ([whole] if whole else []) + list(faces.values())]
    words = {
        "name": part.name,
        "part": definition.name,
        "in": " / ".join(reversed(above)),
        "material": definition.material or "",
        "layer": " ".join(part.layers),
        "color": " ".join(dict.fromkeys(colors)),
        "appearance": "" if worn.why == "nothing yet" else worn.appearance.name,
        "why": worn.why,
        "state": scene.states.get(part.uid, "shown"),
    }
    for key, value in (definition.properties | part.properties).items():
        words.setdefault(plain(key), value)
    numbers = {
        "size": float(np.linalg.norm(np.subtract(*definition.bounds))),
        "volume": definition.volume / 1000.0,
        "triangles": float(definition.triangles),
        "quantity": float(quantity),
    }
    around = " ".join([part.name, definition.name, *above]).lower()
    return Facts(part.uid, {key: value.lower() for key, value in words.items()}, numbers, around)


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
        number = _number(value)
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


def _compares(text: str, sign: str, number: float) -> bool:
    found = re.match(r"[-+]?\d+(?:\.\d+)?", text)
    return bool(found) and _stands(float(found.group()), sign, number)  # type: ignore[union-attr]


def _stands(value: float, sign: str, number: float) -> bool:
    if sign in "<>":
        return value < number if sign == "<" else value > number
    return bool(np.isclose(value, number))


@dataclass(frozen=True)
class Field:
    name: str
    kind: str
    """number or text"""
    values: list[str]
    """The most frequent ones, for completion."""


def fields_of(assembly: Assembly, scene: Scene, most: int = 40) -> list[Field]:
    """What can be asked, with values that occur, for completion and for building a filter by pointer."""
    facts = facts_of(assembly, scene)
    own = {
        key
        for part in assembly.parts()
        for key in (assembly.definition_of(part).properties | part.properties)
        if plain(key) not in WORDS
    }
    found = [Field(name, "number", []) for name in NUMBERS]
    for name in [*WORDS, *sorted(own)]:
        counted = Counter(value for fact in facts if (value := fact.words.get(plain(name))))
        if counted:
            found.append(Field(name, "text", [value for value, _ in counted.most_common(most)]))
    return found
