"""Floors that wear an appearance, sweeps, and surroundings that lie on the ground."""

from __future__ import annotations

import dataclasses
import math

import numpy as np
import pytest
import scipy

from core.test_trace import MATT, UNIFORM, appearance, sphere, world
from usual_lamp.core.appearance import SHELF, Appearance, OpenPBR, hex_to_linear
from usual_lamp.core.appearance.texture import Texture
from usual_lamp.core.camera import Camera
from usual_lamp.core.light import directions
from usual_lamp.core.light.arranging import Stand, starter_set
from usual_lamp.core.light.lamp_shapes import illuminance
from usual_lamp.core.light.lamps import PanelLamp, PointLamp
from usual_lamp.core.scene import Backdrop, Lighting, Scene, first_scene
from usual_lamp.core.scene.arrangement import arranged
from usual_lamp.core.scene.document import Floor, FloorTilt, Placement
from usual_lamp.core.scene.floor_plane import LEVEL, FloorPlane, floor_plane
from usual_lamp.core.scene.ground import Ground
from usual_lamp.core.scene.resolution import DEFAULT_SHOT, TraceInputs, ground_under, trace_inputs
from usual_lamp.core.scene.resolved import ResolvedScene
from usual_lamp.core.trace.engine import mi
from usual_lamp.core.trace.jobs.survey import NOTHING, survey
from usual_lamp.core.trace.plan import Tile
from usual_lamp.core.trace.transport.tiles import trace_block
from usual_lamp.core.trace.world.behind import Behind
from usual_lamp.core.trace.world.floor_light import FloorLight
from usual_lamp.core.trace.world.lights import EnvironmentMap
from usual_lamp.core.trace.world.world import World

VIEW = Camera(position=(0, -90, 40), target=(0, 0, 0), focal_length=50)
SIZE = (32, 24)


def on_ground(kind: str, wear=None, light=UNIFORM, **lighting) -> World:
    """A small ball over a floor of that kind."""
    ball = sphere(2.0)
    ball.positions[:, 2] += 2
    found = world({"ball": ball}, [appearance(**MATT)], VIEW, light, SIZE, floor=True)
    lit = Lighting(floor_finish=Floor(kind=kind), backdrop=Backdrop(kind="plain", bottom="#204060"), **lighting)
    inputs = found.inputs.model_copy(update={"lighting": lit, "ground": wear or appearance(**MATT)})
    return World(inputs, found.mesh_of, light)


@pytest.mark.parametrize("kind", ["key", "rim", "fill", "top"])
def test_the_light_on_the_floor_has_no_streaks(kind: str) -> None:
    """Against the closed form for panels (`test_cards_and_photometry`), also where a panel's plane meets the floor."""
    stand = Stand(np.array([0, 0, 50.0]), 100.0, 0.0, np.array([300.0, -500.0, 250.0]))
    lamp = starter_set("key, fill and rim", stand)[0][kind]
    table = FloorLight()
    table.follow(np.full(3, 2000.0), [(lamp, np.ones(3))], (0.0, 0.0, 50.0), 100.0, FloorPlane(LEVEL, 0.0))
    x, y = np.random.default_rng(4).uniform(-800, 800, (2, 20000))
    points = np.c_[x, y, np.zeros(len(x))]
    exact = 2000.0 + illuminance(lamp, points, np.broadcast_to([0.0, 0, 1], points.shape))
    lux, _ = table.at(mi.Point3f(mi.Float(x), mi.Float(y), mi.Float(0 * x)), mi.Bool(True))
    off = np.abs(np.asarray(lux.y) / exact - 1)
    assert np.quantile(off, 0.999) < 3e-3 and off.max() < 0.02


