"""The shapes that rays are tested against: meshes in the world, and instances of meshes that occur many times.

What is written out at its place is met sooner by rays, by 3 to 6 percent of a sample's time on small assemblies. So
all of a small assembly is, and of a larger one what occurs once or twice; of what occurs more often there is one mesh
then, and each occurrence is an instance, which costs next to nothing to make, hide and move.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Hashable
from dataclasses import dataclass

import numpy as np

from usual_lamp.core.trace.engine import mi
from usual_lamp.core.trace.world.geometry import Piece, PieceKey, are_rigid, mesh_shape
from usual_lamp.core.trace.world.placements import shape_id

WRITTEN_OUT = 2
"""Occurrences up to which triangles always lie in the world."""
ROOM = 200_000
"""Triangles of what occurs more often that may lie in the world; with more of them, none do."""
SPARE_SHAPES = 500
"""Beside as many as are in the scene, that are kept: what was hidden is shown again."""
Matrix = tuple[float, ...]
IDENTITY: Matrix = tuple(np.eye(4).ravel())


@dataclass(frozen=True)
class Shape:
    """A shape, and the number by which hits name it."""

    shape: mi.Shape
    number: int


@dataclass(frozen=True)
class Asked:
    """A shape that the scene is to have: its triangles by name, and where an instance of them stands."""

    name: Hashable
    place: Matrix | None = None
    again: int = 0
    """Which one it is of several at the same place."""


class Shapes:
    """Shapes by what they show; those of triangles that are no longer held are let go of."""

    def __init__(self, triangles_of: Callable[[str], int]) -> None:
        """`triangles_of` counts those of a part's mesh by its name."""
        self.triangles_of = triangles_of
        self._meshes: dict[Hashable, mi.Mesh] = {}
        self._groups: dict[Hashable, mi.Shape] = {}
        self._made: dict[Asked, Shape] = {}
        self._often: set[PieceKey] = set()
        self._is_large = False

    def __contains__(self, name: Hashable) -> bool:
        """Whether there are triangles of that name to be hit."""
        return name in self._meshes

    def asked(self, worn: list[PieceKey], in_world: list[bool]) -> list[Asked]:
        """What each of these pieces comes down to. Those of `in_world` have to be written out. What occurs often, and
        that an assembly was large, is remembered, so that hiding one of three changes nothing for the others."""
        forms = [PieceKey(key.mesh, None, *key[2:]) for key in worn]
        often = {form: count for form, count in Counter(forms).items() if count > WRITTEN_OUT}
        if not self._is_large:
            self._is_large = sum(count * self.triangles_of(form.mesh) for form, count in often.items()) > ROOM
        if self._is_large:
            self._often |= often.keys()
        rigid = are_rigid(np.array([key.matrix or IDENTITY for key in worn]).reshape(-1, 4, 4))
        seen: Counter[PieceKey] = Counter()
        found = []
        for key, form, stays, even in zip(worn, forms, in_world, rigid, strict=True):
            if form in self._often and even and not stays:
                found.append(Asked(form, key.matrix, seen[key]))
                seen[key] += 1
            else:
                found.append(Asked(key))
        return found

    def add(self, pieces: dict[Hashable, Piece]) -> None:
        """Take in new triangles."""
        self._meshes |= {name: mesh_shape(piece) for name, piece in pieces.items() if len(piece.triangles)}

    def keep(self, names: set[Hashable]) -> None:
        """Let go of all others."""
        self._meshes = {name: mesh for name, mesh in self._meshes.items() if name in names}
        self._groups = {name: group for name, group in self._groups.items() if name in names}
        self._made = {asked: shape for asked, shape in self._made.items() if asked.name in names}

    def scene(self, shapes: list[Shape]) -> mi.Scene:
        """A scene of these shapes, with the meshes that instances among them share."""
        if len(self._made) > 2 * len(shapes) + SPARE_SHAPES:
            used = {id(shape) for shape in shapes}
            self._made = {asked: shape for asked, shape in self._made.items() if id(shape) in used}
        groups = {f"group{k}": group for k, group in enumerate(self._groups.values())}
        return mi.load_dict({"type": "scene", **groups, **{f"shape{s.number}": s.shape for s in shapes}})

    def shape(self, asked: Asked) -> Shape:
        """The shape, made when it is asked for the first time."""
        if asked not in self._made:
            made: mi.Shape = self._meshes[asked.name]
            if asked.place is not None:
                if asked.name not in self._groups:
                    self._groups[asked.name] = mi.load_dict({"type": "shapegroup", "mesh": made})
                rows = [list(asked.place[4 * k : 4 * k + 4]) for k in range(4)]
                placed = mi.ScalarTransform4f(rows)
                made = mi.load_dict({"type": "instance", "to_world": placed, "of": self._groups[asked.name]})
            self._made[asked] = Shape(made, shape_id(made))
        return self._made[asked]
