"""What changed since a still was taken, in words: each change that is seen is told, and none that is not."""

from __future__ import annotations

import pytest

from core.test_scene_history import UIDS, assembly
from usual_lamp.core.appearance import SHELF
from usual_lamp.core.light.lamps import PanelLamp
from usual_lamp.core.numbers_in_words import NUMBER
from usual_lamp.core.scene import (
    Assign,
    Backdrop,
    Decal,
    Lighting,
    Scene,
    SetDecals,
    SetStates,
    Shot,
    apply_edit,
    first_scene,
)
from usual_lamp.core.scene.differences import differences
from usual_lamp.core.scene.document import Floor
from usual_lamp.core.scene.resolution import DEFAULT_SHOT
from usual_lamp.core.scene.resolved import ResolvedScene
from usual_lamp.core.scene.section import Section

BLOCKS = assembly("mesh-a", UIDS)
FIRST = first_scene(BLOCKS, "a")
KEY = PanelLamp(name="Key", position=(0, -500, 500), target=(0, 0, 0), width=300, height=200)


def since(before: Scene, now: Scene, **which: str) -> list[str]:
    found = differences(ResolvedScene(BLOCKS, before), ResolvedScene(BLOCKS, now), DEFAULT_SHOT, **which)
    return [words.replace(NUMBER, "") for words in found]


def lit(scene: Scene, **change: object) -> Scene:
    lighting = scene.lighting.model_copy(update=change)
    return scene.model_copy(update={"lightings": {scene.lit_by: lighting}})


def shot(scene: Scene, **change: object) -> Scene:
    return scene.model_copy(update={"shots": {DEFAULT_SHOT: scene.shots[DEFAULT_SHOT].model_copy(update=change)}})


def test_the_same_scene_differs_in_nothing() -> None:
    assert since(FIRST, FIRST) == []


LIT: dict[str, object] = {
    "surroundings": "workshop", "on": False, "brightness": 2.0, "turn": 40.0, "contrast": 1.4, "saturation": 0.5,
    "tint": "#FFD0A0", "tilt": 20.0, "below": "#405060", "lamps": {"key": KEY}, "glows": False, "glow": 1.0,
    "floor": False, "floor_finish": Floor(kind="sweep"), "backdrop": Backdrop(kind="plain"),
}  # fmt: skip
UNSEEN = {"name", "place"}


@pytest.mark.parametrize("field", sorted(Lighting.model_fields.keys() - UNSEEN))
def test_whatever_changes_in_the_light_is_told(field: str) -> None:
    """A field that comes to a lighting later is asked for here: its still would be out of date without a word."""
    bare = lit(FIRST, lamps={})
    (said,) = since(bare, lit(bare, **{field: LIT[field]}))
    assert ":" in said


SHOWN: dict[str, object] = {
    "hidden": frozenset({"p1"}), "width": 640, "height": 480, "exposure": 11.0, "white": 4000.0, "tone": "filmic",
    "contrast": 1.2, "saturation": 0.8, "vignette": 0.5, "glare": 0.2, "sharpening": 0.3,
    "section": Section(normal=(0, 1, 0), offset=0.0),
    "camera": FIRST.shots[DEFAULT_SHOT].camera.model_copy(update={"focal_length": 50.0}),
}  # fmt: skip
FREE = {"name", "place", "locked", "lighting"}


@pytest.mark.parametrize("field", sorted(Shot.model_fields.keys() - FREE))
def test_whatever_changes_in_the_shot_is_told(field: str) -> None:
    (said,) = since(FIRST, shot(FIRST, **{field: SHOWN[field]}))
    assert ":" in said


def test_a_shot_of_the_same_form_may_have_another_size() -> None:
    assert since(FIRST, shot(FIRST, width=640, height=480)) == []
    assert since(FIRST, shot(FIRST, width=960)) == ["Frame: 1280 x 960 → 960 x 960"]


