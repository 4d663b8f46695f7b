"""Joints of clear parts: what light meets where a clear part lies on another part, or within it.

A joint has no air in it. A clear part is pressed a hair into what is opaque, so that the seat is seen through it
wherever they touch. Of two clear solids that touch or overlap, the one of the higher index goes first, as a vessel does
before what is filled into it, and a lens before its potting: the other is pressed into it, and ends where it begins
(see `interior`). Thin walls, which are all surface, are drawn off from what is opaque, so that they are seen, and so
are faces that carry a decal.

Opaque parts on opaque ones stay as they are: what shows of their joint is no wider than their triangles deviate, and a
shot's fineness keeps that under a pixel.
"""

from __future__ import annotations

from collections.abc import Callable
from contextlib import suppress

import numpy as np
from numpy.typing import NDArray

from usual_lamp.core.appearance import Appearance
from usual_lamp.core.assembly import Mesh
from usual_lamp.core.assembly.contacts import Placed, Touch, touching
from usual_lamp.core.scene.decal_faces import face_beneath
from usual_lamp.core.scene.resolution import TraceInputs, TracePart

SLACK, ROUNDING = 1e-3, 2e-6
"""mm, and share of the largest coordinate, that exact surfaces may be apart and still touch: what CAD systems allow
themselves, and what 32 bits round."""
OVERLAP = 4e-4
"""Share of the largest coordinate by which clear solids overlap: rays start off a surface by about a quarter of it, and
must not start beyond the joint."""
MOST_KEPT = 5000
"""Pairs of parts that were looked at; beyond that all are forgotten."""
IDENTITY = tuple(np.eye(4).ravel().tolist())
Offsets = tuple[tuple[int, float], ...]
"""Faces, and by how many mm each is moved along its normal."""
PlaceKey = tuple[str, tuple[float, ...]]


def is_clear_solid(appearance: Appearance) -> bool:
    """Whether rays go on inside it."""
    return appearance.params.transmission_weight > 0 and not appearance.params.geometry_thin_walled


def goes_first(one: tuple[Appearance, int], other: tuple[Appearance, int]) -> bool:
    """Whether, where two clear solids overlap, it is the first that is there. Each comes with its place in the inputs,
    which decides between equals."""
    a, b = one[0].params.specular_ior, other[0].params.specular_ior
    return a > b or (a == b and one[1] < other[1])


class Joints:
    """What was found for two parts where they are is kept."""

    def __init__(self, mesh_of: Callable[[str], Mesh]) -> None:
        self.mesh_of = mesh_of
        self._boxes: dict[str, NDArray[np.float64]] = {}
        self._placed: dict[PlaceKey, Placed] = {}
        self._touches: dict[tuple[PlaceKey, PlaceKey, float], list[Touch]] = {}
        self.nested = False
        """Whether a ray may meet another part within a clear one."""

    def follow(self, inputs: TraceInputs) -> list[Offsets]:
        """How faces are moved, part by part."""
        self.nested = False
        worn = [inputs.appearances[part.appearance] for part in inputs.parts]
        clear = [i for i, a in enumerate(worn) if lets_see(a)]
        found: list[Offsets] = [()] * len(inputs.parts)
        if not clear:
            return found
        low, high = self._reaches(inputs.parts)
        if len(self._touches) > MOST_KEPT:
            self._placed, self._touches = {}, {}
        # In steps, so that hiding a part at the rim does not make everything be looked at anew.
        extent = 2.0 ** np.ceil(np.log2(max(float(np.abs(low).max()), float(np.abs(high).max()), 1e-3)))
        slack = SLACK + ROUNDING * extent
        room = Room(self, inputs.parts, worn, slack, OVERLAP * extent)
        for place in clear:
            near = ((low <= high[place] + slack) & (high >= low[place] - slack)).all(axis=1)
            near[place] = False
            found[place] = room.offsets(place, [int(i) for i in np.flatnonzero(near)])
        self.nested = room.nested
        return found

    def _reaches(self, parts: list[TracePart]) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
        """Boxes of all parts in the world, (N, 3) each, mm."""
        matrices = np.array([part.matrix for part in parts]).reshape(-1, 4, 4)
        local = np.stack([self._box(part.mesh) for part in parts])
        middle, half = local.mean(axis=1), (local[:, 1] - local[:, 0]) / 2
        center = np.einsum("nij,nj->ni", matrices[:, :3, :3], middle) + matrices[:, :3, 3]
        reach = np.einsum("nij,nj->ni", np.abs(matrices[:, :3, :3]), half)
        return center - reach, center + reach

    def _box(self, mesh: str) -> NDArray[np.float64]:
        if mesh not in self._boxes:
            points = self.mesh_of(mesh).positions
            empty = np.zeros((2, 3))
            self._boxes[mesh] = np.stack([points.min(axis=0), points.max(axis=0)]) if len(points) else empty
        return self._boxes[mesh]

    def _at(self, key: PlaceKey) -> Placed:
        if key not in self._placed:
            self._placed[key] = Placed(self.mesh_of(key[0]), np.array(key[1]).reshape(4, 4))
        return self._placed[key]

    def touches(self, one: TracePart, other: TracePart, slack: float) -> list[Touch]:
        """Faces of one part that lie on another. What was found for two holds for all that stand alike."""
        key = (*_relative(one, other), slack)
        if key not in self._touches:
            self._touches[key] = touching(self._at(key[0]), self._at(key[1]), slack)
        return self._touches[key]


