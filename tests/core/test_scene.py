"""Edits and their inverses, resolution, first scene, framing."""

import numpy as np
import pytest

from usual_lamp.core.appearance import SHELF, from_cad, hex_to_linear, linear_to_hex
from usual_lamp.core.camera import Camera, exposure_scale, frame_points, three_quarter
from usual_lamp.core.intake import IntakeResult
from usual_lamp.core.scene import (
    Assign,
    ChangeAppearance,
    EditRefused,
    Lighting,
    SetLighting,
    SetShot,
    SetStates,
    apply_edit,
    first_scene,
    model_points,
    resolve_part,
    trace_inputs,
)
from usual_lamp.core.scene.resolution import DEFAULT_SHOT

BRASS, STEEL = SHELF["brass-turned"], SHELF["steel-machined"]


@pytest.fixture
def scene(as1: IntakeResult):
    return first_scene(as1.assembly, "rev")


@pytest.fixture
def uids(as1: IntakeResult) -> list[str]:
    return [part.uid for part in as1.assembly.parts()]


def edits(uids: list[str]) -> list:
    give = Assign(assignments=dict.fromkeys(uids[:3], BRASS.id), define={BRASS.id: BRASS})
    shiny = BRASS.model_copy(update={"params": BRASS.params.model_copy(update={"specular_roughness": 0.05})})
    return [
        SetStates(states={uids[0]: "hidden", uids[1]: "suppressed"}),
        give,
        ChangeAppearance(appearance=shiny),
        Assign(assignments={uids[0]: STEEL.id, uids[5]: BRASS.id}, define={STEEL.id: STEEL}),
        Assign(assignments={uids[1]: None}),
        SetLighting(lighting=Lighting(surroundings="overcast", turn=30)),
    ]


def test_inverses_restore_every_step(scene, uids) -> None:
    history = []
    for edit in edits(uids):
        after, inverse = apply_edit(scene, edit, uids)
        assert after != scene
        history.append((scene, inverse))
        scene = after
    for before, inverse in reversed(history):
        scene, _ = apply_edit(scene, inverse, uids)
        assert scene == before


def test_giving_again_keeps_a_changed_appearance(scene, uids) -> None:
    """A sample that was changed in the review stays changed when it is given to one more part, and after undo."""
    for edit in edits(uids)[1:3]:
        scene, _ = apply_edit(scene, edit, uids)
    after, inverse = apply_edit(scene, Assign(assignments={uids[9]: BRASS.id}, define={BRASS.id: BRASS}), uids)
    assert after.appearances[BRASS.id].params.specular_roughness == 0.05
    assert apply_edit(after, inverse, uids)[0] == scene


def test_edits_that_do_not_apply_are_refused(scene, uids) -> None:
    for edit in (
        SetStates(states={"nobody": "hidden"}),
        Assign(assignments={uids[0]: "no-such-appearance"}),
        ChangeAppearance(appearance=BRASS),
    ):
        with pytest.raises(EditRefused):
            apply_edit(scene, edit, uids)


def test_resolution_says_why(as1: IntakeResult, scene, uids) -> None:
    part = as1.assembly.by_uid[uids[0]]
    cad = resolve_part(as1.assembly, scene, part)
    assert cad.why == "from CAD" and cad.appearance == from_cad(as1.assembly.definition_of(part).color)
    scene, _ = apply_edit(scene, edits(uids)[1], uids)
    given = resolve_part(as1.assembly, scene, part)
    assert given.why == "part" and given.appearance == BRASS


def test_suppressed_parts_are_not_traced(as1: IntakeResult, scene, uids) -> None:
    shot = scene.shots[DEFAULT_SHOT]
    whole = trace_inputs(as1.assembly, scene, shot)
    fewer, _ = apply_edit(scene, edits(uids)[0], uids)
    assert len(trace_inputs(as1.assembly, fewer, shot).parts) == len(whole.parts) - 2
    assert trace_inputs(as1.assembly, fewer, shot).fingerprint() != whole.fingerprint()
    assert trace_inputs(as1.assembly, scene, shot).fingerprint() == whole.fingerprint()
    nothing, _ = apply_edit(scene, SetStates(states=dict.fromkeys(uids, "hidden")), uids)
    with pytest.raises(ValueError, match="Nothing is shown"):
        trace_inputs(as1.assembly, nothing, shot)


def test_first_shot_frames_the_model(as1: IntakeResult, scene) -> None:
    shot = scene.shots[DEFAULT_SHOT]
    seen = shot.camera.project(model_points(as1.assembly, scene), shot.width / shot.height)[:, :2]
    assert np.abs(seen).max() < 0.9
    assert np.ptp(seen, axis=0).max() > 1.3
    assert (seen.min(axis=0) + seen.max(axis=0)) / 2 == pytest.approx(0, abs=0.03)
    assert shot.camera.focal_length == 85


def test_field_of_view_of_a_lens() -> None:
    """50 mm on 36 mm film sees 39.6 degrees across: 2 atan(18 / 50)."""
    across, along = Camera(position=(0, -1, 0), target=(0, 0, 0), focal_length=50).half_tangents(1.5)
    assert np.degrees(2 * np.arctan(across)) == pytest.approx(39.6, abs=0.05)
    assert along == pytest.approx(across / 1.5)


def test_exposure_scale() -> None:
    """L_max = 1.2 x 2^EV (ISO 100): at EV 0, 1.2 cd/m² is the recorded white; each EV halves."""
    assert exposure_scale(0) == pytest.approx(1 / 1.2)
    assert exposure_scale(10) == pytest.approx(exposure_scale(9) / 2)


def test_framing_nothing_is_an_error() -> None:
    with pytest.raises(ValueError, match="nothing to frame"):
        frame_points(np.zeros((0, 3)), three_quarter(), 85, 1.5)


def test_hex_colors_follow_srgb() -> None:
    """IEC 61966-2-1: 0.5 encoded is 0.2140 linear; the knee lies at 0.04045."""
    assert hex_to_linear("#808080")[0] == pytest.approx(0.21586, abs=1e-5)
    assert hex_to_linear("#0A0A0A")[0] == pytest.approx(10 / 255 / 12.92, abs=1e-6)
    for text in ("#C9CDD0", "#000000", "#FFFFFF", "#0B6B73"):
        assert linear_to_hex(hex_to_linear(text)) == text


def test_edits_say_what_they_do(as1: IntakeResult, scene) -> None:
    uids = [part.uid for part in as1.assembly.parts()]
    give = dict(define={BRASS.id: BRASS})
    shot = scene.shots["shot-1"]
    said = {
        "Hide 1 part": SetStates(states={uids[0]: "hidden"}),
        "Show 2 parts": SetStates(states=dict.fromkeys(uids[:2])),
        f"Give {BRASS.name} to 3 parts": Assign(assignments=dict.fromkeys(uids[:3], BRASS.id), **give),
        f"Give {BRASS.name} to 1 face": Assign(assignments={f"{uids[0]}#s": BRASS.id}, **give),
        f"Give {BRASS.name} to all of as1-oc-214": Assign(assignments={"model-1": BRASS.id}, **give),
        "Take what was given off 1 part": Assign(assignments={uids[0]: None}),
        "Change the brightness": SetLighting(lighting=scene.lighting.model_copy(update={"brightness": 2.0})),
        "Rename the shot “Front, three-quarter”": SetShot(id="shot-1", shot=shot.model_copy(update={"name": "Side"})),
    }
    for words, edit in said.items():
        assert edit.words(scene) == words
