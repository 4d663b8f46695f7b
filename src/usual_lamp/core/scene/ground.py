"""Floors that wear an appearance: a wide plane, or a sweep that is curved up behind the product."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from usual_lamp.core.assembly import Mesh
from usual_lamp.core.scene.document import Lighting
from usual_lamp.core.scene.floor_plane import FloorPlane
from usual_lamp.core.scene.frozen import Triple

FLOOR_REACH = 14.0
"""Half side of the floor in model radii; it has faded into the backdrop before that."""
PREFIX = "ground:"
CURVE = 48
"""Pieces of the sweep's curve."""
IN_FRONT, FLAT, BEND, HIGH, WIDE = 7.0, 1.9, 2.2, 8.0, 10.0
"""Of the sweep, in radii of the product: how far it reaches to the front and level to the back, the radius of its
curve, its height, and half its width."""


class Ground(NamedTuple):
    """Where a floor lies, mm, and which form it has."""

    kind: str
    center: Triple
    """Of the floor, under that of the product."""
    radius: float
    up: Triple
    turn: float

    @staticmethod
    def under(lighting: Lighting, center: Triple, radius: float, floor: FloorPlane) -> Ground:
        """The floor of a lighting under a product; lengths in mm. It lies a hair below what stands on it."""
        finish = lighting.floor_finish
        lower = floor._replace(height=floor.height - radius * 2e-4)
        return Ground(finish.kind, lower.under(center), radius, lower.up, finish.turn)

    @property
    def name(self) -> str:
        """Names its mesh: equal names are equal meshes."""
        return PREFIX + ",".join(str(value) for value in (self.kind, *self.center, self.radius, *self.up, self.turn))

    def mesh(self) -> Mesh:
        """Its triangles in the world, with coordinates in mm along it."""
        profile, normals = _sweep() if self.kind == "sweep" else _plane()
        wide = WIDE if self.kind == "sweep" else FLOOR_REACH
        along = np.r_[0.0, np.cumsum(np.linalg.norm(np.diff(profile, axis=0), axis=1))]
        turn = np.radians(self.turn)
        # The profile runs away from the viewer, who stands at the front (-y) turned by that angle.
        across, along_floor, up = FloorPlane(self.up, 0.0).axes
        side = np.cos(turn) * across + np.sin(turn) * along_floor
        back = np.cos(turn) * along_floor - np.sin(turn) * across
        origin = np.array(self.center)
        middle = origin + self.radius * (profile[:, :1] * back + profile[:, 1:] * up)
        left, right = (middle + sign * self.radius * wide * side for sign in (-1, 1))
        facing = normals[:, :1] * back + normals[:, 1:] * up
        count = len(profile)
        number = np.arange(count - 1)
        quads = np.stack([number, number + count, number + count + 1, number + 1], axis=1)
        triangles = quads[:, [0, 1, 2, 0, 2, 3]].reshape(-1, 3)
        across = np.repeat([-wide, wide], count)
        return Mesh(
            positions=np.r_[left, right].astype(np.float32),
            normals=np.r_[facing, facing].astype(np.float32),
            triangles=triangles.astype(np.uint32),
            face_ranges=np.array([[0, len(triangles)]], np.uint32),
            edges=np.zeros((0, 2, 3), np.float32),
            coordinates=(np.c_[across, np.r_[along, along]] * self.radius).astype(np.float32),
        )


def _plane() -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """Profile (N, 2) backwards and up, and its normals."""
    return np.array([[-FLOOR_REACH, 0.0], [FLOOR_REACH, 0.0]]), np.array([[0.0, 1.0], [0.0, 1.0]])


def _sweep() -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    angle = np.linspace(0.0, np.pi / 2, CURVE + 1)
    bend = np.stack([FLAT + BEND * np.sin(angle), BEND * (1 - np.cos(angle))], axis=1)
    around = np.stack([-np.sin(angle), np.cos(angle)], axis=1)
    profile = np.r_[[[-IN_FRONT, 0.0]], bend, [[FLAT + BEND, HIGH]]]
    return profile, np.r_[[[0.0, 1.0]], around, [[-1.0, 0.0]]]
