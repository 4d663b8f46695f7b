"""Ways to ask and watch the running product."""

from __future__ import annotations

import json
import os
import re
import subprocess
import time
import urllib.request
from collections.abc import Callable
from typing import Any

import pytest
from launch.paths import Home
from playwright.sync_api import Page, expect

from public_files import ROOT


class Product:
    """The started product: its address, its HTTP API and its processes."""

    def __init__(self, home: Home) -> None:
        self.home, self.url = home, home.url

    def ask(self, path: str, method: str = "GET", body: object = None) -> Any:
        data = json.dumps(body).encode() if body is not None else (b"" if method != "GET" else None)
        headers = {"Content-Type": "application/json"}
        request = urllib.request.Request(f"{self.url}api/{path}", data, headers, method=method)
        with urllib.request.urlopen(request, timeout=30) as reply:
            raw = reply.read()
        return json.loads(raw) if reply.headers.get_content_type() == "application/json" else raw

    def answers(self) -> bool:
        """Whether web and database are up; raises OSError when they are not."""
        return self.ask("health") is not None

    def process(self, name: str) -> int:
        """Id of one of the supervisor's processes."""
        pid: int = json.loads(self.home.supervisor_file.read_text())["children"][name]
        return pid

    def demo(self) -> str:
        """Id of the review that set-up made."""
        listed = self.ask("reviews")["reviews"]
        found: str = next(review["id"] for review in listed if review["name"].startswith("Dosing pump"))
        return found


def until(what: str, happened: Callable[[], Any], seconds: float = 120.0) -> Any:
    """Wait until `happened` returns something true; fail with `what` otherwise."""
    deadline = time.monotonic() + seconds
    while time.monotonic() < deadline:
        try:
            if result := happened():
                return result
        except OSError:
            pass  # a process that was ended is just coming back
        time.sleep(0.2)
    pytest.fail(f"Not within {seconds:.0f} s: {what}")


def lamp(home: Home, command: str) -> subprocess.CompletedProcess[str]:
    return subprocess.run(
        [str(ROOT / "lamp"), command], env=os.environ | home.names(), capture_output=True, text=True, check=False
    )


def open_review(page: Page, review: str) -> None:
    """Open a review's desk and wait for its parts and its picture."""
    page.goto(f"/reviews/{review}")
    expect(page.get_by_role("grid", name="Parts").get_by_role("row").first).to_be_visible()
    # Drawing in software on a busy machine takes its time.
    expect(page.locator("canvas[data-ready=true]")).to_be_visible(timeout=60_000)


def choose(page: Page, words: str) -> None:
    """Filter the schedule and choose everything that fits."""
    box = page.get_by_label("Filter parts")
    box.fill(words)
    box.press("Enter")
    # What passes is asked of the server: keys pressed before it has answered would act on what was chosen before.
    expect(page.get_by_label("Drawer").get_by_text(re.compile(r"^\d+ parts? chosen$"))).to_be_visible()
