"""What becomes of a decal when its part has another shape: it keeps its place, moves with its face, or has lost it."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from usual_lamp.core.assembly import Mesh
from usual_lamp.core.scene.document import Decal

Array = NDArray[np.float64]
Fate = Literal["kept", "moved", "lost"]
REACH = 20.0
"""mm along its normal within which a face that moved is looked for; for large decals twice their size."""
FACES = 0.7
"""Cosine of a face's normal to the decal's from which on it counts as the same face."""
CARRIES = 3
"""Of the five spots that are looked at, middle and towards the corners, that must lie on a face."""


@dataclass(frozen=True)
class Carried:
    """A decal on the new shape."""

    fate: Fate
    decal: Decal
    shift: float = 0.0
    """mm along its normal."""


def carried(mesh: Mesh, decal: Decal) -> Carried:
    """The decal on a mesh in its part's frame."""
    right, up, out = decal.laid()[0].axes()
    center = np.asarray(decal.center)
    reach = max(REACH, 2 * max(decal.width, decal.height))
    spots = [(0.0, 0.0), *((0.3 * a, 0.3 * b) for a in (-1, 1) for b in (-1, 1))]
    if decal.wrap:
        # Beside its middle a round face falls away: what counts is its middle line.
        along = up if decal.wrap.along == "up" else right
        length = decal.height if decal.wrap.along == "up" else decal.width
        points = [center + along * (length * k) for k in (-0.4, -0.2, 0.0, 0.2, 0.4)]
    else:
        points = [center + right * (decal.width * a) + up * (decal.height * b) for a, b in spots]
    heights = [_height(mesh, point, out, reach) for point in points]
    found = np.array([height for height in heights if height is not None])
    if len(found) < CARRIES:
        return Carried("lost", decal.model_copy(update={"waits": True}))
    shift = float(np.median(found))
    if abs(shift) <= max(decal.depth / 2, 0.05):
        return Carried("kept", decal)
    x, y, z = (round(float(v), 6) for v in center + out * shift)
    change: dict[str, object] = {"center": (x, y, z)}
    if decal.wrap:
        change["wrap"] = decal.wrap.model_copy(update={"radius": round(decal.wrap.radius + shift, 4)})
    return Carried("moved", Decal.model_validate(decal.model_dump() | change), shift)


def _height(mesh: Mesh, point: Array, out: Array, reach: float) -> float | None:
    """How far along `out` the nearest face that looks that way lies, mm; None for none within reach.

    Möller and Trumbore's test (1997) for all triangles at once.
    """
    a, b, c = (mesh.positions[mesh.triangles[:, k]].astype(np.float64) for k in range(3))
    one, two = b - a, c - a
    normal = np.cross(one, two)
    length = np.maximum(np.linalg.norm(normal, axis=1), 1e-12)
    looks = normal @ out / length >= FACES
    a, one, two = a[looks], one[looks], two[looks]
    side = np.cross(np.broadcast_to(out, two.shape), two)
    scale = np.einsum("ij,ij->i", one, side)
    scale = np.where(np.abs(scale) > 1e-12, scale, np.inf)
    arm = point - a
    u = np.einsum("ij,ij->i", arm, side) / scale
    turned = np.cross(arm, one)
    v = turned @ out / scale
    height = np.einsum("ij,ij->i", two, turned) / scale
    hit = (u >= -1e-9) & (v >= -1e-9) & (u + v <= 1 + 1e-9) & (np.abs(height) <= reach)
    return float(height[hit][np.abs(height[hit]).argmin()]) if hit.any() else None
