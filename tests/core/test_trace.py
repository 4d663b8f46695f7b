"""The tracer against measured light: furnace, configuration factors, sampler, cutting of work, floor."""

import numpy as np
import pytest
from scipy.stats import qmc

from usual_lamp.core.appearance import Appearance, OpenPBR, hex_to_linear
from usual_lamp.core.assembly import Mesh
from usual_lamp.core.camera import Camera, Finish, exposure_scale
from usual_lamp.core.intake import IntakeResult
from usual_lamp.core.light import directions, irradiance, surroundings_map
from usual_lamp.core.light.surroundings import REFERENCE_EV
from usual_lamp.core.picture import Layers, develop
from usual_lamp.core.scene import Backdrop, Lighting, first_scene, trace_inputs
from usual_lamp.core.scene.resolution import DEFAULT_SHOT, TraceInputs, TracePart
from usual_lamp.core.trace import sampler
from usual_lamp.core.trace.engine import dr, mi
from usual_lamp.core.trace.plan import Tile, pass_after, passes, tiles
from usual_lamp.core.trace.transport.tiles import trace_block
from usual_lamp.core.trace.world.lights import EnvironmentMap
from usual_lamp.core.trace.world.world import World

IDENTITY = tuple(np.eye(4).ravel())


def sphere(radius: float = 10.0, n: int = 64) -> Mesh:
    theta, phi = np.meshgrid(np.linspace(0, np.pi, n), np.linspace(0, 2 * np.pi, 2 * n), indexing="ij")
    d = np.stack([np.sin(theta) * np.cos(phi), np.sin(theta) * np.sin(phi), np.cos(theta)], -1).reshape(-1, 3)
    i = np.arange(n * 2 * n).reshape(n, 2 * n)
    a, b, c, e = i[:-1, :-1], i[1:, :-1], i[1:, 1:], i[:-1, 1:]
    t = np.stack([a, b, c, a, c, e], -1).reshape(-1, 3)
    return mesh(d * radius, d, t)


def mesh(points, normals, triangles) -> Mesh:
    t = np.asarray(triangles, np.uint32)
    return Mesh(
        np.asarray(points, np.float32), np.asarray(normals, np.float32), t, np.array([[0, len(t)]], np.uint32),
        np.zeros((0, 2, 3), np.float32),
    )  # fmt: skip


def square(half: float, z: float = 0.0, down: bool = False) -> Mesh:
    p = [(-half, -half, z), (half, -half, z), (half, half, z), (-half, half, z)]
    t = [(0, 1, 2), (0, 2, 3)]
    return mesh(p, [(0, 0, -1.0 if down else 1.0)] * 4, [x[::-1] for x in t] if down else t)


def appearance(**params) -> Appearance:
    return Appearance(id="x", name="x", family="neutral", params=OpenPBR(**params))


def world(
    meshes: dict[str, Mesh], appearances: list[Appearance], camera: Camera, light, size=(16, 16), **lighting
) -> World:
    inputs = TraceInputs(
        parts=[TracePart(mesh=key, matrix=IDENTITY, appearance=i) for i, key in enumerate(meshes)],
        appearances=appearances,
        lighting=Lighting(floor=lighting.pop("floor", False), **lighting),
        camera=camera, width=size[0], height=size[1], floor_height=0.0, center=(0, 0, 0), radius=10.0,
    )  # fmt: skip
    return World(inputs, meshes.__getitem__, light)


def color(w: World, samples: int = 64) -> np.ndarray:
    size = (w.inputs.width, w.inputs.height)
    return trace_block(w, Tile(0, 0, *size), 0, samples, clamp=False)[..., :3] / samples


UNIFORM = np.full((32, 64, 3), 100.0, np.float32)
NEAR = Camera(position=(0, -60, 0), target=(0, 0, 0), focal_length=110)
LOOK_DOWN = Camera(position=(0, -0.01, 40), target=(0, 0, 0), focal_length=800)


def test_what_is_no_number_is_counted_and_counts_as_black() -> None:
    clean = world({"ball": sphere()}, [appearance()], NEAR, UNIFORM)
    color(clean, 16)
    assert clean.dropped == 0
    broken = UNIFORM.copy()
    broken[4:8, 10:20] = np.nan
    w = world({"ball": sphere()}, [appearance()], NEAR, broken)
    assert np.isfinite(color(w, 16)).all() and w.dropped > 0


