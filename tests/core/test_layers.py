"""Layers add up to the picture; the survey finds what is there; pictures lie where they are put."""

from dataclasses import fields

import numpy as np
import pytest

from core.test_trace import IDENTITY, appearance, color, sphere, square, world
from usual_lamp.core.camera import Camera
from usual_lamp.core.picture.survey_file import SurveyFile, write_survey
from usual_lamp.core.scene.picture_on_part import PictureOnPart
from usual_lamp.core.trace.engine import dr
from usual_lamp.core.trace.group_sums import channels, groups_in, kinds, packed, relit, unpacked
from usual_lamp.core.trace.jobs.survey import NOTHING, survey
from usual_lamp.core.trace.kinds_of_light import DIRECT, LAYERS, SOURCES
from usual_lamp.core.trace.plan import Tile
from usual_lamp.core.trace.transport.tiles import numbers_of, trace_block, trace_groups, trace_layers
from usual_lamp.core.trace.world.world import World

SIZE = (24, 18)
ALL = Tile(0, 0, *SIZE)
CAMERA = Camera(position=(0, -70, 35), target=(0, 0, 10), focal_length=60)
EVEN = np.full((16, 32, 3), 100.0, np.float32)


def still_life() -> World:
    """A milky ball under a clear one, a glowing ball, brushed metal, on the floor."""
    ball = sphere(6.0, 32)
    lit = sphere(2.0, 16)
    lit.positions[:] += (8.0, -8.0, -6.0)
    meshes = {"clear": sphere(9.0, 32), "milky": ball, "lit": lit, "plate": square(16.0, -9.5)}
    for shape in meshes.values():
        shape.positions[:, 2] += 10.0
    wear = [
        appearance(transmission_weight=1.0, specular_roughness=0.0, coat_weight=0.5),
        appearance(subsurface_weight=0.7, subsurface_radius=2.0),
        appearance(base_color=(0, 0, 0), emission_luminance=900.0),
        appearance(base_metalness=1.0, specular_roughness=0.4, specular_roughness_anisotropy=0.6, fuzz_weight=0.2),
    ]
    return world(meshes, wear, CAMERA, EVEN, SIZE, floor=True)


def test_layers_add_up_to_the_picture() -> None:
    w = still_life()
    layers = trace_layers(w, ALL, 0, 8)
    beauty = layers["beauty"]
    np.testing.assert_allclose(sum(layers[name] for name in LAYERS), beauty, rtol=2e-4, atol=beauty.mean() * 1e-4)
    groups = sum(layers[f"from_{name}"] for name in SOURCES)
    np.testing.assert_allclose(groups, beauty, rtol=2e-4, atol=beauty.mean() * 1e-4)
    np.testing.assert_allclose(beauty, trace_block(w, ALL, 0, 8)[..., :3], rtol=2e-3, atol=beauty.mean() * 2e-3)
    assert all(layers[name].sum() > 0 for name in (*LAYERS, *DIRECT))
    assert (layers["shadowed"] <= layers["unshadowed"] * 1.0001).all()
    assert w.dropped == 0


def test_lights_apart_and_light_by_kind_are_the_same_picture() -> None:
    """A still that keeps both gives the picture of one that keeps neither, by either; also after it was packed."""
    w = still_life()
    plain, sorted_light = trace_block(w, ALL, 0, 8), trace_layers(w, ALL, 0, 8)
    sums = trace_groups(w, numbers_of(ALL, SIZE[0]), 0, 8, 2, by_kind=True).reshape(SIZE[1], SIZE[0], -1)
    assert sums.shape[2] == channels(2, by_kind=True) and groups_in(sums) == 2
    close = {"rtol": 2e-3, "atol": plain[..., :3].mean() * 2e-3}
    np.testing.assert_allclose(relit(sums, w.inputs.lighting, None), plain, **close)
    found = kinds(sums)
    for name in LAYERS:
        np.testing.assert_allclose(found[f"kind_{name}"], sorted_light[name], **close)
    np.testing.assert_allclose(sum(found[f"kind_{name}"] for name in LAYERS), plain[..., :3], **close)
    assert 0 <= found["shadow"].min() < 0.9 and found["shadow"].max() <= 1.0001
    kept = unpacked(packed(sums, 8), SIZE[1], SIZE[0])
    for name in LAYERS:
        np.testing.assert_allclose(kinds(kept)[f"kind_{name}"] * 8, found[f"kind_{name}"], **close)
    assert kinds(sums[..., : channels(2)]) == {}


