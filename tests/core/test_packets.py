"""Rays are traced in packets, which skip what none of their rays needs: no ray may notice in which company it is."""

from dataclasses import dataclass

import numpy as np
import pytest

from core.test_layers import CAMERA, EVEN, SIZE, laid, still_life
from core.test_trace import UNIFORM, appearance, sphere, square, world
from usual_lamp.core.camera import Camera
from usual_lamp.core.picture import Layers
from usual_lamp.core.picture.develop import _on_floor
from usual_lamp.core.trace.engine import dr, in_this_scope, mi
from usual_lamp.core.trace.plan import Tile
from usual_lamp.core.trace.sampler import PixelSampler
from usual_lamp.core.trace.transport.interior import Interior
from usual_lamp.core.trace.transport.tiles import numbers_of, trace_pixels
from usual_lamp.core.trace.world.world import World

TOP = Camera(position=(0, 0, 100), target=(0, 0, 0), focal_length=90)
PRINT = np.random.default_rng(2).random((8, 8, 4)).astype(np.float32)


def clear_bodies() -> World:
    """Two balls of different glass that overlap, before a plate."""
    left, right = sphere(6.0, 24), sphere(6.0, 24)
    left.positions[:, 0] -= 4.0
    right.positions[:, 0] += 4.0
    meshes = {"left": left, "right": right, "plate": square(20.0, -8.0)}
    for shape in meshes.values():
        shape.positions[:, 2] += 10.0
    clear = {"transmission_weight": 1.0, "specular_roughness": 0.0, "base_color": (1, 1, 1)}
    wear = [
        appearance(specular_ior=1.3, **clear),
        appearance(specular_ior=1.6, transmission_color=(0.8, 0.9, 1.0), transmission_depth=5.0, **clear),
        appearance(base_color=(0.7, 0.2, 0.1)),
    ]
    return world(meshes, wear, CAMERA, EVEN, SIZE, floor=True)


def printed() -> World:
    """A sheet with a picture on half of it."""
    return laid(PRINT, appearance(base_color=(0.5, 0.5, 0.5)), TOP)


KINDS = {
    "plain": {},
    "metal": dict(base_metalness=1.0),
    "coat": dict(coat_weight=1.0),
    "glass": dict(transmission_weight=1.0, specular_roughness=0.0),
    "thin glass": dict(transmission_weight=1.0, geometry_thin_walled=True),
    "rough diffuse": dict(base_diffuse_roughness=0.8),
    "brushed": dict(base_metalness=1.0, specular_roughness_anisotropy=0.8),
    "film": dict(thin_film_weight=1.0),
    "fuzz": dict(fuzz_weight=0.8),
    "dense": dict(subsurface_weight=1.0, subsurface_radius=1.5),
    "cut out": dict(geometry_opacity=0.5),
    "glowing": dict(emission_luminance=500.0),
}


@pytest.mark.parametrize("kind", KINDS)
def test_each_kind_of_surface_alone_is_the_same_beside_the_floor(kind: str) -> None:
    """Packets that hold part and floor take both branches of the shading, those of one of them leave the other out.
    Which numbers both branches agree on differs by kind, and the kernel must be sound with each."""
    w = world({"ball": sphere(9.0, 16)}, [appearance(**KINDS[kind])], CAMERA, EVEN, (24, 18), floor=True)
    pixels = numbers_of(Tile(0, 0, 24, 18), 24)
    order = np.random.default_rng(5).permutation(len(pixels))
    together, mixed = (trace_pixels(w, some, 0, 4) for some in (pixels, pixels[order]))
    np.testing.assert_array_equal(mixed, together[order])
    assert w.dropped == 0 and together[:, :3].min() >= 0 and together[:, :3].std() > 0


@dataclass
class Found:
    """What both branches agree on, and what they do not."""

    same: mi.Color3f
    other: mi.Float
    none: mi.Float | None = None


def test_what_both_branches_agree_on_can_be_used_after_them() -> None:
    """Without `in_this_scope` the kernel does not compile, which ends the process."""
    x = dr.arange(mi.Float, 32)
    found = dr.if_stmt(
        (x,), x > 5, lambda x: Found(mi.Color3f(0.25), x + 1), lambda x: Found(mi.Color3f(0.25), -x), label="test"
    )
    found = in_this_scope(found)
    seen = dr.select(x > 2, found.same.y, found.other).numpy()
    np.testing.assert_array_equal(seen, [0, -1, -2] + [0.25] * 29)
    np.testing.assert_array_equal(found.other.numpy()[4:8], [-4, -5, 7, 8])


