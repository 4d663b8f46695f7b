"""Coordinates in mm on faces: against the closed forms of the surfaces."""

from __future__ import annotations

import numpy as np
import pytest
import trimesh

from core.test_trace import mesh, square
from usual_lamp.core.assembly import Mesh
from usual_lamp.core.assembly.unwrapping import unwrapped
from usual_lamp.core.trace.jobs.plates import plate_mesh


def turned(radius_of, normal_of, height: float = 30.0, turn: float = 2 * np.pi, around: int = 90) -> Mesh:
    """A surface of revolution about z, closed by a seam whose vertices it does not share."""
    rows, theta = np.linspace(0, height, 13), np.linspace(0, turn, around + 1)
    z, t = np.meshgrid(rows, theta, indexing="ij")
    r, slope = radius_of(z), normal_of(z)
    points = np.stack([r * np.cos(t), r * np.sin(t), z], -1).reshape(-1, 3)
    ways = np.stack([np.cos(t), np.sin(t), -slope], -1).reshape(-1, 3)
    ways /= np.linalg.norm(ways, axis=1, keepdims=True)
    i = np.arange(z.size).reshape(z.shape)
    a, b, c, d = i[:-1, :-1], i[:-1, 1:], i[1:, 1:], i[1:, :-1]
    return mesh(points, ways, np.stack([a, b, c, a, c, d], -1).reshape(-1, 3))


def stretches(found: Mesh) -> np.ndarray:
    """(T, 2) singular values of the map from each triangle that has an area to the picture: 1 where nothing is
    stretched."""
    assert found.coordinates is not None
    p, q = found.positions[found.triangles].astype(float), found.coordinates[found.triangles].astype(float)
    wide = np.linalg.norm(np.cross(p[:, 1] - p[:, 0], p[:, 2] - p[:, 0]), axis=1) > 1e-6
    p, q = p[wide], q[wide]
    e, f = p[:, 1] - p[:, 0], p[:, 2] - p[:, 0]
    x = e / np.linalg.norm(e, axis=1, keepdims=True)
    n = np.cross(e, f)
    y = np.cross(n / np.linalg.norm(n, axis=1, keepdims=True), x)
    flat = np.stack(
        [np.stack([(e * x).sum(1), (e * y).sum(1)], -1), np.stack([(f * x).sum(1), (f * y).sum(1)], -1)], -1
    )
    image = np.stack([q[:, 1] - q[:, 0], q[:, 2] - q[:, 0]], -1)
    return np.linalg.svd(image @ np.linalg.inv(flat), compute_uv=False)


def test_a_plane_lies_as_it_is() -> None:
    tilted = square(10.0)
    c, s = np.cos(0.4), np.sin(0.4)
    rotation = np.array([[c, 0, s], [0, 1, 0], [-s, 0, c]])
    found = unwrapped(mesh(tilted.positions @ rotation.T, tilted.normals @ rotation.T, tilted.triangles))
    np.testing.assert_allclose(stretches(found), 1.0, atol=1e-4)
    assert np.ptp(found.coordinates, axis=0) == pytest.approx([20, 20], abs=1e-3)


def test_a_cylinder_is_as_wide_as_its_circumference() -> None:
    """2 π r by h, and the seam is the only place where neighbours part."""
    found = unwrapped(turned(lambda z: 8.0 + 0 * z, lambda z: 0 * z))
    assert found.coordinates is not None
    assert np.ptp(found.coordinates, axis=0) == pytest.approx([2 * np.pi * 8, 30], rel=2e-3)
    values = stretches(found)
    # A chord is shorter than its arc by θ²/24.
    assert values.max() < 1.001 and values.min() > 0.999


def test_a_cone_unrolls_to_its_sector() -> None:
    """Slant length s and radius r open into a sector of the angle 2 π r / s."""
    found = unwrapped(turned(lambda z: 12.0 - 0.3 * z, lambda z: -0.3 + 0 * z))
    values = stretches(found)
    assert values.max() < 1.002 and values.min() > 0.998
    slant = 12.0 / 0.3 * np.hypot(1, 0.3)
    reach = np.linalg.norm(found.coordinates, axis=1)
    assert reach.max() == pytest.approx(slant, rel=1e-3) and np.ptp(reach) == pytest.approx(
        30 * np.hypot(1, 0.3), rel=1e-3
    )


