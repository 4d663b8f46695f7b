"""Sections: cut meshes are closed and hold what geometry says, and a cut solid is traced as one that was built so."""

from __future__ import annotations

import numpy as np
import pytest
import trimesh
from hypothesis import given, settings
from hypothesis import strategies as st
from numpy.typing import NDArray
from scipy.spatial.transform import Rotation

from core.test_contacts import turned
from core.test_first_coat import built
from core.test_trace import appearance
from public_files import AS1, step_file
from usual_lamp.core.assembly import Mesh
from usual_lamp.core.assembly.cutting import cut, cut_by_name, cut_name, plane_in, plane_within, whole_name
from usual_lamp.core.camera import Camera
from usual_lamp.core.intake import IntakeResult, take_in
from usual_lamp.core.scene import EditRefused, Lighting, SetShot, apply_edit, first_scene
from usual_lamp.core.scene.differences import differences
from usual_lamp.core.scene.resolution import TraceInputs, TracePart, inputs_of, shown_in
from usual_lamp.core.scene.resolved import ResolvedScene
from usual_lamp.core.scene.section import Section, reach, through_face, usually_whole
from usual_lamp.core.scene.shot import Habits, Shot
from usual_lamp.core.scene.sight import SightAnswer, answer_sight, sight_question
from usual_lamp.core.trace.plan import Tile
from usual_lamp.core.trace.transport.tiles import trace_block
from usual_lamp.core.trace.world.world import World


def as_mesh(body: trimesh.Trimesh, faces: int = 1) -> Mesh:
    """A body with its triangles shared out evenly among so many faces; no vertex is shared."""
    points = body.triangles.reshape(-1, 3)
    firsts = np.linspace(0, len(body.faces), faces + 1).astype(int)
    return Mesh(
        points.astype(np.float32),
        np.repeat(body.face_normals, 3, axis=0).astype(np.float32),
        np.arange(len(points), dtype=np.uint32).reshape(-1, 3),
        np.stack([firsts[:-1], np.diff(firsts)], axis=1).astype(np.uint32),
        np.zeros((0, 2, 3), np.float32),
    )


def is_closed(mesh: Mesh) -> bool:
    welded = trimesh.Trimesh(mesh.positions, mesh.triangles, process=False)
    welded.merge_vertices(merge_norm=True, merge_tex=True, digits_vertex=5)
    return bool(welded.is_watertight)


BODIES = {
    "box": trimesh.creation.box((10, 20, 30)),
    "ball": trimesh.creation.icosphere(3, radius=5),
    "ring": trimesh.creation.annulus(3, 6, 10),
    "torus": trimesh.creation.torus(10, 3),
}


@settings(max_examples=40, deadline=None)
@given(
    st.sampled_from(sorted(BODIES)),
    st.tuples(*[st.floats(-1, 1)] * 3).filter(lambda n: np.linalg.norm(n) > 0.2),
    st.floats(-8, 8),
)
def test_two_halves_are_closed_and_make_the_whole(name: str, normal: tuple[float, float, float], offset: float) -> None:
    mesh = as_mesh(BODIES[name], 3)
    x, y, z = (float(v) for v in np.array(normal) / np.linalg.norm(normal))
    one, other = cut(mesh, (x, y, z, offset)), cut(mesh, (-x, -y, -z, -offset))
    assert one.volume() + other.volume() == pytest.approx(mesh.volume(), rel=1e-4)
    # The two closing faces are one and the same area; the rest is the whole surface.
    caps = [area_of_face(half, 3) for half in (one, other)]
    assert caps[0] == pytest.approx(caps[1], rel=1e-3, abs=1e-4)
    assert one.area() + other.area() - sum(caps) == pytest.approx(mesh.area(), rel=1e-4)
    assert all(len(half.face_ranges) == 4 for half in (one, other))
    assert all(np.abs(areas(half).sum(axis=0)).max() < 1e-3 * mesh.area() for half in (one, other)), "closed"