@pytest.mark.parametrize("shadow", [1.0, 0.4])
@pytest.mark.parametrize("even", [2000.0, 0.0])
@pytest.mark.parametrize("height", [-3.0, 0.0, 6.1])
def test_a_panel_in_the_floor_lights_it_by_the_closed_form(height: float, even: float, shadow: float) -> None:
    """Also close to the line along which light jumps from none to the panel's most."""
    panel = PanelLamp(
        position=(9, 4, height), target=(0, 0, height + 1), width=12, height=12, luminance=12000, name="panel"
    )
    table = FloorLight()
    table.follow(np.full(3, even), [(panel, np.full(3, 0.7))], (0.0, 0.0, 0.0), 12.0, FloorPlane(LEVEL, 0.0), shadow)
    assert len(table.panels) == 1
    x, y = np.random.default_rng(4).uniform(-20, 20, (2, 20000))
    points = np.c_[x, y, np.zeros(len(x))]
    exact = even + 0.7 * illuminance(panel, points, np.broadcast_to([0.0, 0, 1], points.shape))
    lux, unlit = table.at(mi.Point3f(mi.Float(x), mi.Float(y), mi.Float(0 * x)), mi.Bool(True))
    shown = exact / np.asarray(lux.y) + np.asarray(unlit)
    near_line = np.abs((points - panel.position) @ panel.frame()[2]) < 1e-3
    assert np.abs(shown - 1)[~near_line].max() < 0.02


def test_a_floor_that_wears_an_appearance_is_lit_like_a_part_and_ends_in_the_backdrop() -> None:
    w = on_ground("appearance")
    seen = trace_block(w, Tile(0, 0, *SIZE), 0, 256, clamp=False)[..., :3] / 256
    assert seen[-1, [0, -1]].mean() == pytest.approx(50.0, rel=0.02), "ρL under even light"
    far = World(
        w.inputs.model_copy(update={"camera": VIEW.model_copy(update={"target": (0, 90, 40)})}), w.mesh_of, UNIFORM
    )
    top = trace_block(far, Tile(0, 0, *SIZE), 0, 64)[0, :, :3].mean(axis=0) / 64
    np.testing.assert_allclose(
        top / top.sum(), np.array(hex_to_linear("#204060")) / sum(hex_to_linear("#204060")), rtol=0.01
    )
    found = survey(w, Tile(0, 0, *SIZE))
    assert found.part[-1, 0] == NOTHING and found.part.max() == 0 and found.alpha[-1].max() == 0


def test_a_sweep_rises_behind_the_product_and_shows_no_edge() -> None:
    w = on_ground("sweep")
    seen = trace_block(w, Tile(0, 0, *SIZE), 0, 128)[..., 1] / 128
    assert (seen > 25).all(), "no backdrop is seen past it"
    mesh = Ground("sweep", (0.0, 0.0, 0.0), 10.0, LEVEL, 90.0).mesh()
    assert mesh.positions[:, 0].min() == pytest.approx(-41.0) and mesh.positions[:, 2].max() == pytest.approx(80.0)
    assert mesh.positions[:, 2].min() == pytest.approx(0.0, abs=1e-5)
    a, b, c = np.moveaxis(mesh.positions[mesh.triangles], 1, 0)
    facing = np.cross(b - a, c - a)
    facing /= np.linalg.norm(facing, axis=1, keepdims=True)
    assert (np.einsum("ij,ij->i", facing, mesh.normals[mesh.triangles[:, 0]]) > 0.99).all()
    lengths = (
        np.linalg.norm(b - a, axis=1),
        np.linalg.norm(mesh.coordinates[mesh.triangles[:, 1]] - mesh.coordinates[mesh.triangles[:, 0]], axis=1),
    )
    np.testing.assert_allclose(*lengths, rtol=1e-4, err_msg="its coordinates are in mm")


def test_what_a_floor_wears_comes_from_the_review_or_the_shelf(as1) -> None:
    scene = first_scene(as1.assembly, "rev")

    def ground(finish: Floor, **change) -> TraceInputs:
        lit = scene.lighting.model_copy(update={"floor_finish": finish, **change})
        changed: Scene = scene.model_copy(update={"lightings": {scene.lit_by: lit}})
        return trace_inputs(as1.assembly, changed, changed.shots[DEFAULT_SHOT])

    assert ground(Floor()).ground is None and ground(Floor(kind="appearance", appearance="gone")).ground is None
    assert ground(Floor(kind="appearance", appearance="oak")).ground == SHELF["oak"]
    paper = ground(Floor(kind="sweep")).ground
    assert paper is not None and paper.params.base_color == hex_to_linear(scene.lighting.backdrop.bottom)
    clear = Backdrop(transparent=True)
    assert (
        ground(Floor(kind="sweep"), backdrop=clear).ground is None
        and ground(Floor(kind="sweep"), floor=False).ground is None
    )


