"""Where a decal lies on the flat sheet that its face becomes when it is unrolled, see `assembly.unwrapping`."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from usual_lamp.core.assembly import Mesh
from usual_lamp.core.scene.decal import Decal, Sheet

Array = NDArray[np.float64]
SEAM, ALIKE = 1e-3, 0.01
"""mm by which the two places of a point at a seam differ at least, and share of their way by which ways may differ."""


def on_sheet(mesh: Mesh, face: int, signature: str, decal: Decal) -> Sheet:
    """Where the decal's middle lies on its face, how its width runs there, and how long a mm of the surface is on the
    sheet: not every face unrolls true to length. `mesh` is in the part's frame, mm, and has its faces unrolled
    (`laying.mapped`). Raises LookupError for a face that has no triangles."""
    first, count = (int(v) for v in mesh.face_ranges[face])
    if not count or mesh.coordinates is None:
        raise LookupError("that face has nothing to lie on")
    corners = mesh.triangles[first : first + count]
    points = mesh.positions[corners].astype(np.float64)
    center = np.array(decal.center)
    shares, far = _nearest(points, center)
    triangle = int(far.argmin())
    flat = mesh.coordinates[corners[triangle]].astype(np.float64)
    u, v = shares[triangle] @ flat
    # How the sheet runs on this triangle: its two sides, in space and on the sheet.
    sides, on_it = points[triangle, 1:] - points[triangle, 0], flat[1:] - flat[0]
    ways = np.linalg.lstsq(sides.T, decal.plain.axes(turned=False)[:2].T, rcond=None)[0].T @ on_it
    stretch = np.clip(np.linalg.norm(ways, axis=1), 0.05, 20.0)
    return Sheet(
        face=signature,
        at=(round(float(u), 6), round(float(v), 6)),
        along=round(float(np.degrees(np.arctan2(ways[0, 1], ways[0, 0]))), 4),
        period=_period(mesh, corners),
        flipped=bool(np.linalg.det(ways) < 0),
        stretch=(round(float(stretch[0]), 6), round(float(stretch[1]), 6)),
    )


def _period(mesh: Mesh, corners: NDArray[np.uint32]) -> tuple[float, float] | None:
    """From a point at the seam of a face that closes up to where it comes again on the sheet; None without a seam, and
    where the sheet comes again turned, as that of a cone does."""
    assert mesh.coordinates is not None
    used = np.unique(corners)
    order = used[np.lexsort(mesh.positions[used].T)]
    twice = (mesh.positions[order[1:]] == mesh.positions[order[:-1]]).all(axis=1)
    steps = (mesh.coordinates[order[1:]] - mesh.coordinates[order[:-1]])[twice].astype(np.float64)
    steps = steps[np.linalg.norm(steps, axis=1) > SEAM]
    if not len(steps):
        return None
    # Told from one side of the seam or the other: all the same way.
    steps *= np.where(steps @ steps[0] < 0, -1.0, 1.0)[:, None]
    middle = np.median(steps, axis=0)
    if np.abs(steps - middle).max() > ALIKE * np.linalg.norm(middle):
        return None
    return round(float(middle[0]), 6), round(float(middle[1]), 6)


def _nearest(triangles: Array, point: Array) -> tuple[Array, Array]:
    """For each triangle (T, 3, 3): barycentric coordinates (T, 3) of a point of it near the given one, and how far that
    is, mm. Beside a triangle it is not quite the nearest; above it, where decals lie, it is."""
    a, one, two = triangles[:, 0], triangles[:, 1] - triangles[:, 0], triangles[:, 2] - triangles[:, 0]
    arm = point - a
    d11, d12, d22 = (np.einsum("ij,ij->i", p, q) for p, q in ((one, one), (one, two), (two, two)))
    e1, e2 = np.einsum("ij,ij->i", arm, one), np.einsum("ij,ij->i", arm, two)
    scale = np.maximum(d11 * d22 - d12 * d12, 1e-30)
    first, second = (d22 * e1 - d12 * e2) / scale, (d11 * e2 - d12 * e1) / scale
    shares = np.clip(np.stack([1 - first - second, first, second], axis=1), 0.0, None)
    shares /= np.maximum(shares.sum(axis=1, keepdims=True), 1e-30)
    return shares, np.linalg.norm(np.einsum("ik,ikj->ij", shares, triangles) - point, axis=1)
