"""Sources of simple shape by handbook factors, the way of light through a slab, what the clamp on fireflies costs."""

import numpy as np
import pytest

from core.test_against_references import slab
from core.test_layers import ALL, still_life
from core.test_trace import MATT, UNIFORM, appearance, color, mesh, sphere, square, world
from usual_lamp.core.appearance import hex_to_linear
from usual_lamp.core.camera import FILM_WIDTH, Camera, exposure_scale
from usual_lamp.core.light.surroundings import REFERENCE_EV
from usual_lamp.core.trace.transport import integrator
from usual_lamp.core.trace.transport.tiles import trace_block

DARK = UNIFORM * 0
BELOW = Camera(position=(0, -0.01, 15), target=(0, 0, 0), focal_length=800)
GLOW = appearance(base_color=(0, 0, 0), specular_weight=0, emission_luminance=1000.0)


def lit_by(source) -> float:
    """Luminance of a matt table of albedo 0.5 in the middle under a source of 1000 cd/m²."""
    w = world({"table": square(60), "source": source}, [appearance(**MATT), GLOW], BELOW, DARK)
    return float(color(w, 1024)[6:10, 6:10].mean())


def test_rectangle_source_by_configuration_factor() -> None:
    """Element below a corner of a parallel rectangle a x b at height h (J. R. Howell, A Catalog of Radiation Heat
    Transfer Configuration Factors, B-4), four of which meet above the middle."""
    a, b, h = 18.0, 10.0, 24.0
    p = [(-a, -b, h), (a, -b, h), (a, b, h), (-a, b, h)]
    source = mesh(p, [(0, 0, -1.0)] * 4, [(0, 2, 1), (0, 3, 2)])
    x, y = a / h, b / h
    factor = (
        x / np.hypot(1, x) * np.arctan(y / np.hypot(1, x)) + y / np.hypot(1, y) * np.arctan(x / np.hypot(1, y))
    ) / (2 * np.pi)
    assert lit_by(source) == pytest.approx(0.5 * 1000.0 * 4 * factor, rel=0.02)


def test_sphere_source_by_configuration_factor() -> None:
    """Element that faces a sphere of radius r whose centre is at distance h: (r / h)² (Howell, B-18)."""
    r, h = 6.0, 30.0
    source = sphere(r, 96)
    source.positions[:, 2] += h
    assert lit_by(source) == pytest.approx(0.5 * 1000.0 * (r / h) ** 2, rel=0.02)


@pytest.mark.parametrize("angle", [30.0, 60.0])
def test_a_slab_moves_what_lies_behind_it(angle: float) -> None:
    """Sideways by d sin θ (1 - cos θ / (n cos θ')) with sin θ = n sin θ' (Snell; E. Hecht, Optics, section 4.7)."""
    d, n, theta = 8.0, 1.5, np.radians(angle)
    direction = np.array([0, -np.sin(theta), np.cos(theta)])
    camera = Camera(position=tuple(direction * 100), target=(0, 0, 0), focal_length=FILM_WIDTH / 2 / 0.1, parallel=True)
    speck = square(1.0, -1.0)
    clear = appearance(base_color=(1, 1, 1), transmission_weight=1.0, specular_roughness=0.0, specular_ior=n)
    places = []
    for meshes, wear in (({"speck": speck}, [GLOW]), ({"speck": speck, "slab": slab(d)}, [GLOW, clear])):
        w = world(meshes, wear, camera, DARK, (64, 64), backdrop={"kind": "plain", "bottom": "#000000"})
        rows = color(w, 64)[..., 1].sum(axis=1)
        places.append((rows * np.arange(64)).sum() / rows.sum())
    inner = np.arcsin(np.sin(theta) / n)
    moved = d * np.sin(theta) * (1 - np.cos(theta) / (n * np.cos(inner)))
    assert abs(places[1] - places[0]) * 20.0 / 64 == pytest.approx(moved, abs=0.08)


def test_the_clamp_on_fireflies_keeps_the_mean() -> None:
    """Within half a percent of the same samples without it, in a scene with a lamp beside glass and metal."""
    w = still_life()
    held, free = (trace_block(w, ALL, 0, 512, clamp=clamp)[..., :3].mean() for clamp in (True, False))
    assert held <= free and held == pytest.approx(free, rel=0.005)


def test_light_that_is_asked_for_by_chance_keeps_the_mean(monkeypatch) -> None:
    """Also where far more of it is than by default: within a percent, though single pictures differ."""
    w, found = still_life(), []
    for hardly_seen in (1e-9, 1.0):
        monkeypatch.setattr(integrator, "HARDLY_SEEN", hardly_seen)
        found.append(trace_block(w, ALL, 0, 512)[..., :3] / 512)
    asked, by_chance = found
    assert (asked != by_chance).any(axis=2).mean() > 0.2
    assert by_chance.mean() == pytest.approx(asked.mean(), rel=0.01)


