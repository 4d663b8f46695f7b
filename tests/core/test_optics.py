"""Sources of simple shape by handbook factors, the way of light through a slab, what the clamp on fireflies costs."""

import numpy as np
import pytest

from core.test_against_references import slab
from core.test_layers import ALL, still_life
from core.test_trace import MATT, UNIFORM, appearance, color, mesh, sphere, square, world
from usual_lamp.core.camera import FILM_WIDTH, Camera
from usual_lamp.core.trace.tiles import trace_block

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
