"""The desk with a big assembly: how long the browser's main thread is busy, draw calls, and twenty people who edit.

Drawing 6 million triangles in software takes all cores for half a minute; filtering draws nothing, so it is measured
once the picture rests, from a Chromium trace.
"""

from __future__ import annotations

import os
import statistics
from collections.abc import Callable
from typing import Any

import psutil
from launch.paths import Home
from playwright.sync_api import CDPSession, Page, sync_playwright

from benchmarks.big_file import big_file
from benchmarks.load import load, told
from benchmarks.product import processes
from benchmarks.started import ask, started
from launch import install

COUNT, RUNS = int(os.environ.get("USUAL_LAMP_DESK_PARTS", 2000)), 10
PEOPLE, SECONDS = 20, 60.0
BROWSER = f"/usr/bin/{install.BROWSER}"
CHROMIUM = ["--no-sandbox", "--use-gl=angle", "--use-angle=swiftshader", "--enable-unsafe-swiftshader"]
FILTERS = ("p", "part 1", "size<30", "-group size>10", "quantity>30 part")
TRACE = {"includedCategories": ["toplevel", "devtools.timeline"]}
COUNTED = """
window.drawn = 0;
for (const name of ["drawElements", "drawArrays", "drawElementsInstanced", "drawArraysInstanced"]) {
  const draw = WebGL2RenderingContext.prototype[name];
  WebGL2RenderingContext.prototype[name] = function (...given) { window.drawn++; return draw.apply(this, given); };
}
const frame = window.requestAnimationFrame;
window.mostDrawn = 0;
window.requestAnimationFrame = (done) => frame.call(window, (now) => {
  window.drawn = 0; done(now); window.mostDrawn = Math.max(window.mostDrawn, window.drawn);
});
"""
"""Keeps the largest number of draw calls of one frame."""
TASKS = ("RunTask", "ThreadControllerImpl::RunTask")


def rest(page: Page) -> None:
    """Until the browser is idle: its processes together take less than a tenth of one core for three seconds."""
    browser = [
        process for process in psutil.Process().children(recursive=True) if process.name().startswith("chromium")
    ]
    while True:
        before = sum(sum(process.cpu_times()[:2]) for process in browser)
        page.wait_for_timeout(3000)
        if sum(sum(process.cpu_times()[:2]) for process in browser) - before < 0.3:
            return


def filter_by(page: Page, text: str) -> None:
    """Type a filter, from the first letter to the rows."""
    page.get_by_label("Filter parts").press_sequentially(text, delay=40)
    page.wait_for_timeout(800)


def turn_it(page: Page, _: str) -> None:
    """Turn the view by dragging, and let it come to rest."""
    box = page.locator("canvas[data-ready=true]").bounding_box()
    assert box is not None
    x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
    page.mouse.move(x, y)
    page.mouse.down()
    page.mouse.move(x + 120, y + 20, steps=12)
    page.mouse.up()
    rest(page)


def longest_task(
    page: Page, devtools: CDPSession, act: Callable[[Page, str], None], text: str = ""
) -> tuple[float, float]:
    """ms on the clock and ms of CPU of the longest tasks on the main thread while somebody does something."""
    page.get_by_label("Filter parts").fill("")
    page.wait_for_timeout(500)
    events: list[dict[str, Any]] = []
    ended: list[bool] = []
    devtools.on("Tracing.dataCollected", lambda found: events.extend(found["value"]))
    devtools.once("Tracing.tracingComplete", lambda _: ended.append(True))
    devtools.send("Tracing.start", {"transferMode": "ReportEvents", "traceConfig": TRACE})
    page.wait_for_timeout(300)
    act(page, text)
    devtools.send("Tracing.end")
    while not ended:
        page.wait_for_timeout(50)
    named = [e for e in events if e.get("name") == "thread_name" and e["args"]["name"] == "CrRendererMain"]
    main = {(e["pid"], e["tid"]) for e in named}
    tasks = [e for e in events if e.get("ph") == "X" and e["name"] in TASKS and (e["pid"], e["tid"]) in main]
    if not tasks:
        raise RuntimeError("The trace holds no task of the main thread.")
    return max(task["dur"] for task in tasks) / 1000, max(task.get("tdur", 0) for task in tasks) / 1000


def edit_cost(home: Home, review: str) -> float:
    """Median ms of CPU of web and database for one edit that suppresses 500 parts, and the next that restores them."""
    nodes = ask(home, f"reviews/{review}")["model"]["nodes"]
    uids = [node["uid"] for node in nodes if node["definition"]][:500]

    def spent() -> float:
        times = [p.cpu_times() for name in ("web", "mariadb") for p in processes(home, name)]
        return sum(t.user + t.system for t in times)

    rounds = []
    for number in range(2 * RUNS):
        states = dict.fromkeys(uids, None if number % 2 else "suppressed")
        began = spent()
        ask(home, f"reviews/{review}/edits", {"edit": {"kind": "set_states", "states": states}}, "POST")
        rounds.append(spent() - began)
    return 1000 * statistics.median(rounds)


def main() -> None:
    with started() as (home, _), sync_playwright() as driver:
        browser = driver.chromium.launch(executable_path=BROWSER, args=CHROMIUM)
        page = browser.new_page(viewport={"width": 1280, "height": 800})
        page.add_init_script(COUNTED)
        page.goto(home.sign_in)
        page.get_by_label("CAD file").set_input_files(big_file(COUNT))
        page.wait_for_url("**/intakes/*", timeout=180_000)
        page.get_by_role("button", name="Take in").click()
        page.wait_for_url("**/reviews/*", timeout=60_000)
        page.wait_for_selector("canvas[data-ready=true]", timeout=180_000)
        # The finish plates of a first start would take both cores.
        tracers = processes(home, "worker")
        for process in tracers:
            process.suspend()
        rest(page)
        devtools = page.context.new_cdp_session(page)
        times = {text: [longest_task(page, devtools, filter_by, text) for _ in range(3)] for text in FILTERS}
        turning = [longest_task(page, devtools, turn_it) for _ in range(3)]
        calls = page.evaluate("mostDrawn")
        for process in tracers:
            process.resume()
        review = page.url.rsplit("/", 1)[1]
        browser.close()
        edit = edit_cost(home, review)
        uids = [node["uid"] for node in ask(home, f"reviews/{review}")["model"]["nodes"] if node["definition"]]

        def hidden(number: int, turn: int) -> dict[str, Any]:
            """One part hidden, or shown again."""
            uid = uids[(number * 97 + turn // 8) % len(uids)]
            return {"kind": "set_states", "states": {uid: None if turn % 8 else "hidden"}}

        met = load(home, review, PEOPLE, SECONDS, hidden)
    print(f"filtering {COUNT} parts in the browser, longest main-thread task in ms (under 100), and its CPU time")
    for text, spent in times.items():
        print(f"  {text:<18} {', '.join(f'{wall:.0f} ({cpu:.0f})' for wall, cpu in spent)}")
    words = ", ".join(f"{wall:.0f} ({cpu:.0f})" for wall, cpu in turning)
    print(f"turning the view, the same: {words}; draw calls of a frame at most {calls} (under 500)")
    print(f"suppress 500 parts, one request: {edit:.0f} ms of server CPU, database too (under 100)")
    told(met, PEOPLE, SECONDS, 500)


if __name__ == "__main__":
    main()
