"""Decals as one puts them on: file, click, size, move, undo, and both pictures."""

from __future__ import annotations

import re
from pathlib import Path

import numpy as np
import pytest
from PIL import Image
from playwright.sync_api import Page, expect

from e2e.running import Product, open_review, until
from e2e.test_lamp import traced_pixels, traced_samples
from usual_lamp.core.camera import Camera

pytestmark = pytest.mark.e2e
SCALE = 0.5
"""Pixels of the picture are looked at."""
SPOT = (0.31, 0.33)
"""Of the picture, as shares: the side of the demo's case, which wears no decal of its own."""
LEFT = (0.29, 0.62)
"""The front of the case, left of the pump's head."""


def decals(product: Product, review: str) -> dict:
    """Those that are not the demo's own."""
    found = product.ask(f"reviews/{review}/scene")["scene"]["decals"]
    return {id: decal for id, decal in found.items() if not id.startswith("demo-")}


def magenta(pixels: np.ndarray) -> int:
    r, g, b = (pixels[..., k].astype(int) for k in range(3))
    return int(((r > 90) & (b > 90) & (g < 0.6 * np.minimum(r, b))).sum())


def test_a_decal_is_laid_sized_moved_and_traced(page: Page, product: Product, review: str, tmp_path: Path) -> None:
    label = tmp_path / "Warning label.png"
    Image.new("RGBA", (120, 60), (255, 0, 255, 255)).save(label)
    open_review(page, review)
    page.get_by_role("row", name="Case front").first.click()
    page.get_by_label("Decal file").set_input_files(label)
    expect(page.get_by_text("Click where the decal shall lie")).to_be_visible()
    box = page.locator("canvas[data-ready=true]").bounding_box()
    at = lambda x, y: (box["x"] + box["width"] * x, box["y"] + box["height"] * y)  # noqa: E731
    page.mouse.click(*at(*SPOT))
    until("it lies there", lambda: len(decals(product, review)) == 1)
    (before,) = decals(product, review).values()
    assert before["name"] == "Warning label" and before["width"] == pytest.approx(2 * before["height"], rel=0.1)
    expect(page.get_by_label("Name of the decal")).to_have_value("Warning label")

    width = page.get_by_label("Width of the decal")
    width.fill("30")
    width.press("Enter")
    until("it is sized", lambda: next(iter(decals(product, review).values()))["width"] == 30)
    page.get_by_role("button", name="Shift the decal up").click()
    until("it is shifted", lambda: next(iter(decals(product, review).values()))["center"] != before["center"])
    shaded = lambda: np.asarray(Image.open(page.screenshot(path=tmp_path / "s.png") and tmp_path / "s.png"))  # noqa: E731
    until("the shaded picture shows it", lambda: magenta(shaded()) > 60)
    page.keyboard.press("l")
    until("the picture is traced", lambda: traced_samples(page) >= 4)
    assert magenta(traced_pixels(page, tmp_path)) > 30
    page.keyboard.press("l")

    page.get_by_role("button", name="Move…").click()
    page.mouse.click(*at(SPOT[0] + 0.02, SPOT[1] - 0.02))
    until("it is moved", lambda: next(iter(decals(product, review).values()))["width"] == 30)
    page.get_by_role("region", name="Decals").get_by_role("button", name="Remove").click()
    until("it is gone", lambda: decals(product, review) == {})
    page.keyboard.press("Control+z")
    until("and back", lambda: len(decals(product, review)) == 1)


def test_text_is_drawn_typed_finished_dragged_and_nudged(page: Page, product: Product, review: str) -> None:
    open_review(page, review)
    page.get_by_role("row", name="Case front").first.click()
    page.get_by_label("Draw a decal").select_option("text")
    box = page.locator("canvas[data-ready=true]").bounding_box()
    at = lambda x, y: (box["x"] + box["width"] * x, box["y"] + box["height"] * y)  # noqa: E731
    page.mouse.click(*at(*SPOT))
    until("it lies there", lambda: len(decals(product, review)) == 1)
    one = lambda: next(iter(decals(product, review).values()))  # noqa: E731
    before = one()
    words = page.get_by_label("Text of the decal")
    words.fill("SERVICE ONLY")
    words.press("Enter")
    until("it says something else", lambda: one()["drawing"]["text"] == "SERVICE ONLY")
    assert one()["width"] > 1.4 * before["width"] and one()["picture"] != before["picture"]
    page.get_by_label("Finish of the decal").select_option("glow")
    until("it glows, in white", lambda: (one()["finish"]["kind"], one()["drawing"]["color"]) == ("glow", "#FFFFFF"))
    page.get_by_label("Finish of the decal").select_option("engraved")
    until("it is engraved", lambda: one()["finish"]["kind"] == "engraved")

    center = one()["center"]
    page.mouse.move(*at(*SPOT))
    page.mouse.down()
    for k in range(1, 6):
        page.mouse.move(*at(SPOT[0] + 0.004 * k, SPOT[1] - 0.006 * k))
    page.mouse.up()
    until("it was dragged", lambda: one()["center"] != center)
    assert one()["part"] == before["part"] and one()["up"] == pytest.approx(before["up"], abs=0.05)

    center = one()["center"]
    page.get_by_role("button", name="Shift the decal up").focus()
    page.keyboard.press("Shift+ArrowRight")
    until("it is nudged", lambda: one()["center"] != center)
    assert np.linalg.norm(np.subtract(one()["center"], center)) == pytest.approx(0.1, abs=1e-3)


