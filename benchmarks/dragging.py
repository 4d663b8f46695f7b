"""A decal of the demo is dragged, pulled larger and turned in the shaded picture: how long a frame keeps the page busy.

The longest task of the page's main thread, from a Chromium trace, once the page rests. One decal of each part that has
any: what a frame costs goes with the part.
"""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

import numpy as np
from launch.paths import Home
from playwright.sync_api import Page, sync_playwright

from benchmarks.desk import BROWSER, CHROMIUM, longest_task, rest
from benchmarks.product import processes
from benchmarks.started import ask, started
from usual_lamp.core.camera import Camera

STEPS = 24
LIMIT = 50


def spots(home: Home, review: str, decal: dict[str, Any]) -> tuple[Any, Any, Any]:
    """Where a decal's middle, its upper right corner and its knob are in the picture, as shares of it."""
    (shot,) = ask(home, f"reviews/{review}/scene")["scene"]["shots"].values()
    nodes = ask(home, f"reviews/{review}")["model"]["nodes"]
    matrix = next(np.array(node["world"]).reshape(4, 4) for node in nodes if node["uid"] == decal["part"])
    right, up = np.array(decal["right"]), np.array(decal["up"])
    half = right * decal["width"] / 2, up * decal["height"] / 2
    middle = np.array(decal["center"])
    knob = middle + half[1] + up * 0.25 * max(decal["width"], decal["height"])
    points = np.array([middle, middle + half[0] + half[1], knob])
    placed = points @ matrix[:3, :3].T + matrix[:3, 3]
    at = Camera.model_validate(shot["camera"]).project(placed, shot["width"] / shot["height"])
    return tuple(((x + 1) / 2, (1 - y) / 2) for x, y, *_ in at)


def drag(start: tuple[float, float]) -> Callable[[Page, str], None]:
    """Press at a spot of the picture, move a little in many steps, and go back before letting go."""

    def act(page: Page, _: str) -> None:
        box = page.locator("canvas[data-ready=true]").bounding_box()
        assert box is not None
        x, y = box["x"] + box["width"] * start[0], box["y"] + box["height"] * start[1]
        page.mouse.move(x, y)
        page.mouse.down()
        for step in range(STEPS):
            page.mouse.move(x + 20 * np.sin(6.3 * step / STEPS), y - 12 * np.sin(6.3 * step / STEPS))
            page.wait_for_timeout(60)
        page.keyboard.press("Escape")
        page.mouse.up()
        rest(page)

    return act


def main() -> None:
    with started(rests=False) as (home, _), sync_playwright() as driver:
        review = ask(home, "reviews")["reviews"][0]["id"]
        browser = driver.chromium.launch(executable_path=BROWSER, args=CHROMIUM)
        page = browser.new_page(viewport={"width": 1280, "height": 800})
        page.add_init_script("localStorage['usual-lamp-guide'] = 'closed'")
        page.goto(home.sign_in)
        page.goto(f"{home.url}reviews/{review}")
        page.wait_for_selector("canvas[data-ready=true]", timeout=180_000)
        # What the farm traces after a first start would take both cores.
        for process in processes(home, "worker"):
            process.suspend()
        rest(page)
        devtools = page.context.new_cdp_session(page)
        print(f"a decal is dragged: longest task of the page in ms, and its CPU time (under {LIMIT})")
        decals = ask(home, f"reviews/{review}/scene")["scene"]["decals"].values()
        for decal in {decal["part"]: decal for decal in decals}.values():
            middle, corner, knob = spots(home, review, decal)
            select(page, middle)
            for what, spot in {"slid": middle, "pulled": corner, "turned": knob}.items():
                wall, cpu = longest_task(page, devtools, drag(spot))
                print(f"  {decal['name']:<22} {what:<7} {wall:5.0f} ({cpu:.0f})")
        for process in processes(home, "worker"):
            process.resume()
        browser.close()


def select(page: Page, spot: tuple[float, float]) -> None:
    box = page.locator("canvas[data-ready=true]").bounding_box()
    assert box is not None
    page.mouse.click(box["x"] + box["width"] * spot[0], box["y"] + box["height"] * spot[1])
    rest(page)


if __name__ == "__main__":
    main()