@pytest.mark.parametrize(
    ("eye", "way", "met"),
    [
        ((0, -500, 300), (0, 1, -1), (0, -200, 0)),
        ((0, -500, 300), (3, 4, -3), (300, -100, 0)),
        ((0, 0, 100), (0, 1, 0), None),
        ((0, 0, 100), (0, 100, -1), None),
    ],
)
def test_the_ground_shows_what_lies_at_each_place(eye, way, met) -> None:
    """Seen from 1000 mm above a place 50 mm to the right: the map shows it in the direction from there; beyond 3000 mm
    it stands as a dome."""
    middle, reach = np.array([50.0, 0.0, 1000.0]), 3000.0
    image = (1.0 + directions(256)).astype(np.float32)
    backdrop = Backdrop(kind="environment", grounded=True, viewpoint=1000.0, reach=reach)
    behind = Behind(backdrop, 1.5, environment=EnvironmentMap(image), middle=tuple(middle))
    direction = np.array(way, float) / math.sqrt(sum(v * v for v in way))
    ray = mi.Ray3f(mi.Point3f(*map(float, eye)), mi.Vector3f(*map(float, direction)))
    found = np.array(behind._toward(ray)).ravel()
    if met is None:
        along = np.array(eye) - middle
        b, c = along @ direction, along @ along - reach**2
        expected = along + direction * (-b + math.sqrt(b * b - c))
        assert np.linalg.norm(expected) == pytest.approx(reach)
    else:
        expected = np.array(met) - middle
    np.testing.assert_allclose(found, expected / np.linalg.norm(expected), atol=1e-4)


OAK = Floor(kind="appearance", appearance="oak", lift=-4.0)


@pytest.mark.parametrize("finish", [OAK, Floor(kind="sweep", turn=30.0)])
def test_the_floor_that_is_shown_shaded_is_the_one_that_is_traced(as1, finish: Floor) -> None:
    """Corner for corner: the shaded picture gets its mesh from the scene, the tracer from its inputs."""
    scene = first_scene(as1.assembly, "rev")
    lit = scene.lighting.model_copy(update={"floor_finish": finish})
    scene = scene.model_copy(update={"lightings": {scene.lit_by: lit}})
    shot = scene.shots[DEFAULT_SHOT]
    inputs = trace_inputs(as1.assembly, scene, shot)
    found = ground_under(ResolvedScene(as1.assembly, scene), lit)
    assert found is not None and found[0] == inputs.ground
    traced = Ground.under(inputs.lighting, inputs.center, inputs.radius, inputs.floor).mesh()
    np.testing.assert_array_equal(found[1].positions, traced.positions)
    lowest = min(box[2] for box in as1.assembly.boxes(list(as1.assembly.parts()))[0])
    assert float(found[1].positions[:, 2].min()) == pytest.approx(lowest + finish.lift, abs=1e-3 * inputs.radius)


def test_no_floor_is_shown_where_none_is_traced(as1) -> None:
    scene = first_scene(as1.assembly, "rev")

    def shown(**change: object) -> bool:
        lit = scene.lighting.model_copy(update={"floor_finish": Floor(kind="sweep"), **change})
        changed = scene.model_copy(update={"lightings": {scene.lit_by: lit}})
        return ground_under(ResolvedScene(as1.assembly, changed), lit) is not None

    assert shown() and not shown(floor=False) and not shown(floor_finish=Floor())
    assert not shown(backdrop=Backdrop(kind="plain", transparent=True)), "stills show its shadow on nothing"


TILT = np.array(scipy.spatial.transform.Rotation.from_euler("x", 25.0, degrees=True).as_matrix())


