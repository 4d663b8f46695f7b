"""Which parts a change of the scene may let look otherwise. Too many does no harm; one too few would."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from typing import Any

from usual_lamp.core.assembly import Assembly
from usual_lamp.core.scene.document import Look, Rule, Scene, owner_of
from usual_lamp.core.scene.filter_words import FilterProblem
from usual_lamp.core.scene.part_facts import matching


def touched(assembly: Assembly, before: Scene, after: Scene, look: str) -> set[str] | None:
    """Uids of parts whose appearance may differ from `before` in `look` to `after` in the one that is shown; None: all.

    Both scenes are of the same assembly.
    """
    if after.look != look or look not in before.looks:
        return None
    if before.stripped != after.stripped or before.imported != after.imported:
        return None
    old, new = before.looks[look], after.looks[look]
    found: set[str] = set()
    if old is not new:
        found |= _under(assembly, differing(old.assignments, new.assignments))
        found |= _ruled(assembly, old, new)
        laid = differing(old.layings, new.layings)
        found |= {uid for key in laid for its in (old, new) if key in its.layings for uid in its.layings[key].parts}
    if before.appearances is not after.appearances:
        names = differing(before.appearances, after.appearances)
        if names:
            if names & {name for name in after.imported.values() if name is not None}:
                return None
            found |= _under(assembly, [key for key, name in new.assignments.items() if name in names])
            found |= _matched(assembly, [rule for rule in new.rules if rule.appearance in names])
    return found & {part.uid for part in assembly.parts()} if found else found


def differing(old: Mapping[str, Any], new: Mapping[str, Any]) -> set[str]:
    """Keys whose values differ, or that only one of two maps has."""
    if old is new:
        return set()
    both = old.keys() & new.keys()
    changed = {key for key in both if old[key] is not new[key] and old[key] != new[key]}
    return changed | (old.keys() ^ new.keys())


def _under(assembly: Assembly, keys: Iterable[str]) -> set[str]:
    """Parts that assignments by these keys reach, see `levels`."""
    found: set[str] = set()
    kinds: set[str | None] = set()
    models, groups = set(), set()
    for key in keys:
        owner = owner_of(key)
        node = assembly.by_uid.get(owner)
        if node is None:
            models.add(owner)
        elif key.startswith("="):
            kinds.add(node.definition)
        elif node.definition is None:
            groups.add(owner)
        else:
            found.add(owner)
    if kinds or models:
        found |= {part.uid for part in assembly.parts() if part.definition in kinds or part.model in models}
    for group in groups:
        found |= {part.uid for part in assembly.below(group)}
    return found


def _ruled(assembly: Assembly, old: Look, new: Look) -> set[str]:
    """Parts of the rules that were changed, added, taken away or moved among the others."""
    if old.rules == new.rules:
        return set()
    first = 0
    while first < min(len(old.rules), len(new.rules)) and old.rules[first] == new.rules[first]:
        first += 1
    return _matched(assembly, [*old.rules[first:], *new.rules[first:]])


def _matched(assembly: Assembly, rules: Iterable[Rule]) -> set[str]:
    found: set[str] = set()
    for rule in rules:
        try:
            found |= matching(assembly, rule.filter)
        except FilterProblem:  # as for the resolver, such a rule matches nothing
            continue
    return found