def test_a_matt_ball_is_all_diffuse_and_a_mirror_all_specular() -> None:
    for params, name in (
        (dict(specular_weight=0.0), "diffuse_direct"),
        (dict(base_metalness=1.0, specular_roughness=0.0), "specular_direct"),
    ):
        w = world({"ball": sphere()}, [appearance(**params)], CAMERA, EVEN, SIZE)
        layers = trace_layers(w, Tile(10, 11, 4, 4), 0, 16)
        np.testing.assert_allclose(layers[name], layers["beauty"], rtol=1e-5)


def test_one_kernel_surveys_all_tiles_and_views() -> None:
    """Or each tile of a still would be compiled anew, a second for every tile."""
    w = still_life()

    def kernels(tile: Tile) -> set[object]:
        with dr.scoped_set_flag(dr.JitFlag.KernelHistory, True):
            dr.kernel_history_clear()
            survey(w, tile, 4)
            found = [entry for entry in dr.kernel_history() if entry["type"] == dr.KernelType.JIT]
        # Those that only hand arrays over are made in no time.
        return {entry["hash"] for entry in found if entry["operation_count"] > 100}

    first = kernels(Tile(0, 0, 6, 6))
    moved = CAMERA.model_copy(update={"position": (5.0, -60.0, 30.0), "focal_length": 50.0})
    w.change(w.inputs.model_copy(update={"camera": moved, "width": 30, "height": 20}))
    assert first and kernels(Tile(3, 5, 7, 4)) == first


def test_ambient_occlusion_beside_a_wall() -> None:
    """Beside a long wall of height h at distance d, (1 + d / sqrt(d² + h²)) / 2 of the hemisphere is free (view factor
    of an infinitely long strip, J. R. Howell's catalogue, B-5; its number is from memory)."""
    d, h = 4.0, 3.0
    ground = square(400.0)
    wall = square(400.0)
    wall.positions[:] = [(d, -400, 0), (d, 400, 0), (d, 400, h), (d, -400, h)]
    wall.normals[:] = (-1, 0, 0)
    above = Camera(position=(0, 0, 50), target=(0, 0, 0), focal_length=800)
    w = world({"ground": ground, "wall": wall}, [appearance(), appearance()], above, EVEN, (8, 8))
    seen = survey(w, Tile(0, 0, 8, 8), 1024).occlusion[3:5, 3:5].mean()
    assert seen == pytest.approx((1 + d / np.hypot(d, h)) / 2, abs=0.005)


