"""Edges that are rounded for the light, against bodies that are rounded indeed."""

from __future__ import annotations

import numpy as np
import pytest
from scipy.spatial.transform import Rotation

from core.test_contacts import turned
from core.test_trace import appearance
from usual_lamp.core.assembly import Mesh
from usual_lamp.core.assembly.sharp_edges import sharp_edges
from usual_lamp.core.camera import Camera
from usual_lamp.core.scene import Lighting
from usual_lamp.core.scene.resolution import TraceInputs, TracePart
from usual_lamp.core.trace.jobs.survey import survey
from usual_lamp.core.trace.plan import Tile
from usual_lamp.core.trace.transport.tiles import trace_block
from usual_lamp.core.trace.world.world import World

RADIUS, SIZE = 1.0, (160, 8)
IDENTITY = tuple(np.eye(4).ravel())


def prism(profile: list[tuple[np.ndarray, np.ndarray]], half: float = 30.0) -> Mesh:
    """Faces swept along y: each is points and normals (N, 2) in x and z, counter-clockwise seen against y."""
    points, normals, triangles, ranges = [], [], [], []
    for places, ways in profile:
        first, start = sum(map(len, points)), len(triangles)
        for y in (-half, half):
            points.append(np.insert(places, 1, y, axis=1))
            normals.append(np.insert(ways, 1, 0.0, axis=1))
        count = len(places)
        for k in range(count - 1):
            a, b, c, d = first + k, first + k + 1, first + count + k + 1, first + count + k
            triangles += [(a, c, b), (a, d, c)]
        ranges.append((start, len(triangles) - start))
    return Mesh(
        np.concatenate(points).astype(np.float32), np.concatenate(normals).astype(np.float32),
        np.array(triangles, np.uint32), np.array(ranges, np.uint32), np.zeros((0, 2, 3), np.float32),
    )  # fmt: skip


def flat(start: tuple[float, float], end: tuple[float, float]) -> tuple[np.ndarray, np.ndarray]:
    way = np.subtract(end, start) / np.linalg.norm(np.subtract(end, start))
    return np.array([start, end], float), np.tile([way[1], -way[0]], (2, 1))


def sharp() -> Mesh:
    """Two sides of 20 mm that meet at a right angle in (0, 0), the outside towards +x and +z."""
    return prism([flat((0, -20), (0, 0)), flat((0, 0), (-20, 0))])


def filleted() -> Mesh:
    """The same with a cylinder of RADIUS in between."""
    turn = np.linspace(0, np.pi / 2, 33)
    ways = np.stack([np.cos(turn), np.sin(turn)], axis=1)
    return prism([flat((0, -20), (0, -RADIUS)), (ways * RADIUS - RADIUS, ways), flat((-RADIUS, 0), (-20, 0))])


def world(mesh: Mesh, rounding: float, **params: object) -> World:
    """Seen along the bisector of the edge, 2 mm wide, the edge upright in the picture."""
    lens = Camera(position=(30, 0, 30), target=(0, 0, 0), focal_length=36 * 30 * 2**0.5 / 2, parallel=True, roll=90.0)
    inputs = TraceInputs(
        parts=[TracePart(mesh="m", matrix=IDENTITY, appearance=0)],
        appearances=[appearance(**params)], lighting=Lighting(floor=False), camera=lens,
        width=SIZE[0], height=SIZE[1], floor_height=-50.0, center=(0, 0, 0), radius=10.0, rounding=rounding,
    )  # fmt: skip
    light = np.full((32, 64, 3), 20.0, np.float32)
    light[12:15] = 900.0  # low over the horizon, where neither side mirrors it to the camera
    return World(inputs, {"m": mesh}.__getitem__, light)


