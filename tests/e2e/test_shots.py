"""Shots as one makes, orders and locks them, and the contact sheet of stills."""

from __future__ import annotations

import io
import re
import zipfile
from pathlib import Path

import numpy as np
import pytest
from PIL import Image
from playwright.sync_api import Page, expect

from e2e.running import Product, open_review, until

pytestmark = pytest.mark.e2e
STILL = {"shot": "shot-1", "quality": "coarse", "width": 160, "height": 120}


def scene(product: Product, review: str) -> dict:
    return product.ask(f"reviews/{review}/scene")["scene"]


def names(product: Product, review: str) -> list[str]:
    """Of the shots, as they are listed."""
    return [shot["name"] for shot in sorted(scene(product, review)["shots"].values(), key=lambda one: one["place"])]


def turn_view(page: Page, dx: int, dy: int) -> None:
    box = page.locator("canvas[data-ready=true]").first.bounding_box()
    assert box is not None
    x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
    page.mouse.move(x, y)
    page.mouse.down()
    page.mouse.move(x + dx, y + dy, steps=4)
    page.mouse.up()


def test_shots_are_saved_named_ordered_locked_and_brought_back(
    page: Page, product: Product, review: str, tmp_path: Path
) -> None:
    open_review(page, review)
    page.get_by_role("tab", name=re.compile("shots", re.IGNORECASE)).click()
    shots = page.get_by_role("list", name="Shots").get_by_role("listitem")
    turn_view(page, 150, 0)
    page.keyboard.press("v")
    expect(shots).to_have_count(2)
    added = shots.get_by_role("button", name=re.compile("^2 "))
    expect(added).to_have_attribute("aria-pressed", "true")
    added.press("F2")
    field = page.get_by_label("Name of the shot", exact=True)
    field.fill("From beside")
    field.press("Enter")
    until("it is named", lambda: "From beside" in names(product, review))
    page.get_by_role("button", name="2 From beside").press("Alt+ArrowUp")
    until("it comes first", lambda: names(product, review)[0] == "From beside")
    # Each is jumped to by its number, and shows what it shows.
    page.keyboard.press("Alt+2")
    expect(page.get_by_label("Name of the shot on the desk")).to_have_value("Front, three-quarter")
    page.keyboard.press("PageUp")
    expect(page.get_by_label("Name of the shot on the desk")).to_have_value("From beside")
    page.get_by_role("button", name="Lock From beside").click()
    expect(page.get_by_label("Tone curve")).to_be_disabled()
    page.get_by_text("Depth of field, shift").click()  # what is folded away can be read all the same
    expect(page.get_by_label("Aperture")).to_be_disabled()
    turn_view(page, 60, 0)
    expect(page.get_by_text("Free view")).to_be_visible()
    expect(page.get_by_role("button", name="Update shot")).to_have_count(0)
    expect(page.get_by_role("button", name="Remove From beside")).to_be_disabled()
    page.get_by_role("button", name="Unlock From beside").click()
    page.get_by_role("button", name="Remove From beside").click()
    expect(shots).to_have_count(1)
    page.keyboard.press("Control+z")
    expect(shots).to_have_count(2)
    expect(page.get_by_role("button", name="1 From beside")).to_be_visible()
    # The other one beside it, and a picture from a file in that place.
    page.get_by_role("button", name=re.compile("^2 Front")).click()
    page.get_by_role("button", name="Show From beside beside the desk").click()
    expect(page.locator("canvas[data-ready=true]")).to_have_count(2, timeout=60_000)
    page.get_by_role("button", name="No longer beside: From beside").click()
    Image.new("RGB", (40, 30), "#204060").save(tmp_path / "photo.png")
    page.get_by_label("Reference picture").set_input_files(tmp_path / "photo.png")
    expect(page.get_by_alt_text("Reference: photo.png")).to_be_visible()
    page.get_by_label("How the reference is shown").select_option("wipe")
    page.get_by_label("Place of the wipe").fill("80")
    page.get_by_role("button", name="Unpin the reference").click()
    expect(page.get_by_alt_text("Reference: photo.png")).to_have_count(0)
    # Every shot is traced small.
    expect(page.locator("[data-shot] canvas[data-lit=true]")).to_have_count(2, timeout=120_000)


