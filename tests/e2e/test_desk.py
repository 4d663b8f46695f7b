"""The desk as a design engineer uses it: parts, appearances, light, a still, undo, a second tab, a new file."""

from __future__ import annotations

import io
import re
from pathlib import Path

import numpy as np
import pytest
import trimesh
from PIL import Image
from playwright.sync_api import Page, expect

from e2e.pictures import share_of_orange
from e2e.running import Product, choose, open_review, until
from public_files import AS1, step_file
from usual_lamp.core.appearance import SHELF

pytestmark = pytest.mark.e2e


def take_small_still(page: Page, width: int = 320) -> None:
    page.get_by_label("Size and quality of the still").click()
    page.get_by_role("radio", name=re.compile("^coarse")).click()
    field = page.get_by_label("Width of the still")
    field.fill(str(width))
    field.press("Enter")
    page.get_by_role("button", name=re.compile(f"Take still, {width} x")).click()
    expect(page.locator("[data-state=done]")).to_have_count(1, timeout=180_000)


def states(product: Product, review: str) -> int:
    """Number of parts that are hidden or suppressed."""
    return len(product.ask(f"reviews/{review}/scene")["scene"]["states"])


def test_from_demo_to_downloaded_still(page: Page, review: str, tmp_path: Path) -> None:
    open_review(page, review)
    choose(page, "case cast")
    chosen = page.get_by_label("Drawer").get_by_text(re.compile(r"^\d+ parts? selected$"))
    expect(chosen).to_be_visible()
    sample = page.get_by_role("button", name="Give Anodised, orange")
    sample.hover()
    note = page.get_by_label("Samples").get_by_text(re.compile("^Gives"))
    expect(note).to_contain_text("Anodised, orange")
    sample.click()
    expect(page.get_by_label("Drawer").get_by_text("given to the part")).to_be_visible()
    page.get_by_role("tab", name=re.compile("lights", re.I)).click()
    page.get_by_role("radio").nth(1).click()
    expect(page.get_by_role("radio").nth(1)).to_have_attribute("aria-checked", "true")
    take_small_still(page)
    with page.expect_download() as download:
        page.get_by_label("Download PNG").click()
    file = tmp_path / "still.png"
    download.value.save_as(file)
    assert download.value.suggested_filename.endswith(".png")
    picture = Image.open(file)
    assert picture.format == "PNG" and picture.size == (320, 240)
    pixels = np.asarray(picture.convert("RGB"))
    assert pixels.std() > 20, "a picture with a subject in it"
    assert share_of_orange(pixels) > 0.05, "the case, given orange, fills a good part of the picture"


def test_undo_redo_and_a_second_tab(page: Page, review: str) -> None:
    open_review(page, review)
    second = page.context.new_page()
    open_review(second, review)
    choose(page, "foot")
    page.keyboard.press("h")
    hidden = second.get_by_text(re.compile(r"^\d+ parts? hidden$"))
    # A tab that has just been opened draws its first smooth picture in software, perhaps while plates are traced.
    expect(hidden).to_be_visible(timeout=60_000)
    page.locator("body").press("Control+z")
    expect(hidden).to_be_hidden()
    expect(page.get_by_text(re.compile(r"^Took back: Hide \d+ parts?\.$"))).to_be_visible()
    page.locator("body").press("Control+Shift+Z")
    expect(hidden).to_be_visible()
    second.locator("body").press("Control+z")
    expect(second.get_by_text(re.compile(r"^Took back: Hide \d+ parts?, made in another tab\.$"))).to_be_visible()
    expect(hidden).to_be_hidden()
    page.goto("/review/none")
    expect(page.get_by_role("heading", name="There is nothing at this address")).to_be_visible()
    page.get_by_role("link", name="All reviews").click()
    expect(page).to_have_url(re.compile(r":\d+/$"))