def test_a_bore_and_a_narrow_fillet_count_as_cylinders() -> None:
    inside = turned(lambda z: 8.0 + 0 * z, lambda z: 0 * z, turn=np.pi / 2, around=12)
    bore = mesh(inside.positions, -inside.normals, inside.triangles[:, ::-1])
    for one in (inside, bore):
        assert np.ptp(unwrapped(one).coordinates, axis=0) == pytest.approx([np.pi * 4, 30], rel=2e-3)


def test_doubly_curved_faces_stretch_within_bounds() -> None:
    """Seen along the axis that it faces most, no triangle shrinks below 1/√3."""
    ball = turned(
        lambda z: np.sqrt(np.maximum(225 - (z - 15) ** 2, 1e-4)),
        lambda z: -(z - 15) / np.sqrt(np.maximum(225 - (z - 15) ** 2, 1e-4)),
    )
    values = stretches(unwrapped(ball))
    # Slivers at its poles are told in single precision.
    assert values.min() > 1 / np.sqrt(3) - 0.03 and values.max() < 1.003


def test_a_whole_sphere_has_each_place_of_its_sheet_once() -> None:
    """A label on its front would be on its back and its sides as well."""
    ball = trimesh.creation.icosphere(3, 12.0)
    points = np.asarray(ball.vertices)
    found = unwrapped(mesh(points, points / 12.0, np.asarray(ball.faces)))
    assert found.coordinates is not None
    sheet = found.coordinates[found.triangles].astype(float)
    middles, sides = sheet.mean(axis=1), []
    for k in range(3):
        way, arm = sheet[:, (k + 1) % 3] - sheet[:, k], middles[:, None] - sheet[:, k]
        sides.append(way[:, 0] * arm[..., 1] - way[:, 1] * arm[..., 0])
    inside = np.all(np.array(sides) > 1e-6, axis=0) | np.all(np.array(sides) < -1e-6, axis=0)
    assert (inside.sum(axis=1) == 1).all(), "each middle lies in its own triangle alone"


@pytest.mark.parametrize("tilt", [0.0, 0.7])
def test_a_torus_is_as_long_as_its_circles(tilt: float) -> None:
    """2 π R along the turn and 2 π r along the section, and a facet more where the seam runs through facets."""
    big, small = 20.0, 4.0
    theta, psi = np.meshgrid(np.linspace(0, 2 * np.pi, 121), np.linspace(0, 2 * np.pi, 49), indexing="ij")
    out = np.stack([np.cos(psi) * np.cos(theta), np.cos(psi) * np.sin(theta), np.sin(psi)], -1).reshape(-1, 3)
    ring = np.stack([np.cos(theta), np.sin(theta), 0 * theta], -1).reshape(-1, 3)
    i = np.arange(theta.size).reshape(theta.shape)
    a, b, c, d = i[:-1, :-1], i[:-1, 1:], i[1:, 1:], i[1:, :-1]
    triangles = np.stack([a, b, c, a, c, d], -1).reshape(-1, 3)
    c, s = np.cos(tilt), np.sin(tilt)
    rotation = np.array([[1, 0, 0], [0, c, -s], [0, s, c]])
    shifted = (big * ring + small * out) @ rotation.T + [30.0, -10.0, 5.0]
    found = unwrapped(mesh(shifted, out @ rotation.T, triangles))
    assert found.coordinates is not None
    assert np.ptp(found.coordinates, axis=0) == pytest.approx([2 * np.pi * big, 2 * np.pi * small], rel=3e-2)
    values = stretches(found)
    # Along the turn true at the mean radius; nothing is stretched more than the torus makes it.
    assert values.max() < 1.01 * big / (big - small) and values.min() > 0.99 * big / (big + small)


def test_a_zone_of_a_sphere_has_its_meridians_in_true_length() -> None:
    """Between 30 degrees south and north of a ball of 15 mm: 2 asin(1/2) 15 mm."""
    zone = turned(
        lambda z: np.sqrt(225 - (z - 7.5) ** 2), lambda z: -(z - 7.5) / np.sqrt(225 - (z - 7.5) ** 2), height=15.0
    )
    found = unwrapped(zone)
    assert found.coordinates is not None
    assert sorted(np.ptp(found.coordinates, axis=0)) == pytest.approx([np.pi / 3 * 15, 2 * np.pi * 14.35], rel=2e-2)


def sheet(height_of, slope_of) -> Mesh:
    """40 by 10 mm, with a height over each place and its slopes along x and y."""
    x, y = np.meshgrid(np.linspace(0, 40, 80), np.linspace(0, 10, 21), indexing="ij")
    points = np.stack([x, y, height_of(x, y)], -1).reshape(-1, 3)
    along, across = slope_of(x, y)
    ways = np.stack([-along, -across, np.ones_like(x)], -1).reshape(-1, 3)
    ways /= np.linalg.norm(ways, axis=1, keepdims=True)
    i = np.arange(x.size).reshape(x.shape)
    a, b, c, d = i[:-1, :-1], i[1:, :-1], i[1:, 1:], i[:-1, 1:]
    return mesh(points, ways, np.stack([a, b, c, a, c, d], -1).reshape(-1, 3))


