"""The first minute: from a file to a still in three actions, the checks before it, and the guide that leads there."""

from __future__ import annotations

import re
from typing import Any

import pytest
from playwright.sync_api import Browser, Page, expect

from e2e.conftest import DRAWN
from e2e.running import Product, open_review, until
from public_files import AS1, ROOT, step_file

AXE = ROOT / "tests/data/node_modules/axe-core/axe.min.js"
RULES = ["wcag2a", "wcag2aa", "wcag21a", "wcag21aa", "wcag22aa"]


@pytest.fixture(scope="module")
def bolted(product: Product, browser: Browser) -> str:
    """A review of the public assembly as1, as it is after its import."""
    context = browser.new_context(**DRAWN, base_url=product.url)
    context.add_cookies([product.cookie()])
    page = context.new_page()
    before = {review["id"] for review in product.ask("reviews")["reviews"]}
    page.goto("/")
    page.get_by_label("CAD file").set_input_files(step_file(AS1))
    page.get_by_label("Name of the review").fill("Brackets and bolts")
    page.get_by_role("button", name="Import", exact=True).click()

    def made() -> Any:
        return next((one["id"] for one in product.ask("reviews")["reviews"] if one["id"] not in before), None)

    found: str = until("the review is made", made)
    context.close()
    return found


def untouched(product: Product, review: str) -> int:
    worn = product.ask(f"reviews/{review}/scene")["worn"].values()
    return sum(one["why"] in ("from CAD", "nothing yet") for one in worn)


def test_a_first_coat_and_a_still_take_three_actions(product: Product, page: Page, bolted: str) -> None:
    open_review(page, bolted)
    assert untouched(product, bolted) == 18
    page.get_by_role("button", name="First coat…").first.click()
    dialog = page.get_by_role("dialog", name="First coat")
    expect(dialog.get_by_text("“nut” in its name", exact=False).first).to_be_visible()
    dialog.get_by_role("button", name="Apply to 18 parts").click()
    page.get_by_role("button", name="Take still", exact=True).click()
    stills = until("a still is queued", lambda: product.ask(f"reviews/{bolted}/stills")["stills"])
    product.ask(f"stills/{stills[0]['id']}/stop", "POST")
    assert untouched(product, bolted) == 0
    page.keyboard.press("Control+z")
    until("one undo brings all of it back", lambda: untouched(product, bolted) == 18)


def test_checks_before_a_still_are_mended_and_silenced(product: Product, page: Page, bolted: str) -> None:
    scene = product.ask(f"reviews/{bolted}/scene")["scene"]
    small = scene["shots"]["shot-1"] | {"width": 320, "height": 240}
    product.ask(f"reviews/{bolted}/edits", "POST", {"edit": {"kind": "set_shot", "id": "shot-1", "shot": small}})
    open_review(page, bolted)
    page.get_by_role("button", name=re.compile("to check")).click()
    checks = page.get_by_role("dialog", name="Checks before a still")
    checks.locator("[data-check=size]").get_by_role("button", name="Set to 1,920 pixels").click()
    expect(checks.locator("[data-check=size]")).to_be_hidden()
    checks.locator("[data-check=untouched]").get_by_role("button", name="Silence").click()
    expect(checks.locator("[data-check=untouched]")).to_be_hidden()
    expect(checks.get_by_text("1 silenced in this review")).to_be_visible()
    checks.get_by_role("button", name="Show them again").click()
    expect(checks.locator("[data-check=untouched]")).to_be_visible()
    shot = product.ask(f"reviews/{bolted}/scene")["scene"]["shots"]["shot-1"]
    assert (shot["width"], shot["height"]) == (1920, 1440)


def test_the_guide_leads_on_by_keyboard_and_stays_closed(page: Page, bolted: str) -> None:
    open_review(page, bolted)
    guide = page.get_by_role("region", name="Guided start")
    expect(guide).to_be_hidden()
    page.keyboard.press("?")
    page.get_by_role("button", name="Show the guided start").press("Enter")
    expect(guide.get_by_text("Give it a first coat")).to_be_visible()
    guide.get_by_role("button", name="Next").press("Enter")
    expect(guide.get_by_text("Look at the light")).to_be_visible()
    page.keyboard.press("3")
    expect(guide.get_by_text("Turn on the lamp")).to_be_visible()
    guide.get_by_role("button", name="Next").press("Enter")
    expect(guide.get_by_text("Frame the shot")).to_be_visible()
    guide.get_by_role("button", name="Close the guide").press("Enter")
    expect(guide).to_be_hidden()
    page.reload()
    expect(page.get_by_role("grid", name="Lights")).to_be_visible()
    expect(guide).to_be_hidden()