def leaning(by: np.ndarray, samples: int) -> np.ndarray:
    """A ball on a shiny floor under a lamp in even light, all of it turned; as a picture."""
    ball = sphere(2.0)
    ball.positions[:, 2] += 2
    points, normals = (np.asarray(v @ by.T, np.float32) for v in (ball.positions, ball.normals))
    ball = dataclasses.replace(ball, positions=points, normals=normals)
    turned = lambda *place: tuple(float(v) for v in by @ np.array(place))  # noqa: E731
    lamp = PointLamp(name="Lamp", position=turned(25, 10, 40), diameter=8, lumen=3.0)
    found = world({"ball": ball}, [appearance(**MATT)], VIEW, UNIFORM, SIZE, floor=True)
    lit = Lighting(lamps={"a": lamp}, backdrop=Backdrop(kind="plain", bottom="#808080"), brightness=0.2)
    camera = Camera(position=turned(0, -90, 40), target=(0, 0, 0), focal_length=50)
    change = {"lighting": lit, "camera": camera, "floor_up": turned(*LEVEL)}
    w = World(found.inputs.model_copy(update=change), found.mesh_of, UNIFORM)
    return trace_block(w, Tile(0, 0, *SIZE), 0, samples)[..., :3] / samples


def test_a_tilted_floor_takes_shadow_and_reflection_as_a_level_one() -> None:
    """Turning everything, lamp, camera and floor among it, changes nothing in light that is even."""
    level, tilted = leaning(np.eye(3), 1024), leaning(TILT, 1024)
    assert level.min() < 0.5 * level.max(), "there is a shadow"
    assert np.abs(tilted / level - 1).mean() < 0.01 and np.abs(tilted / level - 1).max() < 0.08


def test_a_floor_tilts_with_its_model_and_lies_under_it(as1) -> None:
    scene = first_scene(as1.assembly, "rev")
    (name, use), shot = next(iter(scene.models.items())), scene.shots[DEFAULT_SHOT]

    def plane(turn: tuple[float, float, float], finish: Floor, **change: object) -> FloorPlane:
        models = {name: use.model_copy(update={"placement": Placement(turn=turn)})}
        lit = scene.lighting.model_copy(update={"floor_finish": finish, **change})
        changed = scene.model_copy(update={"models": models, "lightings": {scene.lit_by: lit}})
        whole = arranged(changed, {name: as1.assembly})
        inputs = trace_inputs(whole, changed, shot)
        heights = np.concatenate([whole.corners(part) for part in whole.parts()]) @ np.array(inputs.floor_up)
        assert inputs.floor_height == pytest.approx(heights.min() + finish.lift)
        assert floor_plane(ResolvedScene(whole, changed), lit) == inputs.floor
        return inputs.floor

    with_it = Floor(tilts=FloorTilt(model=name, turn=(90.0, 0.0, 30.0)), lift=2.0)
    assert plane((90.0, 0.0, 30.0), with_it).up == LEVEL
    assert plane((90.0, 0.0, 75.0), with_it).up == LEVEL, "turned about the vertical, it stands on the same floor"
    assert plane((115.0, 0.0, 0.0), with_it).up == pytest.approx((0, -math.sin(math.radians(25)), 0.9063), abs=1e-4)
    assert plane((115.0, 0.0, 0.0), Floor()).up == LEVEL
    assert plane((115.0, 0.0, 0.0), Floor(tilts=FloorTilt(model="gone", turn=(0.0, 0.0, 0.0)))).up == LEVEL
    lying = Backdrop(kind="environment", grounded=True)
    assert plane((115.0, 0.0, 0.0), with_it, backdrop=lying).up == LEVEL, "surroundings lie on level ground"


CLOSE = Camera(position=(0, -36, 24), target=(0, 0, 0), focal_length=45)


