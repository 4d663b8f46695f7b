"""What a face that is written as a spline is by its shape: many programs write every cylinder so.

The kernel's recognition is exact and slow (some 3 ms for each kind of surface that a free face is held against), so a
look at the face's mesh rules out first what it cannot be. What is pulled along a straight line, as the walls of raised
letters are, is known by the curve that is pulled.
"""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray
from OCP.BRepAdaptor import BRepAdaptor_Surface
from OCP.GeomAbs import GeomAbs_SurfaceType
from OCP.gp import gp_Cone, gp_Cylinder, gp_Pln, gp_Sphere
from OCP.ShapeAnalysis import ShapeAnalysis_CanonicalRecognition

from usual_lamp.core.assembly import Mesh

RECOGNISED = 1e-3
"""mm that a spline may stray from the plain surface it stands for."""
ON_CURVE = 48
"""Points at which a curve is held against a line or a circle."""
LOOSE = 0.01
"""Radians by which a mesh's normals may be off those of a plain surface, beside what straying points bring."""


def recognised(surface: BRepAdaptor_Surface, mesh: Mesh) -> str:
    """The kind of a face's surface, "free" if it is no plain one; `mesh` is the face's own."""
    if surface.GetType() == GeomAbs_SurfaceType.GeomAbs_SurfaceOfExtrusion:
        return _extruded(surface)
    asked = ShapeAnalysis_CanonicalRecognition(surface.Face())
    held_against: dict[str, Callable[[], bool]] = {
        "plane": lambda: asked.IsPlane(RECOGNISED, gp_Pln()),
        "cylinder": lambda: asked.IsCylinder(RECOGNISED, gp_Cylinder()),
        "cone": lambda: asked.IsCone(RECOGNISED, gp_Cone()),
        "sphere": lambda: asked.IsSphere(RECOGNISED, gp_Sphere()),
    }
    possible = may_be(mesh)
    return next((kind for kind, holds in held_against.items() if kind in possible and holds()), "free")


def _extruded(surface: BRepAdaptor_Surface) -> str:
    """A surface of extrusion's kind: the line or circle that its curve strays from by no more than RECOGNISED."""
    u = np.linspace(surface.FirstUParameter(), surface.LastUParameter(), ON_CURVE)
    found = [surface.Value(at, surface.FirstVParameter()) for at in u]
    direction = surface.Direction()
    along = np.array([[direction.X(), direction.Y(), direction.Z()]])
    points = np.array([(point.X(), point.Y(), point.Z()) for point in found]) @ np.linalg.svd(along)[2][1:].T
    points -= points.mean(axis=0)
    size = float(np.abs(points).max())
    if not np.isfinite(size) or size == 0.0:
        return "free"
    points /= size
    if np.abs(points @ np.linalg.eigh(points.T @ points)[1][:, 0]).max() <= RECOGNISED / size:
        return "plane"
    away = np.linalg.norm(points - _round(points)[0], axis=1)
    return "cylinder" if np.ptp(away) <= 2 * RECOGNISED / size else "free"


def may_be(mesh: Mesh) -> set[str]:
    """The plain surfaces that a face with this mesh may be; all of them where the mesh tells nothing.

    Points of a plane have no height, those of a sphere one distance from its middle, as those of a cylinder when one
    looks along its axis. Normals of a cone have one part along its axis, which is none on a cylinder, and all planes
    that touch it meet at its tip. Some normals may be off, since at tips and poles the kernel guesses.
    """
    sound = np.isfinite(mesh.positions).all() and np.isfinite(mesh.normals).all()
    if len(mesh.triangles) == 0 or not sound:
        return {"plane", "cylinder", "cone", "sphere"}
    points, normals = mesh.positions.astype(np.float64), mesh.normals.astype(np.float64)
    points -= points.mean(axis=0)
    size = max(float((points * points).sum(axis=1).mean()) ** 0.5, 1e-9)
    points /= size
    stray = RECOGNISED / size
    slack = LOOSE + 3 * stray
    found = set()
    if np.linalg.eigvalsh(points.T @ points / len(points))[0] <= (1.1 * stray) ** 2:
        found.add("plane")
    middle, off = _round(points)
    if off <= 1.1 * stray and _agree(points - middle, normals):
        found.add("sphere")
    _, usual = _across(normals - normals.mean(axis=0), slack)
    own, heights = normals[usual], (points * normals).sum(axis=1)[usual]
    if _across(own - own.mean(axis=0), slack)[0] is not None and _meet(own, heights) <= slack:
        found.add("cone")
    axes, _ = _across(normals, slack)
    if axes is not None:
        along, across = points @ axes[:, 0], points @ axes[:, 1:]
        if _round(across)[1] <= 1.1 * stray + LOOSE / 5 * float(np.ptp(along)):
            found.add("cylinder")
    return found


def _round(points: NDArray[np.float64]) -> tuple[NDArray[np.float64], float]:
    """The middle of the sphere or circle that fits points about the origin best (equations in squares), and how far
    they lie off it, root mean square."""
    known = np.c_[2 * points, np.ones(len(points))]
    middle = np.linalg.lstsq(known, (points * points).sum(axis=1), rcond=None)[0][:-1]
    return middle, float(np.std(np.linalg.norm(points - middle, axis=1)))


def _agree(ways: NDArray[np.float64], normals: NDArray[np.float64]) -> bool:
    """Whether most normals lie along these ways or against them."""
    length = np.maximum(np.linalg.norm(ways, axis=1), 1e-300)
    return bool(np.median(np.abs((ways * normals).sum(axis=1)) / length) >= 1 - LOOSE)


def _across(ways: NDArray[np.float64], slack: float) -> tuple[NDArray[np.float64] | None, NDArray[np.bool_]]:
    """The axis that directions lie across, beside two across that, as columns; None where they are off by more than the
    slack, root mean square. And which of them count: those that are off far more than most do not."""
    _, axes = np.linalg.eigh(ways.T @ ways)
    off = np.abs(ways @ axes[:, 0])
    usual = off <= max(slack, 4 * float(np.median(off)))
    squares, axes = np.linalg.eigh(ways[usual].T @ ways[usual] / usual.sum())
    return axes if squares[0] <= slack**2 else None, usual


def _meet(normals: NDArray[np.float64], heights: NDArray[np.float64]) -> float:
    """How far planes, given by normals and heights above the origin, pass from the point that is nearest to all, root
    mean square."""
    point = np.linalg.lstsq(normals, heights, rcond=None)[0]
    return float(np.mean((normals @ point - heights) ** 2) ** 0.5)
