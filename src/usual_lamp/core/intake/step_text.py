"""What a STEP file's text says that the kernel's document tree does not keep, or not reliably: product numbers,
materials, and the names that user-defined properties have (ISO 10303-21 text, ISO 10303-41 and -45 entities).
"""

from __future__ import annotations

import re
from collections.abc import Iterator
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

STRING = r"'((?:[^']|'')*)'"
REFERENCE = r"#(\d+)"
WIDE = re.compile(r"\\X2\\((?:[0-9A-F]{4})+)\\X0\\")
LARGEST = 64 * 2**20
"""Bytes of a file whose text is looked through."""
MOST_NAMES = 200


@dataclass
class StepText:
    """What the text of a STEP file adds to the document tree."""

    products: dict[str, dict[str, str]] = field(default_factory=dict)
    """Number and description by product name, where they say more than the name does."""
    materials: dict[str, str] = field(default_factory=dict)
    """By product name."""
    properties: list[str] = field(default_factory=list)
    """Names that user-defined properties may have."""


def look_through(path: Path) -> StepText:
    """A name that two products share tells nothing of either."""
    if path.stat().st_size > LARGEST:
        return StepText()
    entities = Entities(path.read_bytes())
    names: dict[str, str] = {}
    facts: dict[str, dict[str, str]] = {}
    for entity, number, name, description in entities.of("PRODUCT", STRING, STRING, rf"(?:{STRING}|\$)"):
        names[entity] = name or number
        words = {"Number": number, "Description": description}
        facts[entity] = {label: word for label, word in words.items() if word not in ("", names[entity])}
    single = {entity for entity, name in names.items() if list(names.values()).count(name) == 1}
    return StepText(
        {names[entity]: facts[entity] for entity in names if entity in single and facts[entity]},
        {names[entity]: word for entity, word in _materials(entities).items() if entity in single},
        _property_names(entities),
    )


KINDS = (
    "PRODUCT", "PRODUCT_DEFINITION_FORMATION", "PRODUCT_DEFINITION", "PROPERTY_DEFINITION", "REPRESENTATION",
    "PROPERTY_DEFINITION_REPRESENTATION", "DESCRIPTIVE_REPRESENTATION_ITEM", "MEASURE_REPRESENTATION_ITEM",
)  # fmt: skip
LIKE = {
    "PRODUCT_DEFINITION_FORMATION_WITH_SPECIFIED_SOURCE": "PRODUCT_DEFINITION_FORMATION",
    "PRODUCT_DEFINITION_WITH_ASSOCIATED_DOCUMENTS": "PRODUCT_DEFINITION",
}
ENTITY = re.compile(rb"=\s*(" + "|".join((*KINDS, *LIKE)).encode() + rb")\s*\(")


class Entities:
    """The arguments of those entities that are looked at; one pass over the text."""

    def __init__(self, data: bytes) -> None:
        self.found: dict[str, list[tuple[str, str]]] = {kind: [] for kind in KINDS}
        for match in ENTITY.finditer(data):
            kind = match.group(1).decode()
            number = data[data.rfind(b"#", 0, match.start()) + 1 : match.start()].strip().decode("ascii", "replace")
            arguments = data[match.end() : data.find(b";", match.end())].decode("utf-8", "replace")
            self.found[LIKE.get(kind, kind)].append((number, arguments))

    def of(self, kind: str, *fields: str) -> Iterator[Any]:
        """Entity number and first arguments of each of a kind, the arguments by patterns with at most one group."""
        pattern = re.compile(r"\s*" + r"\s*,\s*".join(fields))
        for number, arguments in self.found[kind]:
            if match := pattern.match(arguments):
                yield number, *(plain(value or "") for value in match.groups())


def _property_names(entities: Entities) -> list[str]:
    kinds = ("PROPERTY_DEFINITION", "DESCRIPTIVE_REPRESENTATION_ITEM", "MEASURE_REPRESENTATION_ITEM")
    names = dict.fromkeys(name for kind in kinds for _, name in entities.of(kind, STRING))
    return [name for name in names if name][:MOST_NAMES]


def _materials(entities: Entities) -> dict[str, str]:
    """Material name by product entity: product <- formation <- definition <- property -> representation -> item."""
    last = "[^#]*" + REFERENCE
    products = dict(entities.of("PRODUCT_DEFINITION_FORMATION", last))
    definitions = dict(entities.of("PRODUCT_DEFINITION", last))
    owners = dict(entities.of("PROPERTY_DEFINITION", "'material property'", last))
    items = dict(entities.of("DESCRIPTIVE_REPRESENTATION_ITEM", STRING))
    shown = dict(entities.of("REPRESENTATION", "'material name'", r"\(\s*" + REFERENCE))
    found = {}
    for _, owner, representation in entities.of("PROPERTY_DEFINITION_REPRESENTATION", REFERENCE, REFERENCE):
        product = products.get(definitions.get(owners.get(owner, ""), ""))
        name = items.get(shown.get(representation, ""))
        if product and name:
            found[product] = name
    return found


def plain(text: str) -> str:
    r"""A string of the exchange structure as text: '' is one quote, \X2\…\X0\ are UTF-16 code units."""
    single = text.replace("''", "'")
    return WIDE.sub(lambda m: bytes.fromhex(m.group(1)).decode("utf-16-be", "replace"), single).strip()