def test_a_decal_is_pulled_larger_turned_and_goes_back(
    page: Page, product: Product, review: str, tmp_path: Path
) -> None:
    open_review(page, review)
    page.get_by_role("row", name="Case front").first.click()
    label = tmp_path / "Seal.png"
    Image.new("RGB", (90, 60), "#F4F1E8").save(label)
    page.get_by_label("Decal file").set_input_files(label)
    expect(page.get_by_text("Click where the decal shall lie")).to_be_visible()
    box = page.locator("canvas[data-ready=true]").bounding_box()
    page.mouse.click(box["x"] + box["width"] * LEFT[0], box["y"] + box["height"] * LEFT[1])
    until("it lies there", lambda: len(decals(product, review)) == 1)
    one = lambda: next(iter(decals(product, review).values()))  # noqa: E731
    page.get_by_label("Width of the decal").fill("30")
    page.get_by_label("Width of the decal").press("Enter")
    until("it is sized", lambda: one()["width"] == 30)
    before = one()
    (shot,) = product.ask(f"reviews/{review}/scene")["scene"]["shots"].values()
    camera = Camera.model_validate(shot["camera"])

    def on_page(x: float, y: float) -> tuple[float, float]:
        """Where a point is that lies so many mm from the middle of the decal; the case stands as it was drawn."""
        point = np.array(before["center"]) + x * np.array(before["right"]) + y * np.array(before["up"])
        at = camera.project(point[None], shot["width"] / shot["height"])[0]
        return box["x"] + box["width"] * (at[0] + 1) / 2, box["y"] + box["height"] * (1 - at[1]) / 2

    def drag(start: tuple[float, float], end: tuple[float, float]) -> None:
        page.mouse.move(*on_page(*start))
        page.mouse.down()
        for share in (0.3, 0.7, 1.0):
            page.mouse.move(*on_page(*(a + (b - a) * share for a, b in zip(start, end, strict=True))))

    half = before["width"] / 2, before["height"] / 2
    drag(half, (1.5 * half[0], 1.5 * half[1]))
    expect(page.get_by_text(re.compile(r"^[\d.]+ x [\d.]+ mm$"))).to_be_visible()
    page.mouse.up()
    until("it is larger", lambda: one()["width"] > 1.1 * before["width"])
    larger = one()
    assert larger["width"] / larger["height"] == pytest.approx(before["width"] / before["height"], rel=0.02)

    def corner(decal: dict) -> np.ndarray:
        """The one at the lower left, in the part's frame."""
        ways = np.array([decal["right"], decal["up"]])
        return np.array(decal["center"]) - np.array([decal["width"], decal["height"]]) / 2 @ ways

    assert corner(larger) == pytest.approx(corner(before), abs=0.05), "the corner across stays"

    before = larger
    expect(page.get_by_label("Width of the decal")).to_have_value(f"{larger['width']:.1f}")
    page.keyboard.down("Shift")
    knob = before["height"] / 2 + 0.25 * before["width"]
    drag((0, knob), (-knob, knob))
    page.mouse.up()
    page.keyboard.up("Shift")
    until("it is turned by whole steps", lambda: one()["turn"] == 45)
    page.keyboard.press("Control+z")
    until("and back", lambda: one()["turn"] == 0)

    page.get_by_role("checkbox", name="Mirrored").click()
    until("it is mirrored", lambda: one()["mirrored"])
    page.keyboard.press("Control+z")  # with the box still having the keyboard
    until("and back", lambda: not one()["mirrored"])

    other = tmp_path / "Seal, newer.png"
    Image.new("RGB", (90, 45), "#20405F").save(other)
    page.get_by_label("Other file").set_input_files(other)
    until("another picture lies there", lambda: one()["picture"] != larger["picture"])
    assert one()["width"] == larger["width"] and one()["height"] == pytest.approx(larger["width"] / 2)
