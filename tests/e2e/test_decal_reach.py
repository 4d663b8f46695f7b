"""Where a decal may lie, by the buttons of the drawer: along its face, kept to it, across parts, on the far side."""

from __future__ import annotations

import pytest
from playwright.sync_api import Page, expect

from e2e.running import Product, open_review, until

pytestmark = pytest.mark.e2e


def test_a_decal_is_laid_along_its_face_kept_run_across_and_put_behind(
    page: Page, product: Product, review: str
) -> None:
    def decal() -> dict:
        return product.ask(f"reviews/{review}/scene")["scene"]["decals"]["demo-flow-scale"]

    open_review(page, review)
    page.get_by_role("row", name="Panel, 1 part", exact=True).click()
    page.get_by_label("Name of the decal").focus()
    laid = page.get_by_label("How the decal is laid on its part")
    laid.select_option("along its face")
    until("it follows its face", lambda: decal()["sheet"])
    assert decal()["sheet"]["stretch"] == pytest.approx([1, 1], abs=0.01), "the panel is flat"
    kept = page.get_by_label("Faces that the decal is kept to")
    expect(kept).to_have_count(0)
    laid.select_option("straight")
    until("it lies straight", lambda: decal()["sheet"] is None)

    kept.select_option("its face")
    until("it is kept to its face", lambda: len(decal()["faces"]) == 1)
    kept.select_option("its part")
    until("it is kept to its part", lambda: decal()["faces"] == [])

    page.get_by_role("row", name="Nameplate, 1 part", exact=True).click(modifiers=["Control"])
    page.get_by_role("button", name="Run across 2 parts").click()
    until("it runs across", lambda: len(decal()["also"]) == 1)
    expect(page.get_by_text("runs across 2 parts")).to_be_visible()
    page.get_by_role("button", name="Its own only").click()
    until("it is on its own part", lambda: decal()["also"] == [])

    front = decal()
    page.get_by_role("button", name="To the far side").click()
    until("it is behind the panel", lambda: decal()["mirrored"])
    way = [b - a for a, b in zip(front["center"], decal()["center"], strict=True)]
    assert max(map(abs, way)) > 0.5, "the panel has a thickness"
    page.keyboard.press("Control+z")
    until("it is back in front", lambda: decal() == front)


def test_a_decal_is_copied_to_all_same_parts_and_taken_back(page: Page, product: Product, review: str) -> None:
    def marked() -> list[str]:
        decals = product.ask(f"reviews/{review}/scene")["scene"]["decals"].values()
        return sorted(decal["part"] for decal in decals if decal["name"] == "Left")

    nodes = product.ask(f"reviews/{review}")["model"]["nodes"]
    feet = sorted(node["uid"] for node in nodes if node["name"] == "Foot")
    like = product.ask(f"reviews/{review}/scene")["scene"]["decals"]["demo-type"]
    label = like | {"name": "Left", "part": feet[0], "width": 4.0, "height": 2.0, "center": [0, 0, 0]}
    product.ask(f"reviews/{review}/edits", "POST", {"edit": {"kind": "set_decals", "decals": {"left": label}}})
    open_review(page, review)
    page.get_by_role("row", name="Foot, 4 parts", exact=True).click()
    page.get_by_role("button", name="Copy to all 3 same parts").click()
    until("each foot has one", lambda: marked() == feet)
    page.get_by_role("button", name="Undo").click()
    until("one has it", lambda: marked() == feet[:1])