@pytest.mark.parametrize("made", [still_life, clear_bodies, printed])
def test_a_pixel_is_the_same_in_any_company(made) -> None:
    w = made()
    pixels = numbers_of(Tile(0, 0, w.inputs.width, w.inputs.height), w.inputs.width)
    order = np.random.default_rng(3).permutation(len(pixels))
    together, mixed = (trace_pixels(w, some, 0, 4) for some in (pixels, pixels[order]))
    assert together[:, :3].std() > 0
    np.testing.assert_array_equal(mixed, together[order])
    alone = [int(k) for k in order[:3]]
    for k in alone:
        np.testing.assert_array_equal(trace_pixels(w, pixels[k : k + 1], 0, 4)[0], together[k])


def test_a_chance_takes_no_pair_and_is_as_good_as_independent() -> None:
    count = 1 << 15
    sampler = PixelSampler(mi.UInt32(7), dr.arange(mi.UInt32, count))
    first, again = sampler.chance().numpy(), sampler.chance().numpy()
    np.testing.assert_array_equal(first, again)
    drawn = sampler.next_2d()
    later = sampler.chance().numpy()
    assert (sampler.pair.numpy() == 1).all()
    assert np.abs(np.histogram(first, 16, (0, 1))[0] / count - 1 / 16).max() < 0.006
    for other in (later, drawn.x.numpy(), drawn.y.numpy()):
        assert abs(np.corrcoef(first, other)[0, 1]) < 0.02


def test_the_index_around_a_ray_is_that_of_the_body_that_goes_before() -> None:
    table, on = clear_bodies().table, mi.Bool([True, True, True, True])
    bodies = [mi.UInt32([0, 1, 1, 2]), mi.UInt32([0, 0, 2, 0]), mi.UInt32([0, 0, 0, 1])]
    worn = [mi.UInt32([0, 0, 0, 1]), mi.UInt32([0, 0, 1, 0]), mi.UInt32([0, 0, 0, 0])]
    inside = Interior(bodies, worn)
    np.testing.assert_array_equal(inside.is_within_any().numpy(), [False, True, True, True])
    np.testing.assert_allclose(inside.ior(table, on).numpy(), [1.0, 1.3, 1.6, 1.6], rtol=1e-6)
    none = Interior.empty(4)
    np.testing.assert_array_equal(none.ior(table, on).numpy(), 1.0)


def test_white_is_what_the_light_gives_at_nominal_levels() -> None:
    """Even surroundings of 100 cd/m² make a white surface as bright as they are, however they are dimmed."""
    for brightness in (0.25, 1.0, 4.0):
        w = world({"ball": sphere()}, [appearance()], CAMERA, UNIFORM, brightness=brightness)
        assert float(w.lights.white[0]) == pytest.approx(100.0, rel=0.01)


@pytest.mark.parametrize("up", [(0, 0, 1), (0.6, 0, 0.8)])
def test_a_floor_is_known_by_its_normal_and_its_colour(up) -> None:
    """Mirroring or not; a part that faces up has another colour, and one of its colour faces elsewhere."""
    normal, albedo = np.tile(np.float32(up), (6, 8, 1)), np.full((6, 8, 3), 0.6, np.float32)
    alone = np.zeros((6, 8), bool)
    alone[:, :2] = True
    albedo[:, 4:6] = 0.3
    normal[:, 6:] = (0, 1, 0)
    color = np.ones_like(albedo)
    found = _on_floor(Layers(color, albedo, normal, color), alone)
    assert found[:, :4].all() and not found[:, 4:].any()
    nothing = _on_floor(Layers(color, albedo, normal * 0, color), alone)
    assert not nothing.any()


def test_a_repeated_picture_goes_on_far_away_as_it_is_here() -> None:
    near, far = (laid(PRINT, appearance(base_color=(0.5, 0.5, 0.5)), TOP, repeat=True).inputs for _ in range(2))
    use = far.parts[0].pictures[0].model_copy(update={"center": (-20.0 * 150, 10.0 * 300, 0.0)})
    far = far.model_copy(update={"parts": [far.parts[0].model_copy(update={"pictures": (use,)})]})
    seen = []
    for inputs in (near, far):
        w = World(inputs, lambda _: square(20.0), EVEN, lambda *_: PRINT)
        seen.append(trace_pixels(w, numbers_of(Tile(0, 0, 40, 40), 40), 0, 16)[:, 3:6] / 16)
    assert seen[0].std() > 0.05
    assert np.abs(seen[0] - seen[1]).mean() < 0.01
