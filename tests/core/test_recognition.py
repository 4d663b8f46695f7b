"""Faces written as splines are told by their shape, and what a mesh rules out is never one of them."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest
from OCP.BRepBuilderAPI import BRepBuilderAPI_NurbsConvert
from OCP.BRepPrimAPI import (
    BRepPrimAPI_MakeCone,
    BRepPrimAPI_MakeCylinder,
    BRepPrimAPI_MakeSphere,
    BRepPrimAPI_MakeTorus,
)
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
