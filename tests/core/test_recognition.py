"""Faces written as splines are told by their shape, and what a mesh rules out is never one of them."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest
from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeEdge, BRepBuilderAPI_NurbsConvert
from OCP.BRepPrimAPI import (
    BRepPrimAPI_MakeCone,
    BRepPrimAPI_MakeCylinder,
    BRepPrimAPI_MakePrism,
    BRepPrimAPI_MakeSphere,
    BRepPrimAPI_MakeTorus,
)
from OCP.collections import Array1_gp_Pnt as Points
from OCP.GeomAPI import GeomAPI_PointsToBSpline
from OCP.gp import gp_Pnt, gp_Vec
from OCP.TopoDS import TopoDS_Shape

from usual_lamp.core.intake.recognition import may_be
from usual_lamp.core.intake.shapes import describe_faces, export_arrays, tessellate

SOLIDS = {
    "cylinder": (BRepPrimAPI_MakeCylinder, 4.0, 9.0),
    "cone": (BRepPrimAPI_MakeCone, 5.0, 0.0, 8.0),
    "sphere": (BRepPrimAPI_MakeSphere, 6.0),
    "free": (BRepPrimAPI_MakeTorus, 6.0, 2.0),
}


def splined(kind: str, share: float) -> TopoDS_Shape:
    """The solid's size by a share, all of its faces as splines."""
    make, *sizes = SOLIDS[kind]
    return BRepBuilderAPI_NurbsConvert(make(*(size * share for size in sizes)).Shape(), True).Shape()


@pytest.mark.parametrize("share", [0.05, 1.0, 30.0])
@pytest.mark.parametrize("angle", [0.6, 0.1])
@pytest.mark.parametrize("kind", SOLIDS)
def test_a_spline_is_called_what_it_is(kind: str, angle: float, share: float, tmp_path: Path) -> None:
    shape = splined(kind, share)
    tessellate(shape, 0.1 * share, angle)
    mesh = export_arrays({"one": shape}, tmp_path, lambda _: None)["one"]
    faces = describe_faces(shape, mesh, {})
    assert faces[0].kind == kind
    assert {face.kind for face in faces} <= {kind, "plane"}, "ends are flat"
    if kind == "free":
        assert may_be(mesh.of_face(0)) == set(), "nothing is asked of the kernel"


@pytest.mark.parametrize("field", ["positions", "normals"])
def test_a_mesh_that_tells_nothing_rules_nothing_out(field: str, tmp_path: Path) -> None:
    """Where the kernel gives no number, the file is read all the same."""
    shape = splined("cylinder", 1.0)
    tessellate(shape, 0.1, 0.6)
    mesh = export_arrays({"one": shape}, tmp_path, lambda _: None)["one"]
    spoilt = getattr(mesh, field).copy()
    spoilt[0] = np.nan
    assert may_be(replace(mesh, **{field: spoilt}).of_face(0)) == {"plane", "cylinder", "cone", "sphere"}
    assert describe_faces(shape, replace(mesh, **{field: spoilt}), {})[0].kind == "cylinder"


def test_one_face_of_a_mesh_is_that_face(tmp_path: Path) -> None:
    shape = splined("cylinder", 1.0)
    tessellate(shape, 0.1, 0.6)
    mesh = export_arrays({"one": shape}, tmp_path, lambda _: None)["one"]
    faces = [mesh.of_face(place) for place in range(len(mesh.face_ranges))]
    assert sum(len(face.positions) for face in faces) == len(mesh.positions)
    assert sum(face.area() for face in faces) == pytest.approx(mesh.area(), rel=1e-6)


def pulled(bow: float, radius: float) -> TopoDS_Shape:
    """A wall pulled 2 mm along a slanted line from a spline through a quarter of a circle, which bows out by as much
    more; without a radius it is a line that bows out."""
    angles = np.linspace(0.0, np.pi / 2, 33)
    out = radius + bow * np.sin(2 * angles) ** 2
    curve = (angles, out) if radius == 0 else (out * np.cos(angles), out * np.sin(angles))
    points = Points(1, len(angles))
    for place, (x, y) in enumerate(zip(*curve, strict=True), 1):
        points.SetValue(place, gp_Pnt(0.6 * x, y, 0.8 * x))
    edge = BRepBuilderAPI_MakeEdge(GeomAPI_PointsToBSpline(points).Curve()).Edge()
    return BRepPrimAPI_MakePrism(edge, gp_Vec(-1.6, 0.0, 1.2)).Shape()


@pytest.mark.parametrize(
    ("bow", "radius", "kind"),
    [(0.0, 3.0, "cylinder"), (0.0015, 3.0, "cylinder"), (0.02, 3.0, "free"), (0.0, 0.0, "plane"),
     (0.0005, 0.0, "plane"), (0.1, 0.0, "free")],
)  # fmt: skip
def test_what_is_pulled_along_a_line_is_known_by_it(bow: float, radius: float, kind: str, tmp_path: Path) -> None:
    """A curve may stray by a thousandth of a millimetre to each side of the circle or line that it stands for."""
    shape = pulled(bow, radius)
    tessellate(shape, 0.05, 0.3)
    mesh = export_arrays({"one": shape}, tmp_path, lambda _: None)["one"]
    assert [face.kind for face in describe_faces(shape, mesh, {})] == [kind]