def test_seven_tabs_of_seven_reviews(page: Page, product: Product, review: str) -> None:
    """A browser opens six connections to a host: streams must not take them all."""
    copies = [product.ask(f"reviews/{review}/copy", "POST")["id"] for _ in range(7)]
    for copy in copies:
        tab = page.context.new_page()
        tab.goto(f"/reviews/{copy}")
        expect(tab.get_by_role("grid", name="Parts").get_by_role("row").first).to_be_visible(timeout=60_000)
    product.ask(f"reviews/{copies[0]}", "PATCH", {"name": "Seen in the first tab"})
    first = page.context.pages[1]
    expect(first.get_by_text("Seen in the first tab")).to_be_visible()
    for tab, copy in zip(page.context.pages[1:], copies, strict=True):
        tab.close()
        product.ask(f"reviews/{copy}", "DELETE")


def test_schedule_choosing_grouping_and_states(page: Page, product: Product, review: str) -> None:
    open_review(page, review)
    rows = page.get_by_role("grid", name="Parts").get_by_role("row")
    parts = rows.filter(has_not=page.get_by_role("button", name=re.compile("^(Fold|Unfold) ")))
    parts.nth(0).click()
    parts.nth(2).click(modifiers=["Shift"])
    expect(page.locator("[role=row][aria-selected=true]")).to_have_count(3)
    parts.nth(4).click(modifiers=["Control"])
    expect(page.locator("[role=row][aria-selected=true]")).to_have_count(4)
    page.get_by_role("button", name="Suppress").click()
    expect(page.get_by_text("suppressed", exact=True).first).to_be_visible()
    page.locator("body").press("Escape")
    before = states(product, review)
    page.get_by_label("Group parts").select_option("structure")
    expect(page.get_by_role("button", name=re.compile("^Fold ")).first).to_be_visible()
    page.get_by_role("button", name="Bring back", exact=True).click()
    until("parts hidden in CAD came back", lambda: states(product, review) < before)
    edge, drawer = page.get_by_role("separator", name="Edge on the right"), page.get_by_label("Drawer")
    edge.press("ArrowLeft")
    expect(edge).to_have_attribute("aria-valuenow", "296")
    edge.press("Enter")
    expect(drawer).to_be_hidden()
    edge.press("Enter")
    expect(drawer).to_be_visible()


def test_choosing_from_the_picture(page: Page, review: str) -> None:
    open_review(page, review)
    picture = page.locator("canvas[data-ready=true]")
    box = picture.bounding_box()
    assert box is not None
    page.mouse.move(box["x"] + box["width"] / 2, box["y"] + box["height"] / 2)
    picture.click(position={"x": box["width"] / 2, "y": box["height"] / 2})
    expect(page.get_by_label("Drawer").get_by_text("1 part selected", exact=True)).to_be_visible()
    picture.click(position={"x": 3, "y": 3})
    expect(page.get_by_label("Drawer").get_by_text("Nothing selected")).to_be_visible()
    page.mouse.move(box["x"] + 100, box["y"] + 100)
    page.mouse.down()
    page.mouse.move(box["x"] + 200, box["y"] + 120, steps=4)
    page.mouse.up()
    expect(page.get_by_text("Free view")).to_be_visible()
    expect(page.get_by_role("button", name="Take still of the shot")).to_be_visible()
    page.get_by_role("button", name="Back to the shot").first.click()
    expect(page.get_by_text("Free view")).to_be_hidden()


def test_a_new_review_from_a_file(page: Page) -> None:
    page.goto("/")
    page.get_by_label("CAD file").set_input_files(step_file(AS1))
    page.wait_for_url(re.compile("/intakes/"), timeout=120_000)
    expect(page.get_by_text("18 parts, 5 different")).to_be_visible()
    page.get_by_label("Name of the review").fill("as1-oc-214")
    page.get_by_role("button", name="Import", exact=True).click()
    page.wait_for_url(re.compile("/reviews/"))
    expect(page.get_by_role("tab", name=re.compile("parts 18", re.I))).to_be_visible()
    expect(page.locator("canvas[data-ready=true]")).to_be_visible()
    page.goto("/")
    card = page.get_by_label("Open as1-oc-214")
    expect(card).to_be_visible()
    page.get_by_role("article").filter(has=card).get_by_role("button", name="Remove").click()
    expect(card).to_be_hidden()
    page.get_by_role("button", name="Undo").click()
    expect(card).to_be_visible()
    page.get_by_role("article").filter(has=card).get_by_role("button", name="Remove").click()
    expect(card).to_be_hidden()


