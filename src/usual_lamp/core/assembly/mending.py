"""Finding and mending what is wrong with a triangle mesh: winding, open shells, triangles without area or twice there.

Winding is made consistent by flooding over shared edges. The flood is a connected-components search on a graph that
holds every triangle twice, as it is and turned over: an edge whose two triangles run it in opposite directions links
equals, one that they run in the same direction links each with the other turned over. Which of a shell's two sides
is outside, rays then decide.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import scipy  # its parts are loaded when they are first used
from embreex.mesh_construction import TriangleMesh
from embreex.rtcore_scene import EmbreeScene
from numpy.typing import NDArray

Points = NDArray[np.float64]
Triangles = NDArray[np.int64]
PROBES, LOOKS, MOST_CROSSINGS = 9, 24, 64
"""Triangles of a shell that are asked, directions each open one looks in, crossings that a ray is followed over."""


@dataclass(frozen=True)
class Health:
    """Of a mesh as it came."""

    triangles: int
    without_area: int
    twice: int
    turned: int
    """Triangles that had to be turned over."""
    open_edges: int
    """Edges with one triangle only."""
    crowded_edges: int
    """Edges that three or more triangles share."""
    one_sided: int
    """Shells that cannot be given an outside, as a Moebius strip cannot."""
    shells: int

    @property
    def sound(self) -> bool:
        """Whether nothing had to be mended and nothing is left to mend."""
        return not (self.without_area or self.twice or self.turned or self.open_edges or self.crowded_edges)


def mend(points: Points, triangles: Triangles) -> tuple[Triangles, Health]:
    """Triangles that have an area, each once, wound alike and with the outside out; and what was wrong.

    `points` are (V, 3) in mm with equal points merged, `triangles` (T, 3) indices.
    """
    size = float(np.ptp(points, axis=0).max()) if len(points) else 0.0
    a, b, c = (points[triangles[:, k]] for k in range(3))
    flat = np.linalg.norm(np.cross(b - a, c - a), axis=1) <= (max(size, 1e-12) * 1e-9) ** 2
    whole = triangles[~flat]
    kept = whole[_first_of_equals(whole)]
    sides = _Sides(kept)
    shell, over, one_sided = _flood(len(kept), sides)
    wound = np.where(over[:, None], kept[:, ::-1], kept)
    inside_out = _inside_out(points, wound, shell, sides)
    turn = over ^ inside_out[shell] if len(kept) else np.zeros(0, bool)
    return np.where(turn[:, None], kept[:, ::-1], kept), Health(
        triangles=len(triangles),
        without_area=int(flat.sum()),
        twice=len(whole) - len(kept),
        turned=int(turn.sum()),
        open_edges=sides.open,
        crowded_edges=sides.crowded,
        one_sided=one_sided,
        shells=int(shell.max()) + 1 if len(shell) else 0,
    )


def _first_of_equals(triangles: Triangles) -> NDArray[np.int64]:
    """Numbers of the triangles that no earlier one equals, whatever corner either begins with or way it runs."""
    if not len(triangles):
        return np.zeros(0, np.int64)
    corners = np.sort(triangles, axis=1)
    pair = corners[:, 0] * (int(corners.max()) + 1) + corners[:, 1]
    order = np.lexsort((corners[:, 2], pair))
    new = np.r_[True, (np.diff(pair[order]) != 0) | (np.diff(corners[order, 2]) != 0)]
    # lexsort is stable, so that the first of each run is the earliest.
    return np.sort(order[new])


class _Sides:
    """The edges of a mesh, and for those between two triangles which two and whether both run it the same way."""

    def __init__(self, triangles: Triangles) -> None:
        start = triangles.ravel()
        end = np.roll(triangles, -1, axis=1).ravel()
        forward = start < end
        top = int(triangles.max()) + 1 if len(triangles) else 1
        code = np.minimum(start, end) * top + np.maximum(start, end)
        order = np.argsort(code, kind="stable")
        code, owner, forward = code[order], order // 3, forward[order]
        starts = np.flatnonzero(np.r_[True, code[1:] != code[:-1]]) if len(code) else np.zeros(0, np.int64)
        counts = np.diff(np.r_[starts, len(code)])
        self.open, self.crowded = int((counts == 1).sum()), int((counts > 2).sum())
        pairs = starts[counts == 2]
        self.one, self.two = owner[pairs], owner[pairs + 1]
        self.clash = forward[pairs] == forward[pairs + 1]
        self.border = owner[starts[counts != 2]]
        """Triangles at an open or crowded edge; a crowded edge names its first only, which marks the shell."""


def _flood(count: int, sides: _Sides) -> tuple[NDArray[np.int64], NDArray[np.bool_], int]:
    """Shell of each triangle, whether it must be turned over to agree with the rest, and shells without two sides."""
    one, two, clash = sides.one, sides.two, sides.clash
    rows = np.r_[one, one + count]
    columns = np.r_[np.where(clash, two + count, two), np.where(clash, two, two + count)]
    links = scipy.sparse.coo_matrix((np.ones(len(rows), np.int8), (rows, columns)), shape=(2 * count, 2 * count))
    half = scipy.sparse.csgraph.connected_components(links, directed=False)[1]
    upright, turned = half[:count], half[count:]
    # A shell's two halves are the same pair of components in either order: the lower number names it.
    name = np.minimum(upright, turned)
    _, shell = np.unique(name, return_inverse=True)
    shell = shell.reshape(-1)
    lonely = upright == turned
    over = upright > turned
    # Of the two ways, the one that turns fewer triangles.
    amount = int(shell.max()) + 1 if count else 0
    many = 2 * np.bincount(shell, weights=over, minlength=amount) > np.bincount(shell, minlength=amount)
    over = over ^ many[shell] if count else over
    return shell, over & ~lonely, len(np.unique(shell[lonely]))


def _inside_out(points: Points, triangles: Triangles, shell: NDArray[np.int64], sides: _Sides) -> NDArray[np.bool_]:
    """Of each shell, whether its wound triangles face inwards."""
    amount = int(shell.max()) + 1 if len(shell) else 0
    result = np.zeros(amount, bool)
    if not amount:
        return result
    rays = _Rays(points, triangles)
    is_open = np.zeros(amount, bool)
    is_open[shell[sides.border]] = True
    order = np.argsort(shell, kind="stable")
    ends = np.cumsum(np.bincount(shell, minlength=amount))
    random = np.random.default_rng(11)
    for number in range(amount):
        own = order[ends[number - 1] if number else 0 : ends[number]]
        probes = own if len(own) <= PROBES else random.choice(own, PROBES, replace=False)
        if is_open[number]:
            result[number] = rays.freer_behind(probes, random)
        else:
            result[number] = rays.odd_before(probes, random).mean() > 0.5
    return result


class _Rays:
    def __init__(self, points: Points, triangles: Triangles) -> None:
        self.scene = EmbreeScene()
        corners = points[triangles]
        self.middle = corners.mean(axis=1)
        cross = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
        self.normal = cross / np.maximum(np.linalg.norm(cross, axis=1, keepdims=True), 1e-30)
        self.off = max(float(np.ptp(points, axis=0).max()), 1e-9) * 2e-6
        self.origin = points.mean(axis=0)
        self.mesh = TriangleMesh(self.scene, (points - self.origin).astype(np.float32), triangles.astype(np.int32))

    def odd_before(self, probes: NDArray[np.int64], random: np.random.Generator) -> NDArray[np.bool_]:
        """Whether a ray from the front of each triangle to far away crosses the mesh an odd number of times."""
        ways = self.normal[probes] + 0.3 * random.normal(size=(len(probes), 3))
        ways /= np.linalg.norm(ways, axis=1, keepdims=True)
        at = self.middle[probes] - self.origin + self.normal[probes] * self.off * 4
        crossings, going = np.zeros(len(probes), np.int64), np.ones(len(probes), bool)
        for _ in range(MOST_CROSSINGS):
            found = self.scene.run(at.astype(np.float32), ways.astype(np.float32), query="DISTANCE")
            hit = going & np.isfinite(found) & (found < 1e30)
            crossings += hit
            at = np.where(hit[:, None], at + ways * (found[:, None] + self.off * 8), at)
            going = hit
            if not going.any():
                break
        return np.asarray(crossings % 2 == 1)

    def freer_behind(self, probes: NDArray[np.int64], random: np.random.Generator) -> bool:
        """Whether more lines of sight get away from the backs of the triangles than from their fronts."""
        free = []
        for side in (1.0, -1.0):
            normals = np.repeat(self.normal[probes] * side, LOOKS, axis=0)
            ways = normals + random.normal(size=normals.shape) * 0.6
            ways *= np.sign(np.einsum("ij,ij->i", ways, normals))[:, None]
            ways /= np.linalg.norm(ways, axis=1, keepdims=True)
            at = np.repeat(self.middle[probes] - self.origin, LOOKS, axis=0) + normals * self.off * 4
            hits = self.scene.run(at.astype(np.float32), ways.astype(np.float32), query="OCCLUDED")
            free.append(int((hits < 0).sum()))
        return free[1] > free[0]
