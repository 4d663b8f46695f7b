"""Settings found by what people call them, and several models brought in at once."""

from __future__ import annotations

import re
from pathlib import Path

import pytest
import trimesh
from playwright.sync_api import Page, Route, expect

from e2e.running import Product, choose, open_review, until
from public_files import ROOT

pytestmark = pytest.mark.e2e
TEXT = re.compile(r'^export const (\w+) =\s*("[^"]*");$', re.MULTILINE)
SETTING = re.compile(r'\[\s*"([^"]+)",\s*"([^"]+)"((?:,\s*(?:"[^"]*"|undefined|[A-Z]+))*),?\s*\]')


def told(table: str) -> str:
    """One of the page's tables with its words in it."""
    words = dict(TEXT.findall((ROOT / "frontend/src/words/texts/desk" / table).read_text()))
    return re.sub(r"\bt\.(\w+)", lambda name: words[name[1]], (ROOT / "frontend/src/desk" / table).read_text())


def settings(table: str = "settings.ts") -> list[tuple[str, set[str]]]:
    """Names of all settings in one of the page's tables, and the fields that each of them leads to."""
    found = []
    for name, field, rest in SETTING.findall(told(table)):
        more = [word.strip().strip('"') for word in rest.split(",")][1:]
        found.append((name, {*field.split("|"), *more[2:3]}))
    return found


def focused(page: Page) -> str:
    """What has the keyboard, by its own name, that of its label, or that of its section."""
    found: str = page.evaluate(
        """() => { const e = document.activeElement;
        if (e === document.body) return "";
        return [e.ariaLabel, e.textContent, e.closest("label")?.textContent, e.closest("section")?.ariaLabel,
                e.nextElementSibling?.ariaLabel].join("|") }"""
    )
    return found


def test_every_setting_is_found_and_takes_the_keyboard(page: Page, review: str) -> None:
    open_review(page, review)
    assert len(settings()) > 40
    choose(page, "case")
    for name, fields in reversed(settings()):  # those of selected parts first: the model's clear the selection
        go_to(page, name, fields)
    page.keyboard.press("Control+k")
    page.keyboard.type("Colour of the lamp")
    expect(page.get_by_role("option", name=re.compile("Colour of the lamp.*Select a lamp first"))).to_be_disabled()
    page.keyboard.press("Escape")
    page.get_by_role("tab", name=re.compile("^lights", re.I)).click()
    page.get_by_role("row", name=re.compile("Key")).first.click()
    of_one = settings("settingsOfOne.ts")
    for name, fields in of_one:
        if name.lower().endswith("decal") or "glass" in name:
            continue
        go_to(page, name, fields)
    page.get_by_role("tab", name=re.compile("^parts", re.I)).click()
    page.get_by_role("region", name="All decals").get_by_role("button", name="Show", exact=True).first.click()
    for name, fields in of_one:
        if "decal" in name.lower():
            go_to(page, name, fields)


def go_to(page: Page, name: str, fields: set[str]) -> None:
    """To a setting by its name, in the box of commands; one of the fields has the keyboard then."""
    page.keyboard.press("Control+k")
    page.get_by_placeholder("Find an action, a setting").fill(name)
    page.get_by_role("option", name=re.compile(f"^{re.escape(name)}")).first.click()
    until(f"{name} has the keyboard", lambda: any(one in focused(page) for one in fields), 20)