def test_the_address_holds_sheet_and_filter_and_the_history_goes_back(
    product: Product, page: Page, bolted: str
) -> None:
    open_review(page, bolted)
    page.get_by_label("Filter parts").fill("bolt")
    expect(page).to_have_url(re.compile(r"\?filter=bolt$"))
    page.reload()
    expect(page.get_by_label("Filter parts")).to_have_value("bolt")
    field = page.get_by_label("Filter parts")
    field.press("Escape")
    field.press("ArrowDown")
    expect(page.locator("[role=row][data-index='0']")).to_be_focused()
    page.keyboard.press("End")
    page.keyboard.press("h")
    page.keyboard.press("Home")
    page.keyboard.press("h")

    def hidden() -> int:
        return len(product.ask(f"reviews/{bolted}/scene")["scene"]["states"])

    until("two rows are hidden", lambda: hidden() == 2)
    page.get_by_role("button", name="History").click()
    past = page.get_by_role("dialog", name="History")
    expect(past.get_by_role("button", name=re.compile("Hide 1 part")).first).to_be_visible()
    page.keyboard.press("End")
    expect(past.get_by_role("button", name="As it was imported")).to_be_focused()
    page.keyboard.press("Enter")
    until("all is as it was", lambda: hidden() == 0)


def violations(page: Page, where: str) -> list[str]:
    """What breaks a rule of WCAG 2.2 AA on a page as it is, by axe-core."""
    if not page.evaluate("typeof axe !== 'undefined'"):
        page.evaluate(AXE.read_text())
    found = page.evaluate("rules => axe.run(document, { runOnly: rules })", RULES)["violations"]
    return [f"{where}: {one['id']}, {one['nodes'][0]['html'][:120]}" for one in found]


def broken_behind(page: Page, buttons: dict[str, str]) -> list[str]:
    """The same of what buttons open, by the button's name, and what the opened is called."""
    broken = []
    for button, title in buttons.items():
        page.get_by_role("button", name=re.compile(button)).first.click()
        expect(page.get_by_role("dialog", name=re.compile(title))).to_be_visible()
        broken += violations(page, title)
        page.keyboard.press("Escape")
        expect(page.get_by_role("dialog")).to_have_count(0)
    return broken


def test_no_view_breaks_the_rules_of_accessibility(page: Page, bolted: str) -> None:
    page.goto("/")
    expect(page.get_by_role("button", name="New review from a file")).to_be_visible()
    broken = violations(page, "reviews") + broken_behind(page, {"^Tracing": "Tracing"})
    open_review(page, bolted)
    broken += violations(page, "parts")
    dialogs = {
        "^First coat": "First coat",
        "^History": "History",
        "to check$|^Ready$": "Checks before a still",
        "^Size and quality": "Size and quality",
        "^Save at the shot": "Save at the shot",
        "^Build a filter": "Build a filter",
    }
    broken += broken_behind(page, dialogs)
    page.get_by_role("button", name="CAD colours").click()
    broken += broken_behind(page, {"^Open the table": "CAD colours"})
    page.locator("[role=row][data-index='2']").click()
    expect(page.get_by_label("Find a sample")).to_be_visible()
    broken += violations(page, "parts selected")
    for sheet in ("Appearances", "Lights", "Shots"):
        page.get_by_role("tab", name=sheet).click()
        expect(page.get_by_role("tab", name=sheet, selected=True)).to_be_visible()
        broken += violations(page, sheet)
    page.get_by_role("tab", name="Lights").click()
    page.get_by_role("row", name=re.compile("^Key")).click()
    expect(page.get_by_label("Name of the lamp")).to_be_visible()
    broken += violations(page, "a lamp")
    for key, title in (("?", "Keyboard shortcuts"), ("Control+k", "Find any action")):
        page.keyboard.press(key)
        expect(page.get_by_role("dialog", name=title)).to_be_visible()
        broken += violations(page, title)
        page.keyboard.press("Escape")
    page.goto(f"/reviews/{bolted}/stills")
    expect(page.get_by_role("heading").first).to_be_visible()
    broken += violations(page, "stills") + broken_behind(page, {"^Looks x lightings": "Looks x lightings"})
    page.goto("/nowhere")
    expect(page.get_by_text("There is nothing at this address")).to_be_visible()
    broken += violations(page, "nowhere")
    assert broken == []