@pytest.mark.parametrize("metalness", [0.0, 1.0])
@pytest.mark.parametrize("roughness", [0.05, 0.6])
def test_furnace_through_the_whole_tracer(metalness: float, roughness: float) -> None:
    """A white ball vanishes in uniform light, in its middle and towards its rim."""
    white = appearance(base_color=(1, 1, 1), base_metalness=metalness, specular_roughness=roughness)
    image = color(world({"ball": sphere()}, [white], NEAR, UNIFORM), 128)
    middle, rim = image[7:9, 7:9].mean(), image[7:9, 0:2].mean()
    assert middle == pytest.approx(100, rel=0.02)
    assert rim == pytest.approx(100, rel=0.03)


def test_clear_glass_ball_vanishes_in_uniform_light() -> None:
    glass = appearance(base_color=(1, 1, 1), transmission_weight=1.0, specular_roughness=0.0)
    level = hex_to_linear("#808080")[0] / exposure_scale(REFERENCE_EV)
    backdrop = Backdrop(kind="plain", bottom="#808080")
    image = color(world({"ball": sphere()}, [glass], NEAR, UNIFORM * (level / 100), backdrop=backdrop), 256)
    # Twelve bounces let a little of the light that is caught inside go missing.
    assert image[4:12, 4:12].mean() == pytest.approx(level, rel=0.025)


MATT = dict(base_color=(0.5, 0.5, 0.5), specular_weight=0.0)


def test_directional_light() -> None:
    """A far disc of half angle a at 60 degrees from the normal: E = π L sin² a cos θ while it is wholly in view
    (Howell's catalogue, element to sphere), and the matt surface sends back ρE/π."""
    light = np.zeros((512, 1024, 3), np.float32)
    towards = np.array([np.sin(np.radians(60)), 0, np.cos(np.radians(60))])
    light[directions(512) @ towards > np.cos(np.radians(10.0))] = 1e5
    expected = 0.5 * 1e5 * np.sin(np.radians(10.0)) ** 2 * 0.5
    assert 0.5 * irradiance(light, (0, 0, 1))[0] / np.pi == pytest.approx(expected, rel=0.01)
    image = color(world({"table": square(50)}, [appearance(**MATT)], LOOK_DOWN, light), 64)
    assert image.mean() == pytest.approx(expected, rel=0.02)


def test_disc_source_by_configuration_factor() -> None:
    """Irradiance below the centre of a parallel disc: E = π L R² / (R² + h²).

    Factor from a differential element to a coaxial parallel disc: J. R. Howell, A Catalog of Radiation Heat
    Transfer Configuration Factors, B-12.
    """
    radius, height = 20.0, 30.0
    phi = np.linspace(0, 2 * np.pi, 257)
    points = np.vstack([[0, 0, height], np.c_[radius * np.cos(phi), radius * np.sin(phi), np.full(257, height)]])
    fan = [(0, k + 2, k + 1) for k in range(256)]
    disc = mesh(points, [(0, 0, -1.0)] * len(points), fan)
    glow = appearance(base_color=(0, 0, 0), specular_weight=0, emission_luminance=1000.0)
    camera = Camera(position=(0, -0.01, 20), target=(0, 0, 0), focal_length=800)
    w = world({"table": square(60), "disc": disc}, [appearance(**MATT), glow], camera, UNIFORM * 0)
    expected = 0.5 * 1000.0 * radius**2 / (radius**2 + height**2)
    assert color(w, 256)[6:10, 6:10].mean() == pytest.approx(expected, rel=0.02)


def test_light_comes_through_a_clear_plate() -> None:
    """A thin clear plate above a matt table passes (1 - F)² of normal light, within the tolerance of oblique rays."""
    light = np.zeros((128, 256, 3), np.float32)
    light[:6] = 1e5
    bare = color(world({"table": square(50)}, [appearance(**MATT)], LOOK_DOWN, light), 64).mean()
    slab = mesh(
        np.vstack([square(50, 30).positions, square(50, 31).positions]),
        np.vstack([square(50, 30, True).normals, square(50).normals]),
        np.vstack([square(50, 0, True).triangles, square(50).triangles + 4]),
    )
    clear = appearance(base_color=(1, 1, 1), transmission_weight=1.0, specular_roughness=0.0)
    below = Camera(position=(0, -0.01, 20), target=(0, 0, 0), focal_length=800)
    covered = color(world({"table": square(50), "slab": slab}, [appearance(**MATT), clear], below, light), 256).mean()
    # A slab passes (1 - R) / (1 + R), inter-reflections included (Born and Wolf, 7.6); the table sends some back.
    assert covered / bare == pytest.approx((1 - 0.04) / (1 + 0.04), rel=0.04)