def _relative(one: TracePart, other: TracePart) -> tuple[PlaceKey, PlaceKey]:
    """The two in the frame of the first, unless that is scaled, since touching is a matter of mm."""
    here, there = (np.array(part.matrix).reshape(4, 4) for part in (one, other))
    if np.abs(here[:3, :3].T @ here[:3, :3] - np.eye(3)).max() > 1e-6:
        return (one.mesh, one.matrix), (other.mesh, other.matrix)
    # A nanometre more or less is rounding; adding zero makes one number of both zeros.
    place = np.round(np.linalg.inv(here) @ there, 6) + 0.0
    return (one.mesh, IDENTITY), (other.mesh, tuple(place.ravel().tolist()))


def lets_see(appearance: Appearance) -> bool:
    """Whether something behind it may show."""
    return appearance.params.transmission_weight > 0 or appearance.params.geometry_opacity < 1


class Room:
    """One look at who lies on whom."""

    def __init__(
        self, joints: Joints, parts: list[TracePart], worn: list[Appearance], slack: float, overlap: float
    ) -> None:
        self.joints, self.parts, self.worn, self.slack, self.overlap = joints, parts, worn, slack, overlap
        self.nested = False

    def offsets(self, place: int, near: list[int]) -> Offsets:
        """How the faces of a part that lets see are moved, for the parts near it."""
        part, appearance = self.parts[place], self.worn[place]
        solid = is_clear_solid(appearance)
        inked = faces_with_pictures(part, self.joints.mesh_of(part.mesh)) if part.pictures else set()
        found: dict[int, float] = {}
        for other in near:
            beside = self.worn[other]
            both = solid and is_clear_solid(beside)
            self.nested |= solid
            if lets_see(beside) and (not both or goes_first((appearance, place), (beside, other))):
                continue
            for touch in self.joints.touches(part, self.parts[other], self.slack):
                way = touch.apart + (self.overlap if both else self.slack)
                # Into the other where the faces look at each other; beneath its face where they are flush.
                pressed = touch.opposed == (solid and (both or touch.face not in inked))
                signed = way if pressed else -way
                if abs(signed) > abs(found.get(touch.face, 0.0)):
                    found[touch.face] = signed
        return tuple(sorted(found.items()))


def faces_with_pictures(part: TracePart, mesh: Mesh) -> set[int]:
    """The faces of a part that the middles of its pictures lie on."""
    found: set[int] = set()
    for picture in part.pictures:
        if picture.by_coordinates:
            found |= set(picture.faces)
            continue
        with suppress(LookupError):
            found.add(face_beneath(mesh, picture))
    return found