def test_clear_walls_are_no_bounces_to_the_clamp() -> None:
    """A lamp of 100,000 cd/m² behind 4 mm of glass: seen through both of its walls, less what they mirror, which is
    1 - (1 - r) / (1 + r) with r = ((n - 1) / (n + 1))² (E. Hecht, Optics, section 4.6, summed over all reflections)."""
    lamp = appearance(base_color=(0, 0, 0), specular_weight=0, emission_luminance=100_000.0)
    clear = appearance(base_color=(1, 1, 1), transmission_weight=1.0, specular_roughness=0.0, specular_ior=1.5)
    w = world({"lamp": square(30, -1.0), "slab": slab(4.0)}, [lamp, clear], BELOW, DARK)
    held, free = (trace_block(w, ALL, 0, 256, clamp=clamp)[4:12, 4:12, :3].mean() / 256 for clamp in (True, False))
    r = (0.5 / 2.5) ** 2
    assert free == pytest.approx(100_000.0 * (1 - r) / (1 + r), rel=0.005)
    assert held == pytest.approx(free, rel=0.005)


def test_the_clamp_holds_what_was_scattered_twice() -> None:
    """A small lamp that shines upwards: its light comes to the floor by the ceiling alone."""
    lamp = appearance(base_color=(0, 0, 0), specular_weight=0, emission_luminance=1e6)
    shaded = square(0.5, 19.7)
    shaded.positions[:, 0] += 5.0
    room = {"floor": square(30), "ceiling": square(30, 20.0, down=True), "lamp": shaded}
    w = world(room, [appearance(**MATT), appearance(**MATT), lamp], BELOW, DARK)
    held, free = (trace_block(w, ALL, 0, 256, clamp=clamp)[..., :3].mean() / 256 for clamp in (True, False))
    assert 0 < held < 0.7 * free


@pytest.mark.parametrize("panes", [4, 10])
def test_light_comes_through_many_clear_walls(panes: int) -> None:
    """Panes that hardly bend or mirror light leave a matt floor of albedo 0.5 in even light at half that light."""
    clear = appearance(base_color=(1, 1, 1), transmission_weight=1.0, specular_roughness=0.0, specular_ior=1.0001)
    meshes, wear = {"table": square(60)}, [appearance(**MATT)]
    for k in range(panes):
        pane = slab(0.2)
        pane.positions[:, 2] += 1.0 + k * 0.5
        meshes[f"pane {k}"], wear = pane, [*wear, clear]
    image = color(world(meshes, wear, BELOW, UNIFORM), 256)[5:11, 5:11]
    assert image.mean() == pytest.approx(50.0, rel=0.02)


def test_a_walk_leaves_an_open_shell_by_its_hole() -> None:
    """Half a shell of a white, dense body in even light: what goes in comes out, by the wall or by the opening."""
    milky = appearance(
        specular_weight=0.0, subsurface_weight=1.0, subsurface_radius_scale=(1, 1, 1), subsurface_radius=2.0,
        subsurface_color=(0.999, 0.999, 0.999),
    )  # fmt: skip
    whole = sphere()
    above = whole.positions[whole.triangles].min(axis=1)[:, 2] > -1.0
    half = mesh(whole.positions, whole.normals, whole.triangles[above])
    w = world({"shell": half}, [milky], Camera(position=(0, -60, 30), target=(0, 0, 5), focal_length=250), UNIFORM)
    assert color(w, 256)[5:11, 5:11].mean() == pytest.approx(100.0, rel=0.03)


@pytest.mark.parametrize("forward", [0.0, 0.8])
def test_a_clear_wall_with_a_milky_share_keeps_all_light(forward: float) -> None:
    """A thin sheet, mostly clear and partly milky, both without loss, vanishes in even light."""
    sheet = appearance(
        base_color=(1, 1, 1), geometry_thin_walled=True, transmission_weight=0.6, specular_roughness=0.0,
        subsurface_weight=1.0, subsurface_color=(1, 1, 1), subsurface_scatter_anisotropy=forward,
    )  # fmt: skip
    backdrop = {"kind": "plain", "bottom": "#808080"}
    level = hex_to_linear("#808080")[0] / exposure_scale(REFERENCE_EV)
    w = world({"sheet": square(60)}, [sheet], BELOW, UNIFORM * (level / 100), backdrop=backdrop)
    assert color(w, 256)[5:11, 5:11].mean() == pytest.approx(level, rel=0.01)
