"""Sections: a plane that cuts the product in one shot, so that one looks inside.

What lies before the plane is not there, for the light neither; solids that it crosses are closed again. Parts may be
left whole, as drawings leave shafts and fasteners whole (ISO 128-3:2020, from memory).
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from typing import NamedTuple, Self

import numpy as np
from numpy.typing import NDArray
from pydantic import Field, model_validator

from usual_lamp.core.appearance import Appearance, OpenPBR, hex_to_linear
from usual_lamp.core.appearance.clues import clues_in
from usual_lamp.core.assembly import Assembly, Occurrence
from usual_lamp.core.assembly.cutting import Plane, cut_name, plane_within
from usual_lamp.core.assembly.kinds import kinds_by_shape
from usual_lamp.core.scene.frozen import Frozen, HexColor, Number, Triple

Array = NDArray[np.float64]
CAP_ID = "section-cut"
WHOLE_KINDS, WHOLE_SAMPLES = ("screw", "nut", "washer", "pin", "ball"), ("zinc-plated", "steel-turned")
"""What drawings leave whole: kinds of parts by their shape, and what names of fasteners and shafts ask for."""
SLACK = 1e-3
"""mm that a part may reach over the plane without being cut."""
FLAT, ROUND = 0.98, 0.01
"""Length of a face's mean normal from which on it is flat; mean square of the normals along an axis up to which it is
round about that."""


class Section(Frozen):
    """A plane that cuts a shot: what has normal · x > offset (mm, in the review's frame) is taken away."""

    normal: Triple = Field(description="to where what is taken away lies; need not be unit")
    offset: Number = Field(description="distance of the plane from the origin along the unit normal, mm")
    color: HexColor | None = Field(None, description="of all that is cut, as sRGB hex; null: each part's own")
    whole: frozenset[str] = Field(frozenset(), description="parts that are not cut, by uid")

    @model_validator(mode="after")
    def _has_direction(self) -> Self:
        if float(np.linalg.norm(self.normal)) < 1e-6:
            raise ValueError("A section needs a direction.")
        return self

    @property
    def plane(self) -> Plane:
        """The plane with a unit normal."""
        x, y, z = (float(v) for v in np.array(self.normal) / np.linalg.norm(self.normal))
        return x, y, z, self.offset

    @property
    def cap(self) -> Appearance | None:
        """What all cut faces wear; None where each part wears its own."""
        if self.color is None:
            return None
        params = OpenPBR(base_color=hex_to_linear(self.color), specular_roughness=0.5, specular_weight=0.6)
        return Appearance(id=CAP_ID, name="Cut", family="paint", params=params)


class Sectioned(NamedTuple):
    """What a section does to parts."""

    gone: frozenset[str]
    """Parts that lie before it, by uid."""
    cut: dict[str, str]
    """The names of the cut meshes of those that it crosses, by uid."""


def sectioned(assembly: Assembly, parts: Sequence[Occurrence], section: Section) -> Sectioned:
    """Which of the parts lie before the plane, and which it crosses. Told from their boxes, and hulls where known."""
    if not parts:
        return Sectioned(frozenset(), {})
    plane = section.plane
    normal = np.array(plane[:3])
    _, farthest = _along(assembly, parts, normal)
    gone, cut = set(), {}
    for part, is_near in zip(parts, (farthest > plane[3]).tolist(), strict=True):
        if not is_near or part.uid in section.whole:
            continue
        heights = assembly.corners(part) @ normal - plane[3]
        if heights.min() >= -SLACK:
            gone.add(part.uid)
        elif heights.max() > SLACK:
            within = plane_within(plane, assembly.world[part.uid])
            cut[part.uid] = cut_name(assembly.definition_of(part).mesh, within)
    return Sectioned(frozenset(gone), cut)


def _along(assembly: Assembly, parts: Sequence[Occurrence], normal: Array) -> tuple[Array, Array]:
    """How far the boxes of parts reach along a direction, least and most, (N,) each, mm."""
    low, high = assembly.boxes(parts)
    middle, half = (low + high) / 2 @ normal, (high - low) / 2 @ np.abs(normal)
    return middle - half, middle + half


def through_face(corners: Array, eye: Array) -> Section:
    """A section at a face, from its triangles' corners (T, 3, 3) in the review's frame, mm: along a flat face, and
    through the axis of a round one, such as a bore, with what lies towards `eye` (3,) taken away. Raises ValueError for
    other faces."""
    cross = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    areas = np.linalg.norm(cross, axis=1)
    if not areas.sum() > 0:
        raise ValueError("That face has no area.")
    normals, share = cross / np.maximum(areas, 1e-12)[:, None], areas / areas.sum()
    middles = corners.mean(axis=1)
    mean = share @ normals
    if np.linalg.norm(mean) > FLAT:
        way = mean / np.linalg.norm(mean)
        return _section(way, float(share @ middles @ way))
    spread, axes = np.linalg.eigh(np.einsum("t,ti,tj->ij", share, normals, normals))
    if spread[0] > ROUND:
        raise ValueError("That face is neither flat nor round about an axis: select another.")
    axis, across = axes[:, 0], axes[:, 1:]
    # Normals of a round face meet on its axis: seen along that, each middle lies off it along its normal only.
    flat, side = middles @ across, normals @ across @ np.array([[0.0, 1.0], [-1.0, 0.0]])
    weight = np.sqrt(share)[:, None]
    center, *_ = np.linalg.lstsq(side * weight, (flat * side).sum(axis=1) * weight[:, 0], rcond=None)
    on_axis = across @ center + axis * (share @ middles @ axis)
    way = eye - on_axis
    way -= axis * (way @ axis)
    if np.linalg.norm(way) < 1e-6:
        way = across[:, 0]
    way = way / np.linalg.norm(way)
    return _section(way, float(on_axis @ way))


def _section(way: Array, offset: float) -> Section:
    x, y, z = (float(v) for v in np.round(way, 6) + 0.0)
    return Section(normal=(x, y, z), offset=round(offset, 4))


def reach(assembly: Assembly, parts: Sequence[Occurrence], section: Section) -> tuple[float, float]:
    """How far parts reach along the section's normal, least and most, mm."""
    if not parts:
        return 0.0, 0.0
    least, most = _along(assembly, parts, np.array(section.plane[:3]))
    return float(least.min()), float(most.max())


def usually_whole(assembly: Assembly, uids: Iterable[str]) -> list[str]:
    """Those of the parts that drawings leave whole: fasteners by shape or name, pins, balls and shafts."""
    kinds = kinds_by_shape(assembly)
    found = []
    for uid in uids:
        part = assembly.by_uid[uid]
        guess = kinds.get(part.definition or "")
        named = any(clue.sample in WHOLE_SAMPLES for clue in clues_in(part.name, ("standard", "name")))
        if named or (guess is not None and guess.kind in WHOLE_KINDS):
            found.append(uid)
    return sorted(found)
