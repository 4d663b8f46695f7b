"""Ways to ask and watch the running product."""

from __future__ import annotations

import os
import re
import subprocess
import time
from collections.abc import Callable
from typing import Any

import psutil
import pytest
from launch.paths import Home
from playwright.sync_api import Page, expect

from launch import api, processes
from public_files import ROOT


class Product:
    """The started product: its address, its HTTP API and its processes."""

    def __init__(self, home: Home) -> None:
        self.home, self.url = home, home.url

    def ask(self, path: str, method: str = "GET", body: object = None) -> Any:
        return api.ask(self.home, path, method, body, timeout=30)

    def answers(self) -> bool:
        """Whether web and database are up; raises OSError when they are not."""
        return self.ask("health") is not None

    def cookie(self) -> Any:
        """What a browser keeps that has signed in."""
        return {"name": f"usual-lamp-{self.home.web}", "value": self.home.token, "url": self.url}

    def process(self, name: str) -> int:
        """Id of one of the supervisor's processes."""
        return api.child(self.home, name)

    def family(self) -> list[psutil.Process]:
        """The supervisor and everything below it."""
        head = psutil.Process(processes.running(self.home))
        return [head, *head.children(recursive=True)]

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
        time.sleep(0.1)
    pytest.fail(f"Not within {seconds:.0f} s: {what}")


def lamp(home: Home, *command: str, **variables: str) -> subprocess.CompletedProcess[str]:
    environment = os.environ | home.names() | variables
    return subprocess.run([str(ROOT / "lamp"), *command], env=environment, capture_output=True, text=True, check=False)


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
    expect(page.get_by_label("Drawer").get_by_text(re.compile(r"^\d+ parts? selected$"))).to_be_visible()


def lighting_of(scene: dict[str, Any]) -> dict[str, Any]:
    """The lighting that is shown."""
    found: dict[str, Any] = scene["lightings"][scene["lit_by"]]
    return found
