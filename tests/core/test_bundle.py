"""Files that come together: ZIPs, external references, side files; and text facts of STEP files."""

from __future__ import annotations

import struct
import zipfile
from pathlib import Path

import pytest
import trimesh

from public_files import STEP_FILES
from usual_lamp.core.intake import IntakeError, take_in
from usual_lamp.core.intake.bundle import references
from usual_lamp.core.intake.step_text import look_through

SPLIT = STEP_FILES / "cax-if/s1-c5-214"
"""The public CAx file s1: an assembly whose sub-assemblies and parts are files of their own."""


def packed(target: Path, files: dict[str, bytes]) -> Path:
    with zipfile.ZipFile(target, "w", zipfile.ZIP_DEFLATED) as bundle:
        for name, data in files.items():
            bundle.writestr(name, data)
    return target


@pytest.fixture(scope="module")
def pieces() -> dict[str, bytes]:
    return {f"s1/{path.name}": path.read_bytes() for path in SPLIT.glob("*.stp")}


def test_an_assembly_in_many_files_comes_in_as_one(pieces, tmp_path: Path) -> None:
    found = take_in(packed(tmp_path / "s1.zip", pieces), tmp_path / "out", quality="coarse").assembly
    names = sorted(part.name for part in found.parts())
    assert len(names) == 11 and names.count("TAIL_TURBINE") == 2 and len(found.definitions) == 8
    assert found.warnings == []


def test_cases_of_names_do_not_matter_and_missing_files_are_named(pieces, tmp_path: Path) -> None:
    odd = {name.replace("HEAD.stp", "head.STP"): data for name, data in pieces.items()}
    del odd["s1/TAIL_TURBINE.stp"]
    found = take_in(packed(tmp_path / "s1.zip", odd), tmp_path / "out", quality="coarse").assembly
    assert len(list(found.parts())) == 9
    assert any("TAIL_TURBINE.stp is missing, which TAIL.stp refers to" in warning for warning in found.warnings)


def test_an_obj_with_its_colours_beside_it(tmp_path: Path) -> None:
    obj = b"mtllib look.mtl\no block\nv 0 0 0\nv 10 0 0\nv 0 10 0\nv 0 0 10\nusemtl red\n" + b"".join(
        f"f {a} {b} {c}\n".encode() for a, b, c in ((1, 3, 2), (1, 2, 4), (2, 3, 4), (1, 4, 3))
    )
    mtl = b"newmtl red\nKd 1.0 0.0 0.0\nmap_Kd -s 1 1 1 skin.png\n"
    found = take_in(packed(tmp_path / "a.zip", {"a.obj": obj, "look.mtl": mtl}), tmp_path / "out").assembly
    definition = next(iter(found.definitions.values()))
    assert definition.color is not None and definition.color[0] > 0.9 > 0.1 > definition.color[1]
    assert definition.material == "red" and any("skin.png is missing" in warning for warning in found.warnings)
    alone = tmp_path / "b.obj"
    alone.write_bytes(obj)
    assert any("look.mtl is missing" in w for w in take_in(alone, tmp_path / "alone").assembly.warnings)


BOX = trimesh.creation.box((1, 2, 3)).export(file_type="stl")


@pytest.mark.parametrize(
    "files,words",
    [
        ({"a.step": b"0" * 200_000_000}, "would swell to 0.2 GB"),
        ({"../../a.stl": BOX}, "points out of the ZIP"),
        ({"notes.txt": b"hello"}, "holds no file that can be imported"),
        ({"a.stl": BOX, "b.stl": BOX}, "2 models that do not belong together"),
    ],
    ids=["bomb", "outside", "no model", "two models"],
)
def test_a_bad_zip_gets_a_clear_error(tmp_path: Path, files, words: str) -> None:
    with pytest.raises(IntakeError, match=words):
        take_in(packed(tmp_path / "a.zip", files), tmp_path / "out")
    assert not (tmp_path.parent / "a.stl").exists()


def test_a_zip_that_lies_about_its_sizes_is_stopped(tmp_path: Path) -> None:
    path = packed(tmp_path / "a.zip", {"a.stl": b"\0" * 50_000_000})
    data = bytearray(path.read_bytes())
    for mark, offset in ((b"PK\3\4", 22), (b"PK\1\2", 24)):
        struct.pack_into("<I", data, data.find(mark) + offset, 1000)
    path.write_bytes(data)
    with pytest.raises(IntakeError, match=r"unpacks to more|could not be unpacked"):
        take_in(path, tmp_path / "out")
    for cut in (b"", bytes(data[:500]), b"PK\3\4 and then words"):
        path.write_bytes(cut)
        with pytest.raises(IntakeError, match="could not be unpacked"):
            take_in(path, tmp_path / "cut")


def test_side_files_are_read_out_of_every_format(tmp_path: Path) -> None:
    gltf = tmp_path / "a.gltf"
    gltf.write_text('{"buffers": [{"uri": "a.bin"}, {"uri": "data:;base64,AA=="}], "images": [{"uri": "t/skin.png"}]}')
    assert references(gltf) == ["a.bin", "t/skin.png"]
    mtl = tmp_path / "a.mtl"
    mtl.write_text("map_Kd skin one.png\nbump -bm 0.5 bump.png\n")
    assert references(mtl) == ["skin one.png", "bump.png"]
    gltf.write_text('["not", "a tree"]')
    assert references(gltf) == [] and references(tmp_path / "none.step") == []


def test_product_numbers_materials_and_names_in_a_step_text(tmp_path: Path) -> None:
    file = tmp_path / "a.step"
    file.write_text(
        "ISO-10303-21;\nDATA;\n"
        "#1=PRODUCT('4711','Lid','turned, it''s round',(#9));\n"
        "#2=PRODUCT('Plate','Plate','',(#9));\n#3=PRODUCT('a','Twin','',(#9));\n#4=PRODUCT('b','Twin','',(#9));\n"
        "#5=PRODUCT_DEFINITION_FORMATION_WITH_SPECIFIED_SOURCE('','',#1,.NOT_KNOWN.);\n"
        "#6=PRODUCT_DEFINITION('design','',#5,#9);\n"
        "#7=PROPERTY_DEFINITION('material property','material name',#6);\n"
        "#8=PROPERTY_DEFINITION_REPRESENTATION(#7,#10);\n#10=REPRESENTATION('material name',(#11),#9);\n"
        "#11=DESCRIPTIVE_REPRESENTATION_ITEM('Br\\X2\\00E4\\X0\\ss',\n '');\n#12=PROPERTY_DEFINITION('Mass',$,#6);\n"
        "ENDSEC;\nEND-ISO-10303-21;\n"
    )
    text = look_through(file)
    assert text.products == {"Lid": {"Number": "4711", "Description": "turned, it's round"}}
    assert text.materials == {"Lid": "Bräss"} and "Mass" in text.properties
