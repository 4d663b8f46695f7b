"""Parts that touch: what is found, how it is moved, and the traced picture against exact bodies."""

from itertools import pairwise

import numpy as np
import pytest
from scipy.special import expn

from core.test_trace import MATT, UNIFORM, appearance, color, square, world
from usual_lamp.core.assembly import Mesh
from usual_lamp.core.assembly.contacts import Placed, offset_points, touching
from usual_lamp.core.camera import Camera

CLEAR = {"base_color": (1, 1, 1), "transmission_weight": 1.0, "specular_roughness": 0.0}


def turned(inner: float, outer: float, low: float, high: float, sides: int, start: float = 0.0) -> Mesh:
    """A ring, or a cylinder where `inner` is 0, in `sides` flat sides: faces are top, bottom, outside, inside."""
    angle = start + 2 * np.pi * np.arange(sides + 1) / sides
    around = np.stack([np.cos(angle), np.sin(angle), np.zeros(sides + 1)], axis=1)
    up = np.array([0.0, 0.0, 1.0])
    points, normals, triangles, ranges = [], [], [], []

    def strip(a, b, n) -> None:
        first, start = sum(map(len, points)), sum(map(len, triangles))
        i = first + np.arange(sides)
        j = i + sides + 1
        points.extend([a, b])
        normals.extend([n, n])
        triangles.append(np.concatenate([np.stack([i, i + 1, j + 1], 1), np.stack([i, j + 1, j], 1)]))
        ranges.append((start, 2 * sides))

    strip(outer * around + high * up, inner * around + high * up, np.tile(up, (sides + 1, 1)))
    strip(inner * around + low * up, outer * around + low * up, np.tile(-up, (sides + 1, 1)))
    strip(outer * around + low * up, outer * around + high * up, around)
    if inner:
        strip(inner * around + high * up, inner * around + low * up, -around)
    return Mesh(
        np.concatenate(points).astype(np.float32), np.concatenate(normals).astype(np.float32),
        np.concatenate(triangles).astype(np.uint32), np.array(ranges, np.uint32), np.zeros((0, 2, 3), np.float32),
    )  # fmt: skip


TOP, BOTTOM, OUTSIDE, INSIDE = range(4)


def faces(one: Mesh, other: Mesh, shift=(0.0, 0.0, 0.0)) -> set[tuple[int, bool]]:
    matrix = np.eye(4)
    matrix[:3, 3] = shift
    return {(t.face, t.opposed) for t in touching(Placed(one, np.eye(4)), Placed(other, matrix), 1e-3)}


@pytest.mark.parametrize("sides", [16, 96])
def test_faces_that_touch_are_found_in_any_tessellation(sides: int) -> None:
    ring, pin, plate = turned(5, 8, 0, 4, sides), turned(0, 5, 0, 4, sides + 3, 0.1), turned(0, 30, -2, 0, 12)
    assert faces(ring, pin) == {(INSIDE, True)}
    assert faces(pin, ring) == {(OUTSIDE, True)}
    assert faces(ring, plate) == {(BOTTOM, True)}
    assert faces(plate, ring) == {(TOP, True)}, "although none of its corners is near"
    assert faces(ring, plate, (0, 0, -0.05)) == set(), "flat faces do not deviate: this is a gap"
    assert faces(ring, turned(0, 30, -2, 4, 12)) == {(TOP, False)}, "flush"


def test_a_moved_face_takes_its_neighbours_along() -> None:
    """No crack: points that were at one place are at one place; those of the face moved by what was asked."""
    ring = turned(5, 8, 0, 4, 24)
    where = offset_points(ring, ring.positions.astype(float), ring.normals.astype(float), {INSIDE: 0.2})
    inside = np.unique(ring.triangles[ring.face_ranges[INSIDE][0] :])
    assert np.hypot(*where[inside, :2].T) == pytest.approx(4.8, abs=1e-3)
    assert where[inside, 2].min() == pytest.approx(0.05, abs=1e-3), "drawn in at the rim"
    _, place = np.unique(ring.positions, axis=0, return_inverse=True)
    for axis in range(3):
        spread = np.maximum.reduceat(
            where[np.argsort(place), axis], np.flatnonzero(np.diff(np.sort(place), prepend=-1))
        )
        assert spread[place.ravel()] == pytest.approx(where[:, axis], abs=1e-9)


ABOVE = Camera(position=(10, -24, 22), target=(0, 0, 2), focal_length=60)


def seat(sides: int, turn: float, exact: bool = False, **clear) -> np.ndarray:
    """A clear ring round a metal pin on a plate, seen from above. `exact`: the pin is thicker than the hole and the
    plate higher, so that nothing lies on anything and the metal is what is met."""
    more = 0.02 if exact else 0.0
    parts = {
        "ring": turned(5, 9, 0, 5, sides, turn),
        "pin": turned(0, 5 + more, 0, 5 + more, sides + 1),
        "plate": turned(0, 14, -2, more, sides),
    }
    pin, plate = appearance(**MATT | {"base_color": (0.7, 0.1, 0.1)}), appearance(**MATT)
    w = world(parts, [appearance(**CLEAR, **clear), pin, plate], ABOVE, UNIFORM, (64, 48))
    return color(w, 64)


