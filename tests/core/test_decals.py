"""Decals: where they lie, what edits make of them, and that print is print on any material."""

from __future__ import annotations

import numpy as np
import pytest
import trimesh

from core.decal_bodies import tube
from core.test_layers import ABOVE, EVEN, laid
from core.test_trace import appearance, color, square, world
from usual_lamp.core.appearance import hex_to_linear
from usual_lamp.core.assembly import Mesh
from usual_lamp.core.scene import Decal, EditRefused, SetDecals, SetLooks, SetStates, apply_edit, first_scene
from usual_lamp.core.scene.decal_carrying import carried
from usual_lamp.core.scene.decal_placing import placed, spot_facing
from usual_lamp.core.scene.decal_sharpness import pixels_covered
from usual_lamp.core.scene.picture_on_part import PictureOnPart
from usual_lamp.core.scene.resolution import DEFAULT_SHOT, inputs_of
from usual_lamp.core.scene.resolved import ResolvedScene
from usual_lamp.core.trace.plan import Tile
from usual_lamp.core.trace.transport.tiles import trace_block
from usual_lamp.core.trace.world.world import World

HASH = "c" * 64
UP = np.array([0.0, 0.0, 1.0])


def decal(part: str, **more) -> Decal:
    lies = dict(center=(1, 2, 3), right=(1, 0, 0), up=(0, 1, 0), width=20.0, height=10.0)
    return Decal.model_validate(dict(name="Label", picture=HASH, part=part) | lies | more)


def test_a_decal_lies_upright_where_it_was_put_and_fits_the_face() -> None:
    """On a square of 40 mm in a part that is turned by 90° about x: its front looks along -y in the review."""
    turned = np.array([[1.0, 0, 0, 100], [0, 0, -1, 0], [0, 1, 0, 50], [0, 0, 0, 1]])
    mesh = square(20.0)
    front = np.array([0.0, -1.0, 0.0])
    found = placed(mesh, 0, turned, np.array([105.0, 0.0, 50.0]), front, UP, aspect=3.0)
    assert found["center"] == pytest.approx((5, 0, 0), abs=1e-6)
    assert found["right"] == pytest.approx((1, 0, 0), abs=1e-6) and found["up"] == pytest.approx((0, 1, 0), abs=1e-6)
    assert found["width"] == pytest.approx(0.6 * 30) and found["height"] == pytest.approx(found["width"] / 3, abs=0.01)
    kept = placed(mesh, 0, turned, np.array([105.0, 0.0, 50.0]), front, UP, 3.0, size=(12.0, 4.0))
    assert (kept["width"], kept["height"]) == (12.0, 4.0)
    leaning = np.array([np.sin(0.3), 0.0, np.cos(0.3)])
    upright, seen = (placed(mesh, 0, turned, np.zeros(3), front, leaning, 1.0, snap=snap) for snap in (True, False))
    assert upright["up"] == pytest.approx((0, 1, 0), abs=1e-6), "along the vertical that is near"
    assert seen["up"] == pytest.approx((np.sin(0.3), np.cos(0.3), 0), abs=1e-6)
    above = placed(mesh, 0, np.eye(4), np.zeros(3), UP, UP, 1.0)
    assert np.cross(above["right"], above["up"]) == pytest.approx(UP, abs=1e-6), (
        "also where the view's up is its normal"
    )


