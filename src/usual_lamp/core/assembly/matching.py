"""Which part of a new revision is which part of the old one.

Evidence, strongest first: the shape, where it lies, what it is called, and which sub-assembly it lies in. Passes go
from certain to doubtful; each takes only parts that are still free on both sides, and within a pass those nearest to
each other go together. What remains is new on one side and gone on the other.
"""

from __future__ import annotations

import hashlib
from collections import Counter, defaultdict
from collections.abc import Callable, Hashable, Iterable
from dataclasses import dataclass
from typing import Literal

import numpy as np
import scipy  # its parts are loaded when they are first used
from numpy.typing import NDArray
from pydantic import BaseModel

from usual_lamp.core.assembly.likeness import Shape, alike, congruent, shape_of
from usual_lamp.core.assembly.model import Assembly, Occurrence
from usual_lamp.core.numbers_in_words import said_to

Array = NDArray[np.float64]
Kind = Literal["unchanged", "moved", "changed shape", "uncertain", "new", "gone"]
SURE = 0.75
"""Confidence below which a pair is called uncertain."""
SAME_PLACE = 1e-3
"""Of the model's diagonal: how far a part may have shifted and still lie in the same place."""

SAME_SPOT = 0.02
"""Of the model's diagonal: within this, a part of another shape is taken to fill the same place."""


class Pair(BaseModel):
    """A part of the new revision and what it was; `old` is null for a new part, `new` for one that is gone."""

    new: str | None
    old: str | None
    kind: Kind
    confidence: float
    because: str
    by_hand: bool = False


@dataclass(frozen=True)
class Evidence:
    """What is known of one part."""

    part: Occurrence
    shape: int
    """Number of its class of congruent shapes, over both revisions."""
    center: Array
    matrix: Array
    path: tuple[str, ...]
    """Names of the sub-assemblies around it, outermost first."""


def match(old: Assembly, new: Assembly) -> list[Pair]:
    """A pair for every part of either revision, in the new tree's order, those that are gone at the end."""
    return _Matching(old, new).run()


class _Matching:
    def __init__(self, old: Assembly, new: Assembly) -> None:
        shapes: list[Shape] = []
        self.old = _evidence(old, shapes)
        self.new = _evidence(new, shapes)
        self.shapes = shapes
        points = np.array([e.center for e in (*self.old.values(), *self.new.values())])
        self.diagonal = max(float(np.linalg.norm(np.ptp(points, axis=0))), 1e-6)
        self.pairs: dict[str, Pair] = {}
        self.free_old, self.free_new = dict(self.old), dict(self.new)

    def run(self) -> list[Pair]:
        """Pair the parts, from certain to doubtful; returns a pair for every part of either side."""
        same_place = SAME_PLACE * self.diagonal
        self._join(lambda e: (e.shape, e.part.name, e.path), 1.0, "same shape, name and place", same_place)
        self._join(lambda e: (e.shape, e.part.name), 0.98, "same shape, name and place", same_place)
        self._join(lambda e: e.shape, 0.95, "same shape and place", same_place)
        self._join(lambda e: (e.shape, e.part.name, e.path), 0.92, "same shape and name")
        self._join(lambda e: (e.shape, e.part.name), 0.88, "same shape and name")
        self._join_changed(lambda e: (e.part.name, e.path), 0.8, "same name and sub-assembly")
        self._join_changed(lambda e: e.part.name, 0.7, "same name")
        self._join(lambda e: e.shape, 0.65, "same shape")
        self._join_changed(lambda e: e.path, 0.35, "like shape in the same sub-assembly", near=0.05, least=0.55)
        for uid in self.free_new:
            self.pairs[uid] = _fresh(uid)
        gone = [Pair(new=None, old=uid, kind="gone", confidence=1.0, because="no match") for uid in self.free_old]
        return [self.pairs[uid] for uid in self.new] + gone

    def _join(self, key: Callable[[Evidence], Hashable], sure: float, because: str, near: float | None = None) -> None:
        """Pair free parts with equal keys, nearest first; only within `near` mm when that is given."""
        for mine, theirs in self._groups(key):
            far = _distances(mine, theirs)
            for i, j in _nearest(far, near):
                self._pair(mine[i], theirs[j], sure, because)

    def _join_changed(
        self, key: Callable[[Evidence], Hashable], sure: float, because: str, near: float = np.inf, least: float = 0.0
    ) -> None:
        """Pair free parts with equal keys though their shapes differ; likeness and distance decide among them."""
        for mine, theirs in self._groups(key):
            likeness = np.array([[alike(self.shapes[a.shape], self.shapes[b.shape]) for b in theirs] for a in mine])
            far = _distances(mine, theirs) / self.diagonal
            cost = far - likeness
            cost[(far > near) | (likeness < least)] = 1e6
            for i, j in zip(*scipy.optimize.linear_sum_assignment(cost), strict=True):
                if cost[i, j] < 1e5:
                    here = 0.15 if far[i, j] < SAME_SPOT else 0.0
                    self._pair(mine[i], theirs[j], sure * (0.7 + 0.3 * likeness[i, j]) + here, because)

    def _groups(self, key: Callable[[Evidence], Hashable]) -> Iterable[tuple[list[Evidence], list[Evidence]]]:
        mine, theirs = defaultdict(list), defaultdict(list)
        for evidence in self.free_new.values():
            mine[key(evidence)].append(evidence)
        for evidence in self.free_old.values():
            theirs[key(evidence)].append(evidence)
        return [(mine[name], theirs[name]) for name in mine if name in theirs]

    def change(self, new: Evidence, old: Evidence) -> Kind:
        """What became of a part that is the same."""
        if new.shape != old.shape:
            return "changed shape"
        stays = np.allclose(new.matrix, old.matrix, atol=SAME_PLACE * self.diagonal)
        return "unchanged" if stays else "moved"

    def _pair(self, new: Evidence, old: Evidence, confidence: float, because: str) -> None:
        kind = "uncertain" if confidence < SURE else self.change(new, old)
        if kind == "moved":
            because += f", {said_to(float(np.linalg.norm(new.center - old.center)))} away"
        uid = new.part.uid
        self.pairs[uid] = Pair(new=uid, old=old.part.uid, kind=kind, confidence=round(confidence, 3), because=because)
        del self.free_new[uid], self.free_old[old.part.uid]