def test_what_is_sharp_is_picked_by_a_click(page: Page, product: Product, review: str) -> None:
    open_review(page, review)
    page.get_by_role("tab", name=re.compile("shots", re.IGNORECASE)).click()
    page.get_by_text("Depth of field, shift").click()
    page.get_by_label("Aperture").select_option("4")
    page.get_by_role("button", name="Focus by a click").click()
    expect(page.get_by_text("Click what shall be sharp")).to_be_visible()
    box = page.locator("canvas[data-ready=true]").bounding_box()
    assert box is not None
    page.mouse.click(box["x"] + box["width"] / 2, box["y"] + box["height"] / 2)
    camera = until(
        "it is focused",
        lambda: next(
            (c for c in [scene(product, review)["shots"]["shot-1"]["camera"]] if c["focus_distance"] is not None), None
        ),
    )
    away = np.linalg.norm(np.subtract(camera["target"], camera["position"]))
    # The product's front is nearer than its middle, and no nearer than its corner.
    assert away - 140 < camera["focus_distance"] < away
    expect(page.get_by_text(re.compile(r"^Sharp from \d+"))).to_be_visible()


def test_stills_are_compared_taken_again_and_handed_over(
    page: Page, product: Product, review: str, tmp_path: Path
) -> None:
    stills = lambda: product.ask(f"reviews/{review}/stills")["stills"]  # noqa: E731
    product.ask(f"reviews/{review}/stills", "POST", STILL)
    until("it is done", lambda: stills()[0]["state"] == "done")
    brighter = scene(product, review)["shots"]["shot-1"] | {"exposure": 8.0}
    product.ask(f"reviews/{review}/edits", "POST", {"edit": {"kind": "set_shot", "id": "shot-1", "shot": brighter}})
    page.goto(f"/reviews/{review}/stills")
    cards = page.locator("[role=option][data-still]")
    expect(cards).to_have_count(1)
    expect(cards.get_by_text("Exposure: 9.3 → 8 EV")).to_be_visible()
    page.get_by_role("button", name="Take again 1").click()
    until("it was developed anew", lambda: len(stills()) == 2 and stills()[0]["state"] == "done")
    assert stills()[0]["current"] and stills()[0]["seconds"] == 0
    expect(cards).to_have_count(2)
    cards.nth(0).click()
    cards.nth(1).click(modifiers=["Control"])
    page.get_by_role("radio", name="difference").click()
    expect(page.get_by_label("Selected stills").locator("img").last).to_have_css("mix-blend-mode", "difference")
    page.get_by_role("radio", name="wipe").click()
    page.get_by_label("Place of the wipe").fill("30")
    # Keys: select, star, show large, at 100 percent, and back.
    cards.nth(0).click()
    page.keyboard.press("s")
    until("it is starred", lambda: stills()[0]["starred"])
    page.keyboard.press("Enter")
    page.keyboard.press("1")
    expect(page.get_by_text("160 x 120 · 100 %")).to_be_visible()
    # A part of it, in a shape, with the pixels that are there.
    page.keyboard.press("c")
    area = page.locator("[data-cropping]")
    page.get_by_label("Shape").select_option("1:1")
    box = area.bounding_box()
    page.mouse.move(box["x"] + box["width"] * 0.25, box["y"] + box["height"] * 0.2)
    page.mouse.down()
    page.mouse.move(box["x"] + box["width"] * 0.75, box["y"] + box["height"] * 0.5, steps=4)
    page.mouse.up()
    page.get_by_label("Width of the part").fill("70")
    page.get_by_label("Width of the part").press("Enter")
    page.get_by_role("button", name="Keep these pixels").click()
    until("it is a still of its own", lambda: len(stills()) == 3)
    part = stills()[0]
    assert (part["width"], part["height"], part["state"], part["current"]) == (70, 70, "done", True)
    expect(page.get_by_text("70 x 70 · fitted")).to_be_visible()
    product.ask(f"stills/{part['id']}", "DELETE")
    expect(cards).to_have_count(2)
    page.keyboard.press("Escape")
    expect(page.get_by_role("dialog")).to_have_count(0)
    page.get_by_label("Format").select_option("exr")
    with page.expect_download() as download:
        page.get_by_label("Selected stills").get_by_role("link", name="Download").click()
    assert download.value.suggested_filename.endswith(".exr")
    page.get_by_role("button", name="Clear selection").click()
    page.get_by_role("button", name="Download…").click()
    page.get_by_label("File names").fill("{number} {shot}")
    with page.expect_download() as download:
        page.get_by_role("dialog").get_by_role("link", name="Download").click()
    packed = tmp_path / "stills.zip"
    download.value.save_as(packed)
    with zipfile.ZipFile(packed) as found:
        first, second = sorted(found.namelist())
        assert (first, second) == ("01 Front, three-quarter.png", "02 Front, three-quarter.png")
        pictures = [
            np.asarray(Image.open(io.BytesIO(found.read(name))).convert("L"), float) for name in (first, second)
        ]
        assert pictures[0].mean() > pictures[1].mean() + 5
        (tmp_path / "still.png").write_bytes(found.read(second))
    # The older picture holds its scene: dropped on the list of reviews it opens as a review of its own.
    page.goto("/")
    page.get_by_label("CAD file").set_input_files(tmp_path / "still.png")
    page.wait_for_url(re.compile("/reviews/[0-9a-f]+$"))
    opened = page.url.rpartition("/")[2]
    assert opened != review and scene(product, opened)["shots"]["shot-1"]["exposure"] == pytest.approx(9.3)
    product.ask(f"reviews/{opened}", "DELETE")


