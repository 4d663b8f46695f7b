"""From an edit in the browser to the new traced frame on the desk, against a bare stock render.

An edit is a key pressed on a slider; what comes of it is seen on the page itself. The yardstick is what no tracer of
this kind can do without: one sample a pixel by stock Mitsuba on the same geometry, and one fast denoise.
"""

from __future__ import annotations

import statistics
import time
from typing import Any

import numpy as np
from playwright.sync_api import Page, sync_playwright

from benchmarks.desk import BROWSER, CHROMIUM, rest
from benchmarks.scenes import demo_inputs, mesh_of
from benchmarks.started import started
from benchmarks.stock import stock_scene
from usual_lamp.core.picture import Layers, denoise
from usual_lamp.core.trace.engine import mi

SIZE = (640, 480)
RUNS = 20
WINDOW = {"width": 1338, "height": 840}
"""In which the desk's picture has that size."""
PRESS = """
(slider, key) => new Promise(done => {
  const spent = {}, began = performance.now();
  const look = () => {
    const samples = Number(document.querySelector("canvas[data-traced]")?.dataset.traced ?? NaN);
    if (samples === 0) spent.first ??= (performance.now() - began) / 1000;
    if (samples >= 1 && spent.first !== undefined) {
      spent.whole = (performance.now() - began) / 1000;
      watch.disconnect();
      done(spent);
    }
  };
  const watch = new MutationObserver(look);
  watch.observe(document.body, { subtree: true, childList: true, attributeFilter: ["data-traced"] });
  slider.dispatchEvent(new KeyboardEvent("keydown", { key, bubbles: true }));
})
"""


def yardstick() -> float:
    """Median wall seconds of a 1-sample stock render and one fast denoise."""
    inputs = demo_inputs(SIZE)
    scene = stock_scene(inputs, SIZE, mesh_of)
    spent = []
    for seed in range(RUNS + 2):
        began = time.monotonic()
        color = np.array(mi.render(scene, spp=1, seed=seed))[..., :3].astype(np.float32)
        denoise(Layers(color, np.full_like(color, 0.5), np.zeros_like(color)), effort="live")
        spent.append(time.monotonic() - began)
    return statistics.median(spent[2:])


def edit_to_frame(page: Page) -> tuple[list[float], list[float]]:
    """Wall seconds from a key on a slider to the first frame, and to the first at full size. The lamp is on."""
    found: list[dict[str, Any]] = []
    page.get_by_role("row").filter(has_text="Case front, cast").first.click()
    roughness = page.get_by_role("slider", name="Roughness", exact=True)
    for names, choose in (
        (("Roughness",), roughness.wait_for),
        (("Turn", "Brightness"), page.get_by_text("Lights 3").click),
    ):
        choose()
        for run in range(RUNS // 2):
            slider = page.get_by_role("slider", name=names[run % len(names)], exact=True)
            # As one edits: after a look at what the last edit has done.
            page.wait_for_function("Number(document.querySelector('canvas[data-traced]')?.dataset.traced) >= 4")
            found.append(slider.evaluate(PRESS, "ArrowLeft" if run % 4 < 2 else "ArrowRight"))
    return [times["first"] for times in found], [times["whole"] for times in found]


def in_the_browser(url: str) -> tuple[list[float], list[float]]:
    """On the newest review's desk at `url`."""
    with sync_playwright() as driver:
        browser = driver.chromium.launch(executable_path=BROWSER, args=CHROMIUM)
        page = browser.new_page(viewport=WINDOW)
        page.goto(url)
        page.get_by_role("link", name="Dosing pump").first.click()
        page.wait_for_selector("canvas[data-ready=true]", timeout=180_000)
        rest(page)
        page.keyboard.press("l")
        page.wait_for_selector("canvas[data-traced]", timeout=60_000)
        width = page.eval_on_selector("canvas[data-ready=true]", "canvas => canvas.clientWidth")
        if abs(width - SIZE[0]) > 2:
            raise RuntimeError(f"The picture on the desk is {width} pixels wide instead of {SIZE[0]}.")
        found = edit_to_frame(page)
        browser.close()
    return found


def main() -> None:
    with started() as (home, _):
        first, whole = in_the_browser(home.sign_in)
    bare = yardstick()
    print(f"lamp on, demo, {SIZE[0]}x{SIZE[1]} in the browser, {RUNS} edits")
    print(f"  bare stock sample and denoise {bare:.2f} s")
    for name, spent in (("first frame, at half size", first), ("first frame at full size", whole)):
        median, worst = statistics.median(spent), sorted(spent)[int(0.95 * RUNS) - 1]
        print(f"  {name}: {median:.2f} s, ratio {median / bare:.2f} (at most 1.5); p95 {worst / median:.2f} of it")


if __name__ == "__main__":
    main()