def test_empty_floor_is_the_backdrop() -> None:
    """Far from any part the floor sends back exactly what lies behind it, whatever the light."""
    backdrop = Backdrop(kind="plain", bottom="#C0B0A0")
    camera = Camera(position=(0, -200, 60), target=(0, -80, 0), focal_length=85)
    w = world({"ball": sphere(0.5)}, [appearance()], camera, None, (24, 16), floor=True, backdrop=backdrop)
    shown = color(w, 64) * exposure_scale(REFERENCE_EV)
    assert shown.mean(axis=(0, 1)) == pytest.approx(w.bottom * exposure_scale(REFERENCE_EV), rel=0.02)


@pytest.mark.parametrize("tone", ["neutral", "filmic", "linear"])
@pytest.mark.parametrize(("exposure", "brightness"), [(9.3, 1.0), (7.0, 1.0), (12.0, 0.3), (9.3, 4.0), (9.3, 0.0)])
def test_a_backdrop_has_its_colour_in_the_picture(tone: str, exposure: float, brightness: float) -> None:
    """Plain white, and a gradient over a floor that nothing shadows: to the last of 255 where nothing else is met."""
    look, size = Finish(exposure=exposure, tone=tone, white=5000.0), (24, 24)  # type: ignore[arg-type]
    away = Camera(position=(0, -200, 60), target=(0, -400, 60), focal_length=85)
    kinds = ({"kind": "plain", "bottom": "#FFFFFF"}, {"kind": "gradient", "bottom": "#E0C8A0", "top": "#204060"})
    for backdrop, below, above in zip(
        kinds, ((255, 255, 255), (224, 200, 160)), ((255, 255, 255), (32, 64, 96)), strict=True
    ):
        w = world({"ball": sphere(0.5)}, [appearance()], away, None, size, brightness=brightness, backdrop=backdrop)
        shown = developed(w, look, 4)
        np.testing.assert_allclose(shown[-1], np.tile(below, (24, 1)), atol=1)
        # A gradient begins above the middle of the first row.
        np.testing.assert_allclose(shown[0], np.tile(above, (24, 1)), atol=3)
        far = Camera(position=(0, -200, 60), target=(0, -80, 0), focal_length=85)
        backdrop = backdrop | {"kind": "plain"}
        w = world(
            {"ball": sphere(0.5)}, [appearance()], far, None, size, brightness=brightness, backdrop=backdrop, floor=True
        )
        assert np.abs(developed(w, look, 64).mean(axis=(0, 1)) - below).max() < 2.5


def developed(w: World, look: Finish, samples: int) -> np.ndarray:
    size = (w.inputs.width, w.inputs.height)
    return develop(Layers.from_sums(trace_block(w, Tile(0, 0, *size), 0, samples), samples), look).astype(float)


def test_a_floor_in_a_mirror_is_as_bright_as_the_scene() -> None:
    """Only what is seen straight is a colour of the picture: what chrome mirrors of it follows the brightness."""
    chrome = appearance(base_color=(1, 1, 1), base_metalness=1.0, specular_roughness=0.0)
    ball = sphere()
    ball.positions[:, 2] += 15.0
    camera = Camera(position=(0, -60, 20), target=(0, -9, 11), focal_length=800)
    light = [
        color(world({"ball": ball}, [chrome], camera, None, floor=True, brightness=b), 256).mean() for b in (1.0, 2.0)
    ]
    assert light[1] == pytest.approx(2 * light[0], rel=0.03)


def test_from_beneath_the_floor_hides_nothing() -> None:
    red = appearance(base_color=(0.8, 0.02, 0.02), specular_weight=0.0)
    camera = Camera(position=(0, -40, -90), target=(0, 0, 0), focal_length=85)
    parts = {"ball": sphere()}
    seen = color(world(parts, [red], camera, None, floor=True), 16)[7:9, 7:9].mean(axis=(0, 1))
    without = color(world(parts, [red], camera, None, floor=False), 16)[7:9, 7:9].mean(axis=(0, 1))
    assert seen[0] > 5 * seen[1] and seen == pytest.approx(without, rel=1e-3)