def areas(mesh: Mesh) -> NDArray[np.float64]:
    """(T, 3) mm² along the normals of triangles; of a closed surface they add up to nothing."""
    a, b, c = np.moveaxis(mesh.positions[mesh.triangles].astype(np.float64), 1, 0)
    return np.asarray(np.cross(b - a, c - a) / 2)


def area_of_face(mesh: Mesh, face: int) -> float:
    first, count = mesh.face_ranges[face]
    return float(np.linalg.norm(areas(mesh)[first : first + count], axis=1).sum())


@pytest.mark.parametrize(("body", "area"), [("ball", np.pi * 25), ("ring", np.pi * (36 - 9)), ("box", 200.0)])
def test_the_closing_face_has_the_area_of_the_section(body: str, area: float) -> None:
    """Disc, ring and rectangle in closed form; the polygons that stand for round ones are up to 3 percent smaller."""
    found = cut(as_mesh(BODIES[body]), (0, 0, 1, 0.0))
    assert 0.97 * area < area_of_face(found, 1) <= area * 1.0001
    first, count = found.face_ranges[1]
    corners = found.triangles[first : first + count]
    assert np.allclose(found.normals[corners], (0, 0, 1)) and np.allclose(found.positions[corners][..., 2], 0)


def test_a_face_that_lies_in_the_plane_is_kept_or_taken_with_its_solid() -> None:
    mesh = as_mesh(BODIES["box"])
    assert cut(mesh, (0, 0, 1, 15.0)).volume() == pytest.approx(6000)
    assert len(cut(mesh, (0, 0, 1, -15.0)).triangles) == 0
    assert is_closed(cut(mesh, (0, 0, 1, 15.0)))


def test_an_open_shell_is_cut_and_not_closed() -> None:
    mesh = as_mesh(BODIES["box"])
    sides = [k for k, n in enumerate(mesh.normals[mesh.triangles[:, 0]]) if abs(n[0]) < 0.5]
    shell = Mesh(
        mesh.positions, mesh.normals, mesh.triangles[sides], np.array([[0, len(sides)]], np.uint32), mesh.edges
    )
    found = cut(shell, (0, 0, 1, 0.0))
    assert found.face_ranges[1, 1] == 0 and found.area() == pytest.approx(shell.area() / 2)


def test_coordinates_and_creases_are_cut_along() -> None:
    whole = as_mesh(BODIES["box"])
    mesh = Mesh(
        whole.positions, whole.normals, whole.triangles, whole.face_ranges,
        np.array([[[-5, -10, -15], [-5, -10, 15]], [[5, 10, 10], [5, 10, 15]]], np.float32),
        whole.positions[:, 1:],
    )  # fmt: skip
    found = cut(mesh, (0, 0, 1, 4.0))
    assert found.coordinates is not None
    first = int(found.face_ranges[1, 0])
    own = np.unique(found.triangles[:first])
    assert np.allclose(found.coordinates[own], found.positions[own][:, 1:], atol=1e-4)
    assert found.edges[:, :, 2].max() == pytest.approx(4.0)
    assert [-5, -10, -15] in found.edges[0].tolist()


def test_names_say_the_plane_and_nonsense_is_refused() -> None:
    name = cut_name("ab", (0.0, 0.6, 0.8, -12.5))
    assert whole_name(name) == "ab" and plane_in(name) == (0.0, 0.6, 0.8, -12.5) and plane_in("ab") is None
    mesh = as_mesh(BODIES["ball"])
    assert cut_by_name("ab", lambda _: mesh) is mesh
    assert cut_by_name(cut_name("ab", (0, 0, 1, 0.0)), lambda _: mesh).volume() < mesh.volume()
    for bad in ("ab~1,2", "ab~nan,0,0,1", "ab~1,0,0,inf", "ab~0,0,0,1", "ab~x,0,0,1"):
        with pytest.raises(ValueError):
            plane_in(bad)
    turned = np.array([[0, -1.0, 0, 5], [1, 0, 0, 6], [0, 0, 1, 7], [0, 0, 0, 1]])
    x, y, z, d = plane_within((1.0, 0, 0, 8.0), turned)
    assert ((x, y, z), d) == ((0.0, -1.0, 0.0), 3.0)


