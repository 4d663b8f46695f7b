"""The tracer against things outside it: Mitsuba's own plugins and chi-square test, laws of optics, light factors."""

import mitsuba as mi
import numpy as np
import pytest

from core.test_surface import surface
from core.test_trace import MATT, UNIFORM, appearance, color, mesh, sphere, square, world
from usual_lamp.core.camera import FILM_WIDTH, Camera
from usual_lamp.core.trace.engine import dr

SIZE = (24, 24)
BALL = Camera(position=(0, -60, 0), target=(0, 0, 0), focal_length=60)


SAMPLED = {
    "plastic": (dict(base_color=(0.6, 0.6, 0.6), specular_roughness=0.4), False),
    "rough plastic": (dict(base_diffuse_roughness=0.8, specular_roughness=0.4), False),
    "metal": (dict(base_color=(0.9, 0.8, 0.5), base_metalness=1.0, specular_roughness=0.5), False),
    "coat": (dict(specular_roughness=0.5, coat_weight=1.0, coat_roughness=0.3), False),
    "brushed": (dict(base_metalness=1.0, specular_roughness=0.6, specular_roughness_anisotropy=0.8), False),
    "fuzz": (dict(fuzz_weight=1.0, fuzz_roughness=0.4, base_color=(0.3, 0.3, 0.3)), False),
    "film": (dict(thin_film_weight=1.0, specular_roughness=0.4, specular_ior=2.0), False),
    "thin translucent": (
        dict(subsurface_weight=0.8, geometry_thin_walled=True, subsurface_scatter_anisotropy=0.4),
        False,
    ),
    "body": (dict(subsurface_weight=0.6, base_color=(0.5, 0.5, 0.5)), False),
    "glass": (dict(transmission_weight=1.0, specular_roughness=0.5), False),
    "glass from inside": (dict(transmission_weight=1.0, specular_roughness=0.5), True),
    "thin glass": (dict(transmission_weight=1.0, specular_roughness=0.5, geometry_thin_walled=True), False),
}


@pytest.mark.parametrize(("params", "inside"), SAMPLED.values(), ids=SAMPLED)
def test_directions_are_drawn_with_the_density_that_is_claimed(params: dict, inside: bool) -> None:
    """Pearson's chi-square test of histogram against integrated density, as shipped with Mitsuba (`mitsuba.chi2`)."""
    from mitsuba.chi2 import ChiSquareTest, SphericalDomain

    view = mi.Vector3f(0.6, 0.0, 0.8)

    def draw(u):
        s = surface(params, view + dr.zeros(mi.Vector3f, dr.width(u)), inside)
        drawn = s.sample(u.x, mi.Point2f(u.y, u.z))
        return drawn.wo, dr.select(drawn.valid & ~drawn.enters, 1.0, 0.0)

    def density(wo):
        s = surface(params, view + dr.zeros(mi.Vector3f, dr.width(wo)), inside)
        return s.evaluate(wo)[1]

    test = ChiSquareTest(SphericalDomain(), draw, density, sample_dim=3, sample_count=400_000, res=41, ires=16)
    assert test.run(significance_level=0.01, quiet=True), test.messages


def stock(bsdf: dict, light: np.ndarray, samples: int = 256) -> np.ndarray:
    """The same ball in the same light by Mitsuba's `path` and one of its own surfaces."""
    ball = sphere(n=128)
    shape = mi.Mesh("ball", len(ball.positions), len(ball.triangles), has_vertex_normals=True)
    params = mi.traverse(shape)
    for name, array in zip(("vertex_positions", "vertex_normals"), (ball.positions, ball.normals), strict=True):
        params[name] = mi.Float(array.ravel())
    params["faces"] = mi.UInt32(ball.triangles.ravel())
    params.update()
    shape.set_bsdf(mi.load_dict(bsdf))
    to_world = mi.ScalarTransform4f
    upright = to_world([[1, 0, 0, 0], [0, 0, -1, 0], [0, 1, 0, 0], [0, 0, 0, 1]])
    scene = {
        "type": "scene",
        "integrator": {"type": "path", "max_depth": 12, "hide_emitters": True},
        "sky": {"type": "envmap", "bitmap": mi.Bitmap(np.ascontiguousarray(light[:, ::-1])), "to_world": upright},
        "sensor": {
            "type": "perspective",
            "fov": float(np.degrees(2 * np.arctan(FILM_WIDTH / 2 / BALL.focal_length))),
            "to_world": to_world().look_at(list(BALL.position), list(BALL.target), [0, 0, 1]),
            "film": {"type": "hdrfilm", "width": SIZE[0], "height": SIZE[1], "rfilter": {"type": "box"}},
        },
        "ball": shape,
    }
    return np.array(mi.render(mi.load_dict(scene), spp=samples, seed=3))[..., :3]


def sky() -> np.ndarray:
    """Smooth light with a direction to it, coloured, so that orientation and channels are checked too."""
    from usual_lamp.core.light import directions

    d = directions(64)
    level = 60 + 40 * d[..., 2] + 25 * d[..., 0] - 15 * d[..., 1]
    return np.stack([level, 0.8 * level + 10, 0.5 * level + 30], -1).astype(np.float32)


WHERE = (slice(8, 16), slice(8, 16))
"""Pixels that lie on the ball."""


