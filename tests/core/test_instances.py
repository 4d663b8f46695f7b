"""What occurs many times is one mesh and its instances: the same picture as of triangles written out, and less work."""

from __future__ import annotations

import numpy as np
import pytest
from scipy.spatial.transform import Rotation

from core.test_contacts import turned
from core.test_trace import appearance
from usual_lamp.core.appearance.texture import Texture
from usual_lamp.core.camera import Camera
from usual_lamp.core.scene import Lighting
from usual_lamp.core.scene.resolution import TraceInputs, TracePart
from usual_lamp.core.trace.jobs.survey import survey
from usual_lamp.core.trace.plan import Tile
from usual_lamp.core.trace.transport.tiles import trace_block
from usual_lamp.core.trace.world import shapes
from usual_lamp.core.trace.world.world import World

SIZE = (48, 36)
MESHES = {"ring": turned(3, 6, 0, 4, 24), "pin": turned(0, 2, 0, 9, 12)}
WORN = [
    appearance(base_color=(0.7, 0.2, 0.1), specular_roughness=0.3),
    appearance(base_metalness=1.0, specular_roughness=0.3, specular_roughness_anisotropy=0.7),
    appearance(base_color=(0.1, 0.3, 0.7)).model_copy(
        update={"textures": (Texture(picture="made:oak", mapping="surface", width=9, height=9, target="bump"),)}
    ),
    appearance(transmission_weight=1.0, specular_roughness=0.0, transmission_depth=5.0, transmission_color=(0.3, 1, 1)),
    appearance(emission_luminance=800.0),
]


@pytest.fixture(autouse=True)
def no_room(monkeypatch: pytest.MonkeyPatch) -> None:
    """As in a large assembly."""
    monkeypatch.setattr(shapes, "ROOM", 0)


def placed(number: int) -> TracePart:
    """Turned, moved, some scaled, every third mirrored."""
    matrix = np.eye(4)
    matrix[:3, :3] = Rotation.random(random_state=number).as_matrix() * (1.0 if number % 2 else 0.8)
    if number % 3 == 0:
        matrix[:3, 1] *= -1
    matrix[:3, 3] = np.random.default_rng(number).uniform(-22, 22, 3)
    faces = {1: 0} if number % 5 == 0 else {}
    name = "pin" if number % 7 == 0 else "ring"
    return TracePart(mesh=name, matrix=tuple(matrix.ravel()), appearance=number % len(WORN), faces=faces)


def inputs(parts: list[TracePart]) -> TraceInputs:
    return TraceInputs(
        parts=parts, appearances=WORN, lighting=Lighting(), width=SIZE[0], height=SIZE[1], floor_height=-30.0,
        camera=Camera(position=(0, -120, 40), target=(0, 0, 0), focal_length=60), center=(0, 0, 0), radius=40.0,
    )  # fmt: skip


def world(parts: list[TracePart], rounding: float = 0.0) -> World:
    return World(inputs(parts).model_copy(update={"rounding": rounding}), MESHES.__getitem__)


def picture(w: World) -> np.ndarray:
    return trace_block(w, Tile(0, 0, *SIZE), 0, 32) / 32


@pytest.mark.parametrize("rounding", [0.0, 0.8])
def test_instances_look_as_what_is_written_out(monkeypatch: pytest.MonkeyPatch, rounding: float) -> None:
    parts = [placed(number) for number in range(40)]
    shared = world(parts, rounding)
    assert shared.has_instances and shared.triangles.count(shared.triangles.names()) < 3000
    seen, told = picture(shared), survey(shared, Tile(0, 0, *SIZE), 2)
    monkeypatch.setattr(shapes, "WRITTEN_OUT", 1000)
    apart = world(parts, rounding)
    assert not apart.has_instances
    expected, truth = picture(apart), survey(apart, Tile(0, 0, *SIZE), 2)
    # A ray in a hundred meets an edge on its other side, as 32 bits round otherwise, and a path from there is another.
    off = np.abs(seen - expected).max(axis=2) > 1e-2 * expected[..., :3].mean()
    assert off.mean() < 0.1
    assert seen.mean(axis=(0, 1)) == pytest.approx(expected.mean(axis=(0, 1)), rel=3e-3, abs=1e-3)
    apart_by = np.degrees(np.arccos(np.clip(np.einsum("ijk,ijk->ij", told.normal, truth.normal), -1, 1)))
    assert (apart_by > 5).mean() < 0.02
    for field in ("part", "appearance"):
        assert (getattr(told, field) != getattr(truth, field)).mean() < 0.01


def test_hiding_one_of_three_leaves_the_others_as_they_are() -> None:
    parts = [placed(number).model_copy(update={"mesh": "ring", "appearance": 0, "faces": {}}) for number in (1, 3, 5)]
    w = world(parts)
    held = w.triangles.vertices
    w.change(inputs(parts[:2]))
    assert w.triangles.vertices is held and len(w.scene.shapes()) == 3, "two rings and the floor"
    np.testing.assert_allclose(picture(w), picture(world(parts[:2])), rtol=0.2, atol=0.02 * picture(w).mean())


def test_small_assemblies_are_written_out_until_they_grow(monkeypatch: pytest.MonkeyPatch) -> None:
    plain = {"mesh": "ring", "appearance": 0, "faces": {}}
    parts = [placed(number).model_copy(update=plain) for number in (1, 3, 5, 9)]
    monkeypatch.setattr(shapes, "ROOM", 3 * len(MESHES["ring"].triangles))
    w = world(parts[:3])
    assert not w.has_instances and len(w.triangles.names()) == 4, "three rings and the floor"
    w.change(inputs(parts))
    assert w.has_instances, "four are too many"
    held = w.triangles.vertices
    w.change(inputs(parts[:3]))
    assert w.triangles.vertices is held, "hiding one changes nothing for the others"


def test_an_uneven_scale_is_written_out() -> None:
    """Its normals do not move as its points do."""
    wide = np.diag([2.0, 1.0, 1.0, 1.0])
    parts = [placed(n).model_copy(update={"mesh": "ring", "appearance": 0, "faces": {}}) for n in (1, 3, 5)]
    w = world([*parts, parts[0].model_copy(update={"matrix": tuple(wide.ravel())})])
    assert len(w.triangles.names()) == 3, "one ring that three share, the wide one, the floor"
