"""How many actions everyday work takes: clicks and keys, a typed word counting as one. They must not creep up."""

from __future__ import annotations

import re
from typing import Any

import pytest
from playwright.sync_api import Locator, Page, expect

from e2e.running import Product, open_review, until
from e2e.test_clean_up import take_in
from public_files import AS1, step_file

pytestmark = pytest.mark.e2e


class Hand:
    """Does what a person does, and counts it."""

    def __init__(self, page: Page) -> None:
        self.page, self.count = page, 0

    def click(self, target: Locator, **where: Any) -> None:
        self.count += 1
        target.click(**where)

    def key(self, keys: str) -> None:
        self.count += 1
        self.page.keyboard.press(keys)

    def word(self, text: str) -> None:
        self.count += 1
        self.page.keyboard.type(text)

    def pick(self, target: Locator, value: str) -> None:
        self.count += 1
        target.select_option(value)


@pytest.fixture(scope="module")
def told() -> Any:
    """Counts by job, printed when all are done."""
    counts: dict[str, tuple[int, int]] = {}
    yield counts
    print("\nactions (asked):", ", ".join(f"{job} {taken} ({asked})" for job, (taken, asked) in counts.items()))


def worn(product: Product, review: str, name: str) -> list[str]:
    """What the parts of a name wear."""
    nodes = product.ask(f"reviews/{review}")["model"]["nodes"]
    scene = product.ask(f"reviews/{review}/scene")["worn"]
    return [scene[node["uid"]]["appearance"] for node in nodes if node["name"] == name and node["uid"] in scene]


def test_everyday_work_takes_few_actions(page: Page, product: Product, told: dict[str, tuple[int, int]]) -> None:
    review = take_in(page, step_file(AS1), "Counted")
    open_review(page, review)
    sample = lambda name: page.get_by_label(f"Give {name}", exact=True)  # noqa: E731
    rules = lambda: product.ask(f"reviews/{review}/scene")["scene"]["looks"]["standard"]["rules"]  # noqa: E731

    hand = Hand(page)
    hand.click(page.get_by_role("row", name=re.compile("^bolt")).first)
    hand.click(sample("Steel, machined"))
    until("a row of same parts has a coat", lambda: worn(product, review, "bolt").count("steel-machined") == 3)
    told["base coat on same parts"] = (hand.count, 2)

    page.keyboard.press("Escape")
    hand = Hand(page)
    canvas = page.locator("canvas[data-ready=true]")
    box = canvas.bounding_box()
    hand.key("f")
    hand.click(canvas, position={"x": box["width"] * 0.5, "y": box["height"] * 0.62})
    hand.click(sample("Gold plate"))
    faces = lambda: [one for one in product.ask(f"reviews/{review}/scene")["worn"].values() if one["faces"]]  # noqa: E731
    until("a face has a coat", lambda: len(faces()) == 1)
    told["one face of a part"] = (hand.count, 3)

    page.keyboard.press("Escape")
    page.keyboard.press("Escape")
    hand = Hand(page)
    hand.key("/")
    hand.word("name:nut")
    expect(page.get_by_label("Drawer").get_by_text(re.compile("^8 parts found", re.I))).to_be_visible()
    hand.click(sample("Zinc plate, clear"))
    until("what the filter finds has a coat", lambda: worn(product, review, "nut").count("zinc-plated") == 8)
    told["all of a kind by filter"] = (hand.count, 3)

    page.get_by_label("Filter parts").fill("")
    page.get_by_label("Filter parts").blur()
    hand = Hand(page)
    hand.key("/")
    hand.word("name:l-bracket")
    expect(page.get_by_label("Drawer").get_by_text(re.compile("^2 parts found", re.I))).to_be_visible()
    hand.click(sample("Steel, black oxide"), modifiers=["Alt"])
    until("a rule gives them a coat", lambda: worn(product, review, "l-bracket").count("steel-black") == 2)
    assert [rule["filter"] for rule in rules()] == ["name:l-bracket"]
    told["all of a kind by rule"] = (hand.count, 3)

    hand = Hand(page)
    page.get_by_label("Filter parts").fill("")
    page.get_by_role("row", name=re.compile("^nut")).first.click()
    expect(page.get_by_text(re.compile("A change here changes 8 parts|Zinc plate, clear")).first).to_be_visible()
    hand.pick(page.get_by_label("Apply to"), "same appearance")
    hand.click(sample("Brass, turned"))
    until("it is swapped everywhere", lambda: worn(product, review, "nut").count("brass-turned") == 8)
    told["swap an appearance everywhere"] = (hand.count, 2)

    page.keyboard.press("Escape")
    page.get_by_role("button", name="Orientation").click()
    before = product.ask(f"reviews/{review}/scene")["scene"]["models"]
    hand = Hand(page)
    hand.click(page.get_by_role("button", name="Set face down"))
    hand.click(canvas, position={"x": box["width"] * 0.5, "y": box["height"] * 0.62})
    until("it lies on that face", lambda: product.ask(f"reviews/{review}/scene")["scene"]["models"] != before)
    told["orientation by a face"] = (hand.count, 2)

    hand = Hand(page)
    hand.click(page.get_by_role("button", name="Update model"))
    page.get_by_label("Newer file").set_input_files(step_file(AS1))
    dialog = page.get_by_role("dialog", name=re.compile("New revision"))
    expect(dialog.get_by_role("tab", name=re.compile("^unchanged"))).to_contain_text("18", timeout=120_000)
    hand.click(dialog.get_by_role("button", name="Replace the model"))
    expect(dialog).to_be_hidden(timeout=60_000)
    assert worn(product, review, "nut").count("brass-turned") == 8, "what was given is kept"
    told["the same again after a revision"] = (hand.count, 2)
    assert all(taken <= asked for taken, asked in told.values()), told
    product.ask(f"reviews/{review}", "DELETE")


def test_from_the_start_page_to_a_still_without_a_pointer(page: Page, product: Product) -> None:
    """The file dialog is the browser's and counts apart."""
    before = {one["id"] for one in product.ask("reviews")["reviews"]}
    # Heard from the start: otherwise the key may be faster than the browser's readiness to hand the dialog over.
    page.on("filechooser", lambda _: None)
    page.goto("/")
    expect(page.get_by_text("Dosing pump DP-40").first).to_be_visible()
    hand = Hand(page)
    with page.expect_file_chooser() as chooser:
        hand.key("i")
    chooser.value.set_files(step_file(AS1))
    expect(page.get_by_role("button", name="Import", exact=True)).to_be_enabled(timeout=120_000)
    hand.key("Enter")
    review = until(
        "the review is made",
        lambda: next((one["id"] for one in product.ask("reviews")["reviews"] if one["id"] not in before), None),
    )
    page.locator("canvas[data-ready=true]").wait_for(timeout=120_000)
    hand.key("t")
    stills = until("a still is queued", lambda: product.ask(f"reviews/{review}/stills")["stills"])
    product.ask(f"stills/{stills[0]['id']}/stop", "POST")
    assert hand.count <= 8
    product.ask(f"reviews/{review}", "DELETE")