def test_edits_keep_order_wait_for_parts_and_go_back(as1) -> None:
    uids = [part.uid for part in as1.assembly.parts()]
    scene = first_scene(as1.assembly, "rev")
    first = SetDecals(decals={"a": decal(uids[0]), "b": decal(uids[1], name="Logo")})
    assert first.words(scene) == "Add 2 decals"
    two, back = apply_edit(scene, first, uids)
    moved = SetDecals(decals={"a": decal(uids[0], turn=30.0)})
    assert moved.words(two) == "Change the decal “Label”"
    three, undo = apply_edit(two, moved, uids)
    assert list(three.decals) == ["a", "b"] and three.decals["a"].turn == 30
    assert apply_edit(three, undo, uids)[0] == two and apply_edit(two, back, uids)[0].decals == {}
    assert SetDecals(decals={"b": None}).words(two) == "Remove the decal “Logo”"
    with pytest.raises(EditRefused, match="not in this review"):
        apply_edit(scene, SetDecals(decals={"a": decal("gone")}), uids)
    waiting, _ = apply_edit(two, SetDecals(decals={"a": decal(uids[0], on=False)}), uids[1:])
    assert not waiting.decals["a"].on, "one whose part is gone can be changed"
    with pytest.raises(ValueError, match="must differ"):
        decal(uids[0], up=(1, 0, 0))


def test_the_tracer_gets_decals_with_their_parts(as1) -> None:
    uids = [part.uid for part in as1.assembly.parts()]
    scene = first_scene(as1.assembly, "rev")
    shot = scene.shots[DEFAULT_SHOT]
    bare = ResolvedScene(as1.assembly, scene)
    edit = SetDecals(decals={"a": decal(uids[2]), "off": decal(uids[3], on=False), "b": decal(uids[2], mirrored=True)})
    laid_on, _ = apply_edit(scene, edit, uids)
    after, _ = bare.after(laid_on)
    parts = {part.uid: traced for part, traced in zip(after.shown, inputs_of(after, shot).parts, strict=True)}
    assert [one.mirrored for one in parts[uids[2]].pictures] == [False, True] and parts[uids[3]].pictures == ()
    assert inputs_of(after, shot) == inputs_of(ResolvedScene(as1.assembly, laid_on), shot)
    assert inputs_of(after, shot).fingerprint() != inputs_of(bare, shot).fingerprint()
    hidden, _ = apply_edit(laid_on, SetStates(states={uids[2]: "hidden"}), uids)
    assert not any(part.pictures for part in inputs_of(after.after(hidden)[0], shot).parts)


def test_a_decal_may_belong_to_one_look(as1) -> None:
    uids = [part.uid for part in as1.assembly.parts()]
    scene = first_scene(as1.assembly, "rev")
    for edit in (
        SetLooks(looks={"dark": scene.looks["standard"].model_copy(update={"name": "Dark"})}),
        SetDecals(decals={"a": decal(uids[0], look="dark"), "b": decal(uids[1])}),
    ):
        scene, _ = apply_edit(scene, edit, uids)
    standard = ResolvedScene(as1.assembly, scene)
    dark, _ = standard.after(apply_edit(scene, SetLooks(show="dark"), uids)[0])
    shot = scene.shots[DEFAULT_SHOT]
    worn = [sum(bool(part.pictures) for part in inputs_of(resolved, shot).parts) for resolved in (standard, dark)]
    assert worn == [1, 2] and inputs_of(ResolvedScene(as1.assembly, scene, "dark"), shot) == inputs_of(dark, shot)


PATCHES = ("#C83C32", "#2E7D4F", "#2F5FA8", "#F2C230", "#FFFFFF", "#303030")


@pytest.mark.parametrize("under", ["matt", "metal", "clear"])
def test_print_shows_its_colours_on_any_material(under: str) -> None:
    """Six printed patches in even light 100: the light that a matt colour sends back, as the gloss over them is off."""
    picture = np.ones((1, 6, 4), np.float32)
    picture[0, :, :3] = [hex_to_linear(patch) for patch in PATCHES]
    picture = picture.repeat(16, axis=1)
    params = {"matt": {}, "metal": {"base_metalness": 1.0}, "clear": {"transmission_weight": 1.0}}[under]
    wear = appearance(specular_weight=0.0, base_color=(0.2, 0.3, 0.4), **params)
    seen = color(laid(picture, wear, ABOVE, printed=True), 64) / 100
    for k, patch in enumerate(PATCHES):
        # 20 mm wide, in columns 10 to 30; in the middle of a patch it is that patch alone.
        found = seen[18:22, 10 + int((k + 0.5) * 20 / 6)].mean(axis=0)
        np.testing.assert_allclose(found, hex_to_linear(patch), rtol=0.04, atol=0.01, err_msg=f"{patch} on {under}")