def _evidence(assembly: Assembly, shapes: list[Shape]) -> dict[str, Evidence]:
    """Of every part; congruent shapes get one number, counted on in `shapes`."""
    numbers = {key: _class_of(shape_of(definition), shapes) for key, definition in assembly.definitions.items()}
    found = {}
    for part in assembly.parts():
        matrix = assembly.world[part.uid]
        path = tuple(reversed([node.name for node in assembly.ancestors(part.uid)]))
        middle = np.array(assembly.definition_of(part).bounds).mean(axis=0)
        center = matrix[:3, :3] @ middle + matrix[:3, 3]
        found[part.uid] = Evidence(part, numbers[part.definition or ""], center, matrix, path)
    return found


def _class_of(shape: Shape, shapes: list[Shape]) -> int:
    for number, known in enumerate(shapes):
        if abs(known.size - shape.size) <= 1e-3 * shape.size and congruent(known, shape):
            return number
    shapes.append(shape)
    return len(shapes) - 1


def _distances(mine: list[Evidence], theirs: list[Evidence]) -> Array:
    a, b = np.array([e.center for e in mine]), np.array([e.center for e in theirs])
    turned = np.array([e.matrix[:3, :3].ravel() for e in mine]), np.array([e.matrix[:3, :3].ravel() for e in theirs])
    far = np.linalg.norm(a[:, None] - b[None], axis=2)
    # Two parts on the same spot are told apart by how they are turned.
    return np.asarray(far + 1e-6 * np.linalg.norm(turned[0][:, None] - turned[1][None], axis=2))


def _nearest(far: Array, near: float | None) -> Iterable[tuple[int, int]]:
    cost = far if near is None else np.where(far <= near, far, 1e9)
    rows, columns = scipy.optimize.linear_sum_assignment(cost)
    return [(int(i), int(j)) for i, j in zip(rows, columns, strict=True) if near is None or far[i, j] <= near]


def _gone(uid: str) -> Pair:
    return Pair(new=None, old=uid, kind="gone", confidence=1.0, because="no match")


def _fresh(uid: str) -> Pair:
    return Pair(new=uid, old=None, kind="new", confidence=1.0, because="nothing like it before")


def joined(before: Assembly, after: Assembly, pairs: list[Pair], new: str, old: str | None) -> list[Pair]:
    """The pairs after someone said that the new part is the old one, or (null) is none of the old.

    Whoever had either part before is left single. Raises KeyError for an unknown part.
    """
    by_new = {pair.new: pair for pair in pairs if pair.new is not None}
    by_old = {pair.old: pair for pair in pairs if pair.old is not None}
    had = by_new[new].old
    result = [pair for pair in pairs if pair.new is not None]
    gone = [pair for pair in pairs if pair.new is None]
    if old is not None and by_old[old].new not in (None, new):
        robbed = by_old[old].new
        result = [_fresh(pair.new or "") if pair.new == robbed else pair for pair in result]
    if had is not None and had != old:
        gone.append(_gone(had))
    kind: Kind = "new"
    if old is not None:
        known = _Matching(before, after)
        kind = known.change(known.new[new], known.old[old])
    made = Pair(new=new, old=old, kind=kind, confidence=1.0, because="said by hand", by_hand=True)
    return [made if pair.new == new else pair for pair in result] + [pair for pair in gone if pair.old != old]


def carried_uids(old: Assembly, new: Assembly, pairs: list[Pair], salt: str) -> dict[str, str]:
    """The uid of every node of the new tree: its partner's, or one of its own made with `salt`.

    A sub-assembly goes by what lies in it: it is the old one that most of its parts were in, at the same height.
    """
    uids: dict[str, str] = {pair.new: pair.old for pair in pairs if pair.new is not None and pair.old is not None}
    votes: dict[str, Counter[str]] = defaultdict(Counter)
    for mine, theirs in uids.items():
        for above, was in zip(new.ancestors(mine), old.ancestors(theirs), strict=False):
            votes[above.uid][was.uid] += 2 if above.name == was.name else 1
    taken: set[str] = set()
    ranked = sorted(((count, node, was) for node, found in votes.items() for was, count in found.items()), reverse=True)
    for _, name, former in ranked:
        if name not in uids and former not in taken:
            uids[name] = former
            taken.add(former)
    used = set(uids.values())
    for fresh in new.occurrences:
        if fresh.uid not in uids:
            made = "p" + hashlib.sha256(f"{salt}{fresh.uid}".encode()).hexdigest()[:12]
            assert made not in used
            uids[fresh.uid] = made
    return uids
