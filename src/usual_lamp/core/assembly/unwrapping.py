"""Where a picture in mm lies on a part: every face unrolled by its own shape, told from its triangles.

Planes lie as they are, cylinders and cones are developed (arc length along the turn, so nothing is stretched). Zones of
spheres and tori have arc length along their section, and along the turn at their mean radius. Free-form faces with one
border are laid flat (see `flattening`). What is left is looked at along the axis that each triangle faces most, which
shrinks it by no more than √3; pieces that face different ways lie side by side. Directions follow the part's longest
side, so that a grain runs along it on every face.
"""

from __future__ import annotations

import dataclasses

import numpy as np
import scipy  # its parts are loaded when they are first used
from numpy.typing import NDArray

from usual_lamp.core.assembly.flattening import flattened
from usual_lamp.core.assembly.mesh import Mesh
from usual_lamp.core.assembly.smoothing import apart

Array = NDArray[np.float64]
FLAT = float(np.cos(np.radians(0.5)))
ROUND = 2e-3
"""How far the normals of a cylinder or cone may stray from their plane (root mean square)."""
FIT = 2e-3
"""How far its points may lie from the fitted surface, in shares of its size."""

GAP = 1.0
"""mm between pieces of a sheet."""
POLE = 0.35
"""Of the mean radius: how near to its axis a sphere or torus may come to be unrolled about it."""


def unwrapped(mesh: Mesh) -> Mesh:
    """The mesh with coordinates in mm, v upwards; vertices are split where the coordinates of faces or turns part."""
    positions, normals = mesh.positions.astype(np.float64), mesh.normals.astype(np.float64)
    extent = np.ptp(positions, axis=0) if len(positions) else np.zeros(3)
    leading = np.eye(3)[np.argsort(-extent, kind="stable")]
    corners = np.zeros((len(mesh.triangles), 3, 2))
    for first, count in mesh.face_ranges.tolist():
        part = slice(first, first + count)
        corners[part] = _face(positions, normals, mesh.triangles[part].astype(np.int64), leading)
    return with_coordinates(mesh, corners)


def with_coordinates(mesh: Mesh, corners: Array) -> Mesh:
    """The mesh with coordinates (T, 3, 2) for the corners of its triangles; vertices are split where they differ."""
    positions, normals = mesh.positions.astype(np.float64), mesh.normals.astype(np.float64)
    flat = mesh.triangles.astype(np.int64)
    points, ways, again, coordinates = apart(positions, normals, flat, corners)
    arrays = points.astype(np.float32), ways.astype(np.float32), again.astype(np.uint32)
    return dataclasses.replace(
        mesh, positions=arrays[0], normals=arrays[1], triangles=arrays[2], coordinates=coordinates
    )


def _face(positions: Array, normals: Array, triangles: NDArray[np.int64], leading: Array) -> Array:
    """(T, 3, 2) of one face's triangles (T, 3)."""
    if not len(triangles):
        return np.zeros((0, 3, 2))
    points = positions[triangles]
    ways = normals[triangles].reshape(-1, 3)
    mean = ways.mean(axis=0)
    mean /= max(float(np.linalg.norm(mean)), 1e-12)
    if (ways @ mean).min() > FLAT:
        return _plane(points, mean, leading)
    for rule in (_turned, _ringed):
        found = rule(points, ways, leading)
        if found is not None:
            return found
    along = next(axis for axis in leading if abs(axis @ mean) < 0.9)
    found = flattened(positions, triangles, along)
    return _boxed(points, leading) if found is None else found


def _plane(points: Array, normal: Array, leading: Array) -> Array:
    along = next(axis for axis in leading if abs(axis @ normal) < 0.9)
    right = along - normal * (along @ normal)
    right /= np.linalg.norm(right)
    return np.stack([points @ right, points @ np.cross(normal, right)], axis=-1)


