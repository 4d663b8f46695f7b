"""Kinds of parts by shape, and same shapes.

`fasteners.json.xz` holds the facts of shapes made with `bd_warehouse` 0.4 (Apache 2.0), a library of screws, nuts,
washers and bearings after ISO, DIN and ASME tables, and springs, O-rings (ISO 3601 sizes) and plain bodies made with
`build123d` 0.13. The limits in `kinds` were set while looking at twice as many of the same library.
"""

from __future__ import annotations

import json
import lzma
from collections import Counter
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from OCP.BRepBuilderAPI import BRepBuilderAPI_Transform
from OCP.BRepPrimAPI import BRepPrimAPI_MakeBox, BRepPrimAPI_MakeWedge
from OCP.gp import gp_Ax1, gp_Ax2, gp_Dir, gp_Pnt, gp_Trsf, gp_Vec
from OCP.STEPControl import STEPControl_StepModelType, STEPControl_Writer
from scipy.spatial.transform import Rotation

from usual_lamp.core.assembly import Face, PartDefinition
from usual_lamp.core.assembly.kinds import kind_by_shape
from usual_lamp.core.assembly.outline import outermost, unpacked
from usual_lamp.core.assembly.same_shapes import same_shapes
from usual_lamp.core.intake import take_in

FILE = Path(__file__).resolve().parent.parent / "data/fasteners.json.xz"


def definition(facts: dict[str, Any]) -> PartDefinition:
    faces = [Face(kind=kind, signature="", area=area, center=at) for kind, area, *at in facts["faces"]]
    own = {key: facts[key] for key in ("name", "solids", "volume", "area", "bounds", "outline")}
    return PartDefinition(key="d", mesh="m", shape="s", triangles=1, faces=faces, **own)


def test_fasteners_springs_and_rings_are_told_by_their_shape() -> None:
    whole, right = Counter[str](), Counter[str]()
    false = []
    for facts in json.loads(lzma.decompress(FILE.read_bytes())):
        guess = kind_by_shape(definition(facts))
        found, kind = guess.kind if guess else None, facts["kind"]
        whole[str(kind)] += 1
        right[str(kind)] += found == kind
        if found not in (None, kind):
            false.append(facts["name"])
    kinds = ("screw", "nut", "washer", "spring", "O-ring")
    assert sum(whole[kind] for kind in kinds) > 50
    assert sum(right[kind] for kind in kinds) >= 0.8 * sum(whole[kind] for kind in kinds), (right, whole)
    assert right["screw"] > 0.9 * whole["screw"]
    assert len(false) <= 0.05 * sum(whole.values()), false


def hexagon(shank: float, bore: float) -> PartDefinition:
    """A head of 10 mm across flats, 5 high, on a shank 20 long, with a bore right through."""
    turns = np.arange(6) * np.pi / 3
    ring = np.stack([np.cos(turns), np.sin(turns)], axis=1)
    side = 10 / np.sqrt(3)
    flats = [("plane", side * 5, *(5 * place), 2.5) for place in ring]
    corners = np.stack([np.cos(turns + np.pi / 6), np.sin(turns + np.pi / 6)], axis=1) * side
    around = np.linspace(0, 2 * np.pi, 32, endpoint=False)
    tube = np.stack([np.cos(around), np.sin(around)], axis=1) * shank / 2
    hull = [np.c_[corners, np.full(6, z)] for z in (0.0, 5.0)] + [np.c_[tube, np.full(32, 25.0)]]
    area, length = np.sqrt(3) / 2 * 100, 25.0
    volume = area * 5 + np.pi / 4 * shank**2 * 20 - np.pi / 4 * bore**2 * length
    round_ = [("cylinder", np.pi * shank * 20, 0, 0, 15), ("plane", np.pi / 4 * (shank**2 - bore**2), 0, 0, 25)]
    inside = [("cylinder", np.pi * bore * length, 0, 0, 12.5)] if bore else []
    ends = [("plane", area - np.pi / 4 * bore**2, 0, 0, 0), ("plane", area - np.pi / 4 * shank**2, 0, 0, 5)]
    return definition(
        {
            "name": "Hexagon", "solids": 1, "volume": volume,
            "area": sum(one[1] for one in flats + round_ + inside + ends),
            "bounds": [[-side, -5, 0], [side, 5, 25]], "outline": outermost(np.concatenate(hull)),
            "faces": flats + round_ + inside + ends,
        }
    )  # fmt: skip


