"""Winding mended by flood and rays; what is open, crowded, doubled or one-sided is said. Volumes by hand."""

from __future__ import annotations

import numpy as np
import pytest
import trimesh

from usual_lamp.core.assembly import Mesh
from usual_lamp.core.assembly.mending import mend
from usual_lamp.core.assembly.odd_edges import odd_edges
from usual_lamp.core.assembly.smoothing import smooth_faces, welded


def ball(radius: float = 10.0, fineness: int = 2) -> tuple[np.ndarray, np.ndarray]:
    made = trimesh.creation.icosphere(fineness, radius)
    return np.asarray(made.vertices), np.asarray(made.faces).astype(np.int64)


def volume(points: np.ndarray, triangles: np.ndarray) -> float:
    a, b, c = (points[triangles[:, k]] for k in range(3))
    return float(np.einsum("ij,ij->", a, np.cross(b, c)) / 6)


def spoiled(triangles: np.ndarray, share: float, seed: int = 1) -> np.ndarray:
    """A share of the triangles turned over."""
    over = np.random.default_rng(seed).random(len(triangles)) < share
    return np.where(over[:, None], triangles[:, ::-1], triangles)


@pytest.mark.parametrize("share", [0.0, 0.3, 0.5, 0.9, 1.0])
def test_any_share_of_flipped_triangles_is_mended(share: float) -> None:
    points, triangles = ball()
    bad = spoiled(triangles, share)
    mended, health = mend(points, bad)
    assert volume(points, mended) == pytest.approx(volume(points, triangles))
    assert health.turned == int((bad != triangles).any(axis=1).sum()) and health.shells == 1
    assert health.sound == (share == 0.0)


def test_a_hollow_keeps_its_inner_wall_inside_out() -> None:
    outer, triangles = ball()
    points, both = np.concatenate([outer, outer * 0.5]), np.concatenate([triangles, triangles + len(outer)])
    mended, health = mend(points, both)
    whole = volume(outer, triangles)
    assert health.shells == 2 and volume(points, mended) == pytest.approx(whole * (1 - 1 / 8))
    island = np.concatenate([points, outer * 0.2])
    three, _ = mend(island, np.concatenate([both, triangles + 2 * len(outer)]))
    assert volume(island, three) == pytest.approx(whole * (1 - 1 / 8 + 1 / 125)), "the innermost faces out again"


def test_an_open_shell_turns_its_free_side_out() -> None:
    points, triangles = ball()
    bowl = triangles[points[triangles].mean(axis=1)[:, 2] > 0.1]
    for wound in (bowl, bowl[:, ::-1], spoiled(bowl, 0.4)):
        mended, health = mend(points, wound)
        corners = points[mended]
        cross = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
        assert (np.einsum("ij,ij->i", cross, corners.mean(axis=1)) > 0).all()
        assert health.open_edges > 10 and health.crowded_edges == 0


def test_what_cannot_be_mended_is_said() -> None:
    turns = np.linspace(0, 2 * np.pi, 25)[:-1]
    strip = [
        [np.cos(t) * (10 + s * np.cos(t / 2)), np.sin(t) * (10 + s * np.cos(t / 2)), s * np.sin(t / 2)]
        for t in turns
        for s in (-2, 2)
    ]
    triangles = []
    for k in range(24):
        a, b = 2 * k, 2 * k + 1
        c, d = (1, 0) if k == 23 else (2 * k + 2, 2 * k + 3)
        triangles += [[a, b, c], [b, d, c]]
    _, health = mend(np.array(strip), np.array(triangles))
    assert health.one_sided == 1 and health.open_edges == 48
    points, box = ball(5.0, 0)
    degenerate = np.concatenate([box, [box[0], box[1][[1, 2, 0]], [0, 0, 1]]])
    mended, health = mend(points, degenerate)
    assert (health.twice, health.without_area, len(mended)) == (2, 1, len(box))
    third = np.vstack([points, points[0] * 3])
    fin = np.concatenate([box, [[box[0][0], box[0][1], len(points)]]])
    assert mend(third, fin)[1].crowded_edges == 1
    nothing, health = mend(np.zeros((0, 3)), np.zeros((0, 3), np.int64))
    assert len(nothing) == 0 and health.shells == 0


def test_the_crease_angle_decides_what_is_smooth() -> None:
    made = trimesh.creation.cylinder(5, 20, sections=24)  # its sides meet at 15 degrees
    points, triangles = np.asarray(made.vertices), np.asarray(made.faces).astype(np.int64)
    counts = {crease: len(smooth_faces(points, triangles, crease).face_ranges) for crease in (10.0, 30.0, 100.0)}
    assert counts == {10.0: 26, 30.0: 3, 100.0: 1}
    smooth = smooth_faces(points, triangles, 30.0)
    side = smooth.normals[np.abs(smooth.normals[:, 2]) < 0.1]
    again = smooth_faces(*welded(Mesh.from_bytes(smooth.to_bytes()))[:2], 30.0)
    assert np.allclose(np.linalg.norm(side[:, :2], axis=1), 1, atol=1e-6) and len(again.positions) == len(
        smooth.positions
    )


def test_odd_edges_are_told_where_they_are() -> None:
    """A box without its top has four open edges, all at its rim; a third wall on an edge makes that one crowded."""
    box = trimesh.creation.box((2.0, 2.0, 2.0))
    top = box.triangles_center[:, 2] > 0.99
    found = odd_edges(smooth_faces(box.vertices, box.faces[~top]))
    assert found.open.shape == (4, 2, 3) and np.all(found.open[..., 2] == 1.0) and len(found.crowded) == 0
    assert len(odd_edges(smooth_faces(box.vertices, box.faces)).open) == 0
    edge = box.vertices[box.faces[0][:2]]
    fin = np.r_[box.vertices, [edge.mean(axis=0) * 3]]
    faces = np.r_[box.faces, [[*box.faces[0][:2], len(box.vertices)]]]
    crowded = odd_edges(smooth_faces(fin, faces)).crowded
    assert len(crowded) == 1 and {tuple(p) for p in crowded[0]} == {tuple(p) for p in edge}
