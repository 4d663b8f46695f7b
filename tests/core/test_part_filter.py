"""The filter of the parts schedule: words, fields, numbers, negation, completion."""

from __future__ import annotations

import pytest

from usual_lamp.core.intake import IntakeResult
from usual_lamp.core.scene import SetStates, apply_edit, first_scene
from usual_lamp.core.scene.part_filter import FilterProblem, facts_of, fields_of, filtered
from usual_lamp.core.scene.resolved import ResolvedScene


@pytest.fixture(scope="module")
def facts(as1: IntakeResult):
    definitions = {
        key: d.model_copy(update={"material": f"Steel {key}", "properties": {"Part number": f"AS-{key[1:]}"}})
        for key, d in as1.assembly.definitions.items()
    }
    nodes = [
        n.model_copy(update={"layers": ["hidden lines"] if n.name == "nut" else []}) for n in as1.assembly.occurrences
    ]
    assembly = as1.assembly.model_copy(update={"definitions": definitions, "occurrences": nodes})
    scene = first_scene(assembly, "rev")
    plate = next(part.uid for part in assembly.parts() if part.name == "plate")
    scene, _ = apply_edit(scene, SetStates(states={plate: "hidden"}), [plate])
    return facts_of(ResolvedScene(assembly, scene)), assembly, scene


@pytest.mark.parametrize(
    "text,count",
    [
        ("", 18),
        ("nut", 14),
        ("NUT  bracket", 12),
        ("nut -bracket", 2),
        ("-nut -bolt", 4),
        ("material:steel", 18),
        ("material:d1", 8),
        ('material="steel d1"', 8),
        ("layer:hidden", 8),
        ('layer:"hidden lines" in:rod', 2),
        ("-layer:hidden", 10),
        ("partnumber:as-1", 8),
        ('"part number":as-', 18),
        ("part-number:as-1 rod", 2),
        ("state:hidden", 1),
        ("state=shown", 17),
        ("size<40", 8),
        ("size>200", 2),
        ("size>20cm", 2),
        ("size>7.87in size<0,3m", 2),
        ("size<0,001", 0),
        ("quantity=8", 8),
        ("why:cad", 18),
        ("material:", 18),
    ],
)
def test_a_filter_lets_through(facts, text: str, count: int) -> None:
    assert len(filtered(facts[0], text)) == count


@pytest.mark.parametrize(
    "text,words", [("colr:red", "field called colr"), ("size<big", "no number"), ("size<5ft", "no unit of length")]
)
def test_what_cannot_be_understood_is_said(facts, text: str, words: str) -> None:
    with pytest.raises(FilterProblem, match=words):
        filtered(facts[0], text)


def test_fields_come_with_their_most_frequent_values(facts) -> None:
    _, assembly, scene = facts
    fields = {field.name: field for field in fields_of(ResolvedScene(assembly, scene))}
    assert fields["size"].kind == "number" and fields["name"].values[0] == "nut"
    assert fields["Part number"].values and "Number" not in fields
