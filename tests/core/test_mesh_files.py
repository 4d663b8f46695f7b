"""Mesh files of every format, written by trimesh as by a stranger; IGES and BREP files of others; and damaged ones."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest
import trimesh
from trimesh.exchange import dae, gltf

from public_files import step_file
from usual_lamp.core.assembly import Assembly, Mesh
from usual_lamp.core.intake import exact_files, mesh_files, take_in
from usual_lamp.core.intake.formats import EXACT, UnreadableFile, doubt_of_unit
from usual_lamp.core.intake.mesh_files import smooth_faces

PIN = trimesh.creation.cylinder(4, 30, sections=48)
BLOCK = trimesh.creation.box((20, 10, 5))
BLUE = trimesh.visual.material.PBRMaterial(name="blue", baseColorFactor=[0.1, 0.2, 0.8, 1.0])


def scene() -> trimesh.Scene:
    """A blue block under two pins of the same shape."""
    made = trimesh.Scene()
    block = BLOCK.copy()
    block.visual = trimesh.visual.TextureVisuals(material=BLUE)
    made.add_geometry(block, geom_name="block", node_name="Block")
    for name, y in (("Pin", 0.0), ("Pin 2", 20.0)):
        at = trimesh.transformations.translation_matrix([0, y, 17.5])
        made.add_geometry(PIN, geom_name="pin", node_name=name, transform=at)
    return made


def written(folder: Path, suffix: str) -> Path:
    file = folder / f"pins.{suffix}"
    if suffix in ("stl", "ply", "off"):
        scene().to_mesh().export(file)
    elif suffix == "dae":
        file.write_bytes(dae.export_collada(list(scene().dump())))
    else:
        scene().export(file)
    return file


def taken(file: Path, folder: Path, name: str = "Pins", unit: str = "as written", up: str = "as written") -> Assembly:
    """Read in this process: starting a child for each file would take the most time."""
    folder.mkdir()
    found = mesh_files.read(file, folder, name, unit, up, lambda share, stage: None)
    return Assembly(
        name=name, chord=0.0, angle=0.0, definitions=found.definitions, occurrences=found.occurrences,
        warnings=found.warnings,
    )  # fmt: skip


def extent(assembly: Assembly) -> np.ndarray:
    points = np.concatenate([assembly.corners(part) for part in assembly.parts()])
    return np.ptp(points, axis=0)


@pytest.mark.parametrize("suffix", ["stl", "ply", "off", "obj", "glb", "3mf", "dae"])
def test_every_format_keeps_size_and_triangles(suffix: str, tmp_path: Path) -> None:
    result = taken(written(tmp_path, suffix), tmp_path / "out", name="Pins", unit="mm", up="z")
    assert extent(result) == pytest.approx([20, 29, 35], abs=0.02)
    parts = list(result.parts())
    assert sum(result.definition_of(part).triangles for part in parts) == 12 + 2 * 192
    if suffix in ("glb", "3mf"):
        assert sorted(part.name for part in parts) == ["Block", "Pin", "Pin 2"]
        assert len(result.definitions) == 2, "equal pins are one definition"
        pin = next(d for d in result.definitions.values() if d.triangles == 192)
        assert pin.volume == pytest.approx(PIN.volume, rel=1e-4) and pin.solids == 1
    if suffix == "glb":
        block = next(d for d in result.definitions.values() if d.triangles == 12)
        assert block.color == pytest.approx((0.1, 0.2, 0.8), abs=0.01)


def test_gltf_is_in_metres_with_y_upwards(tmp_path: Path) -> None:
    """glTF 2.0 specification, section 3.4: metres, +y up, +z forward."""
    file = tmp_path / "rod.glb"
    trimesh.creation.box((0.1, 0.3, 0.2)).export(file)
    assert extent(taken(file, tmp_path / "out")) == pytest.approx([100, 200, 300], rel=1e-5)


def test_compressed_gltf_is_not_taken_for_zeros(tmp_path: Path) -> None:
    file = tmp_path / "draco.glb"
    file.write_bytes(gltf.export_glb(scene(), extension_draco=True))
    assert b"KHR_draco_mesh_compression" in file.read_bytes()
    assert extent(taken(file, tmp_path / "out", unit="mm", up="z")) == pytest.approx([20, 29, 35], abs=0.1)


def test_units_and_names_of_files_without_any(tmp_path: Path) -> None:
    file = tmp_path / "source.stl"
    BLOCK.export(file)
    plain = taken(file, tmp_path / "a", name="Bracket")
    assert extent(plain) == pytest.approx([20, 10, 5]) and "names no unit" in plain.warnings[0]
    assert [part.name for part in plain.parts()] == ["Bracket"]
    inches = taken(file, tmp_path / "b", unit="inch", up="y")
    assert extent(inches) == pytest.approx([508, 127, 254]) and inches.warnings == []


def test_inside_out_is_turned_and_rubbish_left_out(tmp_path: Path) -> None:
    wrong = BLOCK.copy()
    wrong.invert()
    flat = np.array([[0, 0, 0], [1, 0, 0], [2, 0, 0]], float)
    joined = trimesh.util.concatenate([wrong, trimesh.Trimesh(flat, [[0, 1, 2]], process=False)])
    file = tmp_path / "wrong.ply"
    joined.export(file)
    result = taken(file, tmp_path / "out", unit="mm")
    (definition,) = result.definitions.values()
    assert definition.volume == pytest.approx(1000.0) and definition.triangles == 12
    assert any("inside out" in words for words in result.warnings)
    assert any("1 triangles without area" in words for words in result.warnings)


def test_a_cylinder_is_three_faces_with_a_sharp_rim(tmp_path: Path) -> None:
    mesh = smooth_faces(PIN.vertices, PIN.faces.astype(np.int64))
    assert len(mesh.face_ranges) == 3 and mesh.volume() == pytest.approx(PIN.volume, rel=1e-5)
    for first, count in mesh.face_ranges:
        used = np.unique(mesh.triangles[first : first + count])
        normals, points = mesh.normals[used], mesh.positions[used]
        if np.ptp(points[:, 2]) > 1:
            away = points[:, :2] / np.linalg.norm(points[:, :2], axis=1, keepdims=True)
            assert np.einsum("ij,ij->i", normals[:, :2], away).min() > 0.999, "smooth round the side"
        else:
            assert np.abs(normals[:, 2]).min() > 0.9999, "flat at the ends"
    lengths = np.linalg.norm(mesh.edges[:, 0] - mesh.edges[:, 1], axis=1)
    assert lengths.sum() == pytest.approx(2 * np.pi * 4 * 2, rel=0.01), "the two rims are drawn, nothing else"


def test_a_smooth_closed_body_has_no_edges() -> None:
    ball = trimesh.creation.icosphere(3, 10)
    mesh = smooth_faces(ball.vertices, ball.faces.astype(np.int64))
    assert len(mesh.face_ranges) == 1 and len(mesh.edges) == 0


def test_iges_and_brep_of_others(tmp_path: Path) -> None:
    """A cube of 10 mm and the Forum's assembly, as published."""
    cube = take_in(step_file("cube-10x10mm/Cube 10x10.igs"), tmp_path / "cube")
    assert sum(d.volume for d in cube.assembly.definitions.values()) == pytest.approx(1000.0)
    as1 = take_in(step_file("cax-if-brep/as1_pe_203.brep"), tmp_path / "as1")
    assert len(list(as1.assembly.parts())) == 18 and len(as1.assembly.definitions) == 5
    tenth = take_in(step_file("cax-if-brep/as1_pe_203.brep"), tmp_path / "cm", unit="cm")
    assert extent(tenth.assembly) == pytest.approx(extent(as1.assembly) * 10, rel=1e-3)


