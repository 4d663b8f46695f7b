"""Who can be seen: boxes in boxes, slots, clear covers, cameras; and what findings make of it."""

from __future__ import annotations

import numpy as np
import pytest
import trimesh

from usual_lamp.core.appearance import SHELF
from usual_lamp.core.assembly import Mesh
from usual_lamp.core.assembly.facing import USUAL, looked_at
from usual_lamp.core.assembly.outline import outermost, spread, unpacked
from usual_lamp.core.assembly.smoothing import smooth_faces
from usual_lamp.core.assembly.visibility import Placed, Sight, in_one_place
from usual_lamp.core.camera import Camera, three_quarter
from usual_lamp.core.intake import IntakeResult
from usual_lamp.core.scene import Assign, SetStates, apply_edit, first_scene
from usual_lamp.core.scene.findings import findings
from usual_lamp.core.scene.sight import SightAnswer, answer_sight, sight_question, viewpoint


def meshed(made: trimesh.Trimesh) -> Mesh:
    return smooth_faces(np.asarray(made.vertices, float), np.asarray(made.faces).astype(np.int64))


def box(*size: float) -> Mesh:
    return meshed(trimesh.creation.box(size))


def at(x: float = 0.0, y: float = 0.0, z: float = 0.0) -> np.ndarray:
    matrix = np.eye(4)
    matrix[:3, 3] = x, y, z
    return matrix


def hollow(slot: float) -> list[Placed]:
    """Six walls around a room of 100 mm, the top one with a slot of some width along its middle."""
    walls = [(box(120, 120, 10), at(z=-55)), (box(10, 120, 120), at(-55)), (box(10, 120, 120), at(55))]
    walls += [(box(120, 10, 120), at(y=-55)), (box(120, 10, 120), at(y=55))]
    half = (120 - slot) / 2
    walls += [(box(half, 120, 10), at(s * (slot / 2 + half / 2), z=55)) for s in (-1, 1)]
    return [Placed(mesh, matrix, False) for mesh, matrix in walls]


def seen(parts: list[Placed]) -> set[int]:
    return Sight(parts).from_outside()


def test_inside_a_closed_box_nothing_shows_and_through_a_narrow_slot_it_does() -> None:
    ball = meshed(trimesh.creation.icosphere(2, 4.0))
    assert seen([*hollow(0.0), Placed(ball, at(), False)]) == set(range(7))
    # 0.4 mm of 120: the sweep's rays lie a millimetre and a half apart, so looking out from the ball must find it.
    assert seen([*hollow(0.4), Placed(ball, at(z=-30), False)]) == set(range(8))


def test_clear_parts_let_one_look_through_and_are_seen_themselves() -> None:
    shell, inner = box(50, 50, 50), box(20, 20, 20)
    assert seen([Placed(shell, at(), False), Placed(inner, at(), False)]) == {0}
    assert seen([Placed(shell, at(), True), Placed(inner, at(), False)]) == {0, 1}
    nested = [Placed(box(60, 60, 60), at(), True), Placed(shell, at(), True), Placed(inner, at(), True)]
    assert seen(nested) == {0, 1, 2}


@pytest.mark.parametrize("parallel", [False, True])
def test_a_camera_sees_what_is_in_its_frame_and_not_behind_others(parallel: bool) -> None:
    wall, near, far, aside = box(60, 2, 60), box(10, 10, 10), box(10, 10, 10), box(10, 10, 10)
    parts = [(wall, at()), (near, at(y=-40)), (far, at(y=40)), (aside, at(x=900))]
    camera = Camera(position=(0, -400, 0), target=(0, 0, 0), focal_length=85, parallel=parallel)
    sight = Sight([Placed(mesh, matrix, False) for mesh, matrix in parts])
    assert sight.from_viewpoint(viewpoint(camera, 1.5, sight.radius * 4)) == {0, 1}
    # A sliver of the far box shows past the edge of the wall when one stands aside.
    oblique = Camera(position=(-330, -400, 0), target=(0, 0, 0), focal_length=60, parallel=parallel)
    assert 2 in sight.from_viewpoint(viewpoint(oblique, 1.5, sight.radius * 4))