@pytest.mark.parametrize(
    ("params", "bsdf"),
    [
        (
            dict(base_color=(0.7, 0.4, 0.2), specular_weight=0.0),
            {"type": "diffuse", "reflectance": {"type": "rgb", "value": [0.7, 0.4, 0.2]}},
        ),
        (
            dict(base_color=(1, 1, 1), base_metalness=1.0, specular_roughness=0.0),
            {"type": "conductor", "material": "none"},
        ),
    ],
    ids=["diffuse", "smooth conductor"],
)
def test_a_ball_equals_the_stock_plugins(params: dict, bsdf: dict) -> None:
    light = sky()
    ours = color(world({"ball": sphere(n=128)}, [appearance(**params)], BALL, light, SIZE), 256)[WHERE]
    theirs = stock(bsdf, light)[WHERE]
    np.testing.assert_allclose(ours.mean(axis=(0, 1)), theirs.mean(axis=(0, 1)), rtol=0.01)
    np.testing.assert_allclose(ours, theirs, rtol=0.1)


@pytest.mark.parametrize(
    ("params", "bsdf"),
    [
        (dict(base_metalness=1.0), {"type": "roughconductor", "material": "none"}),
        (dict(transmission_weight=1.0), {"type": "roughdielectric", "int_ior": 1.5, "ext_ior": 1.0}),
    ],
    ids=["metal", "glass"],
)
def test_rough_lobes_equal_the_stock_plugins(params: dict, bsdf: dict) -> None:
    """GGX at roughness 0.2 (alpha 0.04), where what several bounces between facets add is under a thousandth."""
    plugin = mi.load_dict({**bsdf, "distribution": "ggx", "alpha": 0.04})
    view = dr.normalize(mi.Vector3f(0.5, 0.1, 0.8))
    n = 20_000
    s = surface(params | dict(base_color=(1, 1, 1), specular_roughness=0.2), view + dr.zeros(mi.Vector3f, n))
    rng = mi.PCG32(size=n)
    drawn = s.sample(rng.next_float32(), mi.Point2f(rng.next_float32(), rng.next_float32()))
    wo, valid = drawn.wo, drawn.valid
    si = dr.zeros(mi.SurfaceInteraction3f, n)
    si.wi, si.p = view + dr.zeros(mi.Vector3f, n), mi.Point3f(0)
    theirs = np.array(plugin.eval(mi.BSDFContext(), si, wo)[0])
    # The plugin counts radiance, which a denser medium squeezes by the square of the index; ours leaves that out.
    theirs *= np.where(np.array(wo.z) > 0, 1.0, 1.5**2)
    ours, keep = np.array(s.evaluate(wo)[0].total().x), np.array(valid) & (theirs > 0.05)
    assert keep.mean() > 0.9
    np.testing.assert_allclose(ours[keep], theirs[keep], rtol=0.02, atol=0.01)


def slab(thickness: float):
    top, bottom = square(50, thickness), square(50, 0.0, down=True)
    return mesh(
        np.vstack([bottom.positions, top.positions]),
        np.vstack([bottom.normals, top.normals]),
        np.vstack([bottom.triangles, top.triangles + 4]),
    )


def through(thickness: float, depth: float) -> np.ndarray:
    """Colour seen through a tinted slab of that thickness, over that through an untinted one."""
    from usual_lamp.core.scene import Backdrop

    down = Camera(position=(0, -0.01, 60), target=(0, 0, 0), focal_length=800)
    found = []
    for tint in ((0.5, 0.7, 0.9), (1.0, 1.0, 1.0)):
        glass = appearance(
            transmission_weight=1.0, specular_roughness=0.0, transmission_color=tint, transmission_depth=depth
        )
        backdrop = Backdrop(kind="plain", bottom="#808080")
        w = world({"slab": slab(thickness)}, [glass], down, UNIFORM * 0, backdrop=backdrop)
        found.append(color(w, 256).mean(axis=(0, 1)))
    return found[0] / found[1]


def test_beer_lambert_through_1_2_and_4_mm() -> None:
    """T = c^(d / D) for colour c at depth D, and T(2d) = T(d)² (Beer, Lambert; Born and Wolf, 14.1)."""
    passed = {d: through(d, 2.0) for d in (1.0, 2.0, 4.0)}
    for d, found in passed.items():
        assert found == pytest.approx(np.array([0.5, 0.7, 0.9]) ** (d / 2.0), rel=0.01)
    assert passed[2.0] == pytest.approx(passed[1.0] ** 2, rel=0.01)
    assert passed[4.0] == pytest.approx(passed[2.0] ** 2, rel=0.01)


@pytest.mark.parametrize(("height", "distance"), [(20.0, 10.0), (10.0, 20.0)])
def test_ambient_light_beside_a_wall(height: float, distance: float) -> None:
    """Beside a long black wall of height h at distance d a floor sees the share (1 + d / √(d² + h²)) / 2 of an even
    sky: factor of an element to a perpendicular strip (J. R. Howell, A Catalog of Radiation Heat Transfer
    Configuration Factors, B-5; its number is from memory)."""
    far = 4000.0
    wall = mesh(
        [(distance, -far, 0), (distance, far, 0), (distance, far, height), (distance, -far, height)],
        [(-1, 0, 0)] * 4, [(0, 1, 2), (0, 2, 3)],
    )  # fmt: skip
    floor = square(far, -0.001)
    above = Camera(position=(0, -0.01, 40), target=(0, 0, 0), focal_length=800)
    black = appearance(base_color=(0, 0, 0), specular_weight=0.0)
    lit = color(world({"floor": floor, "wall": wall}, [appearance(**MATT), black], above, UNIFORM), 256)
    visible = (1 + distance / np.hypot(distance, height)) / 2
    assert lit[7:9, 7:9].mean() == pytest.approx(0.5 * 100 * visible, rel=0.02)
