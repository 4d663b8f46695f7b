"""Attitudes and places: resting attitudes by hand calculation, setting down, face to face, moves in the tree."""

from __future__ import annotations

import numpy as np
import pytest
from scipy.spatial.transform import Rotation

from usual_lamp.core.assembly.resting import resting_attitudes
from usual_lamp.core.intake import IntakeResult
from usual_lamp.core.scene import ModelUse, MoveParts, Piece, Placement, SetModels, apply_edit, arranged, first_scene
from usual_lamp.core.scene.attitude import face_to_face, placement_of, quarter_turn, set_down, turned_about, turning
from usual_lamp.core.scene.pieces import piece_assembly


def prism(profile: list[tuple[float, float]], width: float) -> np.ndarray:
    """Corners of a profile in x and z, extruded along y."""
    return np.array([[x, y, z] for x, z in profile for y in (0.0, width)])


def test_a_box_rests_on_each_side_the_largest_most_likely() -> None:
    rests = resting_attitudes(prism([(0, 0), (100, 0), (100, 20), (0, 20)], 50.0), np.array([50.0, 25.0, 10.0]))
    assert [np.argmax(np.abs(rest.down)) for rest in rests] == [2, 2, 1, 1, 0, 0]
    assert sum(rest.share for rest in rests) == pytest.approx(1.0), "solid angles of all sides fill the sphere"
    # It tips over the nearer edge: 25 mm away under a weight 10 mm up.
    assert rests[0].tilt == pytest.approx(np.degrees(np.arctan(25 / 10)))


def test_an_l_bracket_rests_on_five_faces_of_its_hull() -> None:
    """Legs of 100 x 20 and 20 x 60, 50 wide: centre of mass by hand at (35, 25, 25).

    On its two ends, x = 100 and z = 80, the weight would stand outside; the hull's slope from (100, 20) to (20, 80)
    carries it, 35 mm over the table: (0.6, 0.8) . ((35, 25) - (100, 20)) = -35.
    """
    profile = [(0, 0), (100, 0), (100, 20), (20, 20), (20, 80), (0, 80)]
    rests = resting_attitudes(prism(profile, 50.0), np.array([35.0, 25.0, 25.0]))
    downs = {tuple(np.round(rest.down, 6) + 0.0): rest for rest in rests}
    assert set(downs) == {(0, 0, -1), (-1, 0, 0), (0.6, 0, 0.8), (0, 1, 0), (0, -1, 0)}
    assert downs[0, 0, -1].tilt == pytest.approx(45.0)  # 25 mm in from the side, 25 mm up
    assert downs[-1, 0, 0].tilt == pytest.approx(np.degrees(np.arctan(25 / 35)))
    assert downs[0.6, 0, 0.8].tilt == pytest.approx(np.degrees(np.arctan(25 / 35)))
    assert downs[0, 1, 0].tilt == pytest.approx(45.0)


def test_what_is_flat_or_nothing_rests_nowhere() -> None:
    assert resting_attitudes(np.zeros((4, 3)), np.zeros(3)) == []
    assert resting_attitudes(prism([(0, 0), (1, 0)], 5.0), np.zeros(3)) == []


def test_a_placement_is_its_matrix_about_any_pivot() -> None:
    random = np.random.default_rng(4)
    for _ in range(20):
        matrix = np.eye(4)
        matrix[:3, :3] = Rotation.random(random_state=int(random.integers(1000))).as_matrix()
        matrix[:3, 3] = random.normal(size=3) * 100
        pivot = tuple(random.normal(size=3) * 50)
        assert np.allclose(placement_of(matrix, pivot).matrix, matrix, atol=1e-4)
    upright = placement_of(turned_about(np.eye(4), quarter_turn(1, 90), np.array([0, 0, 0.0])))
    assert np.allclose(upright.matrix[:3, :3] @ [1, 0, 0], [0, 0, -1])


