"""The surface model against physics: white furnace, Fresnel, reciprocity of sampling and evaluation."""

import numpy as np
import pytest

from usual_lamp.core.appearance import Appearance, OpenPBR
from usual_lamp.core.trace import sampler
from usual_lamp.core.trace.engine import dr, mi
from usual_lamp.core.trace.surface import diffuse, microfacet
from usual_lamp.core.trace.surface.bsdf import Surface
from usual_lamp.core.trace.surface.rows import table_of

N = 1 << 17
ROUGHNESS = (0.02, 0.25, 0.5, 0.75, 1.0)
COSINES = (1.0, 0.15)
WHITE = dict(base_color=(1.0, 1.0, 1.0))
FAMILIES = {
    "diffuse": dict(WHITE),
    "rough diffuse": dict(WHITE, base_diffuse_roughness=1.0, specular_weight=0.0),
    "rough diffuse under gloss": dict(WHITE, base_diffuse_roughness=0.7),
    "metal": dict(WHITE, base_metalness=1.0),
    "dielectric": dict(WHITE, transmission_weight=1.0),
    "thin dielectric": dict(WHITE, transmission_weight=1.0, geometry_thin_walled=True),
}


def surface(params: dict, wi: mi.Vector3f, inside: bool | mi.Bool = False) -> Surface:
    table = table_of([Appearance(id="x", name="x", family="neutral", params=OpenPBR(**params))])
    n = dr.width(wi)
    flag = dr.full(mi.Bool, inside, n) if isinstance(inside, bool) else inside
    return Surface(table, dr.zeros(mi.UInt32, n), dr.full(mi.Bool, True, n), wi, flag)


def points(pair: int) -> mi.Point2f:
    index = dr.arange(mi.UInt32, N)
    return sampler.point(dr.full(mi.UInt32, 7, N), index, dr.full(mi.UInt32, pair, N))


def view(cosine: float) -> mi.Vector3f:
    return mi.Vector3f(np.full(N, np.sqrt(1 - cosine**2)), np.zeros(N), np.full(N, cosine))


def albedo_in_uniform_light(params: dict, cosine: float, inside: bool = False, rotation: float = 0.0) -> float:
    """`rotation` is the azimuth of the view in degrees."""
    wi = view(cosine)
    s, c = np.sin(np.radians(rotation)), np.cos(np.radians(rotation))
    s = surface(params, mi.Vector3f(wi.x * c, wi.x * s, wi.z), inside)
    drawn = s.sample(points(0).x, points(1))
    value, density = s.evaluate(drawn.wo)
    seen = dr.select(drawn.valid & (density > 0), value.total().x / density, 0.0)
    return float(np.mean(np.array(seen)))


def albedo_in_directional_light(params: dict, cosine: float) -> float:
    """All that leaves, both sides, for light from one direction: views are drawn from the lobe that light would
    sample, and weighted by the value seen from there, which is the BSDF with its arguments exchanged."""
    light = view(cosine)
    forward = surface(params, light)
    drawn = forward.sample(points(0).x, points(1))
    out, valid = drawn.wo, drawn.valid
    _, density = forward.evaluate(out)
    below = out.z < 0
    # Seen from the far side the solid turns over: its inside is towards the viewer.
    flip = mi.Vector3f(light.x, light.y, -light.z)
    seen = surface(
        params,
        dr.select(below, mi.Vector3f(out.x, out.y, -out.z), out),
        below & mi.Bool(not params.get("geometry_thin_walled", False)),
    )
    value, _ = seen.evaluate(dr.select(below, flip, light))
    radiance_factor = dr.select(seen.inside, dr.square(1.5), 1.0)
    ratio = value.total().x * dr.abs(out.z) / cosine / density * radiance_factor
    return float(np.mean(np.array(dr.select(valid & (density > 1e-9), ratio, 0.0))))


@pytest.mark.parametrize("cosine", COSINES)
@pytest.mark.parametrize("roughness", ROUGHNESS)
@pytest.mark.parametrize("family", FAMILIES)
def test_white_furnace(family: str, roughness: float, cosine: float) -> None:
    params = FAMILIES[family] | {"specular_roughness": roughness}
    assert 0.98 <= albedo_in_uniform_light(params, cosine) <= 1.003
    assert 0.98 <= albedo_in_directional_light(params, cosine) <= 1.003


@pytest.mark.parametrize("roughness", ROUGHNESS)
def test_white_furnace_from_inside_glass(roughness: float, monkeypatch: pytest.MonkeyPatch) -> None:
    # Rough refraction near total reflection has rare heavy samples: more of them keep the noise down.
    monkeypatch.setitem(globals(), "N", 1 << 20)
    params = FAMILIES["dielectric"] | {"specular_roughness": roughness}
    for cosine in (1.0, 0.8, 0.3):
        assert 0.98 <= albedo_in_uniform_light(params, cosine, inside=True) <= 1.006


