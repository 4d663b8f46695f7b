"""How pictures in mm are laid on parts by hand: along one direction, round an axis, or from the six sides of a box.

Everything is told in a frame of its own. Several parts that are laid in the same frame share one pattern, which runs
on across the gaps between them.
"""

from __future__ import annotations

from typing import Literal, NamedTuple

import numpy as np
from numpy.typing import NDArray

from usual_lamp.core.assembly.mesh import Mesh
from usual_lamp.core.assembly.unwrapping import unwrapped, with_coordinates, within_half_a_turn

Array = NDArray[np.float64]
LayingKind = Literal["plane", "cylinder", "box"]
STEEP = float(np.cos(np.radians(45)))
"""Round an axis, what faces along it more than this is looked at along it."""


class Laid(NamedTuple):
    """How pictures lie on one part."""

    kind: LayingKind
    matrix: tuple[float, ...]
    """3 x 4 row by row: from the part's frame to that of the laying, mm; it may stretch, as a part's place may."""
    radius: float = 10.0
    """Of a cylinder: mm from the axis where the picture has its true size."""


def laid(mesh: Mesh, how: Laid) -> Mesh:
    """The mesh with coordinates in mm, v upwards; vertices are split where the coordinates of neighbours part.

    `plane`: x and y of the frame. `cylinder`: arc length about z at the radius, and z; ends are looked at along z.
    `box`: the two coordinates across the axis that a triangle faces most, as seen from outside.
    """
    turn, shift = np.array(how.matrix).reshape(3, 4)[:, :3], np.array(how.matrix).reshape(3, 4)[:, 3]
    positions, normals = mesh.positions.astype(np.float64), mesh.normals.astype(np.float64)
    flat = mesh.triangles.astype(np.int64)
    corners = (positions @ turn.T + shift)[flat]
    facing = (normals @ np.linalg.inv(turn))[flat].mean(axis=1)
    return with_coordinates(mesh, _RULES[how.kind](corners, facing, how.radius))


def mapped(mesh: Mesh, how: Laid | None) -> Mesh:
    """The mesh with coordinates in mm: as it was laid by hand, or (None) with every face unrolled."""
    return laid(mesh, how) if how else unwrapped(mesh)


def _plane(corners: Array, facing: Array, radius: float) -> Array:
    return corners[..., :2]


def _cylinder(corners: Array, facing: Array, radius: float) -> Array:
    angle = within_half_a_turn(np.arctan2(corners[..., 1], corners[..., 0]))
    made = np.stack([angle * radius, corners[..., 2]], axis=-1)
    length = np.linalg.norm(facing, axis=1)
    ends = np.abs(facing[:, 2]) > STEEP * np.maximum(length, 1e-12)
    made[ends] = corners[ends][..., :2]
    return made


def _box(corners: Array, facing: Array, radius: float) -> Array:
    axis = np.abs(facing).argmax(axis=1)
    sign = np.where(np.take_along_axis(facing, axis[:, None], axis=1)[:, 0] < 0, -1.0, 1.0)[:, None]
    x, y, z = (corners[..., k] for k in range(3))
    sides = np.stack([np.stack([sign * y, z], -1), np.stack([-sign * x, z], -1), np.stack([sign * x, y], -1)])
    return np.asarray(sides[axis, np.arange(len(corners))])


_RULES = {"plane": _plane, "cylinder": _cylinder, "box": _box}
