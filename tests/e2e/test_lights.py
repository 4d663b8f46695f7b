"""Light as one sets it: surroundings by their pictures, lamps by sets and pointing, levels in a traced picture."""

from __future__ import annotations

import math
import re
from pathlib import Path

import numpy as np
import pytest
from playwright.sync_api import Page, expect

from e2e.running import Product, lighting_of, open_review, until
from e2e.test_lamp import traced_pixels, traced_samples
from usual_lamp.core.exr import exr_of

pytestmark = pytest.mark.e2e
STILL = {"shot": "shot-1", "quality": "coarse", "width": 200, "height": 150}


def shown(product: Product, review: str) -> dict:
    return lighting_of(product.ask(f"reviews/{review}/scene")["scene"])


def open_lights(page: Page, review: str) -> None:
    open_review(page, review)
    page.get_by_role("tab", name="lights").click()


def test_surroundings_are_selected_by_their_pictures(page: Page, product: Product, review: str) -> None:
    open_lights(page, review)
    tile = page.get_by_role("radio", name="Open field, sunny")
    expect(page.locator("canvas[data-lit=true]").first).to_be_visible(timeout=90_000)
    tile.click()
    expect(tile).to_be_checked()
    until("it is kept", lambda: shown(product, review)["surroundings"] == "field")
    expect(
        page.get_by_role("heading", name="Open field").or_(page.get_by_text("Open field, sunny").last)
    ).to_be_visible()
    page.get_by_label("Kind of backdrop").select_option("environment")
    until("the backdrop is they", lambda: shown(product, review)["backdrop"]["kind"] == "environment")
    page.get_by_label("Rotate").last.fill("75")
    page.get_by_label("Rotate").last.press("Enter")
    until("they are turned", lambda: shown(product, review)["turn"] == 75)
    page.get_by_role("button", name="Reset", exact=True).click()
    until("and back", lambda: shown(product, review)["turn"] == 0)


def test_a_panorama_file_lights_the_product(page: Page, product: Product, review: str, tmp_path: Path) -> None:
    open_lights(page, review)
    good, odd = tmp_path / "My yard.exr", tmp_path / "odd.hdr"
    image = np.full((64, 128, 3), 0.4, np.float32)
    image[8:20, 20:50] = np.linspace(5, 60, 30)[None, :, None]
    good.write_bytes(exr_of(image))
    odd.write_bytes(b"#?RADIANCE\nFORMAT=32-bit_rle_rgbe\n\n-Y 20 +X 30\n")
    page.get_by_label("Panorama file").set_input_files(odd)
    expect(page.get_by_text(re.compile("ends too early"))).to_be_visible()
    page.get_by_label("Panorama file").set_input_files(good)
    expect(page.get_by_role("radio", name="My yard")).to_be_checked()
    until("it is kept", lambda: shown(product, review)["surroundings"].startswith("map:"))


def test_lamps_levels_and_pointing(page: Page, product: Product, review: str, tmp_path: Path) -> None:
    open_lights(page, review)
    page.get_by_label("Starter set").select_option("key, fill and rim")
    rows = page.get_by_role("grid", name="Lights").get_by_role("row")
    expect(rows).to_have_count(6)
    page.keyboard.press("l")
    until("the picture is traced", lambda: traced_samples(page) >= 4)
    expect(page.get_by_text(re.compile(r"Key gives \d+ % of the light"))).to_be_visible()
    bright = traced_pixels(page, tmp_path).mean()
    samples = traced_samples(page)
    page.get_by_role("switch", name="Key").click()
    until("it is darker", lambda: traced_pixels(page, tmp_path).mean() < bright - 2)
    assert traced_samples(page) >= samples, "nothing was traced anew"
    field = page.get_by_label("Level of Surroundings", exact=True)
    field.fill("1.5")
    field.press("Enter")
    until("it is brighter", lambda: traced_pixels(page, tmp_path).mean() > bright)
    assert traced_samples(page) >= samples
    page.keyboard.press("Control+z")
    page.keyboard.press("Control+z")
    until("both are taken back", lambda: all(lamp["on"] for lamp in shown(product, review)["lamps"].values()))

    page.keyboard.press("l")
    before = shown(product, review)["lamps"]["rim"]
    page.get_by_role("row", name=re.compile("^Rim")).click(position={"x": 120, "y": 14})
    page.get_by_role("button", name="Highlight here…").click()
    expect(page.get_by_text("Click where the highlight shall lie")).to_be_visible()
    page.locator("canvas[data-ready=true]").click()
    expect(page.get_by_text(re.compile("Highlight here: Rim moved|Select|below the floor"))).to_be_visible()
    until("it moved", lambda: shown(product, review)["lamps"]["rim"]["position"] != before["position"])
    page.get_by_role("button", name="Solo").click()
    until("it is alone", lambda: [lamp["on"] for lamp in shown(product, review)["lamps"].values()].count(True) == 1)
    page.get_by_role("button", name="+ Sun").click()
    until("there is a sun", lambda: any(lamp["kind"] == "distant" for lamp in shown(product, review)["lamps"].values()))