def test_a_clear_border_leaves_no_dark_fringe() -> None:
    """Clear texels are often black in files; between them and white ones nothing is darker than either."""
    picture = np.zeros((8, 8, 4), np.float32)
    picture[2:6, 2:6] = 1.0
    wear = appearance(specular_weight=0.0, base_color=(0.5, 0.5, 0.5))
    seen = color(laid(picture, wear, ABOVE, printed=True), 64) / 100
    assert seen.min() > 0.47 and seen[20, 20].min() > 0.95


def test_mirrored_exchanges_left_and_right() -> None:
    picture = np.ones((1, 2, 4), np.float32)
    picture[0, 0, :3] = (1, 0, 0)
    picture[0, 1, :3] = (0, 0, 1)
    wear = appearance(specular_weight=0.0, base_color=(0.5, 0.5, 0.5))
    left = [color(laid(picture, wear, ABOVE, mirrored=m), 8)[20, 11].argmax() for m in (False, True)]
    assert left == [0, 2]


def disc() -> np.ndarray:
    """White and opaque in the middle of a clear picture."""
    y, x = np.mgrid[:64, :64] - 31.5
    picture = np.ones((64, 64, 4), np.float32)
    picture[..., 3] = np.clip(24.5 - np.hypot(x, y), 0, 1)
    return picture