@pytest.mark.parametrize(("shank", "bore", "kind"), [(6.0, 0.0, "screw"), (6.0, 1.0, "screw"), (6.0, 4.5, None)])
def test_a_nipple_with_a_hexagon_is_no_screw(shank: float, bore: float, kind: str | None) -> None:
    guess = kind_by_shape(hexagon(shank, bore))
    assert (guess.kind if guess else None) == kind


def test_a_kind_does_not_depend_on_how_the_part_lies() -> None:
    turn = Rotation.random(random_state=11).as_matrix()
    for facts in json.loads(lzma.decompress(FILE.read_bytes()))[::5]:
        made = definition(facts)
        faces = [face.model_copy(update={"center": tuple(turn @ face.center)}) for face in made.faces]
        moved_ = made.model_copy(update={"faces": faces, "outline": outermost(unpacked(made.outline) @ turn.T)})
        before, after = kind_by_shape(made), kind_by_shape(moved_)
        assert (before and before.kind) == (after and after.kind), facts["name"]


def test_open_broken_and_several_bodies_are_nothing() -> None:
    made = hexagon(6.0, 0.0)
    for change in ({"volume": 0.0}, {"area": 0.0}, {"faces": []}, {"solids": 2}):
        assert kind_by_shape(made.model_copy(update=change)) is None
    assert kind_by_shape(made.model_copy(update={"outline": ""})) in (None, kind_by_shape(made))


def test_plain_bodies_are_no_fasteners(tmp_path: Path) -> None:
    for sides in ((10, 20, 5), (50, 50, 2), (3, 3, 80)):
        found = written(tmp_path, [BRepPrimAPI_MakeBox(*map(float, sides)).Shape()])
        assert [kind_by_shape(one) for one in found.definitions.values()] == [None]


def written(folder: Path, shapes: list[Any], quality: Any = "coarse"):  # type: ignore[no-untyped-def]
    """An assembly from a STEP file in which each shape is a product of its own."""
    writer = STEPControl_Writer()
    for shape in shapes:
        writer.Transfer(shape, STEPControl_StepModelType.STEPControl_AsIs)
    path = folder / "shapes.step"
    assert writer.Write(str(path))
    return take_in(path, folder, quality=quality).assembly


def moved(shape: Any, mirrored: bool = False) -> Any:
    turn, shift = gp_Trsf(), gp_Trsf()
    turn.SetRotation(gp_Ax1(gp_Pnt(1, 2, 3), gp_Dir(0.3, -0.5, 0.8)), 1.234)
    shift.SetTranslation(gp_Vec(70.0, -20.0, 11.0))
    found = BRepBuilderAPI_Transform(shape, shift * turn, True).Shape()
    if not mirrored:
        return found
    mirror = gp_Trsf()
    mirror.SetMirror(gp_Ax2(gp_Pnt(0, 0, 0), gp_Dir(1, 0.2, 0)))
    return BRepBuilderAPI_Transform(found, mirror, True).Shape()


@pytest.mark.parametrize("mirrored", [False, True])
def test_a_part_that_was_copied_moved_and_mirrored_is_one_shape(tmp_path: Path, mirrored: bool) -> None:
    wedge = BRepPrimAPI_MakeWedge(20.0, 10.0, 8.0, 3.0, 1.0, 9.0, 6.0).Shape()
    other = BRepPrimAPI_MakeWedge(20.0, 10.0, 8.0, 3.0, 1.0, 9.0, 6.2).Shape()
    found = written(tmp_path, [wedge, moved(wedge, mirrored), other])
    stands = same_shapes(found)
    assert sorted(Counter(stands.values()).values()) == [1, 2]
    assert len(found.definitions) == 3
