"""How fine a tessellation is: measured against the sagitta, asked anew, fitted to a shot."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest
import trimesh
from OCP.BRepPrimAPI import BRepPrimAPI_MakeCylinder, BRepPrimAPI_MakeSphere, BRepPrimAPI_MakeTorus
from OCP.TopoDS import TopoDS_Shape

from core.test_kinds import written
from usual_lamp.core.assembly import Mesh
from usual_lamp.core.assembly.deviation import deviation
from usual_lamp.core.intake import IntakeResult, shapes, tessellate_again
from usual_lamp.core.intake.tessellation import OVER
from usual_lamp.core.scene import first_scene
from usual_lamp.core.scene.fit_to_shot import FREE_ANGLE, MARGIN, PIXELS, chords_for_shot, pixel_size


def exported(shape: TopoDS_Shape, tmp_path, chord: float, angle: float) -> Mesh:
    shapes.tessellate(shape, chord, angle)
    return shapes.export_arrays({"d": shape}, tmp_path, lambda share: None)["d"]


def test_a_polygon_on_a_circle_is_off_by_its_sagitta() -> None:
    """s = r (1 - cos(pi / n)), the handbook's circular segment."""
    radius, count = 10.0, 16
    turns = np.arange(count + 1) * 2 * np.pi / count
    around = np.stack([np.cos(turns), np.sin(turns), np.zeros_like(turns)], axis=1)
    points = np.stack([around * radius, around * radius + [0, 0, 5]], axis=1).reshape(-1, 3)
    triangles = [t for k in range(0, 2 * count, 2) for t in ([k, k + 2, k + 3], [k, k + 3, k + 1])]
    arrays = points.astype(np.float32), np.repeat(around, 2, axis=0).astype(np.float32), np.array(triangles, np.uint32)
    mesh = Mesh(*arrays, np.array([[0, len(triangles)]], np.uint32), np.zeros((0, 2, 3), np.float32))
    assert deviation(mesh) == pytest.approx(radius * (1 - np.cos(np.pi / count)), rel=1e-5)
    none = np.zeros((0, 3), np.float32)
    assert deviation(Mesh(none, none, none.astype(np.uint32), np.zeros((0, 2), np.uint32), none.reshape(0, 2, 3))) == 0


def test_inside_a_triangle_on_a_sphere_the_bulge_counts() -> None:
    made = trimesh.creation.icosphere(2, 10.0)
    points, triangles = np.asarray(made.vertices), np.asarray(made.faces)
    arrays = points.astype(np.float32), (points / 10).astype(np.float32), triangles.astype(np.uint32)
    mesh = Mesh(*arrays, np.array([[0, len(triangles)]], np.uint32), np.zeros((0, 2, 3), np.float32))
    exact = 10.0 - np.linalg.norm(points[triangles].mean(axis=1), axis=1).min()
    assert deviation(mesh) == pytest.approx(exact, rel=0.04)


def surface_distance(name: str, points: np.ndarray) -> np.ndarray:
    """Distance of points from the exact surface, mm."""
    radial = np.linalg.norm(points[:, :2], axis=1)
    if name == "cylinder":
        return np.minimum(np.abs(radial - 20), np.minimum(np.abs(points[:, 2]), np.abs(points[:, 2] - 30)))
    if name == "sphere":
        return np.abs(np.linalg.norm(points, axis=1) - 20)
    return np.abs(np.hypot(radial - 20, points[:, 2]) - 6)


