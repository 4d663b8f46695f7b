"""Processes that die in the middle of work: stills go on and are the picture they would have been, edits stay."""

from __future__ import annotations

import io
import json
import os
import signal
from concurrent.futures import ThreadPoolExecutor
from typing import Any

import numpy as np
import pytest
from benchmarks import kills, load
from PIL import Image

from e2e.running import Product, until
from launch import api

pytestmark = pytest.mark.e2e

ROUNDS = 8
"""Each kind of harm."""
SIZE = {"width": 300, "height": 225, "quality": "fair", "shot": "shot-1"}


def line(product: Product, review: str, still: str) -> dict[str, Any]:
    """The still as the product lists it; waits while the web is being started again."""
    stills = until("the web answers", lambda: product.ask(f"reviews/{review}/stills"))["stills"]
    found: dict[str, Any] = next(s for s in stills if s["id"] == still)
    return found


def finished(product: Product, review: str, still: str) -> np.ndarray:
    def ended() -> dict[str, Any] | None:
        now = line(product, review, still)
        assert now["state"] != "failed", now["message"]
        assert now["samples_done"] <= now["samples"], "no sample counts twice"
        return now if now["state"] == "done" else None

    until("the still is done", ended, 300)
    return np.asarray(Image.open(io.BytesIO(product.ask(f"stills/{still}/picture"))).convert("RGB"), int)


def kill_while_tracing(product: Product, review: str, still: str, name: str) -> None:
    so_far = line(product, review, still)["samples_done"]
    until(f"it goes on, then {name} is killed", lambda: line(product, review, still)["samples_done"] > so_far)
    old = product.process(name)
    os.kill(old, signal.SIGKILL)
    until(f"{name} is started again", lambda: product.process(name) != old)
    now = line(product, review, still)
    assert now["state"] in ("queued", "running", "done") and now["samples_done"] >= so_far, "nothing traced is lost"


def test_worker_dispatcher_and_web_killed_during_a_still(product: Product, review: str) -> None:
    still = product.ask(f"reviews/{review}/stills", "POST", SIZE)["id"]
    # The dispatcher last: its spare has the still done before it is started again itself.
    for name in ("worker", "web", "dispatcher"):
        kill_while_tracing(product, review, still, name)
    broken = finished(product, review, still)
    whole = finished(product, review, product.ask(f"reviews/{review}/stills", "POST", SIZE)["id"])
    assert np.abs(broken - whole).max() <= 1, "the same samples, summed in the same order"


def test_stop_and_resume(product: Product, review: str) -> None:
    still = product.ask(f"reviews/{review}/stills", "POST", SIZE | {"quality": "coarse"})["id"]
    until("it is being traced", lambda: line(product, review, still)["state"] == "running")
    product.ask(f"stills/{still}/pause", "POST")
    assert line(product, review, still)["state"] == "paused"
    product.ask(f"stills/{still}/resume", "POST")
    finished(product, review, still)


def frame(product: Product, review: str, desk: str, seq: int = 0) -> int:
    """Samples of the next traced frame for a desk; asks again while the lamp is being started."""
    camera = product.ask(f"reviews/{review}/scene")["scene"]["shots"]["shot-1"]["camera"]
    wish = {"desk": desk, "seq": seq, "shot": "shot-1", "camera": camera, "width": 96, "height": 72, "have": ""}

    def traced() -> int:
        with api.send(product.home, f"reviews/{review}/lamp", "POST", json.dumps(wish).encode()) as reply:
            reply.read()
            return int(reply.headers.get("X-Samples", 0))

    return until(f"{desk} is traced", traced)


def test_every_process_killed_in_turn_while_people_work(product: Product, review: str) -> None:
    """A small run of the benchmark: nothing that was acknowledged is lost, nobody is left over."""
    copy = product.ask(f"reviews/{review}/copy", "POST")["id"]
    found = kills.run(product.home, [review, copy], ROUNDS)
    assert found["rounds"] >= ROUNDS - 2 and found["edits"] > ROUNDS and found["frames"] > 2, found
    assert (found["lost edits"], found["lost stills and imports"], found["orphans"]) == (0, 0, 0), found
    assert found["faults"] == []
    lamps = [child for child in product.family() if child.cmdline()[-1:] == ["lamp"]]
    assert len(lamps) == 2, "one, and the one that takes over"
    product.ask(f"reviews/{copy}", "DELETE")


def test_a_handful_of_browsers(product: Product, review: str) -> None:
    met = load.load(product.home, review, browsers=6, seconds=6.0)
    assert not met.failed and len(met.edits) >= 6 and met.told > 6, met


def test_two_tabs_and_three_reviews_at_once(product: Product, review: str) -> None:
    reviews = [review, *(product.ask(f"reviews/{review}/copy", "POST")["id"] for _ in range(2))]
    desks = [(r, f"beac000{k}-{tab}") for k, r in enumerate(reviews) for tab in range(2)]
    with ThreadPoolExecutor(len(desks)) as pool:
        found = list(pool.map(lambda desk: frame(product, *desk), desks))
    assert min(found) >= 1
    for copy in reviews[1:]:
        product.ask(f"reviews/{copy}", "DELETE")