def test_lightings_are_copied_named_and_belong_to_shots(page: Page, product: Product, review: str) -> None:
    open_lights(page, review)
    page.get_by_role("region", name="Lightings").get_by_role("button", name="Copy").click()
    expect(page.get_by_label("Lighting in use")).to_contain_text("Table top 2")
    page.get_by_role("button", name="Rename").click()
    page.get_by_label("Name of the lighting").fill("Evening")
    page.get_by_label("Name of the lighting").press("Enter")
    page.get_by_label("Compare with").select_option(label="Open field")
    expect(page.locator("canvas[data-ready=true]")).to_have_count(2, timeout=60_000)
    expect(page.get_by_text("Open field", exact=True).last).to_be_visible()
    page.get_by_label("Compare with").select_option(label="none")
    page.get_by_label("Only for the shot").check()
    page.get_by_label("Lighting in use").select_option(label="Open field")
    scene = lambda: product.ask(f"reviews/{review}/scene")["scene"]  # noqa: E731
    until("the shot has its own", lambda: scene()["shots"]["shot-1"]["lighting"] == "outside")
    assert sorted(one["name"] for one in scene()["lightings"].values()) == [
        "Evening",
        "Open field",
        "Table top",
    ]


IES = "[LUMINAIRE] Bench light\nTILT=NONE\n1 -1 1 3 1 1 2 0 0 0 1 1 9\n0 30 90\n0\n900 500 0\n"


def test_cards_files_floors_and_kept_lightings(page: Page, product: Product, review: str, tmp_path: Path) -> None:
    open_lights(page, review)
    lamps = lambda: shown(product, review)["lamps"]  # noqa: E731
    page.get_by_role("button", name="+ Card").click()
    page.get_by_label("Surface").select_option("black")
    until("there is a black card", lambda: any(one.get("surface") == "black" for one in lamps().values()))
    expect(page.get_by_role("row", name=re.compile("Card, black card"))).to_contain_text("lights nothing by itself")
    good, broken = tmp_path / "bench.ies", tmp_path / "broken.ies"
    good.write_text(IES)
    broken.write_text("no light in here")
    page.get_by_label("Photometric file").set_input_files(broken)
    expect(page.get_by_text(re.compile("it has no TILT line"))).to_be_visible()
    page.get_by_label("Photometric file").set_input_files(good)
    expect(page.get_by_label("Name of the lamp")).to_have_value("Bench light")

    page.get_by_label("Kind of floor").select_option("sweep")
    until("the floor rises", lambda: shown(product, review)["floor_finish"]["kind"] == "sweep")
    page.get_by_label("Tilt of the floor").select_option(index=1)
    expect(page.get_by_text("From now on the floor turns as this model is turned")).to_be_visible()
    product.ask(f"reviews/{review}/models/model-1/place", "POST", {"axis": "y", "degrees": 10})
    ((across, _, _),) = (floor["up"] for floor in product.ask(f"reviews/{review}/scene")["tilted"].values())
    assert abs(across) == pytest.approx(math.sin(math.radians(10)), abs=1e-3), "it has turned along"
    page.get_by_label("Made of").select_option("concrete")
    page.keyboard.press("l")
    until("the picture is traced", lambda: traced_samples(page) >= 4)
    page.get_by_role("button", name="Show luminance").click()
    expect(page.get_by_text(re.compile("cd/m²$")).last).to_be_visible()
    page.get_by_role("button", name="Show luminance").click()
    key = lamps()["key"]["level"]
    page.get_by_role("button", name="Balance for me").click()
    until("levels are solved", lambda: lamps()["key"]["level"] != key)
    page.keyboard.press("l")

    # The strip of surroundings is traced anew meanwhile, which keeps a browser without a graphics card waiting.
    page.get_by_text("Kept for all reviews").click(timeout=90_000)
    page.get_by_role("button", name="Keep “Table top”").click(timeout=90_000)
    page.get_by_role("button", name="Use Table top").click(timeout=90_000)
    until("it came in", lambda: len(product.ask(f"reviews/{review}/scene")["scene"]["lightings"]) == 3)
    page.get_by_role("button", name="Remove Table top").click(timeout=90_000)
    expect(page.get_by_role("button", name="Use Table top")).to_have_count(0)

    before = shown(product, review)["turn"]
    canvas = page.locator("canvas[data-ready=true]").bounding_box()
    middle = canvas["x"] + canvas["width"] / 2, canvas["y"] + canvas["height"] / 2
    page.keyboard.down("Alt")
    page.mouse.move(*middle)
    page.mouse.down()
    page.mouse.move(middle[0] + 90, middle[1], steps=6)
    page.mouse.up()
    page.keyboard.up("Alt")
    until("dragging has rotated them", lambda: shown(product, review)["turn"] != before)


def test_the_lights_of_a_finished_still_are_changed_without_tracing(page: Page, product: Product, review: str) -> None:
    taken = product.ask(f"reviews/{review}/stills", "POST", STILL)["id"]
    stills = lambda: product.ask(f"reviews/{review}/stills")["stills"]  # noqa: E731
    until("it is done", lambda: stills()[0]["state"] == "done")
    open_review(page, review)
    page.get_by_role("tab", name=re.compile("shots", re.IGNORECASE)).click()
    page.locator(f"[data-still='{taken}']").get_by_role("button").first.click()
    lights = page.get_by_role("region", name="Lights of this still")
    level = lights.get_by_label("Level of Key", exact=True)
    level.fill("-4")
    level.press("Enter")
    lights.get_by_role("button", name="Make a version").click()
    until("there is a version", lambda: len(stills()) == 2 and stills()[0]["state"] == "done")
    version = stills()[0]
    assert version["relit"] and version["light_kept"] and not version["current"] and version["seconds"] == 0
    expect(page.get_by_text("light of an earlier still")).to_be_visible()
