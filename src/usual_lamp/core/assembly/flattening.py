"""Free-form faces laid flat: least squares conformal maps, after B. Lévy, S. Petitjean, N. Ray and J. Maillot, "Least
squares conformal maps for automatic texture atlas generation", SIGGRAPH 2002.

Each triangle asks that the map turns and scales it alike in both directions. Surfaces that can be unrolled (any
extruded curve, say) come out without stretch; others keep their angles, and their area on the whole.
"""

from __future__ import annotations

import numpy as np
import scipy  # its parts are loaded when they are first used
from numpy.typing import NDArray

Array = NDArray[np.float64]
LARGEST = 60_000
"""Triangles of a face that is solved for at once."""
MOST = 1.7
"""Times that a flattened face may be longer or shorter somewhere: one that is looked at along axes shrinks by √3."""


def flattened(positions: Array, triangles: NDArray[np.int64], direction: Array) -> Array | None:
    """(T, 3, 2) coordinates in mm for the corners of triangles (T, 3) between positions (V, 3), the direction along the
    first; None where a face has no border to be opened at, has holes, or would be stretched too far.

    A seam whose vertices are not shared is a border: tubes are opened there.
    """
    used, again = np.unique(triangles, return_inverse=True)
    corners, whole = positions[used], again.reshape(-1, 3)
    triangles = whole[_wide(corners, whole)]
    if not 0 < len(triangles) <= LARGEST or not _is_disc(triangles):
        return None
    x1, x2, y2, area = _local(corners[triangles])
    flat = _conformal(x1, x2, y2, area, triangles, corners)
    image = flat[triangles]
    edges = np.stack([image[:, 1] - image[:, 0], image[:, 2] - image[:, 0]], axis=-1)
    covered = np.linalg.det(edges).sum() / 2
    if not np.isfinite(flat).all() or covered <= 0:
        return None
    scale = np.sqrt(area.sum() / covered)
    jacobian = edges * scale @ np.linalg.inv(np.stack([np.stack([x1, 0 * x1], -1), np.stack([x2, y2], -1)], axis=-1))
    values = np.linalg.svd(jacobian, compute_uv=False)
    if (np.linalg.det(jacobian) <= 0).any() or values.max() > MOST or values.min() < 1 / MOST:
        return None
    turn = _turn_along(jacobian, corners[triangles], area, direction)
    return np.asarray((flat * scale @ turn.T)[whole])


def _wide(corners: Array, triangles: NDArray[np.int64]) -> NDArray[np.bool_]:
    """Which triangles have an area."""
    a, b, c = (corners[triangles[:, k]] for k in range(3))
    area = np.linalg.norm(np.cross(b - a, c - a), axis=1)
    return np.asarray(area > 1e-9 * max(float(area.max(initial=0.0)), 1e-12))


def _is_disc(triangles: NDArray[np.int64]) -> bool:
    """One piece with one border: vertices less edges plus faces is one, and no edge has three triangles."""
    edges = np.sort(np.concatenate([triangles[:, [0, 1]], triangles[:, [1, 2]], triangles[:, [2, 0]]]), axis=1)
    edges, uses = np.unique(edges, axis=0, return_counts=True)
    return bool(uses.max() == 2) and len(np.unique(triangles)) - len(edges) + len(triangles) == 1


def _local(p: Array) -> tuple[Array, Array, Array, Array]:
    """Each triangle in its own plane: (0, 0), (x1, 0), (x2, y2), and its area."""
    e, f = p[:, 1] - p[:, 0], p[:, 2] - p[:, 0]
    x1 = np.linalg.norm(e, axis=1)
    x2 = np.einsum("ij,ij->i", e, f) / x1
    y2 = np.linalg.norm(np.cross(e, f), axis=1) / x1
    return x1, x2, y2, x1 * y2 / 2


def _conformal(x1: Array, x2: Array, y2: Array, area: Array, triangles: NDArray[np.int64], corners: Array) -> Array:
    """(V, 2): the corners' places that turn each triangle as rigidly as two pinned corners let them."""
    used = np.unique(triangles)
    spread = corners[used] - corners[used].mean(axis=0)
    first = used[np.argmax(np.einsum("ij,ij->i", spread, spread))]
    second = used[np.argmax(np.linalg.norm(corners[used] - corners[first], axis=1))]
    # Rows of the Cauchy-Riemann equations in complex numbers, one for each triangle (equation 4 of the paper).
    root = np.sqrt(2 * area)
    weights = np.stack([(x2 - x1) + 1j * y2, -x2 - 1j * y2, x1 + 0j], axis=1) / root[:, None]
    rows = np.repeat(np.arange(len(triangles)), 3)
    columns = triangles.ravel()
    matrix = scipy.sparse.coo_matrix((weights.ravel(), (rows, columns)), (len(triangles), len(corners))).tocsc()
    free = np.setdiff1d(used, [first, second])
    far = np.linalg.norm(corners[second] - corners[first])
    known = -matrix[:, [second]] @ np.array([far])
    found = np.zeros(len(corners), complex)
    found[second] = far
    if len(free):
        a = matrix[:, free]
        found[free] = scipy.sparse.linalg.splu((a.getH() @ a).tocsc()).solve(a.getH() @ known)
    return np.stack([found.real, found.imag], axis=1)


def _turn_along(jacobian: Array, p: Array, area: Array, direction: Array) -> Array:
    """The rotation after which the direction, as it lies in the face on the whole, points along the first axis."""
    e, f = p[:, 1] - p[:, 0], p[:, 2] - p[:, 0]
    right = e / np.linalg.norm(e, axis=1, keepdims=True)
    normal = np.cross(e, f)
    up = np.cross(normal / np.linalg.norm(normal, axis=1, keepdims=True), right)
    way = np.stack([right @ direction, up @ direction], axis=-1)
    x, y = np.einsum("t,tij,tj->i", area, jacobian, way)
    length = max(float(np.hypot(x, y)), 1e-12)
    c, s = x / length, y / length
    return np.array([[c, s], [-s, c]])
