"""Whether what is to be read on a model stands upright: decals, and parts that are called labels or displays."""

from __future__ import annotations

import re
from dataclasses import dataclass

import numpy as np

from usual_lamp.core.assembly import Occurrence
from usual_lamp.core.scene.decal import Decal
from usual_lamp.core.scene.preflight.check import Array, Ready

WORDS = re.compile(
    r"label|name.?plate|type.?plate|rating.?plate|display|\blcd\b|scale\b|keypad|etikett|typenschild|aufkleber|anzeige\b|"
    r"étiquette|plaque signal|etichetta|targhetta|etiqueta"
)
FLAT = 0.2
"""Of its longer sides, the most that a part may be thick to be a label."""
LONG = 1.4
"""Times its height a label must be wide, for its longer side to tell how its words run."""
STANDS = 0.3
"""Cosine between up and the shorter side of a label, from which on the file tells where its top is."""
ON_TOP = 0.7
"""Cosine between its outward side and up or down, from which on a label lies rather than stands."""


@dataclass(frozen=True)
class Label:
    """Something to be read, as unit vectors in the review's frame."""

    out: Array
    """Towards its reader."""
    up: Array | None = None
    """Of its letters, as far as that can be told."""
    printed: bool = False
    """Whether its letters are known: a decal. Of a part that is called a label one may be wrong."""

    def upright(self, down: Array) -> float:
        """How well it is read where `down` points to the ground: 1 upright, 0 lying face up, -1 on its head or face
        down; half as much for one whose letters are not known."""
        faces = -float(self.out @ down)
        if abs(faces) > ON_TOP:
            return 0.0 if faces > 0 else -1.0
        if self.up is None:
            return 0.0
        return -float(self.up @ down) * (1.0 if self.printed else 0.5)


def labels_of(ready: Ready, model: str, parts: list[Occurrence]) -> list[Label]:
    """The labels of a model's shown parts."""
    shown = {part.uid for part in parts}
    found = [
        _printed(decal, ready.assembly.world[decal.part])
        for decal in ready.scene.decals.values()
        if decal.part in shown and decal.on and not decal.waits
    ]
    called = [part for part in parts if WORDS.search(part.name.lower())]
    if called:
        low, high = ready.assembly.boxes(parts)
        middle = (low.min(axis=0) + high.max(axis=0)) / 2
        found += [one for part in called if (one := _plate(ready, part, middle)) is not None]
    return found


def _printed(decal: Decal, matrix: Array) -> Label:
    """A decal, which knows its top; its part lies where a matrix says."""
    right, up = (_turned(matrix, np.array(way, float)) for way in (decal.right, decal.up))
    turn = np.radians(decal.turn)
    return Label(out=np.cross(right, up), up=up * np.cos(turn) - right * np.sin(turn), printed=True)


def _plate(ready: Ready, part: Occurrence, middle: Array) -> Label | None:
    """A flat part; its reader stands on the side that is away from the middle of the model. Its words run along its
    longer side, and the file is taken to stand rather upright than on its head."""
    bounds = np.array(ready.assembly.definition_of(part).bounds, float)
    matrix = ready.assembly.world[part.uid]
    thin, short, long = np.argsort(sides := bounds[1] - bounds[0])
    if sides[thin] > FLAT * sides[short]:
        return None
    out, up = _turned(matrix, np.eye(3)[thin]), _turned(matrix, np.eye(3)[short])
    place = matrix[:3, :3] @ bounds.mean(axis=0) + matrix[:3, 3]
    if (place - middle) @ out < 0:
        out = -out
    up = -up if up[2] < 0 else up
    return Label(out=out, up=up if sides[long] > LONG * sides[short] and up[2] > STANDS else None)


def _turned(matrix: Array, way: Array) -> Array:
    moved = matrix[:3, :3] @ way
    return np.asarray(moved / np.linalg.norm(moved))