@pytest.mark.parametrize("name", ["cylinder", "sphere", "torus"])
@pytest.mark.parametrize("chord", [0.5, 0.05])
def test_what_the_kernel_reached_is_measured_truly(name: str, chord: float, tmp_path) -> None:
    make = {
        "cylinder": lambda: BRepPrimAPI_MakeCylinder(20.0, 30.0),
        "sphere": lambda: BRepPrimAPI_MakeSphere(20.0),
        "torus": lambda: BRepPrimAPI_MakeTorus(20.0, 6.0),
    }
    mesh = exported(make[name]().Shape(), tmp_path, chord, 0.8)
    corners = mesh.positions[mesh.triangles].astype(float)
    weights = np.random.default_rng(3).dirichlet((1, 1, 1), (len(corners), 60))
    inside = np.einsum("tsk,tkd->tsd", weights, corners).reshape(-1, 3)
    edges = np.concatenate([(corners + np.roll(corners, -1, axis=1)) / 2]).reshape(-1, 3)
    true = surface_distance(name, np.concatenate([inside, edges])).max()
    assert deviation(mesh) == pytest.approx(true, rel=0.12, abs=2e-4)


def test_only_what_is_asked_gets_new_meshes_and_the_limit_is_kept(as1: IntakeResult, tmp_path) -> None:
    assembly = as1.assembly
    rod = next(d for d in assembly.definitions.values() if d.name == "rod")
    exact = {rod.key: as1.blobs[rod.shape or ""]}
    made = tessellate_again(assembly, exact, {rod.key: (0.4, FREE_ANGLE, 0.02)}, tmp_path)
    after = made.assembly.definitions[rod.key]
    assert after.deviation is not None and after.deviation <= 0.02 < 0.4 and set(made.blobs) == {after.mesh}
    others = [key for key in assembly.definitions if key != rod.key]
    assert all(made.assembly.definitions[key] == assembly.definitions[key] for key in others)
    assert made.assembly.occurrences == assembly.occurrences and after.faces == rod.faces
    finer = tessellate_again(assembly, exact, {rod.key: (0.4, FREE_ANGLE, 0.002)}, tmp_path / "finer")
    assert finer.assembly.definitions[rod.key].triangles > after.triangles


def test_a_shot_asks_for_half_a_pixel(as1: IntakeResult) -> None:
    scene = first_scene(as1.assembly, "rev")
    shot = scene.shots["shot-1"]
    chords = chords_for_shot(as1.assembly, scene, shot)
    assert chords.keys() == {d.shape for d in as1.assembly.definitions.values()}
    doubled = chords_for_shot(as1.assembly, scene, shot.model_copy(update={"width": 2560, "height": 1920}))
    assert all(doubled[shape] == pytest.approx(chords[shape] / 2, rel=0.01) for shape in chords)
    # 85 mm on 36 mm film: at 1 m the frame is 423.5 mm wide, of which a pixel of 1280 is 0.331 mm.
    far = shot.camera.model_copy(update={"position": (0.0, -1000.0, 0.0), "target": (0.0, 0.0, 0.0)})
    pixel = pixel_size(shot.model_copy(update={"camera": far}), np.zeros((1, 3)))
    assert pixel == pytest.approx(36 / 85 * 1000 / 1280) and PIXELS * MARGIN < 0.5


def test_an_import_lies_as_near_to_its_surfaces_as_was_asked(tmp_path: Path) -> None:
    """The kernel misses its tolerance on spheres by twice and more; what came out is measured and mended."""
    made = written(tmp_path, [BRepPrimAPI_MakeTorus(20, 3).Shape(), BRepPrimAPI_MakeSphere(30).Shape()], "fair")
    limit = OVER * made.chord
    for definition in made.definitions.values():
        mesh = Mesh.from_bytes((tmp_path / definition.mesh).read_bytes())
        middles = mesh.positions[mesh.triangles].astype(float).mean(axis=1)
        ring = np.hypot(np.hypot(middles[:, 0], middles[:, 1]) - 20, middles[:, 2]) - 3
        ball = np.linalg.norm(middles, axis=1) - 30
        off = min(np.abs(ring).max(), np.abs(ball).max())
        assert definition.deviation is not None and definition.deviation <= limit
        assert off <= 1.02 * definition.deviation, "it is measured, from normals in single precision"