def test_normals_across_the_edge_are_those_of_the_cylinder() -> None:
    edge = survey(world(sharp(), RADIUS), Tile(0, 0, *SIZE)).normal[SIZE[1] // 2]
    true = survey(world(filleted(), 0.0), Tile(0, 0, *SIZE)).normal[SIZE[1] // 2]
    assert edge.shape == true.shape == (SIZE[0], 3)
    angles = np.degrees(np.arccos(np.clip(np.einsum("ij,ij->i", edge, true), -1, 1)))
    assert np.ptp(np.degrees(np.arctan2(true[:, 2], true[:, 0]))) == pytest.approx(90, abs=0.1)
    assert angles.max() < 3.0 and np.median(angles) < 0.5


def test_its_highlight_is_as_wide_as_on_the_cylinder() -> None:
    metal = {"base_metalness": 1.0, "base_color": (0.9, 0.9, 0.9), "specular_roughness": 0.15}

    def across(w: World) -> np.ndarray:
        return trace_block(w, Tile(0, 0, *SIZE), 0, 128)[..., 1].mean(axis=0) / 128

    edge, true, bare = (
        across(world(sharp(), RADIUS, **metal)),
        across(world(filleted(), 0.0, **metal)),
        across(world(sharp(), 0.0, **metal)),
    )

    def width(light: np.ndarray) -> int:
        return int((light > 250).sum())

    assert width(true) > 8
    assert width(edge) == pytest.approx(width(true), abs=3)
    assert width(bare) == 0


def test_blends_grooves_and_ends_stay_as_they_are() -> None:
    mesh = filleted()
    assert len(sharp_edges(mesh, mesh.positions, mesh.normals).rows) == 0
    groove = sharp()
    turned_in = Mesh(
        groove.positions, -groove.normals, groove.triangles[:, ::-1].copy(), groove.face_ranges, groove.edges
    )
    assert len(sharp_edges(turned_in, turned_in.positions, turned_in.normals).rows) == 0
    both = sharp_edges(groove, groove.positions, groove.normals)
    assert len(both.rows) == 2 and (both.around >= 0).sum(axis=1).max() == 1


def box(side: float = 10.0) -> Mesh:
    """Six faces of their own, outwards."""
    points, normals, triangles = [], [], []
    for axis in range(3):
        for sign in (-1.0, 1.0):
            u, v = np.eye(3)[(axis + 1) % 3], np.eye(3)[(axis + 2) % 3]
            middle, first = sign * np.eye(3)[axis], len(points)
            points += [middle + a * u + b * v for a, b in ((-1, -1), (1, -1), (1, 1), (-1, 1))]
            normals += [middle] * 4
            flat = [(0, 1, 2), (0, 2, 3)] if sign > 0 else [(0, 2, 1), (0, 3, 2)]
            triangles += [tuple(first + k for k in one) for one in flat]
    return Mesh(
        (np.array(points) * side / 2).astype(np.float32), np.array(normals, np.float32),
        np.array(triangles, np.uint32), np.array([(2 * k, 2) for k in range(6)], np.uint32),
        np.zeros((0, 2, 3), np.float32),
    )  # fmt: skip


@pytest.mark.parametrize("mirrored", [False, True])
def test_a_box_has_twelve_edges_however_it_stands(mirrored: bool) -> None:
    mesh, turn = box(), Rotation.random(random_state=3).as_matrix()
    if mirrored:
        turn[:, 0] *= -1
    found = sharp_edges(mesh, (mesh.positions @ turn.T).astype(np.float32), (mesh.normals @ turn.T).astype(np.float32))
    assert len(found.rows) == 24, "each from both sides"
    assert found.rows[:, 3] == pytest.approx(10, abs=1e-4), "as long as the box"
    assert found.rows[:, 7] == pytest.approx(0.8, rel=1e-3), "a share of its own side"
    # Each of the two triangles of a face lies at its own two sides, and its corners at the other two.
    assert ((found.around >= 0).sum(axis=1) == 4).all()
    ends = found.rows[:, :3] + found.rows[:, 4:7] * found.rows[:, 3:4]
    corners = (mesh.positions @ turn.T).astype(np.float32)
    assert np.linalg.norm(ends[:, None] - corners[None], axis=2).min(axis=1).max() < 1e-3


def test_at_a_corner_of_three_edges_the_normal_looks_outwards() -> None:
    lens = Camera(position=(30, 30, 30), target=(5, 5, 5), focal_length=36 * 25 * 3**0.5 / 3, parallel=True)
    w = world(box(), 0.4)
    w.change(w.inputs.model_copy(update={"camera": lens, "width": 32, "height": 32}))
    normal = survey(w, Tile(0, 0, 32, 32)).normal
    out = np.full(3, 3**-0.5)
    assert normal[16, 16] @ out > np.cos(np.radians(12))
    # Towards the middle of a side it is that side's.
    assert max(normal[2, 16].max(), normal[29, 16].max()) > 0.999


def test_a_round_rim_has_no_facets() -> None:
    """The edge of a disc of 24 flat sides, whose normals are those of the cylinder: it turns evenly all round."""
    disc = turned(0, 10, -4, 0, 24)
    rows = sharp_edges(disc, disc.positions, disc.normals).rows
    top = rows[np.abs(rows[:, 2]) < 1e-6]
    assert len(top) == 48
    from_above = top[np.abs(top[:, 10]) < 1e-6]
    assert len(from_above) == 24
    one, two = from_above[:, 8:11], from_above[:, 12:15]
    assert np.degrees(np.arccos((one * two).sum(axis=1))) == pytest.approx(15, abs=0.01)
    # Where one segment ends the next begins, with the same normal beyond.
    ends = from_above[:, :3] + from_above[:, 4:7] * from_above[:, 3:4]
    for place, normal in zip(ends, two, strict=True):
        nearest = np.linalg.norm(np.concatenate([from_above[:, :3], ends]) - place, axis=1)
        meets = np.concatenate([one, two])[nearest < 1e-4]
        assert len(meets) >= 2 and (meets @ normal > 0.99999).all()


def test_a_width_of_nothing_and_none_are_the_same() -> None:
    bare, worn = world(sharp(), 0.0), world(sharp(), RADIUS)
    worn.change(worn.inputs.model_copy(update={"rounding": 0.0}))
    assert worn.has_rounding and not bare.has_rounding
    tile = Tile(0, 0, *SIZE)
    np.testing.assert_allclose(survey(worn, tile).normal, survey(bare, tile).normal, atol=1e-6)
    held = worn.triangles.vertices
    worn.change(worn.inputs.model_copy(update={"rounding": 0.5}))
    assert worn.triangles.vertices is held, "another width reads nothing anew"