def test_a_large_still_is_looked_at_pixel_by_pixel(page: Page, product: Product, review: str) -> None:
    """It is shown smaller, and where one looks closely, the part that is seen comes at its full size."""
    product.ask(f"reviews/{review}/stills", "POST", STILL | {"width": 8192, "height": 64})
    stills = lambda: product.ask(f"reviews/{review}/stills")["stills"]  # noqa: E731
    until("it is done", lambda: stills()[0]["state"] == "done")
    page.goto(f"/reviews/{review}/stills")
    page.locator("[role=option][data-still]").click()
    page.keyboard.press("Enter")
    viewer = page.get_by_role("dialog")
    shown = viewer.get_by_role("img", name="Front, three-quarter")
    expect(shown).to_have_js_property("naturalWidth", 4096)
    detail = viewer.locator("img[src*='/detail']")
    expect(detail).to_have_count(0)
    page.keyboard.press("1")
    wide = page.viewport_size["width"]  # type: ignore[index]
    expect(detail).to_have_js_property("naturalWidth", wide)
    left = lambda: int(re.search(r"left=(\d+)", detail.get_attribute("src") or "")[1])  # noqa: E731
    middle = left()
    assert middle == pytest.approx((8192 - wide) / 2, abs=1)
    page.mouse.move(640, 400)
    page.mouse.down()
    page.mouse.move(340, 400, steps=3)
    page.mouse.up()
    until("the part that is seen follows", lambda: left() == middle + 300)
    box = detail.bounding_box()
    assert box is not None and (box["x"], box["width"], box["height"]) == (0, wide, 64)


def test_many_stills_are_queued_at_once(page: Page, product: Product, review: str) -> None:
    shots = scene(product, review)["shots"]
    more = {"shot-2": shots["shot-1"] | {"name": "Small", "width": 96, "height": 64}}
    small = {"shot-1": shots["shot-1"] | {"width": 96, "height": 72}}
    product.ask(f"reviews/{review}/edits", "POST", {"edit": {"kind": "set_shots", "shots": more | small}})
    page.goto(f"/reviews/{review}/stills")
    page.get_by_role("button", name="Looks x lightings x shots").click()
    dialog = page.get_by_role("dialog")
    for box in dialog.get_by_role("group", name="Lightings").get_by_role("checkbox").all():
        box.check()
    dialog.get_by_label("Quality").select_option("coarse")
    dialog.get_by_role("button", name="Take 4 stills").click()
    listed = lambda: product.ask(f"reviews/{review}/stills")["stills"]  # noqa: E731
    until("they are queued", lambda: len(listed()) == 4)
    stills = listed()
    assert {(one["shot_id"], one["lighting"]) for one in stills} == {
        (shot, lighting) for shot in ("shot-1", "shot-2") for lighting in scene(product, review)["lightings"]
    }
    last = stills[0]["id"]
    page.locator(f"[role=option][data-still='{last}']").click()
    if page.get_by_role("button", name="Trace next").count():
        page.get_by_role("button", name="Trace next").click()
    page.locator("[role=option]").first.focus()
    page.keyboard.press("Control+a")
    if page.get_by_role("button", name="Pause").count():
        page.get_by_role("button", name="Pause").click()
        until("they rest", lambda: {one["state"] for one in listed()} <= {"paused", "done"})
        # A step is for those that the page knows it fits: it has to have heard of all.
        expect(page.get_by_role("button", name="Pause")).to_have_count(0)
        page.get_by_role("button", name="Resume").click()
    until("all are done", lambda: all(one["state"] == "done" for one in listed()))


