"""Processes that die in the middle of a still: it goes on, ends, and is the picture it would have been."""

from __future__ import annotations

import io
import os
import signal
from typing import Any

import numpy as np
import pytest
from PIL import Image

from e2e.running import Product, until

pytestmark = pytest.mark.e2e

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
