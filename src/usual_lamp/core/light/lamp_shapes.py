"""The bright surfaces of lamps as triangles, and what arrives from them at a point with nothing in the way."""

from __future__ import annotations

import itertools
import math

import numpy as np
from numpy.typing import NDArray

from usual_lamp.core.light import lamps as kinds

Array = NDArray[np.float64]
ROUND = 48
"""Corners of a round lamp."""
SIDES = 16
"""Of a tube."""
NEVER_SPOT = -2.0
"""Cosine below which a lamp without a beam gives nothing."""
FAR = 20.0
"""Radii from which on a ball is as good as a point; an even one is that everywhere above the horizon."""
AT_ONCE = 2**14
"""Pairs of a point and a triangle of a lamp that are worked out together: few calls, and no more than caches hold."""


def corners_of(lamp: kinds.Standing) -> tuple[Array, float]:
    """(T, 3, 3) corners in mm, wound so that their normals point where it shines, and the luminance in cd/m²."""
    frame, center = lamp.frame(), np.array(lamp.position)
    if isinstance(lamp, kinds.PointLamp):
        return center + _ball() * lamp.diameter / 2, kinds.ball_luminance(lamp)
    if isinstance(lamp, kinds.FieldLamp):
        bulbs = center + _places(lamp) @ frame
        return (bulbs[:, None, None] + _ball(2) * lamp.diameter / 2).reshape(-1, 3, 3), kinds.ball_luminance(lamp)
    if isinstance(lamp, kinds.PhotometricLamp):
        # Times the intensity towards a direction: a ball is as wide from everywhere.
        return center + _ball() * lamp.diameter / 2, 1.0 / (math.pi / 4 * lamp.diameter**2 * kinds.SQUARE_MM)
    if isinstance(lamp, kinds.TubeLamp):
        return center + _tube(lamp.length, lamp.diameter) @ frame, lamp.luminance
    if isinstance(lamp, kinds.SpotLamp):
        return center + _ellipse(lamp.diameter, lamp.diameter) @ frame, kinds.spot_luminance(lamp)
    assert isinstance(lamp, kinds.PanelLamp | kinds.Card)
    if isinstance(lamp, kinds.Card):
        return center + _rectangle(lamp.width, lamp.height) @ frame, 0.0
    shape = _ellipse(lamp.width, lamp.height) if lamp.round else _rectangle(lamp.width, lamp.height)
    return center + shape @ frame, lamp.luminance


def outline_of(panel: kinds.PanelLamp) -> Array:
    """(K, 3) mm: the corners of a panel, to the right as seen from where it shines."""
    rim = _rim if panel.round else _corners
    return np.asarray(panel.position + rim(panel.width, panel.height) @ panel.frame())


