"""Intake against public files: the assembly as1-oc-214 and cubes in three units, and every kind of bad file."""

import random
from collections import Counter
from pathlib import Path

import numpy as np
import pytest
from demo.pump_parts import panel_print
from demo.solids import box, fillet
from OCP.BRepTools import BRepTools
from OCP.IGESControl import IGESControl_Writer
from OCP.Message import Message_ProgressRange
from OCP.STEPControl import STEPControl_StepModelType, STEPControl_Writer

from public_files import AS1, step_file
from usual_lamp.core.assembly import Mesh
from usual_lamp.core.intake import IntakeError, IntakeResult, Watch, take_in
from usual_lamp.core.intake.shapes import faces_of, meshed, normals_at_poles, tessellate
from usual_lamp.core.intake.step import dangling_references, given_name, length_unit


def mesh_of(result: IntakeResult, key: str) -> Mesh:
    return Mesh.from_bytes(result.blobs[result.assembly.definitions[key].mesh].read_bytes())


def test_as1_structure(as1: IntakeResult) -> None:
    """18 solids, 5 part definitions, 18 leaf occurrences: the file's published structure."""
    assembly = as1.assembly
    parts = list(assembly.parts())
    assert len(parts) == 18
    assert sum(assembly.definition_of(part).solids for part in parts) == 18
    names = Counter(assembly.definition_of(part).name for part in parts)
    assert names == {"nut": 8, "bolt": 6, "l-bracket": 2, "rod": 1, "plate": 1}
    assert len(assembly.definitions) == 5
    assert assembly.source_units == "mm" and assembly.warnings == []
    assert len({node.uid for node in assembly.occurrences}) == len(assembly.occurrences)


def test_as1_colors(as1: IntakeResult) -> None:
    """Colours as the file has them (linear light): red nuts, blue bolts, green brackets."""
    colors = {d.name: d.color for d in as1.assembly.definitions.values()}
    assert colors["nut"] == pytest.approx((1, 0, 0))
    assert colors["bolt"] == pytest.approx((0, 0, 1))
    assert colors["l-bracket"] == pytest.approx((0, 1, 0))


def test_meshes_agree_with_exact_shapes(as1: IntakeResult) -> None:
    """Volume and area of the meshes against the kernel's exact ones; closed, outward, unit normals."""
    for key, definition in as1.assembly.definitions.items():
        mesh = mesh_of(as1, key)
        assert mesh.volume() == pytest.approx(definition.volume, rel=5e-3)
        assert mesh.area() == pytest.approx(definition.area, rel=3e-3)
        assert np.linalg.norm(mesh.normals, axis=1) == pytest.approx(1.0, abs=1e-3)
        assert len(definition.faces) == len(mesh.face_ranges)
        assert mesh.face_ranges[:, 1].sum() == len(mesh.triangles) == definition.triangles


@pytest.mark.parametrize("name", ["s1-tu-203/headback.stp", "s1-c5-214/MAINBODY_BACK.stp", "io1-cm-214.stp"])
def test_triangles_of_every_face_cover_it_once(name: str, tmp_path: Path) -> None:
    """By the exact area of each face of public models that are mostly free surfaces."""
    found = take_in(step_file(f"cax-if/{name}"), tmp_path / "out", quality="fine")
    for key, definition in found.assembly.definitions.items():
        mesh = mesh_of(found, key)
        for place, face in enumerate(definition.faces):
            assert mesh.of_face(place).area() == pytest.approx(face.area, rel=4e-3), (definition.name, place)


def test_walls_of_raised_letters_have_triangles(tmp_path: Path) -> None:
    """The kernel's faster way of meshing leaves some of them bare."""
    shape = panel_print()
    tessellate(shape, 0.05, 0.3)
    assert all(map(meshed, faces_of(shape)))


def test_normals_are_exact(as1: IntakeResult) -> None:
    """On the rod's cylinder, normals point straight away from the axis, whatever the facets do."""
    (key,) = (k for k, d in as1.assembly.definitions.items() if d.name == "rod")
    mesh, faces = mesh_of(as1, key), as1.assembly.definitions[key].faces
    found = 0
    for face, (start, count) in zip(faces, mesh.face_ranges, strict=True):
        if face.kind == "cylinder":
            vertices = np.unique(mesh.triangles[start : start + count])
            axis = int(np.ptp(mesh.positions[vertices], axis=0).argmax())
            across, ways = (np.delete(a[vertices], axis, axis=1) for a in (mesh.positions, mesh.normals))
            # The rod is 10 mm thick: from every point, 5 mm against its normal, lies the same axis.
            assert np.ptp(across - 5 * ways, axis=0) == pytest.approx(0, abs=5e-3)
            found += 1
    assert found == 2


