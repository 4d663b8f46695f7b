"""The finer lobes: brushing, measured metals, thin films, fuzz, coats, light beneath the surface."""

import colour
import numpy as np
import pytest

from core.test_surface import COSINES, ROUGHNESS, WHITE, albedo_in_directional_light, albedo_in_uniform_light, surface
from core.test_trace import appearance, color, sphere, square, world
from usual_lamp.core.appearance import Appearance, OpenPBR
from usual_lamp.core.camera import Camera
from usual_lamp.core.trace.engine import dr, mi
from usual_lamp.core.trace.surface import spectrum
from usual_lamp.core.trace.surface.rows import row, table_of
from usual_lamp.core.trace.transport import walk
from usual_lamp.core.trace.world.placements import machining

METAL = dict(WHITE, base_metalness=1.0)
STACKS = {
    "coat on plastic": (dict(WHITE, coat_weight=1.0), "coat_roughness"),
    "coat on metal": (dict(METAL, coat_weight=1.0), "coat_roughness"),
    "coat on glass": (dict(WHITE, transmission_weight=1.0, coat_weight=1.0), "coat_roughness"),
    "fuzz": (dict(WHITE, fuzz_weight=1.0), "fuzz_roughness"),
    "fuzz on metal": (dict(METAL, fuzz_weight=1.0), "fuzz_roughness"),
    "film on plastic": (dict(WHITE, thin_film_weight=1.0), "specular_roughness"),
    "film on metal": (dict(METAL, thin_film_weight=1.0), "specular_roughness"),
    "thin translucent": (
        dict(subsurface_weight=1.0, subsurface_color=(1.0, 1.0, 1.0), geometry_thin_walled=True),
        "specular_roughness",
    ),
}


@pytest.mark.parametrize("cosine", COSINES)
@pytest.mark.parametrize("stack", STACKS)
def test_white_furnace_of_stacks(stack: str, cosine: float) -> None:
    params, varied = STACKS[stack]
    for roughness in ROUGHNESS:
        assert 0.98 <= albedo_in_uniform_light(params | {varied: roughness}, cosine) <= 1.002
        assert 0.98 <= albedo_in_directional_light(params | {varied: roughness}, cosine) <= 1.002


@pytest.mark.parametrize("cosine", COSINES)
def test_white_furnace_of_brushed_metal(cosine: float) -> None:
    """Along, across and between. At grazing the swing with the azimuth is only nearly a cosine."""
    for roughness in ROUGHNESS:
        found = []
        for rotation in (0.0, 45.0, 90.0):
            params = METAL | dict(specular_roughness=roughness, specular_roughness_anisotropy=0.8)
            found.append(albedo_in_uniform_light(params, cosine, rotation=rotation))
        assert 0.98 <= np.mean(found) <= 1.002
        assert min(found) >= 0.95 and max(found) <= 1.02


@pytest.mark.parametrize(
    "params",
    [
        dict(base_metalness=0.4, base_color=(0.9, 0.5, 0.2), specular_roughness=0.5, base_diffuse_roughness=0.5),
        dict(base_metalness=1.0, specular_roughness=0.5, specular_roughness_anisotropy=0.7),
        dict(coat_weight=0.8, coat_roughness=0.4, coat_color=(0.9, 0.6, 0.3), base_color=(0.2, 0.3, 0.4)),
        dict(fuzz_weight=0.9, fuzz_color=(0.4, 0.6, 0.8), fuzz_roughness=0.3),
        dict(thin_film_weight=1.0, specular_roughness=0.4, specular_ior=2.0),
        dict(subsurface_weight=1.0, geometry_thin_walled=True, subsurface_scatter_anisotropy=0.5),
    ],
)
def test_surfaces_are_reciprocal(params: dict) -> None:
    """f(a, b) = f(b, a), for reflection (Helmholtz)."""
    a = dr.normalize(mi.Vector3f([0.7, 0.1, -0.5], [0.2, -0.6, 0.3], [0.4, 0.7, 0.2]))
    b = dr.normalize(mi.Vector3f([-0.5, 0.3, 0.1], [0.1, 0.5, 0.6], [0.8, 0.3, 0.5]))
    there, back = (surface(params, wi).evaluate(wo)[0].total() / wo.z for wi, wo in ((a, b), (b, a)))
    np.testing.assert_allclose(np.array(there), np.array(back), rtol=2e-4)


