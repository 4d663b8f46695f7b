"""The demo assembly is what a first look at the product needs: taken in from the STEP file that is made for it."""

from __future__ import annotations

from collections import Counter
from pathlib import Path

import numpy as np
import pytest
from demo.files import lay_out

from usual_lamp.core.assembly import Assembly, Mesh
from usual_lamp.core.assembly.matching import match
from usual_lamp.core.intake import IntakeResult, take_in


@pytest.fixture(scope="module")
def file(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """Of a drawing office that was laid out a moment ago."""
    lay_out(office := tmp_path_factory.mktemp("office"))
    return office / "dosing-pump.step"


@pytest.fixture(scope="module")
def pump(file: Path) -> IntakeResult:
    return take_in(file, file.parent / "taken", quality="coarse")


@pytest.fixture(scope="module")
def assembly(pump: IntakeResult) -> Assembly:
    return pump.assembly


def test_it_is_a_step_ap242_file_without_warnings(file: Path, assembly: Assembly) -> None:
    assert b"AP242_MANAGED_MODEL_BASED_3D_ENGINEERING" in file.read_bytes()[:4096]
    assert assembly.warnings == [] and assembly.source_units == "mm"


def test_parts_sub_assemblies_and_shared_fasteners(assembly: Assembly) -> None:
    parts = list(assembly.parts())
    assert len(parts) >= 45
    depth = max(sum(1 for _ in assembly.ancestors(part.uid)) for part in parts)
    assert depth >= 3, "the product, and two levels of sub-assemblies in it"
    uses = Counter(part.definition for part in parts)
    screws = {part.definition for part in parts if part.name.startswith("Screw")}
    assert len(screws) < sum(uses[definition] for definition in screws) / 2, "fasteners share their definitions"
    assert all(part.name for part in parts)
    assert len({definition.color for definition in assembly.definitions.values()}) >= 8


def test_some_parts_are_hidden_in_cad_and_some_lie_inside(assembly: Assembly) -> None:
    assert len(assembly.hidden_in_cad()) >= 2
    case = np.concatenate([assembly.corners(p) for p in assembly.parts() if p.name.startswith("Case")])
    low, high = case.min(axis=0), case.max(axis=0)
    inside = []
    for part in assembly.parts():
        corners = assembly.corners(part)
        if part.uid not in assembly.hidden_in_cad() and (corners > low + 1).all() and (corners < high - 1).all():
            inside.append(part.name)
    assert len(inside) >= 5, inside


def test_cast_and_moulded_parts_have_fillets(assembly: Assembly) -> None:
    for name in ("Case front, cast", "Head body, cast", "Panel"):
        part = next(part for part in assembly.parts() if part.name == name)
        kinds = Counter(face.kind for face in assembly.definition_of(part).faces)
        assert kinds["cylinder"] + kinds["torus"] + kinds["free"] + kinds["sphere"] >= 4, (name, kinds)


def test_it_stands_on_its_feet_and_has_the_size_of_a_bench_top_device(assembly: Assembly) -> None:
    corners = {part.name: assembly.corners(part) for part in assembly.parts()}
    everything = np.concatenate(list(corners.values()))
    assert ((np.ptp(everything, axis=0) > 100) & (np.ptp(everything, axis=0) < 300)).all()
    assert corners["Foot"][:, 2].min() == pytest.approx(everything[:, 2].min(), abs=0.05)


def test_no_part_floats(pump: IntakeResult, assembly: Assembly) -> None:
    """Every shown part comes within 1 mm of another one's box; none is an empty shell."""
    parts = [part for part in assembly.parts() if part.uid not in assembly.hidden_in_cad()]
    boxes = {part.uid: (c.min(axis=0), c.max(axis=0)) for part in parts for c in [assembly.corners(part)]}
    for part in parts:
        low, high = boxes[part.uid]
        near = [
            o
            for o in parts
            if o is not part and (low <= boxes[o.uid][1] + 1).all() and (high >= boxes[o.uid][0] - 1).all()
        ]
        assert near, part.name
        mesh = Mesh.from_bytes(pump.blobs[assembly.definition_of(part).mesh].read_bytes())
        assert len(mesh.triangles) > 0


def test_the_second_revision_matches_fully(file: Path, assembly: Assembly, tmp_path: Path) -> None:
    """Knob and feet change, two screws come, one bracket goes; everything else is known again."""
    second = take_in(file.parent / "next" / file.name, tmp_path / "taken", quality="coarse").assembly
    pairs = match(assembly, second)
    name = {node.uid: node.name for tree in (assembly, second) for node in tree.occurrences}
    told = Counter((pair.kind, name[pair.new or pair.old or ""]) for pair in pairs if pair.kind != "unchanged")
    assert told == {
        ("changed shape", "Foot"): 4,
        ("changed shape", "Knob body"): 1,
        ("new", "Screw M3 x 8"): 2,
        ("gone", "Motor bracket"): 1,
    }
    assert all(name[pair.new] == name[pair.old] for pair in pairs if pair.new and pair.old)


def test_parts_carry_their_number_material_and_layer(assembly: Assembly) -> None:
    definitions = {d.name: d for d in assembly.definitions.values()}
    numbers = [d.properties["Part number"] for d in definitions.values()]
    assert len(set(numbers)) == len(numbers) and all(number.startswith("DP40-") for number in numbers)
    assert definitions["Hose barb"].material == "Brass CuZn39Pb3" and definitions["Knob mark"].material is None
    assert {layer for part in assembly.parts() for layer in part.layers} == {"parts", "print", "fasteners", "shipping"}