def test_turning_takes_any_direction_to_any_other() -> None:
    random = np.random.default_rng(5)
    pairs = [*random.normal(size=(20, 2, 3)), ([0, 0, 1], [0, 0, -1]), ([1, 0, 0], [1, 0, 0]), ([0, 3, 0], [0, -2, 0])]
    for one, two in pairs:
        one, two = np.array(one, float), np.array(two, float)
        turn = turning(one, two)
        assert np.allclose(turn @ one / np.linalg.norm(one), two / np.linalg.norm(two))
        assert np.allclose(turn @ turn.T, np.eye(3)) and np.linalg.det(turn) == pytest.approx(1)


def test_faces_meet_middle_on_middle_looking_at_each_other() -> None:
    start = placement_of(turned_about(np.eye(4), quarter_turn(2, 30), np.zeros(3))).matrix
    normal, center = start[:3, :3] @ [1, 0, 0], start[:3, :3] @ [10, 0, 0]
    made = face_to_face(start, normal, center, np.array([0, 0, 1.0]), np.array([5.0, 6.0, 7.0]))
    assert np.allclose(made[:3, :3] @ [1, 0, 0], [0, 0, -1]) and np.allclose(
        made[:3, :3] @ [10, 0, 0] + made[:3, 3], [5, 6, 7]
    )
    lifted = set_down(np.eye(4), np.array([[0, 0, -12.0], [0, 0, 4.0]]), 3.0)
    assert lifted[2, 3] == 15.0


def test_moves_nest_and_the_models_place_comes_last(as1: IntakeResult) -> None:
    assembly = as1.assembly
    scene = first_scene(assembly, "rev")
    group = next(n for n in assembly.occurrences if n.name == "rod-assembly")
    rod = next(n for n in assembly.parts() if n.name == "rod")
    plate = next(n for n in assembly.parts() if n.name == "plate")
    uids = assembly.by_uid.keys()
    lift, turn = Placement(shift=(0, 0, 30)), Placement(turn=(0, 0, 90), pivot=(5, 5, 0))
    moved, back = apply_edit(scene, MoveParts(moves={group.uid: lift, rod.uid: turn}), uids)
    use = scene.models["model-1"].model_copy(update={"placement": Placement(shift=(100, 0, 0))})
    moved, _ = apply_edit(moved, SetModels(models={"model-1": use}), uids)
    world = arranged(moved, {"model-1": assembly}).world
    expected = use.placement.matrix @ lift.matrix @ turn.matrix @ assembly.world[rod.uid]
    assert np.allclose(world[rod.uid], expected)
    assert np.allclose(world[plate.uid], use.placement.matrix @ assembly.world[plate.uid])
    restored, _ = apply_edit(moved, back, uids)
    assert restored.moves == {}


def test_models_side_by_side_keep_apart_and_pieces_have_their_size(as1: IntakeResult) -> None:
    piece = Piece(kind="table top", size=(300.0, 200.0, 25.0))
    table, block = piece_assembly(piece, "p-table", "Table top")
    scene = first_scene(as1.assembly, "rev")
    use = ModelUse(name="Table top", revision="t", placement=Placement(shift=(0, 0, -25)), piece=piece)
    scene, back = apply_edit(scene, SetModels(models={"model-2": use}), as1.assembly.by_uid.keys())
    whole = arranged(scene, {"model-1": as1.assembly, "model-2": table})
    assert len(list(whole.parts())) == 19 and {part.model for part in whole.parts()} == {"model-1", "model-2"}
    corners = whole.corners(whole.by_uid["p-table"])
    assert np.allclose(np.ptp(corners, axis=0), (300, 200, 25)) and corners[:, 2].max() == pytest.approx(0)
    assert len(block) > 1000 and apply_edit(scene, back, [])[0].models.keys() == {"model-1"}
    from usual_lamp.core.scene import EditRefused

    with pytest.raises(EditRefused, match="needs a model"):
        apply_edit(scene, SetModels(models={"model-1": None}), [])
