"""Processes that die in the middle of work: stills go on and are the picture they would have been, edits stay."""

from __future__ import annotations

import io
import json
import os
import signal
import urllib.request
from concurrent.futures import ThreadPoolExecutor
from typing import Any

import numpy as np
import psutil
import pytest
from PIL import Image

from e2e.running import Product, until

pytestmark = pytest.mark.e2e

KILLS = 10
"""Each costs a start of the lamp's worker, with the supervisor's growing pause before it."""
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
    for name in ("worker", "dispatcher", "web"):
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
        asked = urllib.request.Request(
            f"{product.url}api/reviews/{review}/lamp", json.dumps(wish).encode(), {"Content-Type": "application/json"}
        )
        with urllib.request.urlopen(asked, timeout=60) as reply:
            reply.read()
            return int(reply.headers.get("X-Samples", 0))

    return until(f"{desk} is traced", traced)


def test_lamp_killed_again_and_again_while_editing(product: Product, review: str) -> None:
    """Every edit made meanwhile is there afterwards, and no process is left over."""
    scene = product.ask(f"reviews/{review}/scene")["scene"]
    for k in range(KILLS):
        old = product.process("lamp")
        os.kill(old, signal.SIGKILL)
        edit = {"kind": "set_lighting", "lighting": scene["lighting"] | {"turn": float(k)}}
        seq = product.ask(f"reviews/{review}/edits", "POST", {"edit": edit})["seq"]
        until("the lamp's worker is started again", lambda old=old: product.process("lamp") != old)
    assert frame(product, review, "beac0000-2", seq) >= 1
    assert product.ask(f"reviews/{review}/scene")["scene"]["lighting"]["turn"] == KILLS - 1
    for _ in range(KILLS):
        product.ask(f"reviews/{review}/undo", "POST")
    assert product.ask(f"reviews/{review}/scene")["scene"]["lighting"] == scene["lighting"]
    family = psutil.Process(product.process("lamp")).parent().children(recursive=True)  # type: ignore[union-attr]
    lamps = [child for child in family if child.is_running() and "lamp" in child.cmdline()]
    assert len(lamps) == 1, [child.cmdline() for child in lamps]


def test_two_tabs_and_three_reviews_at_once(product: Product, review: str) -> None:
    reviews = [review, *(product.ask(f"reviews/{review}/copy", "POST")["id"] for _ in range(2))]
    desks = [(r, f"beac000{k}-{tab}") for k, r in enumerate(reviews) for tab in range(2)]
    with ThreadPoolExecutor(len(desks)) as pool:
        found = list(pool.map(lambda desk: frame(product, *desk), desks))
    assert min(found) >= 1
    for copy in reviews[1:]:
        product.ask(f"reviews/{copy}", "DELETE")