@pytest.fixture(scope="module")
def bolted(tmp_path_factory: pytest.TempPathFactory) -> IntakeResult:
    return take_in(step_file(AS1), tmp_path_factory.mktemp("as1"), quality="coarse")


def test_every_solid_of_a_public_file_is_closed_again(bolted: IntakeResult) -> None:
    """The volumes of both halves add up to that of the whole, on faces that were tessellated one by one."""
    for definition in bolted.assembly.definitions.values():
        mesh = Mesh.from_bytes(bolted.blobs[definition.mesh].read_bytes())
        middle = np.mean(definition.bounds, axis=0)
        for normal in ((1.0, 0, 0), (0, 1.0, 0), (0.36, 0.48, 0.8)):
            offset = float(middle @ np.array(normal)) + 0.01
            one = cut(mesh, (*normal, offset))
            other = cut(mesh, (-normal[0], -normal[1], -normal[2], -offset))
            assert one.volume() + other.volume() == pytest.approx(mesh.volume(), rel=1e-4), definition.name
            assert one.face_ranges[-1, 1] > 0


def test_a_shot_is_cut_alone_and_spares_what_stays_whole(bolted: IntakeResult) -> None:
    assembly = bolted.assembly
    scene = first_scene(assembly, "a")
    shot = scene.shots["shot-1"]
    resolved = ResolvedScene(assembly, scene)
    low, high = reach(assembly, resolved.shown, Section(normal=(0, 2.0, 0), offset=0))
    section = Section(normal=(0, 2.0, 0), offset=(low + high) / 2, color="#C04020")
    cut_shot = shot.model_copy(update={"section": section})
    shown = shown_in(resolved, cut_shot)
    inputs = inputs_of(resolved, cut_shot)
    named = [part.mesh for part in inputs.parts if plane_in(part.mesh)]
    assert 0 < len(shown) < len(resolved.shown) and len(inputs.parts) == len(shown) and named
    for part in inputs.parts:
        faces = len(next(d.faces for d in assembly.definitions.values() if d.mesh == whole_name(part.mesh)))
        wears_cut = faces in part.faces and inputs.appearances[part.faces[faces]].name == "Cut"
        assert wears_cut == bool(plane_in(part.mesh))
    assert inputs_of(resolved, shot).fingerprint() == inputs_of(ResolvedScene(assembly, scene), shot).fingerprint()
    spared = section.model_copy(update={"whole": frozenset(part.uid for part in resolved.shown)})
    untouched = inputs_of(resolved, shot.model_copy(update={"section": spared}))
    assert untouched.fingerprint() == inputs_of(resolved, shot).fingerprint()
    fasteners = usually_whole(assembly, [part.uid for part in resolved.shown])
    assert {assembly.by_uid[uid].name.split("_")[0] for uid in fasteners} >= {"bolt", "nut"}
    assert not any("plate" in assembly.by_uid[uid].name for uid in fasteners)