def test_a_setting_is_found_by_another_word(page: Page, review: str) -> None:
    held: list[Route] = []
    page.route(re.compile("/CommandBox"), lambda route: held.append(route))
    open_review(page, review)
    page.keyboard.press("Control+k")
    page.keyboard.type("bokeh")  # no letter of it is taken for a key before the box is there
    until("the box is asked for", lambda: page.wait_for_timeout(50) or held)
    for one in held:
        one.continue_()
    page.unroute_all()
    expect(page.get_by_placeholder("Find an action, a setting")).to_have_value("bokeh")
    page.keyboard.press("Enter")
    expect(page.get_by_label("Drawer").get_by_label(re.compile("^Aperture"))).not_to_have_count(0)
    page.keyboard.press("Control+k")
    page.keyboard.type("sticker")
    expect(page.get_by_role("option", name=re.compile("Lay a decal.*Select parts first"))).to_be_disabled()
    page.keyboard.press("Escape")
    page.get_by_role("tab", name=re.compile("^parts")).click()
    choose(page, "rotor")
    page.keyboard.press("Control+k")
    page.keyboard.type("varnish")
    page.get_by_role("option", name=re.compile("^Coat weight")).click()
    parameter = "document.activeElement.closest('[data-parameter]')?.dataset.parameter"
    until("the parameter has the keyboard", lambda: page.evaluate(parameter) == "coat_weight", 20)


def test_lists_are_one_tab_stop_and_letters_find_their_rows(page: Page, review: str) -> None:
    open_review(page, review)
    row = "document.activeElement.closest('[data-row]')?.dataset.row"
    choose(page, "case")
    samples = page.get_by_label("Drawer").get_by_role("button", name=re.compile("^Give "))
    page.get_by_label("Find a sample").press("ArrowDown")
    expect(samples.first).to_be_focused()
    names = samples.evaluate_all("all => all.map(one => one.closest('[data-row]').dataset.row)")
    assert len(names) > 100
    page.keyboard.press("ArrowDown")
    assert page.evaluate(row) == names[4]  # four stand beside one another
    page.keyboard.press("End")
    assert page.evaluate(row) == names[-1]
    page.keyboard.press("Alt+Shift+KeyB")
    assert page.evaluate(row) == next(name for name in names if name.lower().startswith("b"))
    page.keyboard.press("Tab")
    assert page.evaluate(row) is None
    page.keyboard.press("Shift+Tab")
    assert page.evaluate(row).lower().startswith("b")
    page.get_by_role("tab", name=re.compile("^shots", re.I)).click()
    shots = page.get_by_role("list", name="Shots").locator("[data-row]")
    expect(shots).not_to_have_count(0)
    named = shots.evaluate_all("rows => rows.map(row => row.dataset.row)")
    shots.first.locator("button").first.focus()
    page.keyboard.press("End")
    assert page.evaluate(row) == named[-1]
    page.keyboard.press(f"Alt+Shift+Key{named[0][0].upper()}")
    assert page.evaluate(row) == named[0]


def test_several_models_become_one_review_and_others_come_beside(page: Page, product: Product, tmp_path: Path) -> None:
    for name, width in (("base", 60.0), ("cap", 30.0), ("post", 10.0), ("rail", 20.0)):
        trimesh.creation.box((width, 40.0, 20.0)).export(tmp_path / f"{name}.stl")
    page.goto("/")
    page.get_by_label("CAD file").set_input_files([tmp_path / "base.stl", tmp_path / "cap.stl"])
    page.get_by_role("button", name="2 models in one review").click()
    page.wait_for_url(re.compile("/intakes/"), timeout=180_000)
    expect(page.get_by_text("1 further model is added after it.")).to_be_visible()
    page.get_by_role("button", name="Import", exact=True).click()
    page.wait_for_url(re.compile("/reviews/"))
    review = page.url.rpartition("/")[2]
    names = lambda: sorted(use["name"] for use in product.ask(f"reviews/{review}/scene")["scene"]["models"].values())  # noqa: E731
    until("the second one is there", lambda: names() == ["base", "cap"])
    page.locator("canvas[data-ready=true]").wait_for(timeout=60_000)
    page.get_by_role("button", name="Add to the scene").click()
    page.get_by_label("Another model").set_input_files([tmp_path / "post.stl", tmp_path / "rail.stl"])
    until("two more are there", lambda: names() == ["base", "cap", "post", "rail"])
    product.ask(f"reviews/{review}", "DELETE")