def test_normals_look_outwards_where_coordinates_run_together() -> None:
    """At a ball's pole the kernel's guess may look inwards; the mean of the triangles about it does not."""
    ring = [(np.cos(a), np.sin(a), 0.0) for a in np.linspace(0, 2 * np.pi, 9)[:8]]
    positions = np.array([*ring, (0, 0, 1.0)], np.float32)
    triangles = np.array([(k, (k + 1) % 8, 8) for k in range(8)] + [(0, 0, 8)], np.uint32)
    normals = positions.copy()
    normals[8] = (0, 0, -1)
    mended = normals_at_poles(positions, normals, triangles)
    assert mended[8] == pytest.approx([0, 0, 1], abs=1e-6)
    assert (mended[:8] == normals[:8]).all() and normals[8, 2] == -1


def test_a_rounded_block_has_no_normal_that_looks_inwards(tmp_path: Path) -> None:
    block = fillet(box((-15, -11, 0), (30, 22, 14)), 3)
    BRepTools.Write_s(block, str(tmp_path / "block.brep"), Message_ProgressRange())
    found = take_in(tmp_path / "block.brep", tmp_path / "out")
    (key,) = found.assembly.definitions
    mesh = mesh_of(found, key)
    a, b, c = (mesh.positions[mesh.triangles[:, k]].astype(float) for k in range(3))
    facing = np.cross(b - a, c - a)
    looks = np.einsum("tij,tj->ti", mesh.normals[mesh.triangles], facing)
    assert (looks[np.linalg.norm(facing, axis=1) > 1e-9] > 0).all()


def test_face_signatures_do_not_depend_on_tessellation(as1: IntakeResult, tmp_path: Path) -> None:
    coarse = take_in(step_file("cax-if/as1-oc-214.stp"), tmp_path, quality="coarse").assembly
    assert sum(d.triangles for d in coarse.definitions.values()) < sum(
        d.triangles for d in as1.assembly.definitions.values()
    )
    for key, definition in coarse.definitions.items():
        assert [f.signature for f in definition.faces] == [f.signature for f in as1.assembly.definitions[key].faces]
    assert [n.uid for n in coarse.occurrences] == [n.uid for n in as1.assembly.occurrences]


@pytest.mark.parametrize(("unit", "name"), [("mm", "mm"), ("m", "m"), ("in", "inch")])
def test_units_become_mm(unit: str, name: str, tmp_path: Path) -> None:
    """The same cube of 1 m, written in three units."""
    assembly = take_in(step_file(f"cube-units/cube-{unit}.step"), tmp_path).assembly
    (definition,) = assembly.definitions.values()
    assert assembly.source_units == name
    assert np.ptp(np.array(definition.bounds), axis=0) == pytest.approx(1000.0, rel=1e-6)