def catching(ground: Appearance | None, reflection: float, slope: float = 0.0) -> World:
    """A bright ball over a floor that only takes its shadow and reflection; `slope` leans the texture's normals."""
    ball = sphere(2.0)
    ball = dataclasses.replace(ball, positions=ball.positions + np.float32([0, 0, 6]))
    found = world({"ball": ball}, [appearance(emission_luminance=1000.0)], CLOSE, UNIFORM, SIZE, floor=True)
    finish = Floor(kind="appearance", reflection=reflection, roughness=0.05)
    lit = Lighting(floor_finish=finish, backdrop=Backdrop(kind="plain", transparent=True, bottom="#101010"))
    inputs = found.inputs.model_copy(update={"lighting": lit, "ground": ground})
    normal = np.array([slope, 0.0, 1.0]) / math.hypot(slope, 1.0)
    picture = np.ones((4, 4, 4), np.float32)
    picture[..., :3] = normal / 2 + 0.5
    return World(inputs, found.mesh_of, UNIFORM, picture_of=lambda name, color: picture)


def caught(*asked, samples: int = 256) -> np.ndarray:
    return trace_block(catching(*asked), Tile(0, 0, *SIZE), 0, samples)[..., 1] / samples


def test_a_floor_that_only_reflects_does_so_like_its_appearance() -> None:
    mirrored = caught(None, 1.0) - caught(None, 0.0)
    like = appearance(specular_roughness=0.05, base_color=(0.9, 0.1, 0.1))
    assert np.abs(caught(like, 1.0) - caught(like, 0.0) - mirrored).max() < 0.1 * mirrored.max(), "as a plain one"
    rough = like.model_copy(update={"params": OpenPBR(specular_roughness=0.6)})
    assert (caught(rough, 1.0) - caught(rough, 0.0)).max() < 0.6 * mirrored.max(), "its own roughness counts"


RELIEF = Texture(picture="0" * 64, target="normal", mapping="surface", width=5.0, height=5.0)
SMOOTH = appearance(specular_roughness=0.02).model_copy(update={"textures": (RELIEF,)})


def test_a_floor_that_is_plain_again_reflects_as_its_finish_says() -> None:
    """The kernel that knows of relief stays, as its world does."""
    w, plain = catching(SMOOTH, 1.0, 0.3), catching(None, 1.0)
    w.change(plain.inputs)
    found, fresh = (trace_block(one, Tile(0, 0, *SIZE), 0, 64)[..., 1] / 64 for one in (w, plain))
    assert np.abs(found - fresh).max() < 0.05 * fresh.max()


def test_the_relief_of_a_floor_that_only_reflects_bends_the_reflection() -> None:
    """Normals that lean by a known slope show the ball where the law of reflection has it."""
    slope = 0.3
    seen = caught(SMOOTH, 1.0, slope) - caught(SMOOTH, 0.0, slope)
    rays = CLOSE.basis()
    across, along = CLOSE.half_tangents(SIZE[0] / SIZE[1])
    s, t = (np.arange(SIZE[0]) + 0.5) / SIZE[0] * 2 - 1, 1 - (np.arange(SIZE[1]) + 0.5) / SIZE[1] * 2
    way = rays[2] + s[None, :, None] * across * rays[0] + t[:, None, None] * along * rays[1]
    way /= np.linalg.norm(way, axis=-1, keepdims=True)
    eye = np.array(CLOSE.position)
    point = eye + way * (-eye[2] / np.minimum(way[..., 2:], -1e-6))
    normal = np.array([slope, 0.0, 1.0]) / math.hypot(slope, 1.0)
    shine = way - 2 * (way @ normal)[..., None] * normal
    toward = np.array([0.0, 0.0, 6.0]) - point
    off = np.linalg.norm(toward - (toward * shine).sum(-1, keepdims=True) * shine, axis=-1)
    expected, y, x = (off < 2.0) & (way[..., 2] < 0), *np.indices(off.shape)
    clear = seen > 0.3 * seen.max()
    for axis in (x, y):
        assert axis[clear].mean() == pytest.approx(axis[expected].mean(), abs=0.6)
    assert abs(x[expected].mean() - (SIZE[0] - 1) / 2) > 1.5, "a smooth one would show it in the middle"