def test_a_mesh_file_asks_for_its_unit(page: Page, product: Product, tmp_path: Path) -> None:
    trimesh.creation.box((2, 1, 3)).export(tmp_path / "block.stl")
    page.goto("/")
    page.get_by_label("CAD file").set_input_files(tmp_path / "block.stl")
    page.wait_for_url(re.compile("/intakes/"), timeout=120_000)
    expect(page.get_by_label("Tessellation")).to_have_count(0)
    expect(page.get_by_text("2.00 x 1.00 x 3.00 mm")).to_be_visible()
    page.get_by_label("Unit of the file").select_option("inch")
    expect(page.get_by_text("50.8 x 25.4 x 76.2 mm")).to_be_visible(timeout=30_000)
    page.get_by_label("Upwards").select_option("y")
    expect(page.get_by_text("50.8 x 76.2 x 25.4 mm")).to_be_visible(timeout=30_000)
    page.get_by_role("button", name="Import", exact=True).click()
    page.wait_for_url(re.compile("/reviews/"))
    expect(page.get_by_text("50.8 x 76.2 x 25.4 mm")).to_be_visible()
    product.ask(f"reviews/{page.url.rpartition('/')[2]}", "DELETE")


def test_every_parameter_can_be_set(page: Page, product: Product, review: str) -> None:
    open_review(page, review)
    choose(page, "rotor")
    page.get_by_role("button", name="All parameters").click()
    film = page.get_by_role("group", name="Thin film")
    weight = film.get_by_role("textbox", name="Weight")
    weight.fill("1")
    weight.press("Enter")
    expect(film.get_by_role("textbox", name="Thickness")).to_be_visible()
    page.get_by_label("Measured metal").select_option("Au")
    expect(page.get_by_text("all changes saved")).to_be_visible()

    def worn() -> bool:
        scene = product.ask(f"reviews/{review}/scene")
        found = {a["params"]["thin_film_weight"]: a["params"]["base_conductor"] for a in scene["appearances"].values()}
        return found.get(1.0) == "Au"

    until("film and metal are kept", worn)


def test_a_bad_file_gets_a_clear_error(page: Page, product: Product, tmp_path: Path) -> None:
    # Not CAD at all, seen before it is sent; and cut off in the middle of its data, as a broken transfer leaves a file.
    words, cut = tmp_path / "words.step", tmp_path / "cut.step"
    words.write_bytes(b"a shopping list")
    cut.write_bytes(step_file(AS1).read_bytes()[:60_000])
    before = len(product.ask("reviews")["reviews"])
    page.goto("/")
    page.get_by_label("CAD file").set_input_files(words)
    expect(page.get_by_text("words.step: This is not a STEP file")).to_be_visible()
    page.get_by_label("CAD file").set_input_files(cut)
    alert = page.get_by_role("alert").filter(has_text="cut.step")
    expect(alert).to_contain_text("cut off", timeout=60_000)
    alert.get_by_role("button", name="Put away").click()
    expect(alert).to_be_hidden()
    assert len(product.ask("reviews")["reviews"]) == before, "no half model"
    assert product.answers()


def test_what_is_no_cad_file_is_refused_at_once(page: Page) -> None:
    page.goto("/")
    page.get_by_label("CAD file").set_input_files({"name": "a.docx", "mimeType": "text/plain", "buffer": b"x"})
    expect(page.get_by_text("a.docx cannot be imported")).to_be_visible()


def test_finish_plates_are_there_and_that_of_an_own_sample_is_traced(product: Product) -> None:
    def plates() -> dict[str, str | None]:
        return {sample["appearance"]["id"]: sample["plate"] for sample in product.ask("shelf")["samples"]}

    own = {"id": "x", "name": "Mine", "family": "paint", "params": {"base_color": [0.02, 0.3, 0.2]}}
    kept = product.ask("shelf/kept", "POST", {"appearance": own})["id"]
    until("all samples have their finish plates", lambda: len(plates()) > len(SHELF) and all(plates().values()))
    for sample in (kept, "brass-turned"):
        plate = np.asarray(Image.open(io.BytesIO(product.ask(f"blobs/{plates()[sample]}"))))
        assert plate.shape[0] >= 96 and plate.std() > 10
    product.ask(f"shelf/kept/{kept}", "DELETE")
