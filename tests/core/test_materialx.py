"""Appearances out and in as MaterialX, judged by the standard's own library."""

from __future__ import annotations

import MaterialX as mx
import pytest

from usual_lamp.core.appearance import SHELF, Appearance, OpenPBR
from usual_lamp.core.appearance.materialx import OURS, UnreadableMaterials, from_materialx, to_materialx


def test_documents_are_valid_and_known_to_the_standard() -> None:
    """`materialx` validates the whole document, and its own library defines every input with the type written."""
    document = mx.createDocument()
    mx.readFromXmlString(document, to_materialx(list(SHELF.values())))
    library = mx.createDocument()
    mx.loadLibraries(mx.getDefaultDataLibraryFolders(), mx.getDefaultDataSearchPath(), library)
    document.importLibrary(library)
    valid, message = document.validate()
    assert valid, message
    nodes = [node for node in document.getNodes() if node.getCategory() == "open_pbr_surface"]
    assert len(nodes) == len(SHELF)
    definition = library.getNodeDef("ND_open_pbr_surface_surfaceshader")
    for node in nodes:
        for entry in node.getInputs():
            declared = definition.getActiveInput(entry.getName())
            assert declared is not None and declared.getType() == entry.getType(), entry.getName()


def test_defaults_are_those_of_the_standard() -> None:
    """What is left out means the standard's default, so ours must be the same."""
    library = mx.createDocument()
    mx.loadLibraries(mx.getDefaultDataLibraryFolders(), mx.getDefaultDataSearchPath(), library)
    definition = library.getNodeDef("ND_open_pbr_surface_surfaceshader")
    for name, value in OpenPBR().model_dump().items():
        declared = definition.getActiveInput(name)
        if declared is None or declared.getType() not in ("float", "color3", "boolean"):
            continue
        theirs = declared.getValue()
        theirs = tuple(theirs.asTuple()) if declared.getType() == "color3" else theirs
        assert value == pytest.approx(theirs, abs=1e-6), name


def test_what_goes_out_comes_back() -> None:
    samples = [sample for sample in SHELF.values() if not sample.textures and sample.params.base_conductor is None]
    back = from_materialx(to_materialx(samples))
    assert back.notes == [] and [a.name for a in back.appearances] == [a.name for a in samples]
    for ours, theirs in zip(samples, back.appearances, strict=True):
        for key, value in ours.params.model_dump().items():
            if key not in OURS:
                assert getattr(theirs.params, key) == pytest.approx(value, rel=1e-5), (ours.id, key)
    twins = [Appearance(id=str(k), name="7 / same", family="metal", params=OpenPBR()) for k in range(2)]
    assert len(from_materialx(to_materialx(twins)).appearances) == 2


@pytest.mark.parametrize(
    ("text", "words"),
    [
        ("", "no readable XML"),
        ("<svg/>", "no MaterialX"),
        ('<materialx version="1.39"/>', "no open_pbr_surface"),
        ('<!DOCTYPE a [<!ENTITY b "c">]><materialx/>', "entities"),
    ],
)
def test_other_files_are_refused(text: str, words: str) -> None:
    with pytest.raises(UnreadableMaterials, match=words):
        from_materialx(text)


def test_what_cannot_be_obeyed_is_said() -> None:
    text = """<materialx version="1.39"><open_pbr_surface name="a" type="surfaceshader">
    <input name="base_color" type="color3" nodename="image"/><input name="coat_weight" type="float" value="7"/>
    </open_pbr_surface><open_pbr_surface name="b" type="surfaceshader">
    <input name="shine" type="float" value="1"/><input name="specular_roughness" type="float" value="0.2"/>
    </open_pbr_surface></materialx>"""
    found = from_materialx(text)
    assert [a.name for a in found.appearances] == ["b"] and found.appearances[0].params.specular_roughness == 0.2
    assert len(found.notes) == 3 and "fed by a node" in found.notes[0] and "left out" in found.notes[1]
