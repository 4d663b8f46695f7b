"""Edges that are rounded for the light, against bodies that are rounded indeed."""

from __future__ import annotations

import numpy as np
import pytest

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
