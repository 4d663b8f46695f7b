"""Preflight: each check speaks where it should, is quiet where it should, and its fix makes it quiet."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
import pytest

from core.test_first_coat import built
from usual_lamp.core.appearance import SHELF
from usual_lamp.core.appearance.texture import Texture
from usual_lamp.core.assembly import Assembly, Mesh
from usual_lamp.core.assembly.outline import outermost
from usual_lamp.core.numbers_in_words import NUMBER
from usual_lamp.core.scene import (
    Assign,
    Decal,
    Placement,
    Scene,
    SetDecals,
    SetModels,
    apply_edit,
    arranged,
    first_scene,
)
from usual_lamp.core.scene.edits import BaseEdit, SetLighting, SetShot, SilenceChecks
from usual_lamp.core.scene.first_picture import with_outline
from usual_lamp.core.scene.preflight import Check, Ready, preflight
from usual_lamp.core.scene.preflight.of_camera import winding
from usual_lamp.core.scene.resolved import ResolvedScene
from usual_lamp.core.scene.sight import SightAnswer

SHOT = "shot-1"


def cube() -> Mesh:
    """One of side 1 at the origin, corner at 0, as its triangles."""
    corners = np.array([(x, y, z) for x in (0, 1) for y in (0, 1) for z in (0, 1)], np.float32)
    sides = [(0, 1, 3, 2), (4, 6, 7, 5), (0, 4, 5, 1), (2, 3, 7, 6), (0, 2, 6, 4), (1, 5, 7, 3)]
    triangles = np.array([t for a, b, c, d in sides for t in ((a, b, c), (a, c, d))], np.uint32)
    flat = np.zeros_like(corners)
    return Mesh(corners, flat, triangles, np.array([[0, 12]], np.uint32), np.zeros((0, 2, 3), np.float32), None)


def asked(made: Assembly, scene: Scene, sight: SightAnswer | None = None, metered: float | None = None) -> list[Check]:
    return preflight(Ready(ResolvedScene(made, scene), SHOT, lambda name: cube(), {}, sight, metered))


def painted(made: Assembly, sample: str = "powder-grey") -> Scene:
    """A scene in which every part wears a sample of the shelf, before a backdrop that suits it."""
    scene = first_scene(made, "a")
    every = [part.uid for part in made.parts()]
    edit = Assign(assignments=dict.fromkeys(every, sample), define={sample: SHELF[sample]})
    return apply_edit(scene, edit, made.by_uid)[0]


def parts(count: int = 1) -> Assembly:
    made = built([(f"Block {k}", None, "#808080") for k in range(count)])
    for k, node in enumerate(made.occurrences):
        node.placement[3] = 3.0 * k
    return made


def with_shot(**change: object) -> Callable[[Scene], Scene]:
    def changed(scene: Scene) -> Scene:
        return scene.model_copy(update={"shots": {SHOT: scene.shots[SHOT].model_copy(update=change)}})

    return changed


def with_camera(**change: object) -> Callable[[Scene], Scene]:
    def changed(scene: Scene) -> Scene:
        camera = scene.shots[SHOT].camera.model_copy(update=change)
        return with_shot(camera=camera)(scene)

    return changed


def with_lighting(of: str, **change: object) -> Callable[[Scene], Scene]:
    def changed(scene: Scene) -> Scene:
        part = getattr(scene.lighting, of).model_copy(update=change)
        lighting = scene.lighting.model_copy(update={of: part})
        return apply_edit(scene, SetLighting(lighting=lighting), {})[0]

    return changed


def test_a_scene_that_is_ready_has_nothing_to_check() -> None:
    made = parts(2)
    assert [check.title for check in asked(made, painted(made))] == []


CASES: dict[str, Callable[[Scene], Scene]] = {
    "size": with_shot(width=320, height=240),
    "floor": with_lighting("floor_finish", lift=-0.4),
    "inside": with_camera(position=(0.5, 0.5, 0.5)),
    "frame": with_camera(target=(0.0, 900.0, 0.0), position=(0.0, 500.0, 0.0)),
    "cut": with_camera(target=(0.5, 0.5, 0.0), position=(3.0, 3.0, 2.0)),
    "focus": with_camera(f_number=2.0, focus_distance=1e6),
    "backdrop": with_lighting("backdrop", bottom="#8C9094", top="#8C9094"),
}


@pytest.mark.parametrize("kind", CASES)
def test_a_fix_makes_its_check_quiet(kind: str) -> None:
    made = parts()
    scene = CASES[kind](painted(made))
    kind = "frame" if kind == "cut" else kind
    (check,) = [check for check in asked(made, scene) if check.kind == kind]
    assert check.number and check.fix is not None and isinstance(check.fix.edit, BaseEdit)
    mended, back = apply_edit(scene, check.fix.edit, made.by_uid)
    assert kind not in {check.kind for check in asked(made, mended)}
    assert apply_edit(mended, back, made.by_uid)[0] == scene


def test_parts_that_were_given_nothing_twice_in_place_or_never_seen_are_named() -> None:
    made = parts(3)
    made.definitions["d1"] = made.definitions["d0"].model_copy(update={"key": "d1"})
    made.occurrences[1].placement[3] = 0.0
    found = {
        check.kind: check for check in asked(made, first_scene(made, "a"), SightAnswer(never=["p2"], not_in_shot={}))
    }
    assert found["untouched"].uids == ["p0", "p1", "p2"]
    assert found["twice in one place"].uids == ["p1"] and found["never visible"].uids == ["p2"]


def test_a_glow_that_burns_out_is_set_below_its_limit() -> None:
    made = parts()
    scene = painted(made, "lit-green")
    glow = SHELF["lit-green"]
    bright = glow.model_copy(update={"params": glow.params.model_copy(update={"emission_luminance": 9e5})})
    scene = scene.model_copy(update={"appearances": {glow.id: bright}})
    (check,) = [check for check in asked(made, scene) if check.kind == "clipped glow"]
    assert check.fix is not None and check.fix.edit is not None
    mended, _ = apply_edit(scene, check.fix.edit, made.by_uid)
    assert "clipped glow" not in {check.kind for check in asked(made, mended)}


def test_a_close_up_may_be_cut_and_a_texture_in_it_is_judged_by_its_nearest_pixel() -> None:
    made = parts()
    name = "0" * 64
    worn = SHELF["powder-grey"].model_copy(update={"textures": (Texture(picture=name, mapping="surface", width=2.0),)})
    scene = painted(made).model_copy(update={"appearances": {worn.id: worn}})
    near = with_camera(target=(0.5, 1.0, 0.5), position=(0.5, 2.0, 0.5), near=None)(scene)

    def said(texels: int) -> dict[str, str]:
        ready = Ready(ResolvedScene(made, near), SHOT, lambda name: cube(), {name: (texels, texels)})
        return {check.kind: check.number for check in preflight(ready)}

    shot = near.shots[SHOT]
    # The lens shows 36 mm / focal length of what is 1 mm away (similar triangles); the face is 1 mm away.
    pixel = 36.0 / shot.camera.focal_length / shot.width
    assert "frame" not in said(4096)
    assert "soft texture" not in said(round(2.0 / pixel))
    assert f"covers {NUMBER}4.0 of the still" in said(round(2.0 / pixel / 4))["soft texture"]


def test_exposure_is_told_once_it_was_metered() -> None:
    made = parts()
    scene = painted(made)
    ev = scene.shots[SHOT].exposure
    assert "exposure" not in {check.kind for check in asked(made, scene, metered=ev + 0.5)}
    (check,) = [check for check in asked(made, scene, metered=ev - 3) if check.kind == "exposure"]
    assert check.title == "Too dark"
    assert check.fix is not None and isinstance(check.fix.edit, SetShot)
    assert check.fix.edit.shot.exposure == pytest.approx(ev - 3, abs=0.05)


def test_what_is_silenced_is_marked_and_a_locked_shot_is_not_changed() -> None:
    made = parts()
    scene = with_shot(width=320, height=240, locked=True)(painted(made))
    (check,) = [check for check in asked(made, scene) if check.kind == "size"]
    assert check.fix is None and not check.silenced
    quiet, back = apply_edit(scene, SilenceChecks(checks={"size": True}), made.by_uid)
    assert [check.silenced for check in asked(made, quiet) if check.kind == "size"] == [True]
    assert apply_edit(quiet, back, made.by_uid)[0] == scene


def test_a_model_on_its_edge_is_set_down_on_a_side() -> None:
    made = parts()
    corners = np.array([(x, y, z) for x in (0, 1) for y in (0, 1) for z in (0, 1)])
    made.definitions["d0"] = made.definitions["d0"].model_copy(update={"outline": outermost(corners)})
    scene = painted(made)
    assert "stance" not in {check.kind for check in asked(made, scene)}
    use = scene.models["model-1"]
    tipped = use.model_copy(update={"placement": Placement(turn=(0.0, 35.0, 0.0))})
    tilted, _ = apply_edit(scene, SetModels(models={"model-1": tipped}), made.by_uid)
    (check,) = [check for check in asked(arranged(tilted, {"model-1": made}), tilted) if check.kind == "stance"]
    assert "35°" in check.number and check.fix is not None and check.fix.edit is not None
    mended, _ = apply_edit(tilted, check.fix.edit, made.by_uid)
    assert "stance" not in {check.kind for check in asked(arranged(mended, {"model-1": made}), mended)}
    assert mended.models["model-1"].placement.turn == pytest.approx((0, 0, 0), abs=1e-3)


def test_a_new_review_of_a_product_in_the_backdrop_s_tone_starts_before_another() -> None:
    made = built([("Case", None, "#E8E0D6")])
    scene = first_scene(made, "a")
    assert "backdrop" in {check.kind for check in asked(made, scene)}
    assert "backdrop" not in {check.kind for check in asked(made, with_outline(made, scene))}
    red = built([("Case", None, "#A03020")])
    assert with_outline(red, first_scene(red, "a")) == first_scene(red, "a")


def found_of(kind: str, made: Assembly, scene: Scene, **more: object) -> list[Check]:
    ready = Ready(ResolvedScene(made, scene), SHOT, lambda name: cube(), **{"texels": {}, **more})  # type: ignore[arg-type]
    return [check for check in preflight(ready) if check.kind == kind]


def test_facets_are_told_in_pixels_of_this_shot() -> None:
    made = parts()
    made.definitions["d0"] = made.definitions["d0"].model_copy(update={"deviation": 0.003, "shape": "s"})
    scene = painted(made)
    (check,) = found_of("facets", made, scene)
    assert check.uids == ["p0"] and check.fix is not None and check.fix.action == "tessellate"
    told = float(check.number.split()[2].removeprefix(NUMBER))
    # A still twice as wide shows the same facets twice as large; a small one hides them.
    (wide,) = found_of("facets", made, with_shot(width=2560, height=1920)(scene))
    assert float(wide.number.split()[2].removeprefix(NUMBER)) == pytest.approx(2 * told, rel=0.1)
    assert found_of("facets", made, with_shot(width=64, height=64)(scene)) == []
    exact = made.definitions["d0"].model_copy(update={"deviation": 0.0005})
    made.definitions["d0"] = exact
    assert found_of("facets", made, scene) == []


def test_a_decal_with_too_few_pixels_is_told_with_how_many_it_needs() -> None:
    made = parts()
    label = "ab" * 32
    decal = Decal(
        name="Label",
        picture=label,
        part="p0",
        center=(0.5, 0.0, 0.5),
        right=(1, 0, 0),
        up=(0, 0, 1),
        width=0.8,
        height=0.4,
    )
    scene = apply_edit(painted(made), SetDecals(decals={"d": decal}), made.by_uid)[0]
    (check,) = found_of("soft decal", made, scene, texels={label: (40, 20)})
    assert check.title == "Label will look soft"
    wanted = int(check.number.split()[-3].replace(",", ""))
    assert found_of("soft decal", made, scene, texels={label: (wanted, wanted // 2)}) == []
    waiting = scene.model_copy(update={"decals": {"d": decal.model_copy(update={"waits": True})}})
    assert found_of("soft decal", made, waiting, texels={label: (40, 20)}) == []


def test_open_shapes_are_told_where_one_may_look_into_them() -> None:
    made = parts(2)
    opened = {"volume": 0.0, "defects": ["open: 4 edges with one side only"]}
    made.definitions["d1"] = made.definitions["d1"].model_copy(update=opened)
    scene = painted(made, "polycarbonate-clear")
    assert [check.uids for check in found_of("open glass", made, scene)] == [["p1"]]
    assert [check.uids for check in found_of("open mesh", made, scene)] == [["p1"]]
    assert found_of("open glass", made, painted(made)) == []
    hidden = with_shot(hidden=frozenset({"p1"}))(scene)
    assert found_of("open glass", made, hidden) == [] and found_of("open mesh", made, hidden) == []


def test_what_the_shot_does_not_show_is_not_told() -> None:
    made = parts(3)
    bare = first_scene(made, "a")
    away = with_shot(hidden=frozenset({"p0", "p1"}))(bare)
    assert [check.uids for check in found_of("untouched", made, away)] == [["p2"]]
    nothing = bare.model_copy(update={"states": dict.fromkeys(("p0", "p1", "p2"), "suppressed")})
    assert preflight(Ready(ResolvedScene(made, nothing), SHOT, lambda name: cube(), {})) == []


def test_glowing_parts_that_are_switched_off_do_not_burn_out() -> None:
    made = parts()
    glow = SHELF["lit-green"]
    bright = glow.model_copy(update={"params": glow.params.model_copy(update={"emission_luminance": 9e5})})
    scene = painted(made, "lit-green").model_copy(update={"appearances": {glow.id: bright}})
    assert len(found_of("clipped glow", made, scene)) == 1
    dark = scene.lighting.model_copy(update={"glows": False})
    assert found_of("clipped glow", made, apply_edit(scene, SetLighting(lighting=dark), {})[0]) == []
    dimmed = scene.lighting.model_copy(update={"glow": -8.0})
    far = apply_edit(scene, SetLighting(lighting=dimmed), {})[0]
    assert found_of("clipped glow", made, far) == []


@pytest.mark.parametrize(("backdrop", "told"), [("transparent", False), ("environment", False), ("plain", True)])
def test_only_a_backdrop_of_colour_can_have_the_product_s_tone(backdrop: str, told: bool) -> None:
    made = parts()
    change = {"bottom": "#8C9094", "top": "#8C9094"}
    change |= {"transparent": True} if backdrop == "transparent" else {"kind": backdrop}
    scene = with_lighting("backdrop", **change)(painted(made))
    assert bool(found_of("backdrop", made, scene)) is told


def test_metal_has_no_tone_of_its_own() -> None:
    made = parts()
    scene = with_lighting("backdrop", bottom="#C0C0C0", top="#C0C0C0")(painted(made, "aluminium-machined"))
    assert found_of("backdrop", made, scene) == []


def test_a_shot_with_a_lighting_of_its_own_is_judged_and_mended_in_it() -> None:
    made = parts()
    scene = painted(made)
    own = scene.lighting.model_copy(
        update={"backdrop": scene.lighting.backdrop.model_copy(update={"bottom": "#8C9094", "top": "#8C9094"})}
    )
    scene = with_shot(lighting="grey")(scene.model_copy(update={"lightings": scene.lightings | {"grey": own}}))
    (check,) = found_of("backdrop", made, scene)
    assert check.fix is not None and isinstance(check.fix.edit, SetLighting) and check.fix.edit.id == "grey"


def test_two_models_are_remembered_side_by_side() -> None:
    made = parts(2)
    made.occurrences[1] = made.occurrences[1].model_copy(update={"model": "model-2"})
    scene = painted(made)
    scene = scene.model_copy(update={"models": scene.models | {"model-2": scene.models["model-1"]}})
    found_of("stance", made, scene)
    kept = dict(made.kept["stances"])
    assert set(kept) == {"model-1", "model-2"}
    found_of("stance", made, scene)
    assert all(made.kept["stances"][model] is kept[model] for model in kept)


def test_the_winding_tells_inside_from_outside() -> None:
    assert abs(winding(cube(), np.array([0.3, 0.4, 0.6]))) == pytest.approx(1.0)
    assert winding(cube(), np.array([1.3, 0.4, 0.6])) == pytest.approx(0.0, abs=1e-12)
