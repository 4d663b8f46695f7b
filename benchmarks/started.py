"""A started product for benchmarks, in a home of its own."""

from __future__ import annotations

import os
import subprocess
import tempfile
import time
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any

from launch.paths import ROOT, Home

from launch import api


def lamp(home: Home, command: str) -> float:
    """Run a launcher command; wall seconds."""
    began = time.monotonic()
    subprocess.run([str(ROOT / "lamp"), command], env=os.environ | home.names(), check=True, stdout=subprocess.DEVNULL)
    return time.monotonic() - began


def ask(home: Home, path: str, body: Any = None, method: str = "GET") -> Any:
    return api.ask(home, path, method, body)


def wait_for_background(home: Home) -> None:
    """Until the cover and the finish plates are traced, and the farm rests."""
    while not all(sample["plate"] for sample in ask(home, "shelf")["samples"]):
        time.sleep(1.0)
    while not ask(home, "reviews")["reviews"][0]["cover"]:
        time.sleep(1.0)


@contextmanager
def started() -> Iterator[tuple[Home, float]]:
    """The home of a product that has just been started and rests, and the wall seconds that the start took."""
    with tempfile.TemporaryDirectory(prefix="usual-lamp-benchmark-") as folder:
        home = Home.on_free_ports(Path(folder))
        first = lamp(home, "up")
        try:
            wait_for_background(home)
            yield home, first
        finally:
            lamp(home, "down")
