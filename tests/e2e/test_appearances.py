"""Appearances given in bulk, in the browser: base coat under rules, dragging, faces, replacing, a spreadsheet, undo."""

from __future__ import annotations

import re
from pathlib import Path

from playwright.sync_api import Page, expect

from e2e.running import Product, until
from e2e.test_clean_up import saved, take_in, undo_all
from public_files import AS1, step_file


def worn(product: Product, review: str, name: str) -> set[str]:
    """Appearances of the parts that are called so."""
    scene = product.ask(f"reviews/{review}/scene")
    nodes = product.ask(f"reviews/{review}")["model"]["nodes"]
    return {scene["worn"][node["uid"]]["appearance"] for node in nodes if node["definition"] and node["name"] == name}


def row(page: Page, name: str):
    return page.get_by_role("row", name=re.compile(f"^{name}, ")).first


def drag(page: Page, sample: str, onto) -> None:
    plate = page.get_by_label(f"Give {sample}", exact=True)
    plate.scroll_into_view_if_needed()
    start, end = plate.bounding_box(), onto.bounding_box()
    assert start and end
    page.mouse.move(start["x"] + 10, start["y"] + 10)
    page.mouse.down()
    page.mouse.move(start["x"] - 40, start["y"] + 10, steps=3)
    page.mouse.move(end["x"] + 60, end["y"] + end["height"] / 2, steps=4)


def test_a_first_coat_is_looked_at_applied_and_undone(page: Page, product: Product, tmp_path: Path) -> None:
    review = take_in(page, step_file(AS1), "Coated")
    before = worn(product, review, "nut")
    expect(page.get_by_text("18 parts with no appearance yet")).to_be_visible()
    page.get_by_role("button", name="First coat…").first.click()
    dialog = page.get_by_role("dialog", name="First coat")
    expect(dialog.get_by_text("“nut” in its name")).to_be_visible()
    dialog.get_by_role("checkbox", name=re.compile("^Satin paint.*, 1 part$")).uncheck()
    dialog.get_by_role("button", name="Apply to 17 parts").click()
    until("nuts are zinc plated", lambda: worn(product, review, "nut") == {"zinc-plated"})
    assert worn(product, review, "bolt") == {"zinc-plated"} and worn(product, review, "rod") == {"steel-turned"}
    scene = product.ask(f"reviews/{review}/scene")
    assert all(one["why"] == "same part" for one in scene["worn"].values() if one["appearance"] == "zinc-plated")
    expect(page.get_by_text("no appearance yet")).to_have_count(0)
    page.keyboard.press("Control+z")
    until("all of it is taken back", lambda: worn(product, review, "nut") == before)
    product.ask(f"reviews/{review}", "DELETE")


def test_given_in_bulk_and_taken_back(page: Page, product: Product, tmp_path: Path) -> None:
    review = take_in(page, step_file(AS1), "Rig")
    start = product.ask(f"reviews/{review}/scene")["scene"]

    # A rule for the bolts, made from the filter; then a base coat on everything, which it outlives.
    page.get_by_label("Filter parts").fill("name:bolt")
    page.get_by_role("tab", name="appearances").click()
    expect(page.get_by_text("18 parts not assigned")).to_be_visible()
    page.get_by_role("button", name="Add rule").click()
    expect(page.get_by_text("6 parts pass,")).to_be_visible()
    page.get_by_label("Appearance of the rule").select_option(label="Zinc plate, clear")
    expect(page.get_by_text("12 parts not assigned")).to_be_visible()
    page.get_by_role("tab", name="parts").click()
    page.get_by_label("Filter parts").fill("")
    row(page, "plate").click()
    page.get_by_label("Apply to").select_option("model")
    sample = page.get_by_label("Give ABS, graphite satin", exact=True)
    sample.hover()
    note = page.locator("[aria-live=polite]", has_text="Gives")
    expect(note).to_contain_text("12 of 18 parts change")
    expect(note).to_contain_text("6 have their own")
    sample.click()
    saved(page)
    assert worn(product, review, "bolt") == {"zinc-plated"} and worn(product, review, "rod") == {"abs-graphite"}

    # Dragged onto a row, counted on the way, widened with an arrow key.
    drag(page, "Brass, turned", row(page, "rod"))
    expect(page.get_by_role("status").filter(has_text="Brass, turned")).to_contain_text("1 of 1 part changes")
    page.keyboard.press("ArrowUp")
    expect(page.get_by_role("status").filter(has_text="Brass, turned")).to_contain_text("sub-assembly")
    page.keyboard.press("ArrowDown")
    expect(page.get_by_role("status").filter(has_text="Brass, turned")).to_contain_text("these parts")
    page.mouse.up()
    expect(row(page, "rod").get_by_text("Brass, turned")).to_be_visible()
    assert worn(product, review, "rod") == {"brass-turned"}

    # One face of the plate gets a finish of its own, and loses it again.
    page.keyboard.press("Escape")
    page.keyboard.press("f")
    picture = page.locator("canvas").first
    box = picture.bounding_box()
    assert box
    picture.click(position={"x": box["width"] * 0.5, "y": box["height"] * 0.62})
    expect(page.get_by_label("Drawer").get_by_text(re.compile("1 face on 1 part selected", re.I))).to_be_visible()
    expect(page.get_by_label("Apply to")).to_have_value("faces")
    page.get_by_label("Give Gold plate", exact=True).click()
    title = page.get_by_label("Drawer").locator("header")
    expect(title).to_contain_text("Gold plate")
    expect(title).to_contain_text("given to the face")
    assert worn(product, review, "plate") == {"abs-graphite"}, "the rest of the part keeps what it wears"
    why = page.get_by_label("Why it looks like this")
    expect(why.get_by_text(re.compile("Gold plate"))).to_be_visible()
    why.get_by_role("button", name="Lift").first.click()
    expect(page.get_by_text("Gold plate given to this face")).to_be_hidden()
    saved(page)

    # Replaced everywhere; then a colleague's spreadsheet.
    page.keyboard.press("Escape")
    page.get_by_role("tab", name="appearances").click()
    page.get_by_label("Replace ABS, graphite satin everywhere").click()
    page.get_by_label("Replace everywhere with").select_option(label="Beech")
    expect(page.get_by_role("button", name="Select parts with Beech")).to_be_visible()
    assert worn(product, review, "plate") == {"beech"}
    with page.expect_download() as download:
        page.get_by_role("link", name="Save CSV").click()
    sheet = download.value.path().read_text("utf-8-sig").splitlines()
    assert sheet[0] == "key,name,quantity,appearance,source" and len(sheet) == 19
    filled = tmp_path / "filled.csv"
    lines = [line.replace('"Brass, turned"', '"Copper, bare"') if ",rod," in line else line for line in sheet]
    filled.write_text("\n".join([*lines, "nobody,x,1,Oak,"]))
    page.get_by_label("CSV schedule").set_input_files(filled)
    difference = page.get_by_label("What the file would change")
    expect(difference).to_contain_text("The file changes 1 part")
    expect(difference).to_contain_text("no part has the key")
    assert worn(product, review, "rod") == {"brass-turned"}, "not before it is confirmed"
    difference.get_by_role("button", name="Apply", exact=True).click()
    expect(page.get_by_role("button", name="Select parts with Copper, bare")).to_be_visible()

    # All of it back, step by step.
    undo_all(page, product, review)
    assert product.ask(f"reviews/{review}/scene")["scene"] == start
    product.ask(f"reviews/{review}", "DELETE")