def teal(page: Page, tmp_path: Path) -> int:
    """Pixels of the picture that are tinted as sharp."""
    page.locator("canvas[data-ready=true]").first.screenshot(path=tmp_path / "band.png")
    r, g, b = np.moveaxis(np.asarray(Image.open(tmp_path / "band.png").convert("RGB")).astype(int), 2, 0)
    return int(((g > r + 45) & (b > r + 35)).sum())


def test_a_still_is_traced_for_some_minutes(page: Page, product: Product, review: str) -> None:
    open_review(page, review)
    page.get_by_label("Size and quality of the still").click()
    page.get_by_label("Width of the still").fill("96")
    page.keyboard.press("Enter")
    page.get_by_label("Time, stop after").fill("0.3")
    page.keyboard.press("Enter")
    expect(page.get_by_role("radio", name=re.compile("^Time"))).to_be_checked()
    told = page.get_by_role("status").filter(has_text="Measured on a small part of the shot")
    expect(told).to_contain_text(
        re.compile("About 18 s of tracing, [0-9]+ samples, noise about [0-9.]+ %"), timeout=60_000
    )
    page.get_by_label("Keep layers by kind of light").check()
    page.get_by_role("button", name=re.compile("^Take still, 96 x")).click()
    expect(page.get_by_text("for 0.3 min")).to_be_visible()
    (still,) = until("it is queued", lambda: product.ask(f"reviews/{review}/stills")["stills"])
    assert (still["minutes_asked"], still["width"], still["by_kind"]) == (0.3, 96, True)
    expect(page.get_by_text("in 0.3 min").first).to_be_visible()
    page.goto(f"/reviews/{review}/stills")
    page.locator("[role=option]").click()
    page.get_by_role("button", name="Finish now").click(timeout=60_000)
    (still,) = until(
        "it is done",
        lambda: [one for one in product.ask(f"reviews/{review}/stills")["stills"] if one["state"] == "done"],
    )
    assert still["ends_now"] and still["seconds"] < 18
    expect(page.get_by_text("in 0.3 min, ended early").first).to_be_visible()


def test_what_is_sharp_is_tinted_and_a_frame_is_cropped(
    page: Page, product: Product, review: str, tmp_path: Path
) -> None:
    open_review(page, review)
    page.get_by_role("tab", name=re.compile("shots", re.IGNORECASE)).click()
    before = scene(product, review)["shots"]["shot-1"]
    page.get_by_label("Drawer").get_by_text("Lens", exact=True).hover()
    expect(page.get_by_role("tooltip")).to_contain_text("exaggerates depth")
    page.get_by_text("Depth of field, shift").click()
    page.get_by_label("Aperture", exact=True).select_option("2.8")
    expect(page.get_by_text("Sharp from")).to_be_visible()
    plain = teal(page, tmp_path)
    page.get_by_text("Tint what is sharp").click()
    until("a band of it is tinted", lambda: teal(page, tmp_path) > plain + 300)
    page.get_by_text("Tint what is sharp").click()
    until("and no longer", lambda: teal(page, tmp_path) < plain + 100)

    page.get_by_role("button", name="By a grey").click()
    box = page.locator("canvas[data-ready=true]").first.bounding_box()
    page.mouse.click(box["x"] + box["width"] * 0.5, box["y"] + box["height"] * 0.5)
    expect(page.get_by_text("Switch the lamp on first")).to_be_visible()
    page.keyboard.press("Escape")

    page.get_by_role("button", name="Crop by dragging").click()
    expect(page.get_by_text("Drag a frame to crop the shot to")).to_be_visible()
    page.mouse.move(box["x"] + box["width"] * 0.25, box["y"] + box["height"] * 0.25)
    page.mouse.down()
    page.mouse.move(box["x"] + box["width"] * 0.75, box["y"] + box["height"] * 0.5, steps=4)
    page.mouse.up()
    shot = lambda: scene(product, review)["shots"]["shot-1"]  # noqa: E731
    until("it is cropped", lambda: shot()["height"] != before["height"])
    made = shot()
    assert made["camera"]["focal_length"] == pytest.approx(2 * before["camera"]["focal_length"], rel=0.03)
    assert made["camera"]["position"] == pytest.approx(before["camera"]["position"], abs=0.01), "perspective stays"
    assert made["width"] / made["height"] == pytest.approx(2 * before["width"] / before["height"], rel=0.03)