def test_the_survey_knows_what_is_where() -> None:
    w = still_life()
    found = survey(w, ALL, 4)
    middle = (SIZE[1] // 2, SIZE[0] // 2)
    # Behind the clear ball the milky one is the first opaque part.
    assert found.part[middle] == 1 and found.appearance[middle] == 1
    assert np.linalg.norm(found.position[middle] - [0, 0, 10]) == pytest.approx(6.0, abs=0.05)
    along = (found.position[middle] - np.array(CAMERA.position)) @ CAMERA.basis()[2]
    assert found.depth[middle] == pytest.approx(along, rel=1e-4)
    # The floor is no part, nor does it cover.
    assert found.part[-1, 0] == NOTHING and found.alpha[-1, 0] == 0 and np.isfinite(found.depth[-1, 0])
    assert found.alpha[middle] == 1 and set(np.unique(found.part)) <= {NOTHING, 0, 1, 2, 3}


def laid(picture: np.ndarray, wear, camera: Camera, light: np.ndarray = EVEN, **use) -> World:
    w = world({"sheet": square(20.0)}, [wear], camera, light, (40, 40))
    on = PictureOnPart(picture="p", center=(0, 0, 0), right=(1, 0, 0), up=(0, 1, 0), width=20, height=10, **use)
    part = w.inputs.parts[0].model_copy(update={"pictures": (on,)})
    return World(w.inputs.model_copy(update={"parts": [part]}), w.mesh_of, light, lambda *_: picture)


ABOVE = Camera(position=(0, 0, 100), target=(0, 0, 0), focal_length=90)
"""Sees 40 mm in 40 pixels."""


def test_a_picture_lies_in_mm_the_right_way_up() -> None:
    picture = np.zeros((2, 2, 4), np.float32)
    picture[0, 0] = (1, 0, 0, 1)  # top left red
    picture[0, 1] = (0, 1, 0, 1)
    picture[1, 0] = (0, 0, 1, 1)
    picture[1, 1] = (1, 1, 1, 0)  # nothing there
    wear = appearance(specular_weight=0.0, base_color=(0.5, 0.5, 0.5))
    seen = color(laid(picture, wear, ABOVE), 16) / 100
    # Picture 20 x 10 mm in the middle: columns 10 to 30, rows 15 to 25; up is +y, which this camera has upwards.
    assert np.argmax(seen[16, 11]) == 0 and np.argmax(seen[16, 28]) == 1 and np.argmax(seen[23, 11]) == 2
    assert seen[16, 11, 0] == pytest.approx(1, abs=0.06) and seen[24, 29] == pytest.approx(0.5, abs=0.06)
    assert seen[12, 20] == pytest.approx(0.5, abs=0.02) and seen[20, 5] == pytest.approx(0.5, abs=0.02)
    beside = ABOVE.model_copy(update={"focal_length": 40.0})
    assert np.isfinite(color(laid(picture, wear, beside), 4)).all(), "also where rays meet no picture at all"


def test_pictures_cut_out_and_bend_normals() -> None:
    black = dict(specular_weight=0.0, base_color=(0.5, 0.5, 0.5))
    hole = np.zeros((4, 4, 4), np.float32)
    hole[..., 3] = 1
    w = laid(hole, appearance(**black), ABOVE, target="opacity")
    w.bottom = np.zeros(3)
    seen = color(w, 8)
    assert seen[20, 20].max() == 0 and seen[12, 20].min() > 30
    slope = np.zeros((4, 64, 4), np.float32)
    slope[..., :3] = np.linspace(0, 1, 64)[None, :, None]
    slope[..., 3] = 1
    # 20 mm wide and 20 high at its right: tilted by 45 degrees to the left, into light from there alone.
    side = np.zeros((32, 64, 3), np.float32)
    side[:, 14:18] = 100.0  # azimuth -90 degrees: the left
    for strength, brighter in ((20.0, True), (-20.0, False)):
        tilted = laid(slope, appearance(**black), ABOVE, target="bump", strength=strength)
        seen = color(World(tilted.inputs, tilted.mesh_of, side, lambda *_: slope), 64)
        assert (seen[20, 20].mean() > 1.5 * seen[12, 20].mean()) == brighter


def test_parallel_directions_are_refused() -> None:
    with pytest.raises(ValueError, match="must differ"):
        PictureOnPart(picture="p", center=(0, 0, 0), right=(1, 0, 0), up=(2, 0, 0), width=1, height=1).axes()
    assert len(IDENTITY) == 16


@pytest.mark.parametrize(
    "more",
    [
        {"f_number": 0.7, "blades": 5},
        {"roll": 20.0, "shift": (4.0, -3.0)},
        {"parallel": True, "roll": -9.0, "shift": (2.0, 1.0)},
    ],
)
def test_a_kept_survey_tells_where_each_pixel_is(more: dict, tmp_path) -> None:
    """From the depth alone, as the tracer's own hits have it, whatever the lens."""
    camera = CAMERA.model_copy(update=more)
    w = world({"ball": sphere(9.0, 48)}, [appearance()], camera, EVEN, SIZE, floor=True)
    seen = survey(w, ALL, 4)
    found = {field.name: np.asarray(getattr(seen, field.name), np.float32) for field in fields(seen)}
    found["depth"][0, 0] = np.inf
    height = len(found["depth"])
    write_survey(tmp_path / "seen.exr", found)
    kept = SurveyFile(tmp_path / "seen.exr")
    channels = kept.channels(camera, 0, height)
    for name, part in kept.channels(camera, 3, 9).items():
        np.testing.assert_array_equal(part, channels[name][3:9])
    position = np.stack([channels[f"position.{axis}"] for axis in "XYZ"], axis=2)
    assert (position[0, 0] == 0).all()
    np.testing.assert_allclose(position.reshape(-1, 3)[1:], seen.position.reshape(-1, 3)[1:], atol=2e-3)
    np.testing.assert_array_equal(channels["part.Y"], seen.part)
    np.testing.assert_allclose(channels["surface_normal.Z"], seen.normal[..., 2], atol=1e-3)