def _turned(points: Array, ways: Array, leading: Array) -> Array | None:
    """Development of a cylinder or cone; None where the face is neither."""
    spread = ways - ways.mean(axis=0)
    values, axes = np.linalg.eigh(spread.T @ spread / len(ways))
    axis = axes[:, 0]
    if np.sqrt(max(float(values[0]), 0.0)) > ROUND or values[1] < 1e-9:
        return None
    axis = axis if axis[np.argmax(np.abs(axis))] > 0 else -axis
    zero = next(lead for lead in leading if abs(lead @ axis) < 0.9)
    zero = zero - axis * (zero @ axis)
    zero /= np.linalg.norm(zero)
    side = np.cross(axis, zero)
    flat = points.reshape(-1, 3)
    height = flat @ axis
    place = np.stack([flat @ zero, flat @ side], axis=1)
    out = np.stack([ways @ zero, ways @ side], axis=1)
    out /= np.maximum(np.linalg.norm(out, axis=1, keepdims=True), 1e-12)
    center, radius, slope, error = _fit(place, out, height)
    size = max(float(np.ptp(flat, axis=0).max()), 1e-9)
    if error > FIT * size:
        return None
    arm = place - center
    angle = within_half_a_turn(np.arctan2(arm[:, 1], arm[:, 0]))
    reach = np.abs(radius + slope * height).reshape(-1, 3)
    if abs(slope) < 1e-4:
        return np.stack([angle * np.abs(radius), height.reshape(-1, 3)], axis=-1)
    sine = abs(slope) / np.sqrt(1 + slope**2)
    slant, turn = reach / sine, angle * sine
    sign = np.sign(slope) * np.sign(radius + slope * height.mean())
    return np.stack([slant * np.sin(turn), sign * slant * np.cos(turn)], axis=-1)


def _ringed(points: Array, ways: Array, leading: Array) -> Array | None:
    """A zone of a sphere or a torus by arc lengths; None where the face is neither, or nears a pole, where they run
    together."""
    flat = points.reshape(-1, 3)
    size = max(float(np.ptp(flat, axis=0).max()), 1e-9)
    middle, _, error = _around(flat, ways)
    if error < FIT * size:
        # Any axis is one of a sphere: that from which the face stays farthest away.
        axis, foot = max(leading, key=lambda one: np.linalg.norm(np.cross(flat - middle, one), axis=1).min()), middle
    elif (found := _axis(flat, ways)) is not None:
        axis, foot = found
    else:
        return None
    side = np.eye(3)[np.argmin(np.abs(axis))]
    zero = np.cross(axis, side) / np.linalg.norm(np.cross(axis, side))
    arm = flat - foot
    place = np.stack([arm @ zero, arm @ np.cross(axis, zero)], axis=1)
    radius = np.linalg.norm(place, axis=1)
    outward = np.einsum("ij,ij->i", place, np.stack([ways @ zero, ways @ np.cross(axis, zero)], axis=1))
    section = np.stack([radius, arm @ axis], axis=1)
    normal = np.stack([outward / np.maximum(radius, 1e-9), ways @ axis], axis=1)
    center, bend, error = _around(section, normal)
    if error > FIT * size or abs(bend) > 50 * size or radius.min() < POLE * radius.mean():
        return None
    turn = within_half_a_turn(np.arctan2(place[:, 1], place[:, 0]))
    out = (section - center) / bend
    along = within_half_a_turn(np.arctan2(out[:, 1], out[:, 0]))
    return np.stack([turn * radius.mean(), along * abs(bend)], axis=-1)


def _around(points: Array, ways: Array) -> tuple[Array, float, float]:
    """Centre and radius of the circle or sphere through points with these normals (negative where they point inwards),
    and the root mean square error: a point is the centre plus radius times normal."""
    n, d = points.shape
    rows = np.concatenate([np.tile(np.eye(d), (n, 1)), ways.reshape(-1, 1)], axis=1)
    found = np.linalg.lstsq(rows, points.ravel(), rcond=None)[0]
    error = float(np.sqrt(np.mean((rows @ found - points.ravel()) ** 2)))
    return found[:d], float(found[d]) or 1e-9, error


