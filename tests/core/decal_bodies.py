"""Bodies that decals are laid on in tests: the side of a cylinder or a cone, and a plate."""

from __future__ import annotations

import numpy as np

from usual_lamp.core.assembly import Mesh


def tube(radius: float, height: float, sides: int = 256, inside: bool = False, taper: float = 0.0) -> Mesh:
    """The side of a cylinder about z, or of a cone that widens upwards by a half angle in degrees, with its exact
    normals."""
    steep = np.radians(taper)
    angle = np.linspace(0, 2 * np.pi, sides + 1)
    ring = np.stack([np.cos(angle), np.sin(angle), 0 * angle], axis=1)
    more = height / 2 * np.tan(steep)
    low, high = ring * (radius - more) - [0, 0, height / 2], ring * (radius + more) + [0, 0, height / 2]
    k, n = np.arange(sides), sides + 1
    triangles = np.concatenate([np.c_[k, k + 1, k + n + 1], np.c_[k, k + n + 1, k + n]]).astype(np.uint32)
    normals = (np.r_[ring, ring] * np.cos(steep) - [0, 0, np.sin(steep)]) * (-1 if inside else 1)
    return Mesh(
        positions=np.r_[low, high].astype(np.float32),
        normals=normals.astype(np.float32),
        triangles=triangles[:, ::-1].copy() if inside else triangles,
        face_ranges=np.array([[0, len(triangles)]], np.uint32),
        edges=np.zeros((0, 2, 3), np.float32),
    )


def box(wide: float, deep: float, high: float) -> Mesh:
    """A plate with its middle at the origin; faces -x, +x, -y, +y, -z, +z."""
    sides, normals = [], []
    for axis in range(3):
        for sign in (-1.0, 1.0):
            a, b = np.roll(np.eye(3), -axis - 1, axis=0)[:2]
            corners = np.array(
                [sign * np.eye(3)[axis] + i * a + j * b for i, j in ((-1, -1), (1, -1), (1, 1), (-1, 1))]
            )
            sides.append(corners if sign > 0 else corners[::-1])
            normals.append(np.tile(sign * np.eye(3)[axis], (4, 1)))
    k = 4 * np.arange(6)[:, None]
    return Mesh(
        positions=(np.concatenate(sides) * np.array([wide, deep, high]) / 2).astype(np.float32),
        normals=np.concatenate(normals).astype(np.float32),
        triangles=np.stack([k + np.array(corner) for corner in ((0, 1, 2), (0, 2, 3))], axis=1)
        .reshape(-1, 3)
        .astype(np.uint32),
        face_ranges=np.array([[2 * n, 2] for n in range(6)], np.uint32),
        edges=np.zeros((0, 2, 3), np.float32),
    )
