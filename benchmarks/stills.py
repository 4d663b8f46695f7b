"""What many stills cost: the contact sheet of 500, and an edit beside 500 done and 50 queued ones.

Wall times of requests on a quiet machine, medians of fifteen; an edit changes the exposure, on which every still
depends.
"""

from __future__ import annotations

import statistics
import time
from typing import Any

from launch.paths import Home
from playwright.sync_api import Page, sync_playwright
from sqlalchemy import insert, select

from benchmarks.desk import BROWSER, CHROMIUM, rest
from benchmarks.started import ask, started
from usual_lamp.service.reviews import new_id
from usual_lamp.store import Store
from usual_lamp.store.tables import Still, StillPreview

DONE, QUEUED, ROUNDS = 500, 50, 15
DRAWN = "[...document.images].filter(one => one.complete && one.naturalWidth > 50).length"


def milliseconds(home: Home, path: str, body: Any = None, method: str = "GET") -> float:
    began = time.perf_counter()
    ask(home, path, body, method)
    return (time.perf_counter() - began) * 1000


def edits(home: Home, review: str) -> tuple[float, float]:
    """Of an edit, and of the list of stills after it."""
    shot = ask(home, f"reviews/{review}/scene")["scene"]["shots"]["shot-1"]
    changed, listed = [], []
    for turn in range(ROUNDS):
        edit = {"kind": "set_shot", "id": "shot-1", "shot": shot | {"exposure": 8.0 + turn / 10}}
        changed.append(milliseconds(home, f"reviews/{review}/edits", {"edit": edit}, "POST"))
        listed.append(milliseconds(home, f"reviews/{review}/stills"))
    return statistics.median(changed), statistics.median(listed)


def many(store: Store, still: str, count: int, state: str) -> None:
    """Copies of a still with its picture, in a state."""
    with store.begin() as session:
        row = session.get(Still, still)
        jpeg = session.scalar(select(StillPreview.jpeg).where(StillPreview.still_id == still))
        assert row is not None
        values = {column.key: getattr(row, column.key) for column in Still.__mapper__.column_attrs}
        rows = [values | {"id": new_id(), "state": state, "light_kept": False} for _ in range(count)]
        session.execute(insert(Still), rows)
        if jpeg is not None:
            session.execute(insert(StillPreview), [{"still_id": one["id"], "jpeg": jpeg} for one in rows])


def sheet_opens(page: Page, desk: str) -> float:
    """Seconds from the click on the desk until a dozen pictures are there."""
    page.goto(desk)
    page.wait_for_selector("canvas[data-ready=true]", timeout=180_000)
    rest(page)
    began = time.perf_counter()
    page.locator("a[href$='/stills']").first.click()
    while page.evaluate(DRAWN) < 12:
        time.sleep(0.01)
    return time.perf_counter() - began


def sheet(home: Home, review: str) -> list[float]:
    """The same, some times, in a browser."""
    with sync_playwright() as driver:
        browser = driver.chromium.launch(executable_path=BROWSER, args=CHROMIUM)
        page = browser.new_page(viewport={"width": 1280, "height": 800})
        page.add_init_script("localStorage['usual-lamp-guide'] = 'closed'")
        page.goto(home.sign_in)
        return [sheet_opens(page, f"{home.url}reviews/{review}") for _ in range(5)]


def main() -> None:
    with started() as (home, _):
        review = ask(home, "reviews")["reviews"][0]["id"]
        body = {"shot": "shot-1", "quality": "coarse", "width": 320, "height": 240}
        still = ask(home, f"reviews/{review}/stills", body, "POST")["id"]
        while not any(
            one["id"] == still and one["state"] == "done" for one in ask(home, f"reviews/{review}/stills")["stills"]
        ):
            time.sleep(0.5)
        store = Store(home.database_url, home.folder / "cache")
        few, _ = edits(home, review)
        many(store, still, DONE, "done")
        edit, listed = edits(home, review)
        print(f"an edit beside 1 still {few:.0f} ms, beside {DONE} {edit:.0f} ms; their list after it {listed:.0f} ms")
        opened = ", ".join(f"{seconds:.2f}" for seconds in sheet(home, review))
        print(f"the contact sheet of {DONE}, from the desk to a dozen pictures: {opened} s (under 1)")
        many(store, still, QUEUED, "queued")
        edit, _ = edits(home, review)
        print(f"an edit while {QUEUED} stills are queued and one is traced: {edit:.0f} ms (at most 100)")


if __name__ == "__main__":
    main()