def test_measured_kept_laid_and_compared(page: Page, product: Product) -> None:
    review = take_in(page, step_file(AS1), "Compared")

    # What was given nothing is found by a key, and gets a woven texture in one frame.
    page.keyboard.press("n")
    drawer = page.get_by_label("Drawer")
    expect(drawer.get_by_text("18 parts selected", exact=True)).to_be_visible()
    page.get_by_label("Find a sample").fill("carbon")
    page.get_by_label("Give Carbon twill, gloss", exact=True).click()
    expect(row(page, "rod").get_by_text("Carbon twill, gloss")).to_be_visible()
    page.keyboard.press("n")
    expect(page.get_by_text("Nothing selected", exact=True)).to_be_visible()
    page.keyboard.press("Control+a")
    page.get_by_role("button", name="Texture placement").click()
    page.get_by_label("Pictures lie").select_option("cylinder")
    expect(page.get_by_text("One frame for 18 parts")).to_be_visible()
    page.get_by_label("Radius of true size").fill("25")
    page.keyboard.press("Enter")
    saved(page)
    (laying,) = product.ask(f"reviews/{review}/scene")["scene"]["looks"]["standard"]["layings"].values()
    assert laying["kind"] == "cylinder" and laying["radius"] == 25 and len(laying["parts"]) == 18

    # A colour as an instrument reads it; then the appearance is kept for all reviews, and taken off again.
    page.get_by_role("button", name="Colours as CIELAB").click()
    fields = page.get_by_label("Base colour, CIELAB")
    for axis, value in (("L*", "52"), ("a*", "38"), ("b*", "21")):
        fields.get_by_label(f"Base colour, {axis}").fill(value)
    page.keyboard.press("Enter")
    # From colour-science: CIELAB 52, 38, 21 under D65.
    expect(page.get_by_label("Base colour, hex")).to_have_value("#C05F5A")
    page.get_by_role("button", name="Keep as a sample for all reviews").click()
    page.get_by_label("Name of the sample").fill("House red weave")
    page.keyboard.press("Enter")
    page.get_by_label("Find a sample").fill("")
    page.get_by_role("button", name="kept 1").click()
    page.get_by_label("Give House red weave", exact=True).hover()
    page.get_by_label("Take House red weave off the shelf").click()
    expect(page.get_by_role("button", name="kept 0")).to_be_visible()

    # A shared appearance split for one part: the other seventeen keep it.
    page.keyboard.press("Escape")
    row(page, "rod").click()
    page.get_by_role("button", name="Make a separate copy for this part").click()
    expect(row(page, "rod").get_by_text("Carbon twill, gloss, own")).to_be_visible()
    assert worn(product, review, "plate") == {"carbon-gloss"} and worn(product, review, "rod") != {"carbon-gloss"}

    # Another look beside the first, seen from the same side.
    page.keyboard.press("Escape")
    page.keyboard.press("2")
    page.get_by_role("button", name="Copy look").click()
    expect(page.get_by_role("radio", name="Standard 2")).to_be_checked()
    page.keyboard.press("k")
    pictures = page.locator("canvas[data-ready=true]")
    expect(pictures).to_have_count(2)
    page.get_by_label("Compare with").select_option("")
    expect(pictures).to_have_count(1)
    undo_all(page, product, review)
    product.ask(f"reviews/{review}", "DELETE")
