"""The shaded picture against the traced one: plates of every opaque sample in uniform light, in mean CIEDE2000."""

from __future__ import annotations

import io
from pathlib import Path

import numpy as np
import pytest
import trimesh
from PIL import Image
from playwright.sync_api import Page, Route

from e2e.running import Product, lighting_of, open_review
from e2e.test_clean_up import saved, take_in
from usual_lamp.core.appearance import SHELF, Appearance
from usual_lamp.core.appearance.color_difference import ciede2000, linear_to_lab
from usual_lamp.core.assembly import Mesh
from usual_lamp.core.camera import Finish, exposure_scale
from usual_lamp.core.intake import take_in as read_file
from usual_lamp.core.light.surroundings import REFERENCE_EV
from usual_lamp.core.picture.finishing import graded
from usual_lamp.core.picture.read import linear
from usual_lamp.core.scene import Assign, Lighting, apply_edit, first_scene, trace_inputs
from usual_lamp.core.scene.resolution import DEFAULT_SHOT
from usual_lamp.core.trace.jobs.survey import survey
from usual_lamp.core.trace.plan import WHOLE
from usual_lamp.core.trace.transport.tiles import trace_block
from usual_lamp.core.trace.world.world import World
from usual_lamp.web.lighting_api import MAP_WIDTH

SIZE = (640, 480)
ACROSS = 12
LIGHT = 0.8
"""Of the reference exposure's white, from everywhere: what returns all of it is still within the picture's range."""
GRADING = {"contrast": 0.9, "saturation": 0.7}
"""Of the shot: done in the shaders there, and by the core here."""
CANNOT = {"steel-knurled", "zinc-yellow"}
"""Darker grooves than slopes on the screen can make, and a thin film whose colour depends on what lies beneath it."""


def opaque() -> list[Appearance]:
    shown = [a for a in SHELF.values() if a.params.transmission_weight == 0 and a.params.subsurface_weight == 0]
    return [a for a in shown if a.params.emission_luminance == 0 and a.params.geometry_opacity == 1 and not cut(a)]


def cut(appearance: Appearance) -> bool:
    return any(texture.target == "opacity" for texture in appearance.textures)