def test_lengths_are_shown_and_typed_in_the_unit_that_is_selected(page: Page, product: Product, review: str) -> None:
    open_review(page, review)
    size = [round(mm) for mm in product.ask(f"reviews/{review}/scene")["size"]]
    expect(page.get_by_text(f"{size[0]} x {size[1]} x {size[2]} mm").first).to_be_visible()
    page.get_by_label("Lengths in").select_option("in")
    inches = re.compile(rf"^{size[0] / 25.4:.1f}\d? x .* in$")
    expect(page.get_by_role("contentinfo").get_by_text(inches)).to_be_visible()
    page.get_by_role("tab", name=re.compile("lights", re.IGNORECASE)).click()
    page.get_by_role("row", name=re.compile("^Key")).first.click(position={"x": 90, "y": 12})
    width = page.get_by_label("Width", exact=True)
    width.fill("300 mm")
    width.press("Enter")
    expect(width).to_have_value("11.81")

    def key() -> float:
        found = scene(product, review)
        lamps = found["lightings"][found["lit_by"]]["lamps"].values()
        return next(lamp["width"] for lamp in lamps if lamp["name"] == "Key")

    until("300 mm are kept", lambda: key() == pytest.approx(300))
    width.fill("10")
    width.press("Enter")
    until("10 inches are kept as mm", lambda: key() == pytest.approx(254))
    page.get_by_label("Lengths in").select_option("mm")
    expect(page.get_by_label("Width", exact=True)).to_have_value("254")


def test_a_section_opens_the_product_in_one_shot(page: Page, product: Product, review: str) -> None:
    open_review(page, review)
    page.get_by_role("tab", name=re.compile("shots", re.IGNORECASE)).click()
    with page.expect_response(lambda reply: "~" in reply.url and reply.ok):
        page.get_by_role("button", name="Section…").click()
    section = lambda: scene(product, review)["shots"]["shot-1"]["section"]  # noqa: E731
    made = until("it is kept", section)
    assert made["normal"] == [0.0, -1.0, 0.0], "what looks at the camera is taken away"
    # Its place is typed as a coordinate, and each side can be the one that stays.
    with page.expect_response(lambda reply: "~" in reply.url and reply.ok):
        page.get_by_label("Cut at", exact=True).last.fill("-30")
        page.keyboard.press("Enter")
    until("it lies there", lambda: section()["offset"] == 30.0)
    page.get_by_role("button", name="Other side").click()
    until("the other side goes", lambda: (section()["normal"], section()["offset"]) == ([0.0, 1.0, 0.0], -30.0))
    page.keyboard.press("Control+z")
    until("that is undone", lambda: section()["offset"] == 30.0)
    opened = red(page)
    page.get_by_text("Cut faces in one colour").click()
    until("they have one", lambda: section()["color"] == "#B4442F")
    until("the picture shows it", lambda: red(page) > opened + 300)
    colored = red(page)
    page.get_by_role("button", name="No section").click()
    until("it is whole again", lambda: section() is None)
    until("in the picture, too", lambda: red(page) < colored - 300)


def red(page: Page) -> int:
    """How many pixels of the picture are as red as cut faces."""
    shown = Image.open(io.BytesIO(page.locator("canvas[data-ready=true]").first.screenshot())).convert("RGB")
    r, g, b = np.moveaxis(np.asarray(shown, float), 2, 0)
    return int(((r > 1.8 * g) & (r > 2 * b) & (r > 90)).sum())