def test_an_extruded_wave_is_laid_flat_in_true_length() -> None:
    """Its normals meet no axis, but it is developable: as long as the integral of √(1 + (0.75 cos(x/4))²)."""
    found = unwrapped(sheet(lambda x, y: 3 * np.sin(x / 4), lambda x, y: (0.75 * np.cos(x / 4), 0 * x)))
    assert found.coordinates is not None
    x = np.linspace(0, 40, 100_001)
    length = np.trapezoid(np.sqrt(1 + (0.75 * np.cos(x / 4)) ** 2), x)
    assert np.ptp(found.coordinates, axis=0) == pytest.approx([length, 10], rel=1e-3)
    np.testing.assert_allclose(stretches(found), 1.0, atol=1e-3)


def test_a_hose_is_opened_at_its_seam() -> None:
    """A tube of 6 mm along a spatial curve, whose seam's vertices are not shared: laid flat in one piece, its length
    to within the difference between the inside and the outside of its bends."""
    t, theta = np.meshgrid(np.linspace(0, 1, 60), np.linspace(0, 2 * np.pi, 25), indexing="ij")
    middle = lambda t: np.stack([60 * t, 10 * np.sin(2 * t), 8 * t**2], axis=-1)  # noqa: E731
    forward = (middle(t + 1e-4) - middle(t - 1e-4)) / 2e-4
    forward /= np.linalg.norm(forward, axis=-1, keepdims=True)
    side = np.cross(forward, (0.0, 0, 1))
    side /= np.linalg.norm(side, axis=-1, keepdims=True)
    ways = np.cos(theta)[..., None] * side + np.sin(theta)[..., None] * np.cross(side, forward)
    i = np.arange(t.size).reshape(t.shape)
    a, b, c, d = i[:-1, :-1], i[:-1, 1:], i[1:, 1:], i[1:, :-1]
    triangles = np.stack([a, b, c, a, c, d], -1).reshape(-1, 3)
    found = unwrapped(mesh((middle(t) + 3 * ways).reshape(-1, 3), ways.reshape(-1, 3), triangles))
    assert found.coordinates is not None and len(found.coordinates) == t.size, "no further cut"
    values = stretches(found)
    assert values.min() > 0.8 and values.max() < 1.25


def test_a_free_form_face_keeps_its_angles_and_its_area() -> None:
    """A conformal map stretches both ways alike."""
    bowl = sheet(
        lambda x, y: 0.02 * (x - 20) ** 2 - 0.05 * (y - 5) ** 2, lambda x, y: (0.04 * (x - 20), -0.1 * (y - 5))
    )
    found = unwrapped(bowl)
    values = stretches(found)
    assert np.median(values[:, 0] / values[:, 1]) < 1.02 and values.max() < 1.4 and values.min() > 0.7
    p, q = found.positions[found.triangles].astype(float), found.coordinates[found.triangles].astype(float)
    area = np.linalg.norm(np.cross(p[:, 1] - p[:, 0], p[:, 2] - p[:, 0]), axis=1).sum()
    assert np.linalg.det(q[:, 1:] - q[:, :1]).sum() == pytest.approx(area, rel=1e-3)


def test_the_finish_plate_wears_textures() -> None:
    """Sheet with a bend and a lip in one face, edges, and a bore: all of it can be laid flat."""
    found = unwrapped(plate_mesh())
    assert found.coordinates is not None and np.isfinite(found.coordinates).all()
    np.testing.assert_allclose(stretches(found), 1.0, atol=5e-3)


@pytest.mark.parametrize("seed", range(4))
def test_whatever_the_triangles_coordinates_are_numbers(seed: int) -> None:
    """Crumpled faces, slivers and points on a line."""
    random = np.random.default_rng(seed)
    points = random.normal(size=(60, 3)) * [(1, 1, 1), (1, 1, 0), (1, 0, 0), (0, 0, 0)][seed]
    ways = random.normal(size=(60, 3))
    ways /= np.linalg.norm(ways, axis=1, keepdims=True)
    found = unwrapped(mesh(points, ways, random.integers(0, 60, (80, 3))))
    assert found.coordinates is not None and np.isfinite(found.coordinates).all()