def test_white_is_white_and_colours_agree_with_the_cie() -> None:
    """Against colour-science's own observer, illuminant and integration (ASTM E308 by plain summation)."""
    np.testing.assert_allclose(spectrum.weights().sum(axis=0), 1.0, atol=1e-12)
    shape = colour.SpectralShape(380, 780, 5)
    observer = colour.MSDS_CMFS["CIE 1931 2 Degree Standard Observer"].copy().align(shape)
    daylight = colour.SDS_ILLUMINANTS["D65"].copy().align(shape)
    for metal in ("Au", "Cu", "Al", "Cr"):
        reflectance = spectrum.bare(np.array([1.0]), spectrum.measured(metal))[0]
        sd = colour.SpectralDistribution(reflectance, shape.wavelengths)
        xyz = colour.sd_to_XYZ(sd, observer, daylight, method="Integration") / 100
        theirs = np.clip(colour.XYZ_to_RGB(xyz, "sRGB", apply_cctf_encoding=False), 0, 1)
        np.testing.assert_allclose(spectrum.to_rgb(reflectance), theirs, atol=0.004)


def test_measured_gold_in_the_kernel() -> None:
    """Reflectance of polished gold: high in the red, about half in the blue (Palik's n and k, as in the handbooks)."""
    s = surface(dict(base_conductor="Au"), mi.Vector3f(0, 0, 1))
    red, _, blue = np.array(s.metal(mi.Float(1.0))).ravel()
    assert red > 0.95 and 0.25 < blue < 0.5
    assert np.array(s.metal(mi.Float(1e-4))).ravel() == pytest.approx(1.0, abs=0.02)


def test_thin_film_laws() -> None:
    """A quarter-wave film of the root of the glass's index mirrors nothing; a half-wave film is not there at all
    (M. Born and E. Wolf, Principles of Optics, section 1.6.4)."""
    glass, at = np.full(len(spectrum.WAVELENGTHS), 1.9), int(np.argmin(abs(spectrum.WAVELENGTHS - 550)))
    straight = np.array([1.0])
    quarter = spectrum.filmed(straight, np.sqrt(1.9), 550 / 4 / np.sqrt(1.9), glass)[0]
    half = spectrum.filmed(straight, 1.4, 550 / 2 / 1.4, glass)[0]
    bare = spectrum.bare(straight, glass)[0]
    assert quarter[at] == pytest.approx(0.0, abs=1e-9) and half[at] == pytest.approx(bare[at], rel=1e-9)
    slanted = spectrum.filmed(np.array([0.3]), 1.4, 0.0, glass)
    np.testing.assert_allclose(slanted, spectrum.bare(np.array([0.3]), glass), rtol=1e-9)


def test_film_in_the_kernel_is_the_integrated_spectrum() -> None:
    params = dict(thin_film_weight=1.0, thin_film_thickness=0.38, thin_film_ior=1.9)
    cosines = np.array([0.05, 0.3, 0.62, 0.97])
    s = surface(params, mi.Vector3f(np.zeros(4), np.zeros(4), np.ones(4)))
    exact = spectrum.to_rgb(spectrum.filmed(cosines, 1.9, 380.0, np.full(len(spectrum.WAVELENGTHS), 1.5)))
    np.testing.assert_allclose(np.array(s.fresnel(mi.Float(cosines))).T, exact, atol=0.01)


def test_brushing_follows_the_shape() -> None:
    """Round the axis of a turned part, along the longest side of a plate."""
    angle = np.linspace(0, 2 * np.pi, 65)
    ring = np.c_[np.cos(angle) * 5, np.sin(angle) * 5]
    rows = [np.c_[np.full(65, x), ring] for x in (0.0, 40.0)]
    points = np.concatenate(rows)
    faces = [t for k in range(64) for t in ((k, k + 1, k + 66), (k, k + 66, k + 65))]
    from core.test_trace import mesh

    rod = machining(mesh(points, points * [0, 0.2, 0.2], faces))
    assert rod.turned and np.abs(rod.axis) == pytest.approx([1, 0, 0], abs=1e-6)
    flat = square(10.0)
    plate = machining(mesh(flat.positions * [1, 3, 1], flat.normals, flat.triangles))
    assert not plate.turned and plate.axis == (0.0, 1.0, 0.0)