def color_numbers(lamp: kinds.FieldLamp, count: int) -> NDArray[np.intp]:
    """(count,): which of its colours each of the triangles has; the same at every call."""
    bulbs = lamp.columns * lamp.rows
    turns = np.random.default_rng(7).integers(len(lamp.colors), size=bulbs)
    return np.repeat(turns, count // bulbs)


def _places(lamp: kinds.FieldLamp) -> Array:
    """(N, 3) mm: the bulbs of a field, across, upwards and along its aim; the same at every call."""
    x, y = np.meshgrid(*((np.arange(n) - (n - 1) / 2) for n in (lamp.columns, lamp.rows)))
    grid = np.stack([x.ravel(), y.ravel(), 0 * x.ravel()], axis=1)
    moved = np.random.default_rng(3).uniform(-0.5, 0.5, grid.shape) * lamp.jitter
    return np.asarray((grid + moved) * lamp.spacing)


def _facing(corners: Array, towards: Array) -> Array:
    """The triangles wound so that their normals lie along `towards` (T, 3)."""
    normal = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    wrong = np.einsum("ij,ij->i", normal, towards) < 0
    return np.where(wrong[:, None, None], corners[:, ::-1], corners)


def _corners(width: float, height: float) -> Array:
    """(4, 3) of a rectangle, to the left round its normal."""
    return np.array([[x * width / 2, y * height / 2, 0.0] for x, y in ((-1, -1), (1, -1), (1, 1), (-1, 1))])


def _rim(width: float, height: float) -> Array:
    """(ROUND, 3) of a polygon of an ellipse's area, to the left round its normal."""
    turn = np.linspace(0, 2 * np.pi, ROUND + 1)[:-1]
    scale = math.sqrt(2 * math.pi / ROUND / math.sin(2 * math.pi / ROUND))
    return np.stack([np.cos(turn) * width / 2, np.sin(turn) * height / 2, 0 * turn], axis=1) * scale


def _rectangle(width: float, height: float) -> Array:
    a, b, c, d = _corners(width, height)
    return np.array([[a, b, c], [a, c, d]])


def _ellipse(width: float, height: float) -> Array:
    rim = _rim(width, height)
    return np.stack([np.zeros_like(rim), rim, np.roll(rim, -1, axis=0)], axis=1)


def _tube(length: float, diameter: float) -> Array:
    """A prism of the cylinder's area, cut into pieces along its length."""
    turn = np.linspace(0, 2 * np.pi, SIDES + 1)
    reach = diameter / 2 * (math.pi / SIDES) / math.sin(math.pi / SIDES)
    rim = np.stack([0 * turn, np.cos(turn) * reach, np.sin(turn) * reach], axis=1)
    ends = np.linspace(-length / 2, length / 2, 9)
    found = []
    for low, high in itertools.pairwise(ends):
        left, right = (rim + np.array([x, 0.0, 0.0]) for x in (low, high))
        found += [
            np.stack([left[:-1], left[1:], right[:-1]], axis=1),
            np.stack([right[:-1], left[1:], right[1:]], axis=1),
        ]
    both = np.concatenate(found)
    return _facing(both, both.mean(axis=1) * [0, 1, 1])


def _ball(divided: int = 3) -> Array:
    """A ball of radius 1 from an octahedron whose sides were divided so often; its area is that of the ball."""
    triangles = np.array([[[x, 0, 0], [0, y, 0], [0, 0, z]] for x in (1, -1) for y in (1, -1) for z in (1, -1)], float)
    for _ in range(divided):
        a, b, c = triangles[:, 0], triangles[:, 1], triangles[:, 2]
        ab, bc, ca = (m / np.linalg.norm(m, axis=1, keepdims=True) for m in (a + b, b + c, c + a))
        triangles = np.concatenate([np.stack(t, axis=1) for t in ((a, ab, ca), (ab, b, bc), (ca, bc, c), (ab, bc, ca))])
    triangles = _facing(triangles, triangles.mean(axis=1))
    return triangles * math.sqrt(4 * np.pi / areas(triangles).sum())


def areas(corners: Array) -> Array:
    """(T,) of triangles."""
    cross = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    return np.asarray(np.linalg.norm(cross, axis=1) / 2)


def limits(lamp: kinds.Standing) -> tuple[float, float]:
    """Cosines from the axis at which a beam ends and from which on it is full."""
    if not isinstance(lamp, kinds.SpotLamp):
        return NEVER_SPOT - 1, NEVER_SPOT
    outer = max(lamp.outer, lamp.inner + 0.01)
    return math.cos(math.radians(outer)), math.cos(math.radians(lamp.inner))


def illuminance(lamp: kinds.BaseLamp, points: Array, normals: Array | None = None) -> Array:
    """lx at points (N, 3), nothing in the way, at the lamp's nominal power; on surfaces with these normals (N, 3), or
    on ones that face each of its parts. Of a panel on a surface by Lambert's closed form; of a ball that is far by the
    inverse square law; else by adding up triangles, cut finely where one would be too coarse."""
    if isinstance(lamp, kinds.DistantLamp):
        cosine = 1.0 if normals is None else np.clip(normals @ lamp.direction(), 0.0, None)
        return np.asarray(lamp.lux * cosine * np.ones(len(points)))
    assert isinstance(lamp, kinds.Standing)
    if isinstance(lamp, kinds.Card):
        return np.zeros(len(points))
    if isinstance(lamp, kinds.FieldLamp):
        return _from_bulbs(lamp, points, normals)
    if isinstance(lamp, kinds.PanelLamp) and normals is not None:
        return _from_panel(lamp, points, normals)
    corners, luminance = corners_of(lamp)
    if isinstance(lamp, kinds.PointLamp | kinds.PhotometricLamp):
        return _from_ball(lamp, corners, luminance, points, normals)
    return _from_triangles(lamp, corners, luminance, points, normals)


def _from_ball(
    lamp: kinds.PointLamp | kinds.PhotometricLamp,
    corners: Array,
    luminance: float,
    points: Array,
    normals: Array | None,
) -> Array:
    """The same of a ball: by the inverse square law where it is far, by its triangles where it is near."""
    radius = math.sqrt(areas(corners).sum() / (4 * np.pi))
    way = np.subtract(lamp.position, points)
    squared = np.einsum("ni,ni->n", way, way)
    far = squared > (FAR * radius) ** 2
    total = np.zeros(len(points))
    way, squared, facing = way[far], squared[far], None if normals is None else normals[far]
    way /= np.sqrt(squared)[:, None]
    received = 1.0 if facing is None else np.clip(np.einsum("ni,ni->n", way, facing), 0, None)
    given = lamp.intensity(-way @ lamp.frame().T) if isinstance(lamp, kinds.PhotometricLamp) else 1.0
    total[far] = luminance * np.pi * radius**2 * given * received / squared
    if not far.all():
        facing = None if normals is None else normals[~far]
        total[~far] = _from_triangles(lamp, corners, luminance, points[~far], facing)
    return total


def _from_panel(lamp: kinds.PanelLamp, points: Array, normals: Array) -> Array:
    """The same of an evenly bright polygon: half its luminance times the sum over its sides of the angle under which
    each is seen times the cosine between the surface's normal and that of the plane through point and side (Lambert,
    Photometria, 1760; Baum, Rushmeier, Winget, SIGGRAPH 1989; from memory). What lies below a surface's horizon is cut
    off."""
    frame, outline = lamp.frame(), outline_of(lamp)
    total = np.zeros(len(points))
    for first in range(0, len(points), AT_ONCE):
        some = slice(first, first + AT_ONCE)
        total[some] = _seen_as_polygon(outline, points[some], normals[some])
    is_lit = (points - lamp.position) @ frame[2] > 0
    return np.where(is_lit, np.maximum(lamp.luminance / 2 * total, 0.0), 0.0)


def _seen_as_polygon(outline: Array, points: Array, normals: Array) -> Array:
    """Sums of Lambert's formula for a convex outline (K, 3) that runs to the right as seen from the points (N, 3)."""
    ways = outline[:, None] - points
    heights = np.einsum("kni,ni->kn", ways, normals)
    above = heights >= 0
    total = np.zeros(len(points))
    leaves, returns = np.zeros_like(points), np.zeros_like(points)
    for one, other in zip(range(len(outline)), [*range(1, len(outline)), 0], strict=True):
        start, end = ways[one], ways[other]
        if not (above[one] & above[other]).all():
            # Where a side crosses the horizon it begins or ends there.
            share = heights[one] / np.where(above[one] == above[other], 1.0, heights[one] - heights[other])
            crossing = start + (end - start) * share[:, None]
            out, back = above[one] & ~above[other], above[other] & ~above[one]
            leaves[out], returns[back] = crossing[out], crossing[back]
            start, end = np.where(back[:, None], crossing, start), np.where(out[:, None], crossing, end)
        total += np.where(above[one] | above[other], _of_side(start, end, normals), 0.0)
    if not above.all():
        # Along the horizon it is closed.
        total += _of_side(leaves, returns, normals)
    return total


def _of_side(start: Array, end: Array, normals: Array) -> Array:
    (ax, ay, az), (bx, by, bz) = start.T, end.T
    x, y, z = az * by - ay * bz, ax * bz - az * bx, ay * bx - ax * by
    across = np.sqrt(x * x + y * y + z * z)
    angle = np.arctan2(across, ax * bx + ay * by + az * bz)
    nx, ny, nz = normals.T
    return np.asarray(angle * (x * nx + y * ny + z * nz) / np.maximum(across, 1e-300))


def _from_triangles(
    lamp: kinds.Standing, corners: Array, luminance: float, points: Array, normals: Array | None
) -> Array:
    """The same of a lamp's bright triangles (T, 3, 3), each as a point in its middle."""
    low, high = limits(lamp)
    while len(corners) < 64:
        a, b, c = corners[:, 0], corners[:, 1], corners[:, 2]
        ab, bc, ca = (a + b) / 2, (b + c) / 2, (c + a) / 2
        corners = np.concatenate([np.stack(t, axis=1) for t in ((a, ab, ca), (ab, b, bc), (ca, bc, c), (ab, bc, ca))])
    middle, area = corners.mean(axis=1), areas(corners)
    facing = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]) / (2 * area[:, None])
    total = np.zeros(len(points))
    at_once = max(1, AT_ONCE // max(1, len(points)))
    for some in (slice(first, first + at_once) for first in range(0, len(middle), at_once)):
        way = middle[some, None] - points
        squared = np.einsum("tni,tni->tn", way, way)
        way /= np.sqrt(squared)[..., None]
        cosine = -np.einsum("tni,ti->tn", way, facing[some])
        received = 1.0 if normals is None else np.clip(np.einsum("tni,ni->tn", way, normals), 0, None)
        shine = np.clip(cosine, 0.0, None)
        if isinstance(lamp, kinds.PhotometricLamp):
            lit = shine > 0
            shine[lit] *= lamp.intensity(-way[lit] @ lamp.frame().T)
        if low > NEVER_SPOT:
            t = np.clip((cosine - low) / (high - low), 0.0, 1.0)
            # The intensity is even within the beam, so the luminance grows as the disc gets narrower.
            shine = t * t * (3 - 2 * t) * (cosine > 0)
        total += (luminance * area[some, None] * shine * received / np.maximum(squared, 1.0)).sum(axis=0)
    return total


def _from_bulbs(lamp: kinds.FieldLamp, points: Array, normals: Array | None) -> Array:
    """The same of a field of bulbs, which are small beside their distance: the inverse square law."""
    total = np.zeros(len(points))
    for place in _places(lamp) @ lamp.frame() + lamp.position:
        way = place - points
        squared = np.maximum(np.einsum("ij,ij->i", way, way), lamp.diameter**2 / 4)
        cosine = 1.0 if normals is None else np.clip(np.einsum("ij,ij->i", way, normals) / np.sqrt(squared), 0, None)
        total += lamp.lumen / (4 * math.pi) / kinds.SQUARE_MM * cosine / squared
    return total
