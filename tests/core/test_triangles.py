"""What is read of a hit, against Mitsuba's own shapes."""

from __future__ import annotations

import numpy as np
import pytest

from usual_lamp.core.camera import Camera
from usual_lamp.core.scene import Lighting
from usual_lamp.core.scene.resolution import TraceInputs
from usual_lamp.core.trace.engine import dr, mi
from usual_lamp.core.trace.plan import Tile
from usual_lamp.core.trace.transport.tiles import trace_block
from usual_lamp.core.trace.world.geometry import Piece, mesh_shape
from usual_lamp.core.trace.world.placements import shape_id
from usual_lamp.core.trace.world.triangles import Triangles
from usual_lamp.core.trace.world.world import World


def wavy(seed: int, mapped: bool) -> Piece:
    """A crumpled sheet with normals of its own."""
    random = np.random.default_rng(seed)
    x, y = np.meshgrid(np.linspace(-1, 1, 9), np.linspace(-1, 1, 9))
    positions = np.stack([x, y, random.uniform(-0.2, 0.2, x.shape) + seed], axis=2).reshape(-1, 3)
    normals = random.normal(size=positions.shape) * 0.3 + [0, 0, 1]
    normals /= np.linalg.norm(normals, axis=1, keepdims=True)
    first = (np.arange(8)[:, None] * 9 + np.arange(8)).ravel()
    faces = np.concatenate([np.stack([first, first + 1, first + 10], 1), np.stack([first, first + 10, first + 9], 1)])
    coordinates = (positions[:, :2] * [30, 20] + random.normal(size=(81, 2))).astype(np.float32) if mapped else None
    return Piece(positions.astype(np.float32), normals.astype(np.float32), faces.astype(np.uint32), coordinates)


def stock(piece: Piece) -> mi.Mesh:
    positions, normals, faces, coordinates, _ = piece
    mesh = mi.Mesh("m", len(positions), len(faces), has_vertex_normals=True, has_vertex_texcoords=True)
    params = mi.traverse(mesh)
    for name, values in (("positions", positions), ("normals", normals), ("texcoords", coordinates)):
        params[f"vertex_{name}"] = mi.Float(values.ravel())
    params["faces"] = mi.UInt32(faces.ravel())
    params.update()
    return mesh


def rays(count: int) -> mi.Ray3f:
    random = np.random.default_rng(7)
    origins = np.c_[random.uniform(-0.9, 0.9, (count, 2)), np.full(count, 6.0)]
    ways = np.c_[random.normal(size=(count, 2)) * 0.1, -np.ones(count)]
    return mi.Ray3f(mi.Point3f(origins.T.astype(np.float32)), dr.normalize(mi.Vector3f(ways.T.astype(np.float32))))


@pytest.mark.parametrize("renewed", [False, True])
def test_a_hit_is_what_mitsuba_says(renewed: bool) -> None:
    pieces = {f"sheet {k}": wavy(k, True) for k in range(4)}
    triangles = Triangles()
    triangles.hold([], pieces)
    if renewed:
        # What is left has moved up, what is new comes last.
        triangles.hold(["sheet 1", "sheet 3"], {"sheet 0": pieces["sheet 0"]})
    names = ["sheet 3", "sheet 0", "sheet 1"] if renewed else list(pieces)
    shapes = [mesh_shape(pieces[name]) for name in names]
    triangles.shown([shape_id(shape) for shape in shapes], names, {})
    scene = mi.load_dict({"type": "scene", **{f"s{k}": shape for k, shape in enumerate(shapes)}})
    other = mi.load_dict({"type": "scene", **{f"s{k}": stock(pieces[name]) for k, name in enumerate(names)}})
    ray = rays(4000)
    ours = triangles.at(scene.ray_intersect_preliminary(ray), mi.Bool(True), mapped=True)
    theirs = other.ray_intersect(ray)
    met = np.array(theirs.is_valid())
    assert met.mean() > 0.5 and (np.array(ours.is_valid()) == met).all()
    for name in ("t", "p", "n", "uv", "dp_du", "dp_dv"):
        a, b = (np.array(getattr(si, name))[..., met] for si in (ours, theirs))
        np.testing.assert_allclose(a, b, rtol=2e-4, atol=2e-4, err_msg=name)
    a, b = (np.array(si.sh_frame.n)[:, met] for si in (ours, theirs))
    np.testing.assert_allclose(a, b, atol=2e-4)


def test_a_world_without_anything_is_its_backdrop() -> None:
    bare = TraceInputs(
        parts=[], appearances=[], lighting=Lighting(floor=False), width=16, height=12,
        camera=Camera(position=(0, -90, 40), target=(0, 0, 0)), floor_height=0.0, center=(0.0, 0.0, 0.0), radius=30.0,
    )  # fmt: skip
    world = World(bare, lambda key: pytest.fail("nothing is to be read"))
    sums = trace_block(world, Tile(0, 0, 16, 12), 0, 2)[..., :3]
    top, bottom = (np.asarray(color, np.float32) for color in (world.behind.top, world.bottom))
    low, high = np.minimum(top, bottom) * 1.99, np.maximum(top, bottom) * 2.01
    assert (sums >= low).all() and (sums <= high).all()


def test_corners_of_a_piece() -> None:
    pieces = {k: wavy(k, False) for k in range(3)}
    triangles = Triangles()
    triangles.hold([], pieces)
    triangles.hold([2], {})
    assert triangles.names() == [2] and triangles.count([2]) == 128
    np.testing.assert_array_equal(triangles.corners(2), pieces[2].positions[pieces[2].triangles])