@pytest.mark.parametrize("change", [{"name": "Other"}, {"place": 7}])
def test_names_and_places_in_lists_are_no_difference(change: dict[str, object]) -> None:
    assert since(FIRST, lit(FIRST, **change)) == [] and since(FIRST, shot(FIRST, **change, locked=True)) == []


def test_numbers_are_told_as_from_and_to_with_their_units() -> None:
    (white,) = since(FIRST, shot(FIRST, white=4200.0))
    assert white == "White: 6504 → 4200 K"
    (exposure,) = since(FIRST, shot(FIRST, exposure=10.3))
    assert exposure == "Exposure: 9.3 → 10.3 EV"
    assert since(FIRST, lit(FIRST, brightness=4 * FIRST.lighting.brightness)) == ["Surroundings: +2.0 EV"]
    assert since(FIRST, lit(FIRST, brightness=0.0)) == ["Surroundings: brightness changed"], "no stops lead to nothing"


def test_a_lamp_is_told_by_its_name() -> None:
    bare, with_key = lit(FIRST, lamps={}), lit(FIRST, lamps={"key": KEY})
    assert since(bare, with_key) == ["Key: added"] and since(with_key, bare) == ["Key: removed"]
    for change, words in (
        ({"level": 1.5}, "Key: +1.5 EV"),
        ({"on": False}, "Key: off"),
        ({"width": 90}, "Key: changed"),
    ):
        assert since(with_key, lit(FIRST, lamps={"key": KEY.model_copy(update=change)})) == [words]
    renamed = lit(FIRST, lamps={"key": KEY.model_copy(update={"name": "Main"})})
    assert since(with_key, renamed) == []


def test_parts_are_named_while_they_are_few_and_counted_after() -> None:
    def brass(*uids: str) -> Scene:
        edit = Assign(assignments=dict.fromkeys(uids, "brass-turned"), define={"brass-turned": SHELF["brass-turned"]})
        return apply_edit(FIRST, edit, UIDS)[0]

    assert since(FIRST, brass("p0")) == ["p0: colour from CAD → Brass, turned"]
    assert since(FIRST, brass("p0", "p3")) == ["p0 and p3: colour from CAD → Brass, turned"]
    assert since(FIRST, brass("p0", "p1", "p2")) == ["3 parts: colour from CAD → Brass, turned"]
    assert since(brass("p0"), FIRST) == ["p0: Brass, turned → colour from CAD"]


def test_what_comes_and_goes_is_told_once() -> None:
    hidden, _ = apply_edit(FIRST, SetStates(states={"p2": "hidden"}), UIDS)
    assert since(FIRST, hidden) == ["p2: hidden"] and since(hidden, FIRST) == ["p2: shown"]
    assert since(hidden, shot(hidden, hidden=frozenset({"p2"}))) == [], "it was hidden already"
    label = Decal(name="Label", picture="c" * 64, part="p0", center=(0, 0, 1), right=(1, 0, 0), up=(0, 1, 0), width=1,
                  height=1)  # fmt: skip
    marked, _ = apply_edit(FIRST, SetDecals(decals={"d": label}), UIDS)
    assert since(FIRST, marked) == ["Decal Label: added"] and since(marked, FIRST) == ["Decal Label: removed"]
    turned, _ = apply_edit(marked, SetDecals(decals={"d": label.model_copy(update={"turn": 9.0})}), UIDS)
    assert since(marked, turned) == ["Decal Label: changed"]
    assert since(FIRST, FIRST.model_copy(update={"rounding": 0.5})) == ["Edges: rounded 0.2\u202fmm → 0.5\u202fmm"]


def test_a_shot_that_is_not_in_both_says_so() -> None:
    other = FIRST.model_copy(update={"shots": {"shot-9": FIRST.shots[DEFAULT_SHOT]}})
    assert since(FIRST, other) == ["The shot was removed."] and since(other, FIRST) == ["The shot was not known."]