def test_what_a_section_shows_counts_as_seen() -> None:
    """A ball in a closed box: seen from no side, but in the shot that cuts the box open."""
    box, ball = as_mesh(trimesh.creation.box((40, 40, 40))), as_mesh(trimesh.creation.icosphere(2, radius=5))
    inner = as_mesh(trimesh.creation.box((30, 30, 30)))
    shell = Mesh(
        np.concatenate([box.positions, inner.positions]),
        np.concatenate([box.normals, -inner.normals]),
        np.concatenate([box.triangles, inner.triangles[:, ::-1] + len(box.positions)]),
        np.array([[0, 24]], np.uint32), box.edges,
    )  # fmt: skip
    made = built([("Shell", None, None), ("Ball", None, None)])
    for key, mesh, far in (("d0", "shell", 20.0), ("d1", "ball", 5.0)):
        bounds = ((-far,) * 3, (far,) * 3)
        made.definitions[key] = made.definitions[key].model_copy(update={"mesh": mesh, "bounds": bounds})
    scene = first_scene(made, "a")
    meshes = {"shell": shell, "ball": ball}

    def answer(shot: Shot) -> SightAnswer:
        asked = scene.model_copy(update={"shots": {"shot-1": shot}})
        return answer_sight(sight_question(made, asked), lambda name: cut_by_name(name, meshes.__getitem__))

    whole = scene.shots["shot-1"]
    assert answer(whole).never == ["p1"] and answer(whole).not_in_shot == {"shot-1": ["p1"]}
    opened = whole.model_copy(update={"section": Section(normal=(0, -1, 0), offset=0)})
    assert answer(opened).never == [] and answer(opened).not_in_shot == {"shot-1": []}


@pytest.mark.parametrize("worn", ["metal", "clear"])
def test_a_cut_solid_is_traced_as_one_that_was_built_so(worn: str) -> None:
    """A ring cut in half against half a ring turned on its own: light comes in from where the rest was."""
    metal = appearance(base_metalness=1.0, specular_roughness=0.3)
    clear = appearance(transmission_weight=1.0, specular_roughness=0.0, transmission_depth=5.0)
    meshes = {"long": turned(3, 8, 0, 20, 32), "short": turned(3, 8, 0, 10, 32)}

    def picture(mesh: str) -> NDArray[np.float64]:
        part = TracePart(mesh=mesh, matrix=tuple(np.eye(4).ravel()), appearance=0)
        inputs = TraceInputs(
            parts=[part], appearances=[metal if worn == "metal" else clear], lighting=Lighting(), width=40, height=30,
            floor_height=0.0, camera=Camera(position=(0, -60, 50), target=(0, 0, 5), focal_length=60), center=(0, 0, 5),
            radius=14.0,
        )  # fmt: skip
        world = World(inputs, lambda name: cut_by_name(name, meshes.__getitem__))
        return np.asarray(trace_block(world, Tile(0, 0, 40, 30), 0, 32)) / 32

    cut, built_so = picture(cut_name("long", (0, 0, 1, 10.0))), picture("short")
    assert np.abs(cut - built_so).mean() < 0.03 * built_so.mean()
    assert cut.mean() == pytest.approx(built_so.mean(), rel=5e-3)
    assert np.abs(picture("long") - built_so).mean() > 0.1 * built_so.mean(), "there is something to see"


def tube(turn: NDArray[np.float64], shift: NDArray[np.float64], share: float = 1.0) -> NDArray[np.float64]:
    """Triangles' corners (T, 3, 3) of a tube of radius 4 about z, or a share of its round, moved."""
    angles = np.linspace(0, 2 * np.pi * share, 41)
    ring = np.stack([4 * np.cos(angles), 4 * np.sin(angles), np.zeros(41)], axis=1)
    low, high = ring, ring + np.array([0, 0, 6.0])
    quads = np.concatenate(
        [np.stack([low[:-1], low[1:], high[1:]], axis=1), np.stack([low[:-1], high[1:], high[:-1]], axis=1)]
    )
    return np.asarray(quads @ turn.T + shift)


@pytest.mark.parametrize("share", [1.0, 0.3])
def test_a_section_goes_through_the_axis_of_a_round_face_and_along_a_flat_one(share: float) -> None:
    turn, shift, eye = Rotation.random(random_state=3).as_matrix(), np.array([7.0, -3, 20]), np.array([50.0, -300, 90])
    section = through_face(tube(turn, shift, share), eye)
    normal = np.array(section.normal)
    for point in (shift, shift + turn[:, 2] * 6):
        assert point @ normal == pytest.approx(section.offset, abs=1e-3), "the axis lies in it"
    assert normal @ (eye - shift) > 0, "what looks at the camera goes"
    flat = np.array([[[0, 0, 5.0], [4, 0, 5], [0, 4, 5]]]) @ turn.T + shift
    along = through_face(flat, eye)
    assert along.normal == pytest.approx(turn[:, 2], abs=1e-5)
    assert flat[0, 0] @ np.array(along.normal) == pytest.approx(along.offset, abs=1e-3)