@pytest.fixture(scope="module")
def plates(tmp_path_factory) -> Path:
    """A plate a sample, 40 mm wide and named after it, side by side in one upright plane."""
    scene = trimesh.Scene()
    for number, sample in enumerate(opaque()):
        plate = trimesh.creation.box((0.040, 0.040, 0.002))
        at = ((number % ACROSS) * 0.046, (number // ACROSS) * 0.046, 0.0)
        scene.add_geometry(
            plate, node_name=sample.id, geom_name=sample.id, transform=trimesh.transformations.translation_matrix(at)
        )
    file = tmp_path_factory.mktemp("plates") / "plates.glb"
    file.write_bytes(scene.export(file_type="glb"))
    return file


def traced(file: Path, folder: Path) -> tuple[np.ndarray, np.ndarray, list[str]]:
    """Linear picture (H, W, 3) in units of the reference white, part by pixel, and the parts' names."""
    found = read_file(file, folder, quality="fair")
    named = {part.name: part.uid for part in found.assembly.parts()}
    scene = first_scene(found.assembly, "rev", SIZE)
    uids = {node.uid for node in found.assembly.occurrences}
    edit = Assign(assignments={named[a.id]: a.id for a in opaque()}, define={a.id: a for a in opaque()})
    scene, _ = apply_edit(scene, edit, uids)
    scene = scene.model_copy(update={"lightings": {scene.lit_by: Lighting(floor=False)}})
    inputs = trace_inputs(found.assembly, scene, scene.shots[DEFAULT_SHOT], SIZE)
    uniform = np.full((16, 32, 3), LIGHT / exposure_scale(REFERENCE_EV), np.float32)
    world = World(inputs, lambda key: Mesh.from_bytes(found.blobs[key].read_bytes()), surroundings=uniform)
    area = WHOLE.tile(*SIZE)
    picture = trace_block(world, area, 0, 64)[..., :3] / 64 * exposure_scale(REFERENCE_EV)
    names = [part.name for part in found.assembly.parts()]
    return picture, survey(world, area, 1).part, names


def shaded(page: Page, product: Product, file: Path) -> np.ndarray:
    """The same picture as the desk shades it, in the same light."""

    def uniform(route: Route) -> None:
        halves = np.full((MAP_WIDTH // 2, MAP_WIDTH, 4), LIGHT, "<f2")
        halves[..., 3] = 1.0
        route.fulfill(body=halves.tobytes(), content_type="application/octet-stream")

    page.route("**/api/lighting-map", uniform)
    review = take_in(page, file, "Plates")
    nodes = product.ask(f"reviews/{review}")["model"]["nodes"]
    named = {node["name"]: node["uid"] for node in nodes if node["definition"]}
    scene = product.ask(f"reviews/{review}/scene")["scene"]
    shot = scene["shots"]["shot-1"] | {"tone": "linear", "width": SIZE[0], "height": SIZE[1], **GRADING}
    edits = [
        {
            "kind": "assign",
            "assignments": {named[a.id]: a.id for a in opaque()},
            "define": {a.id: a.model_dump(mode="json") for a in opaque()},
        },
        {"kind": "set_lighting", "lighting": lighting_of(scene) | {"floor": False, "lamps": {}, "brightness": 1.0}},
        {"kind": "set_shot", "id": "shot-1", "shot": shot},
    ]
    for edit in edits:
        product.ask(f"reviews/{review}/edits", "POST", {"edit": edit})
    page.reload()
    page.locator("canvas[data-ready=true]").wait_for()
    saved(page)
    # Textures come one by one, and the last of them makes the picture be drawn again.
    page.wait_for_load_state("networkidle")
    with page.expect_download() as download:
        page.get_by_role("button", name="Save picture").click()
    pixels = (
        Image.open(io.BytesIO(download.value.path().read_bytes())).convert("RGBA").resize(SIZE, Image.Resampling.BOX)
    )
    product.ask(f"reviews/{review}", "DELETE")
    return linear(np.asarray(pixels), color=True)[..., :3]


def test_shaded_and_traced_plates_look_alike(page: Page, product: Product, plates: Path, tmp_path: Path) -> None:
    light, part, names = traced(plates, tmp_path)
    light = graded(light, Finish(tone="linear", **GRADING))
    screen = shaded(page, product, plates)
    by_family: dict[str, list[float]] = {}
    found = {}
    for number, name in enumerate(names):
        there = part == number
        inner = there & np.roll(there, 2, 0) & np.roll(there, -2, 0) & np.roll(there, 2, 1) & np.roll(there, -2, 1)
        assert inner.sum() > 25, name
        pair = [linear_to_lab(picture[inner].mean(axis=0)[None] / LIGHT) for picture in (light, screen)]
        found[name] = float(ciede2000(*pair)[0])
        by_family.setdefault(SHELF[name].family, []).append(found[name])
    means = {family: float(np.mean(values)) for family, values in by_family.items()}
    assert len(found) > 100 and max(means.values()) <= 6, means
    assert {name for name, value in found.items() if value > 6} <= CANNOT


@pytest.mark.parametrize("rows", [slice(0, 45), slice(-45, None)], ids=["zenith", "nadir"])
def test_light_of_the_shaded_picture_comes_from_where_it_is(page: Page, review: str, rows: slice) -> None:
    """Light from above lies on the case's top, light from below does not."""
    halves = np.zeros((MAP_WIDTH // 2, MAP_WIDTH, 4), "<f2")
    halves[rows, :, :3], halves[..., 3] = 6.0, 1.0
    page.route(
        "**/api/lighting-map",
        lambda route: route.fulfill(body=halves.tobytes(), content_type="application/octet-stream"),
    )
    with page.expect_response("**/api/lighting-map"):
        open_review(page, review)
    with page.expect_download() as download:
        page.get_by_role("button", name="Save picture").click()
    picture = np.asarray(Image.open(io.BytesIO(download.value.path().read_bytes())).convert("L"), float)
    height, width = picture.shape
    top = picture[int(0.165 * height) : int(0.185 * height), int(0.45 * width) : int(0.56 * width)].mean()
    assert (top > 80) == (rows.start == 0), top