@pytest.mark.parametrize("g", [-0.5, 0.0, 0.7])
def test_phase_function_has_its_mean_cosine(g: float) -> None:
    """The mean cosine of Henyey and Greenstein's phase function is g, by definition."""
    rng = mi.PCG32(size=200_000)
    way = walk.phase(mi.Float(g), mi.Point2f(rng.next_float32(), rng.next_float32()))
    assert float(dr.mean(way.z)[0]) == pytest.approx(g, abs=0.004)


BALL = Camera(position=(0, -60, 0), target=(0, 0, 0), focal_length=60)
MILKY = dict(specular_weight=0.0, subsurface_weight=1.0, subsurface_radius_scale=(1.0, 1.0, 1.0))


def test_a_dense_white_body_keeps_all_light() -> None:
    even = np.full((16, 32, 3), 100.0, np.float32)
    params = MILKY | dict(subsurface_color=(0.999, 0.999, 0.999), subsurface_radius=2.0)
    seen = color(world({"ball": sphere()}, [appearance(**params)], BALL, even, (16, 16)), 256)[5:11, 5:11]
    assert seen.mean() == pytest.approx(100.0, rel=0.03)


def test_a_dense_body_has_its_colour_and_a_thin_one_shines() -> None:
    """Far denser than it is big, a body sends back its given colour (van de Hulst's inversion, as in OpenPBR)."""
    even = np.full((16, 32, 3), 100.0, np.float32)
    given = (0.8, 0.5, 0.2)
    params = MILKY | dict(subsurface_color=given, subsurface_radius=0.02)
    seen = color(world({"ball": sphere()}, [appearance(**params)], BALL, even, (16, 16)), 256)[6:10, 6:10]
    np.testing.assert_allclose(seen.mean(axis=(0, 1)) / 100.0, given, atol=0.03)
    behind = np.zeros((16, 32, 3), np.float32)
    behind[:, :4] = behind[:, -4:] = 100.0
    loose, dense = (
        color(world({"b": sphere()}, [appearance(**MILKY, subsurface_radius=r)], BALL, behind, (16, 16)), 128)[
            6:10, 6:10
        ]
        for r in (6.0, 0.1)
    )
    assert loose.mean() > 3 * dense.mean()


def test_opacity_is_the_share_that_is_there() -> None:
    """A square that is a quarter there, before black: a quarter of its light is seen, and a quarter of its shadow."""
    even = np.full((16, 32, 3), 100.0, np.float32)
    above = Camera(position=(0, 0, 60), target=(0, 0, 0), focal_length=200)
    matt = dict(specular_weight=0.0, base_color=(0.5, 0.5, 0.5))
    sheet = appearance(**matt, geometry_opacity=0.25)
    black = appearance(specular_weight=0.0, base_color=(0.0, 0.0, 0.0))
    seen = color(world({"up": square(20.0, 5.0), "low": square(80.0)}, [sheet, black], above, even), 512)
    assert seen.mean() == pytest.approx(0.25 * 50, rel=0.02)
    lit = color(world({"up": square(400.0, 5.0), "low": square(400.0)}, [sheet, appearance(**matt)], above, even), 512)
    # Both sheets send half on: what is seen adds up over the ways between them.
    assert 0.25 * 50 < lit.mean() < 50


def test_coat_darkens_the_base_as_the_standard_says() -> None:
    """OpenPBR 1.1: (1 - K) / (1 - E K) with K = 1 - (1 - F0) / n²; white stays white."""
    n, e = 1.6, 0.3
    k = 1 - (1 - ((n - 1) / (n + 1)) ** 2) / n**2
    index = table_of([Appearance(id="x", name="x", family="neutral", params=OpenPBR())])
    for base, expected in ((e, (1 - k) / (1 - e * k)), (1.0, 1.0)):
        found = table_of(
            [Appearance(id="x", name="x", family="paint", params=OpenPBR(base_color=(base,) * 3, coat_weight=1.0))]
        )
        color, ior = found.block("coat", mi.UInt32(0), mi.Bool(True))
        assert color.x[0] == pytest.approx(expected, rel=1e-5) and ior[0] == pytest.approx(n)
    assert not index.has.coat


def test_numbers_that_are_none_are_named() -> None:
    broken = OpenPBR().model_copy(update={"base_color": (float("nan"), 0.1, 0.1)})
    with pytest.raises(ValueError, match="'Housing grey' holds a number that is not finite"):
        table_of([Appearance.model_construct(id="h", name="Housing grey", family="paint", params=broken)])
    assert np.isfinite(row(OpenPBR(coat_weight=1.0, fuzz_weight=1.0))).all()
