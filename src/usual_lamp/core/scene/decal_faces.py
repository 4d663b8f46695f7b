"""Faces of a part that a decal lies on, or lies across from."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from usual_lamp.core.assembly import Mesh
from usual_lamp.core.scene.decal import Decal
from usual_lamp.core.scene.picture_on_part import PictureOnPart
from usual_lamp.core.scene.wrapping import axis_of

Array = NDArray[np.float64]
FACES = 0.7
"""Cosine of a triangle's normal to a direction from which on it counts as looking that way."""
LEAST_WALL = 1e-3
"""mm: what is nearer is the same surface."""


def crossings(mesh: Mesh, point: Array, way: Array, looks: Array) -> tuple[Array, NDArray[np.intp]]:
    """Where a line through a point crosses triangles that look some way: mm along `way` (unit, to both sides of the
    point), and the triangles' numbers.

    Möller and Trumbore's test (1997) for all triangles at once.
    """
    a, b, c = (mesh.positions[mesh.triangles[:, k]].astype(np.float64) for k in range(3))
    one, two = b - a, c - a
    normal = np.cross(one, two)
    length = np.maximum(np.linalg.norm(normal, axis=1), 1e-12)
    numbers = np.flatnonzero(normal @ looks / length >= FACES)
    a, one, two = a[numbers], one[numbers], two[numbers]
    side = np.cross(np.broadcast_to(way, two.shape), two)
    scale = np.einsum("ij,ij->i", one, side)
    scale = np.where(np.abs(scale) > 1e-12, scale, np.inf)
    arm = point - a
    u = np.einsum("ij,ij->i", arm, side) / scale
    turned = np.cross(arm, one)
    v = turned @ way / scale
    far = np.einsum("ij,ij->i", two, turned) / scale
    hit = (u >= -1e-9) & (v >= -1e-9) & (u + v <= 1 + 1e-9) & np.isfinite(scale)
    return far[hit], numbers[hit]


def face_beneath(mesh: Mesh, picture: PictureOnPart) -> int:
    """The face that the middle of a picture lies on, of a mesh in the part's frame. Raises LookupError for none within
    its depth."""
    out = picture.axes()[2]
    far, numbers = crossings(mesh, np.array(picture.center), out, out)
    near = np.abs(far) <= picture.depth
    if not near.any():
        raise LookupError("no face lies beneath it")
    triangle = numbers[near][np.abs(far[near]).argmin()]
    return int(np.searchsorted(mesh.face_ranges[:, 0], triangle, side="right")) - 1


def across(mesh: Mesh, decal: Decal) -> Decal:
    """The decal on the opposite side of the wall that it lies on, seen through from where it was: left and right
    exchanged, as print behind glass is. Raises LookupError for none."""
    axes, center = decal.plain.axes(turned=False), np.array(decal.center)
    out = axes[2]
    far, _ = crossings(mesh, center, out, -out)
    behind = -far[far < -LEAST_WALL]
    if not len(behind):
        raise LookupError("there is no wall with a far side beneath it")
    wall = float(behind.min())
    change: dict[str, object] = {
        "center": tuple(round(float(v), 6) for v in center - out * wall),
        "right": tuple(-v for v in decal.right),
        "turn": -decal.turn,
        "mirrored": not decal.mirrored,
        "faces": (),
        "sheet": None,
    }
    if decal.wrap is not None:
        # The axis stays; what was the outside of a tube is its bore now, and the other way round.
        foot, _ = axis_of(center, axes, decal.wrap)
        radius = float(np.linalg.norm(center - out * wall - foot))
        taper = decal.wrap.taper if decal.wrap.along == "up" else -decal.wrap.taper
        turned = {"radius": round(-np.sign(decal.wrap.radius) * radius, 4), "taper": taper}
        change["wrap"] = decal.wrap.model_dump() | turned
    return Decal.model_validate(decal.model_dump() | change)
