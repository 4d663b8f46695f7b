"""Files that others made: Debian's `assimp-testmodels` and `occt-misc`, with what their own bytes say of them."""

from __future__ import annotations

import re
import struct
from pathlib import Path

import numpy as np
import pytest

from usual_lamp.core.assembly import Assembly
from usual_lamp.core.intake import IntakeError, take_in

MODELS = Path("/usr/share/assimp/models")
IGES = Path("/usr/share/opencascade/data/iges")


def taken(path: Path, tmp_path: Path) -> Assembly:
    assert path.exists(), f"{path} is missing: ./lamp test installs it"
    return take_in(path, tmp_path, quality="coarse").assembly


def triangles(assembly: Assembly) -> int:
    return sum(assembly.definition_of(part).triangles for part in assembly.parts())


def size(assembly: Assembly) -> list[float]:
    return np.ptp(np.concatenate([assembly.corners(part) for part in assembly.parts()]), axis=0).round(1).tolist()


def test_stl_holds_as_many_triangles_as_its_header_says(tmp_path: Path) -> None:
    file = MODELS / "STL/Spider_binary.stl"
    (told,) = struct.unpack_from("<I", file.read_bytes(), 80)
    found = taken(file, tmp_path)
    dropped = sum(int(n) for w in found.warnings for n in re.findall(r"(\d+) triangles without", w))
    assert triangles(found) + dropped == told


def test_ply_obj_and_off_of_the_same_body_agree(tmp_path: Path) -> None:
    found = [
        taken(MODELS / name, tmp_path / str(k))
        for k, name in enumerate(("PLY/Wuson.ply", "OBJ/WusonOBJ.obj", "OFF/Wuson.off"))
    ]
    header = (MODELS / "PLY/Wuson.ply").read_bytes()[:600]
    assert {triangles(assembly) for assembly in found} == {int(re.findall(rb"element face (\d+)", header)[0])}
    assert len({tuple(size(assembly)) for assembly in found}) == 1


def test_3mf_is_in_millimetres_and_collada_in_what_it_says(tmp_path: Path) -> None:
    assert size(taken(MODELS / "3MF/box.3mf", tmp_path / "a")) == [10.0, 20.0, 30.0]
    cube = taken(MODELS / "Collada/cube_with_2UVs.DAE", tmp_path / "b")
    assert size(cube) == [50.8] * 3, "two units of an inch"
    duck = taken(MODELS / "Collada/duck.dae", tmp_path / "c")
    told = sum(int(n) for n in re.findall(r'<triangles[^>]*count="(\d+)"', (MODELS / "Collada/duck.dae").read_text()))
    assert triangles(duck) == told or told == 0
    assert b"<up_axis>Y_UP" in (MODELS / "Collada/duck.dae").read_bytes() and size(duck)[2] == 1540.4, "it stands up"


def test_gltf_of_another_maker(tmp_path: Path) -> None:
    engine = taken(MODELS / "glTF2/2CylinderEngine-glTF-Binary/2CylinderEngine.glb", tmp_path)
    parts = list(engine.parts())
    assert len(parts) > 20 and len(engine.definitions) < len(parts), "its bolts share a mesh"
    assert {d.material for d in engine.definitions.values()} != {None} and engine.source_units == "m"


def test_iges_has_a_face_for_each_trimmed_surface(tmp_path: Path) -> None:
    """Entity 144 of IGES 5.3; the directory names each in the first of two lines."""
    text = (IGES / "bearing.iges").read_text("latin-1").splitlines()
    directory = [line for line in text if line[72:73] == "D"][::2]
    told = sum(line[:8].strip() == "144" for line in directory)
    found = taken(IGES / "bearing.iges", tmp_path)
    faces = sum(len(found.definition_of(part).faces) for part in found.parts())
    assert told > 10 and faces == told


def test_iges_levels_are_layers(tmp_path: Path) -> None:
    """Field 5 of the first of an entity's two directory lines, columns 33 to 40 (IGES 5.3, 2.2.4.4.5)."""
    lines = (IGES / "hammer.iges").read_text("latin-1").splitlines()
    trimmed = [k for k, line in enumerate(lines) if line[72:73] == "D" and line[:8].strip() == "144"][::2]
    for place, level in ((trimmed[0], 7), (trimmed[1], 12)):
        lines[place] = f"{lines[place][:32]}{level:>8}{lines[place][40:]}"
    (tmp_path / "levels.iges").write_text("\n".join(lines) + "\n", "latin-1")
    assert [part.layers for part in taken(tmp_path / "levels.iges", tmp_path / "out").parts()] == [["12", "7"]]
    assert [part.layers for part in taken(IGES / "hammer.iges", tmp_path / "plain").parts()] == [[]]


@pytest.mark.parametrize(
    "name",
    ["invalid/OutOfMemory.off", "invalid/empty.obj", "invalid/empty.off", "invalid/empty.ply", "invalid/malformed.obj",
     "invalid/malformed2.obj", "OBJ/point_cloud.obj", "PLY/pond.0.ply"],
)  # fmt: skip
def test_what_others_keep_as_broken_gets_a_sentence(name: str, tmp_path: Path) -> None:
    try:
        found = taken(MODELS / name, tmp_path)
    except IntakeError as error:
        assert re.search(r"empty|could not be read|no triangle|no mesh|more memory", str(error)), error
    else:
        assert triangles(found) > 0 and np.isfinite(size(found)).all()