@pytest.mark.parametrize("roughness", ROUGHNESS)
@pytest.mark.parametrize("cosine", COSINES)
def test_coat_never_gains(roughness: float, cosine: float) -> None:
    for base in (0.0, 1.0):
        params = WHITE | dict(base_metalness=base, coat_weight=1.0, coat_roughness=roughness)
        assert 0.9 <= albedo_in_uniform_light(params, cosine) <= 1.003


@pytest.mark.parametrize("n", [1.33, 1.5, 2.4])
def test_fresnel_at_normal_incidence(n: float) -> None:
    """((n - 1) / (n + 1))²: Born and Wolf, Principles of Optics, section 1.5."""
    reflectance, _ = microfacet.dielectric(mi.Float(1.0), mi.Float(n))
    assert reflectance[0] == pytest.approx(((n - 1) / (n + 1)) ** 2, rel=1e-5)


def test_total_reflection_beyond_the_critical_angle() -> None:
    critical = np.sqrt(1 - (1 / 1.5) ** 2)
    reflectance, _ = microfacet.dielectric(mi.Float([critical - 0.01, critical + 0.01]), mi.Float(1 / 1.5))
    assert reflectance[0] == 1.0 and reflectance[1] < 1.0


@pytest.mark.parametrize("eta", [1.5, 1 / 1.5])
def test_a_smooth_dielectric_is_that_of_mitsuba(eta: float) -> None:
    """Reflectance and angle of refraction, from both sides, as its `dielectric` plugin has them."""
    cosine = dr.linspace(mi.Float, 0.01, 1.0, 64)
    ours, beyond = microfacet.dielectric(cosine, mi.Float(eta))
    theirs, cos_t, _, _ = mi.fresnel(cosine, eta)
    np.testing.assert_allclose(np.array(ours), np.array(theirs), atol=1e-5)
    np.testing.assert_allclose(np.array(beyond), np.abs(np.array(cos_t)), atol=1e-5)


@pytest.mark.parametrize("family", ["diffuse", "metal", "dielectric", "thin dielectric"])
def test_density_integrates_to_one(family: str) -> None:
    params = FAMILIES[family] | {"specular_roughness": 0.6}
    s = surface(params, view(0.6))
    u = points(3)
    wo = mi.warp.square_to_uniform_sphere(u)
    _, density = s.evaluate(wo)
    total = float(np.mean(np.array(density)) * 4 * np.pi)
    # A rough lobe sends some directions below the horizon, where they are dropped.
    assert 0.85 < total <= 1.01


@pytest.mark.parametrize("roughness", [0.3, 1.0])
@pytest.mark.parametrize("cosine", [0.1, 0.6, 1.0])
def test_rough_diffuse_albedo_is_the_integral(roughness: float, cosine: float) -> None:
    """Single-bounce albedo of Fujii's Oren-Nayar, integrated here, against the published polynomial; and for a grey
    of 0.5 less comes back than from a smooth one at normal incidence, as powder shows."""
    phi, mu = np.meshgrid((np.arange(400) + 0.5) * 2 * np.pi / 400, (np.arange(400) + 0.5) / 400)
    s = np.sqrt(1 - cosine**2) * np.sqrt(1 - mu**2) * np.cos(phi)
    facing = np.where(s > 0, s / np.maximum(mu, cosine), s)
    value = (1 + roughness * facing) / np.pi / (1 + diffuse.FIRST * roughness)
    assert float(diffuse.single_albedo(mi.Float(cosine), mi.Float(roughness))[0]) == pytest.approx(
        float((value * mu).mean() * 2 * np.pi), abs=2e-3
    )
    grey = dict(base_color=(0.5, 0.5, 0.5), specular_weight=0.0, base_diffuse_roughness=roughness)
    assert albedo_in_uniform_light(grey, 1.0) < 0.5 < albedo_in_uniform_light(grey, 0.05) + 0.1


def test_rough_diffuse_is_reciprocal() -> None:
    a, b = (dr.normalize(mi.Vector3f(*v)) for v in ((0.9, 0.1, 0.2), (-0.3, 0.5, 0.8)))
    color, rough = mi.Color3f(0.2, 0.5, 0.9), mi.Float(0.8)
    there, back = diffuse.rough_diffuse(a, b, color, rough), diffuse.rough_diffuse(b, a, color, rough)
    assert np.array(there).ravel() == pytest.approx(np.array(back).ravel(), rel=1e-5)


def test_metal_edge_tint() -> None:
    """F82-tint: at 82 degrees the reflectance is Schlick's times the tint (OpenPBR Surface 1.1, metal)."""
    f0, tint, mu = mi.Color3f(0.9, 0.6, 0.3), mi.Color3f(0.8, 0.9, 1.0), 1 / 7
    got = np.array(microfacet.metal(mi.Float(mu), f0, tint)).ravel()
    schlick = np.array([0.9, 0.6, 0.3]) + (1 - np.array([0.9, 0.6, 0.3])) * (1 - mu) ** 5
    assert got == pytest.approx(schlick * [0.8, 0.9, 1.0], rel=1e-4)