def test_sobol_is_the_published_sequence() -> None:
    """Unscrambled, the two dimensions are Sobol's first two (scipy's generator is the reference)."""
    index = dr.arange(mi.UInt32, 64)
    first = np.array(sampler.to_unit(dr.brev(index)))
    second = np.array(sampler.to_unit(dr.brev(sampler.sobol_second(index))))
    published = qmc.Sobol(2, scramble=False).random(64)
    assert {tuple(p) for p in np.stack([first, second], 1)} == {tuple(p) for p in published}


@pytest.mark.parametrize("pair", [0, 3])
def test_scrambled_points_fill_every_elementary_interval(pair: int) -> None:
    """A (0, m, 2)-net in base 2: one of 64 points in each of 64 boxes, for every shape of box."""
    n = 64
    p = sampler.point(dr.full(mi.UInt32, 99, n), dr.arange(mi.UInt32, n), dr.full(mi.UInt32, pair, n))
    x, y = np.array(p.x), np.array(p.y)
    for k in range(7):
        boxes = np.floor(x * 2**k) * 2 ** (6 - k) + np.floor(y * 2 ** (6 - k))
        assert len(np.unique(boxes)) == n


def test_sky_density_matches_its_samples() -> None:
    """The density integrates to one over the sphere, and weighs samples to the map's irradiance."""
    light = surroundings_map("panels", 256)
    sky = EnvironmentMap(light, 25.0)
    n = 1 << 16
    u = sampler.point(dr.full(mi.UInt32, 5, n), dr.arange(mi.UInt32, n), dr.zeros(mi.UInt32, n))
    uniform = mi.warp.square_to_uniform_sphere(u)
    assert np.mean(np.array(sky.density(uniform, mi.Bool(True)))) * 4 * np.pi == pytest.approx(1, abs=0.02)
    drawn = sky.sample(u, mi.Bool(True))
    # A sample on the border of a piece may be counted to its neighbour after rounding.
    again = np.array(sky.density(drawn.direction, mi.Bool(True)))
    assert np.mean(np.abs(np.array(drawn.density) / again - 1) < 0.01) > 0.999
    weight = dr.maximum(drawn.direction.z, 0) * drawn.radiance.y / drawn.density
    assert np.mean(np.array(weight)) == pytest.approx(irradiance(light, (0, 0, 1))[1], rel=0.01)


def test_work_may_be_cut_anyhow(as1: IntakeResult) -> None:
    """Tiles and sample ranges of any size add up to the same picture: samples are indexed, not drawn in turn."""
    scene = first_scene(as1.assembly, "rev")
    inputs = trace_inputs(as1.assembly, scene, scene.shots[DEFAULT_SHOT], (48, 36))
    w = World(inputs, lambda key: Mesh.from_bytes(as1.blobs[key].read_bytes()))
    whole = trace_block(w, Tile(0, 0, 48, 36), 0, 6)
    cut = np.zeros_like(whole)
    for tile in tiles(48, 36, 20):
        for start, stop in ((0, 1), (1, 4), (4, 6)):
            place = (slice(tile.y, tile.y + tile.height), slice(tile.x, tile.x + tile.width))
            cut[place] += trace_block(w, tile, start, stop)
    assert cut == pytest.approx(whole, rel=1e-4, abs=1e-3)
    assert whole[..., :3].std() > 10


def test_plan_covers_everything_once() -> None:
    cover = np.zeros((300, 500), int)
    for t in tiles(500, 300):
        cover[t.y : t.y + t.height, t.x : t.x + t.width] += 1
    assert (cover == 1).all()
    assert list(passes(20)) == [(0, 2), (2, 4), (4, 8), (8, 16), (16, 20)]
    assert list(passes(100, 32))[-3:] == [(32, 64), (64, 96), (96, 100)]
    for done in range(100):  # wherever an earlier version or another end left it
        start, stop = pass_after(done, 100, 32)
        assert start == done < stop <= 100 and stop - start <= 32
        assert not any(start < power < stop for power in (2, 4, 8, 16, 32, 64)), "each power of two ends one"
