"""The lamp as one uses it: on, an edit, a region, pause, keep this picture, off; and its worker killed meanwhile."""

from __future__ import annotations

import os
import re
import signal
from pathlib import Path

import numpy as np
import pytest
from PIL import Image
from playwright.sync_api import Page, expect

from e2e.pictures import share_of_orange
from e2e.running import Product, choose, open_review, until

pytestmark = pytest.mark.e2e
SCALE = 0.5
"""Pixels of the picture are looked at."""


def traced_samples(page: Page) -> int:
    """Samples of the traced picture on the desk; 0 while there is none."""
    found = page.locator("canvas[data-traced]")
    return int(found.get_attribute("data-traced") or 0) if found.count() else 0


def traced_pixels(page: Page, tmp_path: Path) -> np.ndarray:
    """What `Save picture` saves."""
    with page.expect_download(timeout=60_000) as download:
        page.get_by_role("button", name="Save picture").click()
    assert "traced" in download.value.suggested_filename
    file = tmp_path / "kept.png"
    download.value.save_as(file)
    return np.asarray(Image.open(file).convert("RGB"))


def test_lamp_on_edit_region_pause_keep_off(page: Page, product: Product, review: str, tmp_path: Path) -> None:
    open_review(page, review)
    page.keyboard.press("l")
    expect(page.get_by_role("switch", name="Lamp")).to_be_checked()
    until("the picture is traced", lambda: traced_samples(page) >= 2)
    before = traced_pixels(page, tmp_path)
    expect(page.get_by_text(re.compile(r"% · \d+ samples"))).to_be_visible()
    choose(page, "case cast")
    page.get_by_role("button", name="Give Anodised, orange").click()
    until("the case is orange", lambda: share_of_orange(traced_pixels(page, tmp_path)) > 0.05)
    assert share_of_orange(before) < 0.05

    page.get_by_role("button", name="Region").click()
    box = page.locator("canvas[data-ready=true]").bounding_box()
    assert box is not None
    page.mouse.move(box["x"] + 150, box["y"] + 100)
    page.mouse.down()
    page.mouse.move(box["x"] + 270, box["y"] + 220, steps=3)
    page.mouse.up()
    expect(page.locator("[data-region=set]")).to_be_visible()
    until("only the region is traced", lambda: max(traced_pixels(page, tmp_path).shape[:2]) < 90)
    page.get_by_role("button", name="Clear region").click()
    until("the whole is traced", lambda: traced_pixels(page, tmp_path).shape[1] > 150)

    page.get_by_role("button", name="Pause").click()
    expect(page.get_by_role("button", name="Resume")).to_be_visible()
    with page.expect_download(timeout=60_000) as download:
        page.get_by_role("button", name="JPEG").click()
    assert Image.open(download.value.path()).format == "JPEG"
    # At the size of the shot it is traced on in the background, and saved when that is done.
    shot = next(iter(product.ask(f"reviews/{review}/scene")["scene"]["shots"].items()))
    small = {"kind": "set_shot", "id": shot[0], "shot": shot[1] | {"width": 240, "height": 180}}
    product.ask(f"reviews/{review}/edits", "POST", {"edit": small})
    page.get_by_role("button", name="Save at the shot's full size").click()
    expect(page.get_by_role("button", name="Save 240 x 180")).to_be_visible()
    page.get_by_label("Keep it among the stills").uncheck()
    page.get_by_label("Format").select_option("WebP")
    with page.expect_download(timeout=180_000) as download:
        page.get_by_role("button", name="Save 240 x 180").click()
    saved = Image.open(download.value.path())
    assert (saved.format, saved.size) == ("WEBP", (240, 180))
    until("it is no still", lambda: product.ask(f"reviews/{review}/stills")["stills"] == [])
    page.keyboard.press("l")
    expect(page.locator("canvas[data-traced]")).to_have_count(0)
    expect(page.get_by_role("switch", name="Lamp")).not_to_be_checked()


def test_white_and_tone_change_the_traced_picture_without_tracing(
    page: Page, product: Product, review: str, tmp_path: Path
) -> None:
    open_review(page, review)
    page.keyboard.press("4")
    page.keyboard.press("l")
    until("the picture is traced", lambda: traced_samples(page) >= 4)
    page.get_by_role("button", name="Pause").click()

    def blueness() -> float:
        """Blue over red in the middle of the product; the backdrop keeps its colour."""
        pixels = traced_pixels(page, tmp_path).astype(float)
        height, width = pixels.shape[:2]
        middle = pixels[int(0.35 * height) : int(0.65 * height), int(0.35 * width) : int(0.65 * width)]
        return float((middle[..., 2] - middle[..., 0]).mean())

    before, edge, samples = blueness(), traced_pixels(page, tmp_path)[2].mean(axis=0), traced_samples(page)
    white = page.get_by_role("textbox", name="White")
    white.fill("3200")
    white.press("Enter")
    page.get_by_label("Tone curve").select_option("filmic")
    until("it is bluer", lambda: blueness() > before + 25)
    assert traced_samples(page) >= samples
    np.testing.assert_allclose(traced_pixels(page, tmp_path)[2].mean(axis=0), edge, atol=3)
    shot = product.ask(f"reviews/{review}/scene")["scene"]["shots"]["shot-1"]
    assert (shot["tone"], shot["white"]) == ("filmic", 3200), "two edits in quick succession both hold"


def test_moving_shows_the_shaded_picture_and_traces_when_it_rests(page: Page, review: str) -> None:
    open_review(page, review)
    page.get_by_role("switch", name="Lamp").click()
    until("the picture is traced", lambda: traced_samples(page) >= 1)
    box = page.locator("canvas[data-ready=true]").bounding_box()
    assert box is not None
    # Watched within the page: a quick lamp has the new view traced before a look from outside.
    page.evaluate("""() => {
      window.wentAway = false;
      new MutationObserver(() => {
        if (!document.querySelector("canvas[data-traced]")) window.wentAway = true;
      }).observe(document.body, { childList: true, subtree: true });
    }""")
    page.mouse.move(box["x"] + 100, box["y"] + 100)
    page.mouse.down()
    page.mouse.move(box["x"] + 180, box["y"] + 130, steps=3)
    until("the traced picture makes way", lambda: page.evaluate("window.wentAway"))
    page.mouse.up()
    until("the new view is traced", lambda: traced_samples(page) >= 1)


def test_lamp_worker_killed_while_editing(page: Page, product: Product, review: str) -> None:
    open_review(page, review)
    page.get_by_role("switch", name="Lamp").click()
    until("the picture is traced", lambda: traced_samples(page) >= 1)
    for sample in ("Give Gloss paint, red", "Give Brass, turned"):
        old = product.process("lamp")
        os.kill(old, signal.SIGKILL)
        choose(page, "case cast")
        page.get_by_role("button", name=sample).click()
        until("the lamp's worker is started again", lambda old=old: product.process("lamp") != old)
        expect(page.get_by_text("all changes saved")).to_be_visible()
        samples = traced_samples(page)
        until("tracing goes on", lambda samples=samples: 0 < traced_samples(page) != samples)
    expect(page.get_by_role("alert")).to_have_count(0)
    assert product.answers()