def test_the_same_part_twice_in_one_place_is_found() -> None:
    assert in_one_place([("a", at(1)), ("b", at(1)), ("a", at(1 + 1e-6)), ("a", at(2))]) == [[0, 2]]


def test_directions_cover_the_sphere_evenly() -> None:
    ways = spread(64)
    assert np.allclose(np.linalg.norm(ways, axis=1), 1) and np.abs(ways.mean(axis=0)).max() < 0.02
    assert (ways @ ways.T - 2 * np.eye(64)).max() < np.cos(np.radians(18)), "no two closer than 18 degrees"


def test_a_hull_of_few_points_still_touches_the_floor() -> None:
    """Of a box every corner is kept; of a ball the lowest point is missed by a hundredth at most."""
    random = np.random.default_rng(6)
    ball, brick = meshed(trimesh.creation.icosphere(4, 10.0)).positions, box(30, 20, 10).positions
    few = unpacked(outermost(ball))
    assert len(unpacked(outermost(brick))) == 8 and len(few) <= 256 and outermost(ball[:0]) == ""
    for way in random.normal(size=(50, 3)):
        way /= np.linalg.norm(way)
        assert 0 <= (ball @ way).max() - (few @ way).max() < 0.1


def test_findings_name_each_part_once_with_its_strongest_reason(as1: IntakeResult) -> None:
    assembly = as1.assembly
    scene = first_scene(assembly, "rev")
    parts = [part.uid for part in assembly.parts()]
    answer = SightAnswer(never=parts[:2], not_in_shot={"shot-1": parts[:5]})
    found = {finding.kind: finding.uids for finding in findings(assembly, scene, answer)}
    assert found == {"never visible": parts[:2], "in no shot": parts[2:5]}
    suppressed, _ = apply_edit(scene, SetStates(states=dict.fromkeys(parts[:2], "suppressed")), parts)
    found = {finding.kind: finding.uids for finding in findings(assembly, suppressed, answer)}
    assert found == {"in no shot": parts[2:5]}, "what was accepted is not offered again"


def test_in_the_public_assembly_only_true_hiding_is_reported(as1: IntakeResult) -> None:
    """A bolt's shank lies in its hole, but its head and end show: nothing of as1 is invisible from outside."""
    scene = first_scene(as1.assembly, "rev")
    mesh_of = lambda key: Mesh.from_bytes(as1.blobs[key].read_bytes())  # noqa: E731
    question = sight_question(as1.assembly, scene)
    assert answer_sight(question, mesh_of).never == []
    clear = SHELF["polycarbonate-clear"]
    plate = next(part.uid for part in as1.assembly.parts() if part.name == "plate")
    given = Assign(assignments={plate: clear.id}, define={clear.id: clear})
    changed = sight_question(as1.assembly, apply_edit(scene, given, [plate])[0])
    assert changed.key() != question.key() and next(p for p in changed.parts if p.uid == plate).clear


def test_a_model_faces_the_viewer_with_the_side_that_shows_most() -> None:
    from core.test_first_coat import built

    for side in (-1.0, 1.0):
        made = built([("Case", None, None), *[(f"Knob {k}", None, None) for k in range(6)]])
        meshes = {"d0": box(80, 40, 60)} | {f"d{k + 1}": box(6, 6, 6) for k in range(6)}
        for k, node in enumerate(made.occurrences[1:]):
            node.placement[3::4] = [-30.0 + 12 * k, side * 22.0, 5.0, 1.0]
        found = looked_at(made, meshes, three_quarter)
        assert found is not None
        assert found.azimuth in ((USUAL, -USUAL) if side < 0 else (180 + USUAL, 180 - USUAL))
        # The case hides no knob, and is most of what is seen.
        assert (
            len(found.shares) == 7 and max(found.shares, key=lambda uid: found.shares[uid]) == made.occurrences[0].uid
        )