BROKEN = {
    "empty.stl": (b"", "empty"),
    "words.stl": (b"solid nothing\nendsolid nothing\n", "mesh|could not be read|triangle"),
    "garbage.glb": (b"glTF\x02\x00\x00\x00 not really", "could not be read"),
    "cut.3mf": (b"PK\x03\x04 cut off", "could not be read"),
    "alone.gltf": (b'{"asset":{"version":"2.0"},"buffers":[{"uri":"gone.bin","byteLength":4}]}', "read|mesh"),
    "nan.obj": (b"v 0 0 0\nv nan 0 0\nv 0 1 0\nf 1 2 3\n", "no numbers|could not be read"),
    "words.igs": (b"This is a letter, not a drawing.\n" * 4, "not an IGES file"),
    "words.brep": (b"This is a letter, not a shape.\n", "could not be read"),
}


@pytest.mark.parametrize("name", BROKEN)
def test_what_is_damaged_is_said(name: str, tmp_path: Path) -> None:
    data, words = BROKEN[name]
    (tmp_path / name).write_bytes(data)
    with pytest.raises(UnreadableFile, match=words):
        if Path(name).suffix in EXACT:
            exact_files.read(tmp_path / name, "as written", lambda **_: None)
        else:
            taken(tmp_path / name, tmp_path / "out")


def test_blocks_are_whole(tmp_path: Path) -> None:
    result = take_in(written(tmp_path, "glb"), tmp_path / "out")
    for definition in result.assembly.definitions.values():
        mesh = Mesh.from_bytes(result.blobs[definition.mesh].read_bytes())
        assert definition.shape is None and len(mesh.face_ranges) == len(definition.faces)
        assert np.linalg.norm(mesh.normals, axis=1) == pytest.approx(1.0, abs=1e-4)


@pytest.mark.parametrize(
    ("size", "words"),
    [((743_031.0, 268_000.0, 3.0), "743 m long"), ((0.4, 0.2, 0.1), "0.4\u202fmm long"), ((200.0, 3.0, 9.0), None)],
)
def test_a_size_that_nobody_builds_is_doubted(size, words) -> None:
    doubt = doubt_of_unit(size)
    assert doubt is None if words is None else words in doubt