CAP = np.zeros((64, 128, 3), np.float32)
CAP[: 64 * 20 // 180] = 100.0
"""Light from overhead alone, within 20° of the zenith."""


def test_foil_is_metal_and_print_is_not() -> None:
    """Seen from straight above, metal mirrors what is overhead, L F0; a matt colour sends back L ρ sin²(19.7°), which
    is what the map's rows make of 20°."""
    picture = disc()
    picture[..., :3] = (0.9, 0.6, 0.2)
    wear = appearance(base_color=(0.05, 0.05, 0.05), specular_weight=0.0, specular_roughness=0.1)
    metal, ink = (color(laid(picture, wear, ABOVE, CAP, **{kind: True}), 256)[20, 20] for kind in ("foil", "printed"))
    np.testing.assert_allclose(metal, 100 * np.array([0.9, 0.6, 0.2]), rtol=0.05)
    edge = np.radians(180 * (64 * 20 // 180) / 64)
    np.testing.assert_allclose(ink, 100 * np.array([0.9, 0.6, 0.2]) * np.sin(edge) ** 2, rtol=0.08)


def test_what_glows_has_its_luminance_whatever_lies_beneath() -> None:
    wear = appearance(specular_weight=0.0, base_color=(0.0, 0.0, 0.0))
    lit = color(laid(disc(), wear, ABOVE, target="emission", value=250.0), 16)
    dark = color(laid(np.zeros((8, 8, 4), np.float32), wear, ABOVE, target="emission", value=250.0), 16)
    np.testing.assert_allclose(lit[20, 20] - dark[20, 20], 250.0, rtol=0.01)
    np.testing.assert_allclose(lit[2, 2], dark[2, 2], atol=1e-3)


def test_a_relief_is_as_high_as_the_picture_is_opaque() -> None:
    """A ramp in opacity from 0 to 1 over 20 mm, 2 mm high: the normal leans back by atan(2 / 20)."""
    picture = np.ones((4, 256, 4), np.float32)
    picture[..., 3] = (np.arange(256) + 0.5) / 256
    wear = appearance(specular_weight=0.0)
    for height in (2.0, -2.0):
        world = laid(picture, wear, ABOVE, target="bump", by_coverage=True, strength=height)
        normal = trace_block(world, Tile(0, 0, 40, 40), 0, 16)[..., 6:9] / 16
        lean = np.degrees(np.arctan2(-normal[20, 20, 0], normal[20, 20, 2]))
        assert lean == pytest.approx(np.degrees(np.arctan(height / 20)), abs=0.15)
        assert np.abs(normal[20, 2, 0]) < 1e-3, "beside the picture it is flat"


def test_the_walls_of_an_engraving_lean_by_45_degrees() -> None:
    """Half of a picture 20 mm wide is cut 4 mm deep: over as many mm the wall goes down, and beside it all is flat."""
    picture = np.ones((4, 256, 4), np.float32)
    picture[:, :128, 3] = 0.0
    world = laid(picture, appearance(specular_weight=0.0), ABOVE, target="bump", by_coverage=True, strength=-4.0)
    normal = trace_block(world, Tile(0, 0, 40, 40), 0, 16)[20, :, 6:9] / 16
    lean = np.degrees(np.arctan2(normal[:, 0], normal[:, 2]))
    assert lean[19] == pytest.approx(45, abs=2) and lean[20] == pytest.approx(45, abs=2)
    assert np.abs(lean[[13, 15, 24, 26]]).max() < 0.5
    assert np.abs(lean[18:22]).min() > 30, "4 mm are 4 pixels"


def test_etching_dulls_a_mirror_where_the_picture_is() -> None:
    """A mirror shows the light overhead as it is; a dull one spreads what it shows over the dark beside it."""
    wear = appearance(base_color=(1.0, 1.0, 1.0), base_metalness=1.0, specular_roughness=0.05)
    found = color(laid(disc(), wear, ABOVE, CAP, target="roughness", value=0.7), 128)[..., 0]
    assert found[2, 2] == pytest.approx(100, rel=0.03) and found[20, 20] < 60
    same = color(laid(disc(), wear, ABOVE, CAP, target="roughness", value=0.05), 128)[..., 0]
    assert same[20, 20] == pytest.approx(100, rel=0.03)


@pytest.mark.parametrize(
    ("finish", "targets"),
    [
        ({}, ["color"]),
        ({"roughness": 0.3}, ["color", "roughness"]),
        ({"kind": "foil"}, ["color", "roughness"]),
        ({"kind": "glow"}, ["color", "emission"]),
        ({"kind": "engraved"}, ["bump"]),
        ({"kind": "embossed", "filled": True}, ["bump", "color"]),
        ({"kind": "etched"}, ["roughness"]),
    ],
)
def test_a_finish_lays_what_it_is_made_of(finish: dict, targets: list[str]) -> None:
    found = decal("part", finish=finish).laid()
    assert [one.target for one in found] == targets
    if targets[0] == "bump":
        assert np.sign(found[0].strength) == (-1 if finish["kind"] == "engraved" else 1)


def test_a_decal_keeps_its_place_moves_with_its_face_or_loses_it() -> None:
    lies = decal("part", center=(0, 0, 0), width=10.0, height=5.0, depth=0.5)
    found = {name: carried(mesh, lies) for name, mesh in (("same", square(20.0)), ("higher", square(20.0, 3.0)))}
    assert found["same"].fate == "kept" and found["same"].decal == lies
    assert found["higher"].fate == "moved" and found["higher"].shift == pytest.approx(3.0)
    assert found["higher"].decal.center == pytest.approx((0, 0, 3)) and not found["higher"].decal.waits
    for gone in (square(20.0, 100.0), square(1.5)):
        lost = carried(gone, lies)
        assert lost.fate == "lost" and lost.decal.waits and lost.decal.center == lies.center
    turned = square(20.0)
    turned.triangles[:] = turned.triangles[:, ::-1]
    assert carried(turned, lies).fate == "lost", "what faces the other way is another face"
    lies = dict(center=(0, -15, 0), right=(1, 0, 0), up=(0, 0, 1), width=30.0, height=8.0, depth=0.5)
    round_one = decal("part", wrap={"radius": 15.0}, **lies)
    wider = carried(tube(17.0, 40.0), round_one)
    assert wider.fate == "moved" and wider.decal.wrap.radius == pytest.approx(17.0, abs=0.01)
    assert carried(tube(15.0, 40.0), round_one).fate == "kept"


def test_pixels_that_a_pixel_of_a_decal_covers() -> None:
    """40 mm in 40 pixels: 20 mm of 100 pixels are 0.2 of the picture's each; from half as far away, twice as much."""
    lies = decal("part", center=(0, 0, 0), width=20.0, height=10.0)
    asked = ((40, 40), (100, 25))
    assert pixels_covered(lies, np.eye(4), ABOVE, *asked) == pytest.approx(0.4, rel=0.02), "along it is the coarser"
    close = ABOVE.model_copy(update={"position": (0, 0, 50)})
    assert pixels_covered(lies, np.eye(4), close, *asked) == pytest.approx(0.8, rel=0.02)
    turned = ABOVE.model_copy(update={"target": (0, 0, 300)})
    assert pixels_covered(lies, np.eye(4), turned, *asked) is None


def test_the_side_of_a_part_that_shows_most_is_found() -> None:
    """A box of 40 x 20 x 10 mm, one face each way, turned by 90° about z and put elsewhere."""
    box = trimesh.creation.box((40, 20, 10))
    order = np.argsort([f"{np.round(n, 3)}" for n in box.face_normals], kind="stable")
    corners = box.triangles[order].reshape(-1, 3)
    mesh = Mesh(
        positions=corners.astype(np.float32),
        normals=np.repeat(box.face_normals[order], 3, axis=0).astype(np.float32),
        triangles=np.arange(36, dtype=np.uint32).reshape(12, 3),
        face_ranges=np.array([[2 * k, 2] for k in range(6)], np.uint32),
        edges=np.zeros((0, 2, 3), np.float32),
    )
    turned = np.array([[0.0, -1, 0, 100], [1, 0, 0, 0], [0, 0, 1, 50], [0, 0, 0, 1]])
    for way, middle in (((0, -1, 0), (100, -20, 50)), ((0, 0, 1), (100, 0, 55)), ((1, 0, 0), (110, 0, 50))):
        _, point, normal = spot_facing(mesh, turned, np.array(way, float))
        assert point == pytest.approx(middle, abs=1e-4) and normal == pytest.approx(way, abs=1e-6)
    _, point, normal = spot_facing(tube(15.0, 40.0), np.eye(4), np.array([0.0, -1.0, 0.0]))
    assert np.hypot(point[0], point[1]) == pytest.approx(15.0, abs=0.05), "on a round face it lies on it"
    with pytest.raises(LookupError):
        spot_facing(square(20.0), np.eye(4), np.array([0.0, 0.0, -1.0]))


def test_print_over_what_glows_hides_it() -> None:
    """Pictures lie over each other in their order: the later print covers the earlier light, and foil covers print."""
    wear = appearance(specular_weight=0.0, base_color=(0.0, 0.0, 0.0))
    lies = dict(picture="p", center=(0, 0, 0), right=(1, 0, 0), up=(0, 1, 0), width=20, height=10)
    light = PictureOnPart(target="emission", value=250.0, **lies)
    ink = PictureOnPart(printed=True, **lies)
    found = []
    for pictures in ((ink, light), (light, ink)):
        w = world({"sheet": square(20.0)}, [wear], ABOVE, EVEN * 0, (40, 40))
        part = w.inputs.parts[0].model_copy(update={"pictures": pictures})
        made = World(w.inputs.model_copy(update={"parts": [part]}), w.mesh_of, EVEN * 0, lambda *_: disc())
        found.append(color(made, 8)[20, 20, 0])
    assert found[0] == pytest.approx(250.0, rel=0.01) and found[1] == pytest.approx(0.0, abs=1e-3)
