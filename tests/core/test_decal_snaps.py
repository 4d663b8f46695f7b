"""What a moved decal stops at: known from the STEP file, from plain sums, and by hand."""

from __future__ import annotations

import numpy as np
import pytest

from core.test_decals import decal, tube
from core.test_trace import square
from usual_lamp.core.assembly import Mesh
from usual_lamp.core.scene import Decal
from usual_lamp.core.scene.decal_placing import placed, spot_facing
from usual_lamp.core.scene.decal_snaps import SnapLine, snaps


def at(lines: list[SnapLine], what: str) -> list[float]:
    return sorted(line.at for line in lines if line.what == what)


def test_middles_of_holes_are_where_the_file_puts_the_bolts(as1) -> None:
    """The plate of a public assembly: six bolts stand in it, placed by its STEP file."""
    plate = next(part for part in as1.assembly.parts() if part.name == "plate")
    matrix = as1.assembly.world[plate.uid]
    mesh = Mesh.from_bytes(as1.blobs[as1.assembly.definition_of(plate).mesh].read_bytes())
    face, point, normal = spot_facing(mesh, matrix, matrix[:3, 2])
    lies = placed(mesh, face, matrix, point, normal, matrix[:3, 1], 2.0)
    laid = decal(plate.uid, **{key: value for key, value in lies.items() if key != "wrap"})
    found = snaps(mesh, face, laid, [])
    bolts = [part for part in as1.assembly.parts() if part.name == "bolt"]
    boxes = np.stack(as1.assembly.boxes(bolts)).mean(axis=0)
    local = (np.linalg.inv(matrix) @ np.c_[boxes, np.ones(len(boxes))].T).T[:, :3] - np.array(laid.center)
    for lines, way in ((found.across, laid.right), (found.along, laid.up)):
        assert len(bolts) == 6 and at(lines, "middle of a round edge") == pytest.approx(sorted(local @ way), abs=1e-2)
    low, high = (np.array(end) for end in as1.assembly.definition_of(plate).bounds)
    ends = at(found.across, "edge of the face")
    assert ends[1] - ends[0] == pytest.approx(abs((high - low) @ laid.right), abs=1e-3)


def label(x: float, y: float, name: str = "Label", **more) -> Decal:
    return decal("p", center=(x, y, 0), width=10.0, height=4.0, name=name, **more)


def test_other_decals_lend_their_middles_edges_and_an_even_spacing() -> None:
    moved = label(1, 2, "moved")
    others = [label(-30, 2, "A"), label(-10, 2, "B", turn=90.0), label(0, 0, "off", on=False), label(0, 0, "back")]
    others[3] = others[3].model_copy(update={"up": (0, -1, 0)})
    found = snaps(square(50.0), 0, moved, others)
    assert at(found.across, "middle of A") == [-31.0] and at(found.along, "middle of A") == [0.0]
    assert at(found.across, "edge of A") == [-36.0, -26.0]
    assert at(found.across, "edge of B") == [-13.0, -9.0], "it stands on its end"
    assert at(found.across, "even spacing") == [-51.0, -21.0, 9.0]
    assert not at(found.along, "even spacing"), "they lie in a row, not over each other"
    assert not [line for line in found.across if "off" in line.what or "back" in line.what]


def test_round_a_cylinder_all_is_measured_by_arc_length() -> None:
    radius = 15.0
    body = tube(radius, 40.0)

    def wrapped(angle: float, z: float, name: str) -> Decal:
        out = np.array([np.sin(angle), -np.cos(angle), 0.0])
        right = np.cross([0.0, 0.0, 1.0], out)
        lies = dict(center=tuple(radius * out + [0, 0, z]), right=tuple(right), up=(0, 0, 1), width=6.0, height=3.0)
        return decal("p", name=name, wrap={"radius": radius, "along": "up"}, **lies)

    found = snaps(body, 0, wrapped(0.0, 5.0, "moved"), [wrapped(1.2, 9.0, "A")])
    assert at(found.across, "middle of A") == [pytest.approx(1.2 * radius, abs=1e-3)]
    assert at(found.across, "edge of A") == pytest.approx([1.2 * radius - 3, 1.2 * radius + 3], abs=1e-3)
    low, high = body.positions[:, 2].min(), body.positions[:, 2].max()
    assert at(found.along, "edge of the face") == pytest.approx([low - 5, high - 5], abs=1e-3)
    assert at(found.along, "middle of A") == [4.0]


def placed_at(lines: list[SnapLine], shift: float = 0.0, sign: float = 1.0) -> list[tuple[float, str, str]]:
    return sorted((round(sign * line.at + shift, 3), line.of, line.what) for line in lines)


@pytest.mark.parametrize("turn", [0.0, 37.0, 90.0])
def test_lines_stay_where_they_are_while_the_decal_moves_and_turns(turn: float) -> None:
    others = [label(-30, 2, "A"), label(-12, 3, "B")]
    here = snaps(square(50.0), 0, label(0, 0, turn=turn), others)
    there = snaps(square(50.0), 0, label(7, -4), others)
    assert placed_at(here.across) == placed_at(there.across, 7.0)
    assert placed_at(here.along) == placed_at(there.along, -4.0)


def test_a_decal_that_stands_on_its_head_sees_them_the_other_way() -> None:
    others = [label(-30, 2, "A")]
    upright = snaps(square(50.0), 0, label(3, 1), others)
    headlong = label(3, 1).model_copy(update={"right": (-1, 0, 0), "up": (0, -1, 0)})
    flipped = snaps(square(50.0), 0, headlong, others)
    assert placed_at(flipped.across, sign=-1.0) == placed_at(upright.across)
    assert placed_at(flipped.along, sign=-1.0) == placed_at(upright.along)


def test_only_what_lies_in_the_same_plane_lends_lines() -> None:
    behind = label(5, 5, "behind").model_copy(update={"center": (5.0, 5.0, -40.0)})
    leaning = label(6, 6, "leaning").model_copy(update={"up": (0.0, 0.8, 0.6)})
    elsewhere = label(7, 7, "elsewhere").model_copy(update={"part": "q"})
    waiting = label(8, 8, "waiting", waits=True)
    found = snaps(square(50.0), 0, label(0, 0), [behind, leaning, elsewhere, waiting])
    assert {line.what for line in [*found.across, *found.along]} == {"middle of the face", "edge of the face"}
    with pytest.raises(IndexError):
        snaps(square(50.0), 3, label(0, 0), [])