def _axis(points: Array, ways: Array) -> tuple[Array, Array] | None:
    """Direction of, and a point on, the axis that all normals of a surface of revolution meet: H. Pottmann and
    J. Wallner, Computational Line Geometry (2001), by the linear complex of the normals. None where they meet none:
    those of an extruded surface are all square to one direction instead."""
    middle = points.mean(axis=0)
    size = max(float(np.abs(points - middle).max()), 1e-9)
    lines = np.concatenate([ways, np.cross((points - middle) / size, ways)], axis=1)
    values = np.linalg.eigh(lines.T @ lines)[1][:, 0]
    moment, axis = values[:3], values[3:]
    length = float(np.linalg.norm(axis))
    if not length > 1e-4:
        return None
    axis, moment = axis / length, moment / length
    axis, moment = (axis, moment) if axis[np.argmax(np.abs(axis))] > 0 else (-axis, -moment)
    return axis, middle + np.cross(axis, moment) * size


def within_half_a_turn(angle: Array) -> Array:
    """(T, 3) from angles of corners: those of one triangle lie within half a turn."""
    corners = angle.reshape(-1, 3).copy()
    over = np.ptp(corners, axis=1) > np.pi
    corners[over] = np.where(corners[over] < 0, corners[over] + 2 * np.pi, corners[over])
    return corners


def _fit(place: Array, out: Array, height: Array) -> tuple[Array, float, float, float]:
    """Centre (2), radius at height 0, its growth with height, and the root mean square error, all in mm: each point
    lies from the axis by radius times its own normal, which is linear in what is sought."""
    n = len(place)
    rows = np.zeros((2 * n, 4))
    rows[:n, 0] = rows[n:, 1] = 1.0
    rows[:n, 2], rows[n:, 2] = out[:, 0], out[:, 1]
    rows[:n, 3], rows[n:, 3] = out[:, 0] * height, out[:, 1] * height
    wanted = np.concatenate([place[:, 0], place[:, 1]])
    if np.ptp(height) < 1e-9:
        rows = rows[:, :3]
    found = np.linalg.lstsq(rows, wanted, rcond=None)[0]
    error = float(np.sqrt(np.mean((rows @ found - wanted) ** 2)))
    return found[:2], float(found[2]), float(found[3]) if len(found) > 3 else 0.0, error


def _boxed(points: Array, leading: Array) -> Array:
    """Along the axis that each triangle faces most; pieces that face the same way lie side by side, so that no two
    places of the face are one on the sheet."""
    cross = np.cross(points[:, 1] - points[:, 0], points[:, 2] - points[:, 0])
    facing = np.abs(cross).argmax(axis=1)
    result = np.zeros((len(points), 3, 2))
    for axis in range(3):
        chosen = facing == axis
        result[chosen] = _plane(points[chosen], np.eye(3)[axis], leading)
    away = np.take_along_axis(cross, facing[:, None], axis=1)[:, 0] < 0
    piece = _pieces(points, 2 * facing + away)
    # The largest stays where it is; the others follow in a row.
    low, high = (np.full(piece.max() + 1, value) for value in (np.inf, -np.inf))
    np.minimum.at(low, piece, result[..., 0].min(axis=1))
    np.maximum.at(high, piece, result[..., 0].max(axis=1))
    order = np.argsort(-np.bincount(piece, np.linalg.norm(cross, axis=1)), kind="stable")
    room = (high - low)[order] + GAP
    starts = np.empty(len(order))
    starts[order] = low[order[0]] + np.concatenate([[0.0], np.cumsum(room)[:-1]])
    result[..., 0] += (starts - low)[piece][:, None]
    return result


def _pieces(points: Array, kind: NDArray[np.int64]) -> NDArray[np.int64]:
    """(T,) numbers of the pieces that triangles of one kind make up by touching each other."""
    corner = np.unique(points.reshape(-1, 3), axis=0, return_inverse=True)[1].reshape(-1, 3)
    shared, node = np.unique(corner * (kind.max() + 1) + kind[:, None], return_inverse=True)
    count = len(points)
    pairs = np.repeat(np.arange(count), 3), count + node.ravel()
    graph = scipy.sparse.coo_matrix((np.ones(3 * count, bool), pairs), shape=(count + len(shared),) * 2)
    return np.unique(scipy.sparse.csgraph.connected_components(graph, False)[1][:count], return_inverse=True)[1]