def test_a_face_that_is_neither_flat_nor_round_gives_none() -> None:
    ball = trimesh.creation.icosphere(2)
    with pytest.raises(ValueError, match="neither flat nor round"):
        through_face(ball.triangles, np.array([0, -9.0, 0]))
    with pytest.raises(ValueError, match="no area"):
        through_face(np.zeros((1, 3, 3)), np.array([0, -9.0, 0]))


def test_a_section_needs_a_direction() -> None:
    with pytest.raises(ValueError, match="direction"):
        Section(normal=(0, 0, 0), offset=1)


def test_where_all_lies_before_the_plane_nothing_is_left_and_that_is_said() -> None:
    made = built([("Block", None, None)])
    scene = first_scene(made, "a")
    shot = scene.shots["shot-1"].model_copy(update={"section": Section(normal=(0, 0, 1), offset=-5)})
    with pytest.raises(ValueError, match="shows no part"):
        inputs_of(ResolvedScene(made, scene), shot)


@settings(max_examples=30, deadline=None)
@given(st.integers(0, 10**6), st.floats(0.2, 5), st.booleans(), st.floats(-40, 40))
def test_a_plane_is_the_same_in_a_parts_own_frame(seed: int, scale: float, mirrored: bool, offset: float) -> None:
    """However a part is turned, scaled or mirrored: what lies before the plane there lies before it here."""
    random = np.random.default_rng(seed)
    matrix = np.eye(4)
    matrix[:3, :3] = Rotation.random(random_state=seed).as_matrix() * scale
    matrix[:3, 0] *= -1 if mirrored else 1
    matrix[:3, 3] = random.uniform(-30, 30, 3)
    normal = random.normal(size=3)
    normal /= np.linalg.norm(normal)
    x, y, z, d = plane_within((float(normal[0]), float(normal[1]), float(normal[2]), offset), matrix)
    assert np.linalg.norm((x, y, z)) == pytest.approx(1)
    points = random.uniform(-20, 20, (50, 3))
    here = (points @ matrix[:3, :3].T + matrix[:3, 3]) @ normal - offset
    assert points @ np.array([x, y, z]) - d == pytest.approx(here / scale, abs=1e-9)


def test_a_section_is_told_in_words_and_stays_with_its_shot(bolted: IntakeResult) -> None:
    scene = first_scene(bolted.assembly, "a")
    whole = scene.shots["shot-1"]
    cut = whole.model_copy(update={"section": Section(normal=(0, 1, 0), offset=75.0)})
    moved = cut.model_copy(update={"section": Section(normal=(0, 1, 0), offset=80.0)})
    uids = {part.uid for part in bolted.assembly.parts()}
    said = []
    for before, after in ((whole, cut), (cut, moved), (moved, whole)):
        now = scene.model_copy(update={"shots": {"shot-1": before}})
        edit = SetShot(id="shot-1", shot=after)
        said.append(edit.words(now).split(" the ")[0])
        changed, back = apply_edit(now, edit, uids)
        assert changed.shots["shot-1"] == after and apply_edit(changed, back, uids)[0] == now
        was, is_ = (ResolvedScene(bolted.assembly, one) for one in (now, changed))
        assert differences(was, is_, "shot-1")[0].startswith("Section: ")
    assert said == ["Cut", "Change", "Close"]
    locked = scene.model_copy(update={"shots": {"shot-1": whole.model_copy(update={"locked": True})}})
    with pytest.raises(EditRefused, match="locked"):
        apply_edit(locked, SetShot(id="shot-1", shot=cut.model_copy(update={"locked": True})), uids)
    assert Habits.of(cut).applied(whole).section is None, "the next review's product lies elsewhere"
