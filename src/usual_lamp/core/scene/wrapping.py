"""How decals are wrapped round cylinders and cones, in true arc length, and which faces are such.

A cone laid flat is a fan: a point at the distance s from the apex, along the slope, and turned by φ about the axis,
lies at the same distance from the fan's tip, turned by φ sin α, with α the cone's half angle. A cylinder is the limit
at α = 0, and the same formulas serve for both.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from usual_lamp.core.assembly import Mesh
from usual_lamp.core.assembly.circles import circle_through
from usual_lamp.core.scene.decal import Wrap
from usual_lamp.core.scene.picture_on_part import Wrapped

Array = NDArray[np.float64]
OUT_OF_ROUND = 0.02
"""Of the radius, that corners of a round face may lie off its cylinder or cone."""
STEEPEST = 80.0
"""Degrees: a cone that is flatter is taken for flat, and its decals lie flat on it."""


@dataclass(frozen=True)
class Round:
    """The cylinder or cone that a face is a part of, mm, in the part's frame."""

    point: Array
    """On the axis."""
    axis: Array
    """Unit vector; a cone widens along it."""
    radius: float
    """At the point."""
    outward: bool
    """Whether the face is the outside of it."""
    taper: float = 0.0
    """Radians, the half angle of a cone."""


def round_face(mesh: Mesh, face: int) -> Round | None:
    """The cylinder or cone that a face lies on, by its corners and normals; None for any other face."""
    first, count = (int(v) for v in mesh.face_ranges[face])
    used = np.unique(mesh.triangles[first : first + count])
    points, normals = mesh.positions[used].astype(np.float64), mesh.normals[used].astype(np.float64)
    if len(used) < 6:
        return None
    return _cylinder(points, normals) or _cone(points, normals)


def _cylinder(points: Array, normals: Array) -> Round | None:
    """The cylinder through points with these normals, (N, 3)."""
    # On a cylinder no normal has a share along the axis; on a plane they do not spread at all.
    spread, ways = np.linalg.eigh(normals.T @ normals / len(normals))
    if spread[0] > 1e-4 or spread[1] < 0.01:
        return None
    axis, across = ways[:, 0], ways[:, 1:]
    flat = points @ across
    middle, radius, off = circle_through(flat)
    if radius < 1e-3 or off > OUT_OF_ROUND * radius:
        return None
    outward = float(((normals @ across) * (flat - middle)).sum()) > 0
    return Round(across @ middle, axis, radius, outward)


def _cone(points: Array, normals: Array) -> Round | None:
    """The cone through points with these normals, (N, 3): all planes that touch it meet in its apex, and all normals
    stand alike to its axis."""
    spread, ways = np.linalg.eigh(np.cov(normals.T))
    if spread[0] > 0.01 * spread[1] or spread[1] < 1e-4:
        return None
    axis = ways[:, 0]
    apex = np.linalg.lstsq(normals, np.einsum("ij,ij->i", normals, points), rcond=None)[0]
    arms = points - apex
    axis = axis * np.sign(arms.mean(axis=0) @ axis or 1.0)
    heights = arms @ axis
    radii = np.linalg.norm(arms - np.outer(heights, axis), axis=1)
    if heights.min() < -1e-3 * np.ptp(heights):
        return None
    taper = float(np.arctan2(radii.sum(), heights.sum()))
    off = float(np.abs(radii * np.cos(taper) - heights * np.sin(taper)).max())
    radius = float(np.median(radii))
    if radius < 1e-3 or off > OUT_OF_ROUND * radius or not 1e-3 < taper < np.radians(STEEPEST):
        return None
    # The outside of what widens along the axis looks back along it.
    outward = float(normals.mean(axis=0) @ axis) < 0
    return Round(apex + axis * (radius / np.tan(taper)), axis, radius, outward, taper)


def turned_to(around: Round, center: Array, out: Array, up: Array, right: Array) -> tuple[Array, Array, Array, Wrap]:
    """Center, right and up of a decal on a cylinder or a cone, its height or its width along the slope, as is nearer;
    and how it is wrapped."""
    along: Wrapped = "up" if abs(up @ around.axis) >= abs(right @ around.axis) else "right"
    forward = 1.0 if (up if along == "up" else right) @ around.axis >= 0 else -1.0
    sine, cosine = np.sin(around.taper), np.cos(around.taper)
    arm = center - around.point
    height = float(arm @ around.axis)
    radial = arm - around.axis * height
    radial /= np.linalg.norm(radial)
    # Onto the surface, at the height at which it lies.
    radius = around.radius + height * np.tan(around.taper)
    center = around.point + around.axis * height + radial * radius
    slope = forward * (around.axis * cosine + radial * sine)
    out = (radial * cosine - around.axis * sine) * (1.0 if around.outward else -1.0)
    up = slope if along == "up" else np.cross(out, slope)
    wrap = Wrap(
        radius=round(radius if around.outward else -radius, 4),
        along=along,
        taper=round(float(np.degrees(forward * around.taper)), 4),
    )
    return center, np.cross(up, out), up, wrap


def slope_of(axes: Array, wrap: Wrap) -> Array:
    """The direction of a wrapped decal that lies along the axis or the slope; `axes` are its right, up and out."""
    return np.asarray(axes[1 if wrap.along == "up" else 0])


def axis_of(center: Array, axes: Array, wrap: Wrap) -> tuple[Array, Array]:
    """The axis that a decal is wrapped round: its point beside the decal's middle (mm), and its direction."""
    slope, sign, taper = slope_of(axes, wrap), np.sign(wrap.radius), np.radians(wrap.taper)
    radial = slope * np.sin(taper) + axes[2] * (sign * np.cos(taper))
    return center - abs(wrap.radius) * radial, slope * np.cos(taper) - axes[2] * (sign * np.sin(taper))


def unrolled(points: Array, center: Array, axes: Array, wrap: Wrap) -> Array:
    """Points (N, 3) of a cylinder or a cone, mm, laid flat into the decal's plane by arc length; `axes` are the decal's
    right, up and out before it is turned, (3, 3)."""
    out, slope = axes[2], slope_of(axes, wrap)
    side = axes[0 if wrap.along == "up" else 1]
    sign, radius, taper = np.sign(wrap.radius), abs(wrap.radius), np.radians(wrap.taper)
    sine, cosine = np.sin(taper), np.cos(taper)
    moved = np.atleast_2d(points) - center
    across, along, away = moved @ side, moved @ slope, moved @ out
    # In the decal's meridian plane: outwards from the axis, and along the axis.
    outward = along * sine + sign * away * cosine
    height = along * cosine - sign * away * sine
    angle = np.arctan2(across, radius + outward)
    further = np.hypot(across, radius + outward) - radius
    gone = height * cosine + further * sine
    off = sign * (further * cosine - height * sine)
    fan = angle * sine
    half = np.sinc(fan / 2 / np.pi)
    x = radius * angle * np.sinc(fan / np.pi) + gone * np.sin(fan)
    y = gone * np.cos(fan) - radius * angle * np.sin(fan / 2) * half
    return np.asarray(center + np.outer(x, side) + np.outer(y, slope) + np.outer(off, out))
