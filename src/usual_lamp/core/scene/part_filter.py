"""The filter of the parts schedule over one scene, and what it offers to ask. Its language: see `filter_words`."""

from __future__ import annotations

from collections import Counter
from dataclasses import dataclass, replace

from usual_lamp.core.scene.filter_words import NUMBERS, WORDS, Facts, FilterProblem, filtered, plain
from usual_lamp.core.scene.part_facts import standing_facts
from usual_lamp.core.scene.resolved import ResolvedScene

__all__ = ["Field", "FilterProblem", "facts_of", "fields_of", "filtered"]


def facts_of(resolved: ResolvedScene) -> list[Facts]:
    """What can be asked of every part, what it wears and its state among it."""
    found = []
    for facts in standing_facts(resolved.assembly):
        worn = resolved.worn[facts.uid]
        words = {
            "appearance": "" if worn.why == "nothing yet" else worn.appearance.name.lower(),
            "why": worn.why.lower(),
            "state": resolved.scene.states.get(facts.uid, "shown"),
        }
        found.append(replace(facts, words={**facts.words, **words}))
    return found


@dataclass(frozen=True)
class Field:
    """A field that the filter of the parts schedule knows."""

    name: str
    kind: str
    """number or text"""
    values: list[str]
    """The most frequent ones, for completion."""


def fields_of(resolved: ResolvedScene, most: int = 40) -> list[Field]:
    """What can be asked, with values that occur, for completion and for building a filter by pointer."""
    facts, assembly = facts_of(resolved), resolved.assembly
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
