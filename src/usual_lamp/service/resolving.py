"""Resolved scenes of the last few steps of each review, so that an edit costs what it touches."""

from __future__ import annotations

import threading
from collections import OrderedDict
from dataclasses import dataclass

from usual_lamp.core.scene.patch import Operation, scene_patch
from usual_lamp.core.scene.resolved import ResolvedScene
from usual_lamp.service.editing import Edited

MOST = 48
"""Steps that are kept in memory, of all reviews together."""


@dataclass(frozen=True)
class Kept:
    """A step: how the scene stood after it, and which parts it made look otherwise; None when that is not known."""

    resolved: ResolvedScene
    changed: frozenset[str] | None


@dataclass(frozen=True)
class Change:
    """What became of a review since a step that somebody knows."""

    resolved: ResolvedScene
    changed: frozenset[str]
    """Parts that wear something else, or wear it in another way."""
    patch: list[Operation]
    known: ResolvedScene
    """What the somebody has."""


class Resolutions:
    """Keeps them by review and step, from whichever thread."""

    def __init__(self) -> None:
        self._lock = threading.Lock()
        self._kept: OrderedDict[tuple[str, int], Kept] = OrderedDict()

    def resolved(self, review_id: str, edited: Edited) -> ResolvedScene:
        """How a review stands, in the look that is shown."""
        return self._at(review_id, edited).resolved

    def since(self, review_id: str, edited: Edited, known: int) -> Change | None:
        """What changed after step `known`; None where that is no longer known, or is another arrangement of models."""
        now = self._at(review_id, edited)
        if known == edited.seq:
            return Change(now.resolved, frozenset(), [], now.resolved)
        if not 0 < edited.seq - known < MOST:
            return None
        with self._lock:
            steps = [self._kept.get((review_id, seq)) for seq in range(known, edited.seq + 1)]
        if steps[0] is None or steps[0].resolved.assembly is not now.resolved.assembly:
            return None
        changed: set[str] = set()
        for step in steps[1:]:
            if step is None or step.changed is None:
                return None
            changed |= step.changed
        before = steps[0].resolved
        return Change(now.resolved, frozenset(changed), scene_patch(before.scene, edited.scene), before)

    def _at(self, review_id: str, edited: Edited) -> Kept:
        key = (review_id, edited.seq)
        with self._lock:
            kept = self._kept.get(key)
            before = self._kept.get((review_id, edited.seq - 1))
            earlier = [kept for (review, _), kept in self._kept.items() if review == review_id][-1:]
        if kept is not None and kept.resolved.assembly is edited.assembly:
            return kept
        if before is not None and before.resolved.assembly is edited.assembly:
            after, changed = before.resolved.after(edited.scene)
            made = Kept(after, frozenset(changed))
        elif earlier and earlier[0].resolved.assembly is edited.assembly:
            # Several steps at once: what each of them touched is not known, but all of them together are followed.
            made = Kept(earlier[0].resolved.after(edited.scene)[0], None)
        else:
            made = Kept(ResolvedScene(edited.assembly, edited.scene), None)
        with self._lock:
            self._kept[key] = made
            self._kept.move_to_end(key)
            while len(self._kept) > MOST:
                self._kept.popitem(last=False)
        return made