@pytest.mark.parametrize("sides", [40, 160])
def test_a_clear_ring_shows_its_seat_as_exact_bodies_do(sides: int) -> None:
    exact = seat(720, 0.0, exact=True)
    found = np.abs(seat(sides, 0.05) - exact) / exact.mean()
    assert found.mean() < 0.012, "0.06 where rays meet what they happen to meet"


LAMP = appearance(base_color=(0, 0, 0), specular_weight=0, emission_luminance=1000.0)
DOWN = Camera(position=(0, 0, 90), target=(0, 0.001, 0), focal_length=400)


def through(*layers: tuple[float, float]) -> float:
    """What is seen of a lamp of 1000 cd/m² through clear plates (thickness mm, index) that lie on each other."""
    parts, low = {"lamp": square(30, -6.0)}, 0.0
    wear = [LAMP]
    for place, (thick, index) in enumerate(layers):
        parts[f"plate {place}"] = turned(0, 30, low, low + thick, 12 + place)
        wear.append(appearance(**CLEAR, specular_ior=index))
        low += thick
    w = world(parts, wear, DOWN, UNIFORM * 0)
    return float(color(w, 256).mean()) / 1000


def passed(*indices: float) -> float:
    """Share of light that passes a row of media at normal incidence, all reflections between the walls summed (after
    G. G. Stokes, "On the intensity of the light reflected from or transmitted through a pile of plates", 1862)."""
    share, back = 1.0, 0.0
    for a, b in pairwise(indices):
        r = ((a - b) / (a + b)) ** 2
        share, back = share * (1 - r) / (1 - back * r), r + (1 - r) ** 2 * back / (1 - back * r)
    return share


@pytest.mark.parametrize("indices", [(1.5, 1.5), (1.5, 1.33), (1.33, 1.5), (1.5, 1.33, 1.7)])
def test_between_clear_bodies_that_touch_there_is_no_air(indices: tuple[float, ...]) -> None:
    found = through(*((3.0 + place, index) for place, index in enumerate(indices)))
    assert found == pytest.approx(passed(1.0, *indices, 1.0), abs=0.003)
    assert abs(found - np.prod([passed(1.0, n, 1.0) for n in indices])) > 0.008, "as with air between them"


def test_of_bodies_that_overlap_one_is_there() -> None:
    """A plate of water that reaches 2 mm into one of dense glass, both coloured: 4 mm of glass and 3 mm of water."""
    parts = {"lamp": square(30, -6.0), "glass": turned(0, 30, 0, 4, 16), "water": turned(0, 28, 2, 7, 12)}
    depth = {"transmission_depth": 4.0, "transmission_color": (0.5, 0.5, 0.5)}
    wear = [LAMP, appearance(**CLEAR, specular_ior=1.5, **depth), appearance(**CLEAR, specular_ior=1.33, **depth)]
    found = color(world(parts, wear, DOWN, UNIFORM * 0), 256).mean() / 1000
    r = [((a - b) / (a + b)) ** 2 for a, b in ((1.0, 1.5), (1.5, 1.33), (1.33, 1.0))]
    assert found == pytest.approx(0.5 ** (7 / 4) * np.prod(1 - np.array(r)), rel=0.01)


def test_a_tinted_plate_dims_what_it_lies_on_in_both_directions() -> None:
    """Light from all sides through a plate of index 1 loses 1 - 2 E3(a d) on its way to the seat (M. F. Modest,
    Radiative Heat Transfer, section 14.2: hemispherical transmissivity of a layer), and 1 - exp(-a d) on its way up."""
    parts = {"plate": turned(0, 60, 0, 3, 12), "seat": turned(0, 70, -2, 0, 12)}
    clear = appearance(**CLEAR, specular_ior=1.0001, transmission_depth=3.0, transmission_color=(0.6, 0.6, 0.6))
    found = color(world(parts, [clear, appearance(**MATT)], DOWN, UNIFORM), 256).mean()
    assert found == pytest.approx(50.0 * 2 * expn(3, -np.log(0.6)) * 0.6, rel=0.02)


def fresnel_average(n: float) -> float:
    """Of light from all sides that falls onto a wall of relative index n from the thinner side."""
    cos = (np.arange(4000) + 0.5) / 4000
    inner = np.sqrt(1 - (1 - cos**2) / n**2)
    across, along = (cos - n * inner) / (cos + n * inner), (n * cos - inner) / (n * cos + inner)
    return float(np.mean((across**2 + along**2) / 2 * 2 * cos))


@pytest.mark.parametrize(("n", "albedo"), [(1.5, 0.5), (1.33, 0.8)])
def test_a_matt_seat_beneath_glass_looks_darker_by_saunderson(n: float, albedo: float) -> None:
    """R = F + (1 - F) ρ (1 - K) / (1 - ρ K), K being what the wall throws back inside: 1 - (1 - K_out) / n²
    (J. L. Saunderson, "Calculation of the color of pigmented plastics", J. Opt. Soc. Am. 32, 1942)."""
    parts = {"seat": turned(0, 900, -2, 0, 24), "glass": turned(0, 900, 0, 4, 30)}
    wear = [appearance(base_color=(albedo,) * 3, specular_weight=0), appearance(**CLEAR, specular_ior=n)]
    found = color(world(parts, wear, DOWN, UNIFORM), 1024).mean()
    outer, back = ((n - 1) / (n + 1)) ** 2, 1 - (1 - fresnel_average(n)) / n**2
    assert found == pytest.approx(100 * (outer + (1 - outer) * albedo * (1 - back) / (1 - albedo * back)), rel=0.01)