@pytest.mark.parametrize(
    ("content", "words"),
    [
        (b"", "empty"),
        (b"just some text\n" * 50, "not a STEP file"),
        (None, "cut off"),
    ],
)
def test_bad_files_say_what_is_wrong(content: bytes | None, words: str, tmp_path: Path) -> None:
    file = tmp_path / "bad.step"
    whole = step_file("cax-if/as1-oc-214.stp").read_bytes()
    file.write_bytes(whole[: len(whole) // 2] if content is None else content)
    with pytest.raises(IntakeError, match=words):
        take_in(file, tmp_path / "out")


@pytest.mark.parametrize("seed", range(4))
def test_mutated_file_is_refused_or_reported(seed: int, tmp_path: Path) -> None:
    """Broken references crash kernels; whatever happens, nothing less than the whole passes as the whole."""
    text = step_file("cax-if/as1-oc-214.stp").read_bytes()
    lines = text.split(b"\n")
    dice = random.Random(seed)
    for index in dice.sample([i for i, line in enumerate(lines) if line.startswith(b"#")], 60):
        lines[index] = b""
    file = tmp_path / "mutated.step"
    file.write_bytes(b"\n".join(lines))
    assert dangling_references(file)
    try:
        result = take_in(file, tmp_path / "out", quality="coarse", watch=Watch(seconds=120))
    except IntakeError as error:
        assert str(error).endswith(".") or str(error).endswith(").")
    else:
        assert any("damaged" in warning for warning in result.assembly.warnings)


def test_hang_and_cancel_end_the_child(tmp_path: Path) -> None:
    with pytest.raises(IntakeError, match="came to nothing within its time"):
        take_in(step_file("cax-if/as1-oc-214.stp"), tmp_path / "a", watch=Watch(seconds=0.05))
    with pytest.raises(IntakeError, match="Stopped"):
        take_in(step_file("cax-if/as1-oc-214.stp"), tmp_path / "b", watch=Watch(cancelled=lambda: True))


def test_unknown_format_names_what_to_bring(tmp_path: Path) -> None:
    (tmp_path / "a.xyz").write_bytes(b"x")
    with pytest.raises(IntakeError, match="Use STEP"):
        take_in(tmp_path / "a.xyz", tmp_path / "out")


@pytest.mark.parametrize("suffix", [".step", ".iges"])
@pytest.mark.parametrize(("unit", "longest"), [("as written", 30.0), ("inch", 762.0), ("cm", 300.0)])
def test_a_file_may_be_drawn_in_another_unit_than_it_says(
    suffix: str, unit: str, longest: float, tmp_path: Path
) -> None:
    """A box of 30 mm whose numbers were meant as inches, or centimetres."""
    source = tmp_path / f"box{suffix}"
    shape = box((0, 0, 0), (30, 20, 10))
    if suffix == ".step":
        writer = STEPControl_Writer()
        writer.Transfer(shape, STEPControl_StepModelType.STEPControl_AsIs)
    else:
        writer = IGESControl_Writer()
        writer.AddShape(shape)
    writer.Write(str(source))
    found = take_in(source, tmp_path / "read", unit=unit).assembly  # type: ignore[arg-type]
    low, high = found.boxes(list(found.parts()))
    assert np.ptp([low.min(axis=0), high.max(axis=0)], axis=0).max() == pytest.approx(longest, rel=1e-4)
    assert found.source_units == ("mm" if unit == "as written" else unit)


def test_what_stands_in_quotes_and_comments_refers_to_nothing(tmp_path: Path) -> None:
    text = step_file(AS1).read_text()
    named = text.replace("'plate'", "'plate #0, it''s #999999'").replace("DATA;", "DATA;\n/* it's #888888 */", 1)
    assert named != text
    file = tmp_path / "named.stp"
    file.write_text(named)
    assert dangling_references(file) == []
    found = take_in(file, tmp_path / "read", quality="coarse").assembly
    assert not [words for words in found.warnings if "damaged" in words]
    assert any("#0" in part.name for part in found.parts())


def test_words_of_the_kernel_are_no_names() -> None:
    assert given_name("SOLID", "Bracket") == "Bracket" and given_name("Compound", "=>[0:1:1:2]") == ""
    assert given_name(UUID, "Board") == "Board"


UUID = "e558ecb4-ec68-11f1-8d8e-02fc00000001"


def test_a_whole_that_nobody_named_is_called_as_its_file(tmp_path: Path) -> None:
    text = step_file(AS1).read_text()
    file = tmp_path / "Bracket.stp"
    file.write_text(text.replace("'as1','as1'", f"'{UUID}','{UUID}'"))
    assert file.read_text() != text
    found = take_in(file, tmp_path / "read", quality="coarse").assembly
    assert [one.name for one in found.occurrences if one.parent is None] == ["Bracket"]


@pytest.mark.parametrize(
    ("written", "unit"),
    [("CONVERSION_BASED_UNIT('INCH',#22)", "inch"), ("CONVERSION_BASED_UNIT ( 'inches', #22)", "inch"),
     ("CONVERSION_BASED_UNIT('MIL',#22)", "mil"), ("CONVERSION_BASED_UNIT('MILLIMETRE',#22)", "mm"),
     ("SI_UNIT(.CENTI.,.METRE.)", "cm"), ("SI_UNIT ( $, .METRE. )", "m"), ("", "mm")],
)  # fmt: skip
def test_the_length_unit_that_a_file_names(tmp_path: Path, written: str, unit: str) -> None:
    file = tmp_path / "unit.stp"
    file.write_text(f"#20=({written} LENGTH_UNIT() NAMED_UNIT(#21));")
    assert length_unit(file) == unit


def test_references_to_nothing_are_found_however_they_are_written(tmp_path: Path) -> None:
    file = tmp_path / "some.stp"
    for text, missing in (
        ("#1=A(#2);#2 = B(#1,#3);\n#3\n=C();", []),
        ("#1=A(#2);", [2]),
        ("#1=A('#7',#12345678901234567890);", [12345678901234567890]),
        ("#1=A(); #", []),
    ):
        file.write_text(text)
        assert dangling_references(file) == missing
