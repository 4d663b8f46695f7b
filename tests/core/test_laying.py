"""Pictures laid by hand: their size and place against closed forms, one pattern across parts, undone and refused."""

from __future__ import annotations

import numpy as np
import pytest
from pydantic import ValidationError

from core.test_trace import mesh, square
from core.test_unwrapping import stretches, turned
from usual_lamp.core.appearance import SHELF
from usual_lamp.core.assembly.laying import Laid, laid
from usual_lamp.core.scene import (
    Assign,
    EditRefused,
    Laying,
    LayPictures,
    ReplaceAppearance,
    apply_edit,
    first_scene,
    trace_inputs,
)
from usual_lamp.core.scene.resolution import DEFAULT_SHOT

STILL = (1.0, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0)


def shifted(x: float, y: float, z: float = 0.0) -> tuple[float, ...]:
    return (1.0, 0, 0, x, 0, 1, 0, y, 0, 0, 1, z)


def test_round_an_axis_a_cylinder_has_its_circumference() -> None:
    tube = turned(lambda z: 8.0 + 0 * z, lambda z: 0 * z)
    found = laid(tube, Laid("cylinder", STILL, 8.0))
    assert found.coordinates is not None
    assert np.ptp(found.coordinates, axis=0) == pytest.approx([2 * np.pi * 8, 30], rel=2e-3)
    # A chord is shorter than its arc by θ²/24.
    values = stretches(found)
    assert values.max() < 1.001 and values.min() > 0.999
    # At twice the radius everything is twice as wide, and no taller.
    wide = laid(tube, Laid("cylinder", STILL, 16.0))
    assert wide.coordinates is not None
    np.testing.assert_allclose(np.ptp(wide.coordinates, axis=0), [2 * np.pi * 16, 30], rtol=2e-3)


def test_along_one_direction_it_is_a_projection() -> None:
    tilted = square(10.0)
    c, s = np.cos(np.pi / 3), np.sin(np.pi / 3)
    about_y = (c, 0, s, 0, 0, 1, 0, 0, -s, 0, c, 0)
    found = laid(tilted, Laid("plane", about_y))
    assert found.coordinates is not None
    # Seen at 60 degrees, half as wide.
    np.testing.assert_allclose(np.ptp(found.coordinates, axis=0), [10, 20], atol=1e-4)


def test_a_part_that_is_placed_stretched_wears_true_millimetres() -> None:
    """A mesh file's node may be twice as wide: so is what lies on it, in the review's mm."""
    found = laid(square(10.0), Laid("box", (2.0, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0)))
    assert found.coordinates is not None
    np.testing.assert_allclose(np.ptp(found.coordinates, axis=0), [40, 20], atol=1e-4)


def test_from_six_sides_a_box_is_not_stretched_nor_mirrored() -> None:
    corners = np.array([[x, y, z] for x in (-5, 5) for y in (-5, 5) for z in (-5, 5)], float)
    quads = [(0, 1, 3, 2), (4, 6, 7, 5), (0, 4, 5, 1), (2, 3, 7, 6), (0, 2, 6, 4), (1, 5, 7, 3)]
    points = np.concatenate([corners[list(quad)] for quad in quads])
    normals = np.repeat([np.sign(corners[list(quad)].sum(axis=0)) for quad in quads], 4, axis=0)
    triangles = [(4 * k + a, 4 * k + b, 4 * k + c) for k in range(6) for a, b, c in ((0, 1, 2), (0, 2, 3))]
    found = laid(mesh(points, normals, np.array(triangles)), Laid("box", STILL))
    np.testing.assert_allclose(stretches(found), 1.0, atol=1e-5)
    assert found.coordinates is not None
    p, q = found.positions[found.triangles].astype(float), found.coordinates[found.triangles].astype(float)
    outside = np.einsum(
        "ij,ij->i", np.cross(p[:, 1] - p[:, 0], p[:, 2] - p[:, 0]), found.normals[found.triangles[:, 0]]
    )
    e, f = q[:, 1] - q[:, 0], q[:, 2] - q[:, 0]
    assert (np.sign(e[:, 0] * f[:, 1] - e[:, 1] * f[:, 0]) == np.sign(outside)).all(), "letters can be read"


def test_one_frame_goes_on_across_parts() -> None:
    """Two squares side by side meet at their common edge with the same coordinates."""
    left = laid(square(10.0), Laid("plane", shifted(0, 0)))
    right = laid(square(10.0), Laid("plane", shifted(20, 0)))
    edge = lambda found, x: sorted(  # noqa: E731
        map(tuple, found.coordinates[np.isclose(found.positions[:, 0], x)].tolist())
    )
    assert edge(left, 10.0) == edge(right, -10.0) != []


@pytest.fixture(scope="module")
def scene(as1):
    return first_scene(as1.assembly, "rev", (640, 480))


def test_laying_is_given_taken_over_and_undone(as1, scene) -> None:
    uids = {node.uid for node in as1.assembly.occurrences}
    one, two, three = [part.uid for part in as1.assembly.parts()][:3]
    walnut = SHELF["walnut-oiled"] if "walnut-oiled" in SHELF else next(a for a in SHELF.values() if a.textures)
    dressed, _ = apply_edit(scene, Assign(assignments={one: walnut.id}, define={walnut.id: walnut}), uids)
    first = LayPictures(layings={"a": Laying(kind="box", parts={one: STILL, two: STILL})})
    laid_once, back = apply_edit(dressed, first, uids)
    assert apply_edit(laid_once, back, uids)[0] == dressed
    second = LayPictures(layings={"b": Laying(kind="plane", parts={two: STILL, three: shifted(1, 2)})})
    twice, back = apply_edit(laid_once, second, uids)
    layings = twice.looks["standard"].layings
    assert set(layings["a"].parts) == {one} and set(layings["b"].parts) == {two, three}
    assert apply_edit(twice, back, uids)[0] == laid_once
    inputs = trace_inputs(as1.assembly, twice, twice.shots[DEFAULT_SHOT])
    assert [part.laid.kind if part.laid else None for part in inputs.parts[:4]] == ["box", "plane", "plane", None]
    # Another appearance lies as the first one did.
    replaced, _ = apply_edit(twice, ReplaceAppearance(old=walnut.id, new=SHELF["brass-turned"]), uids)
    assert replaced.looks["standard"].layings == layings


def test_laying_that_cannot_be_is_refused(scene, as1) -> None:
    uids = {node.uid for node in as1.assembly.occurrences}
    one = next(as1.assembly.parts()).uid
    with pytest.raises(ValidationError, match="flatten"):
        Laying(kind="box", parts={one: (0.0, *STILL[1:])})
    with pytest.raises(EditRefused, match="not in this review"):
        apply_edit(scene, LayPictures(layings={"a": Laying(kind="box", parts={"nobody": STILL})}), uids)
    both = {key: Laying(kind="box", parts={one: STILL}) for key in "ab"}
    with pytest.raises(EditRefused, match="one laying"):
        apply_edit(scene, LayPictures(layings=both), uids)
