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
