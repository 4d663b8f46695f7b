"""What neighbours say in the first coat: gaskets between two parts, and windows before displays."""

from __future__ import annotations

import pytest

from core.test_scene_history import IDENTITY
from usual_lamp.core.assembly import Assembly, Occurrence, PartDefinition
from usual_lamp.core.scene import first_scene
from usual_lamp.core.scene.first_coat import FirstCoat, first_coat
from usual_lamp.core.scene.resolved import ResolvedScene

Box = tuple[tuple[float, float, float], tuple[float, float, float]]
FLANGE: dict[str, Box] = {"Lower half": ((0, 0, 0), (80, 60, 40)), "Upper half": ((0, 0, 41), (80, 60, 70))}
DEVICE: dict[str, Box] = {
    "Case": ((0, 0, 0), (100, 20, 100)),
    "LCD module": ((20, -4, 20), (80, -1, 70)),
    "Board": ((10, 0, 10), (90, 1.6, 80)),
}


def coated(boxes: dict[str, Box]) -> FirstCoat:
    definitions = {
        name: PartDefinition(
            key=name, name=name, mesh="m", shape=None, triangles=12, solids=1, volume=1.0, area=1.0, bounds=box
        )
        for name, box in boxes.items()
    }
    nodes = [Occurrence(uid=name, name=name, placement=IDENTITY, definition=name) for name in boxes]
    assembly = Assembly(name="Made up", chord=0.1, angle=0.3, definitions=definitions, occurrences=nodes)
    return first_coat(ResolvedScene(assembly, first_scene(assembly, "a")))


def said(boxes: dict[str, Box], name: str) -> str | None:
    """Why a part gets what it gets; None where nothing is proposed."""
    return next((coat.why for coat in coated(boxes).coats if name in coat.names), None)


def test_what_lies_flat_between_two_parts_is_a_gasket_and_not_sure() -> None:
    found = coated(FLANGE | {"Part 7": ((2, 2, 40), (78, 58, 41))})
    coat = next(coat for coat in found.coats if coat.names == ["Part 7"])
    assert coat.appearance.family == "rubber" and coat.sure <= 0.5
    assert coat.why == "lies flat between “Lower half” and “Upper half”"


@pytest.mark.parametrize(
    ("name", "box"),
    [
        ("thick", ((2, 2, 40), (78, 58, 43))),
        ("small", ((2, 2, 40), (6, 6, 41))),
        ("on one side only", ((2, 2, 70), (78, 58, 71))),
        ("apart", ((2, 2, 40.3), (78, 58, 40.7))),
    ],
)
def test_what_is_no_gasket_is_left_to_be_decided(name: str, box: Box) -> None:
    assert said(FLANGE | {"Part 7": box}, "Part 7") is None


def test_what_covers_a_display_from_outside_is_clear() -> None:
    before = said(DEVICE | {"Part 9": ((15, -7, 15), (85, -5, 75))}, "Part 9")
    assert before == "covers “LCD module”"
    behind = {"Part 9": ((15, -1, 15), (85, 0, 75))}
    assert said(DEVICE | behind, "Part 9") != "covers “LCD module”", "what carries it lies behind"
    beside = {"Part 9": ((60, -7, 15), (130, -5, 75))}
    assert said(DEVICE | beside, "Part 9") is None, "it covers less than the display"


def test_words_go_before_neighbours() -> None:
    why = said(FLANGE | {"Shim, 1.4310": ((2, 2, 40), (78, 58, 41))}, "Shim, 1.4310")
    assert why is not None and "1.4310" in why
