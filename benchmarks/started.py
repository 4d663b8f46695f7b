"""A started product for benchmarks, in a home of its own."""

from __future__ import annotations

import itertools
import os
import subprocess
import tempfile
import time
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any

import psutil
from launch.paths import ROOT, Home

from launch import api

RESTS = 25.0
"""Percent of the machine in use, below which it counts as quiet."""


def lamp(home: Home, command: str) -> float:
    """Run a launcher command; wall seconds."""
    began = time.monotonic()
    # `./lamp measure` has set these for the home that it was called with.
    inherited = {name: value for name, value in os.environ.items() if name not in home.environment_of_its_own}
    subprocess.run([str(ROOT / "lamp"), command], env=inherited | home.names(), check=True, stdout=subprocess.DEVNULL)
    return time.monotonic() - began


def ask(home: Home, path: str, body: Any = None, method: str = "GET") -> Any:
    return api.ask(home, path, method, body)


def wait_for_background(home: Home) -> None:
    """Until the cover and the coarse finish plates are traced, and the farm rests."""
    while not all(sample["plate"] for sample in ask(home, "shelf")["samples"]):
        time.sleep(1.0)
    while not ask(home, "reviews")["reviews"][0]["cover"]:
        time.sleep(1.0)
    # Finer plates are traced where nobody works, for many minutes. So work: change a shot's exposure now and then.
    review = ask(home, "reviews")["reviews"][0]["id"]
    shot = ask(home, f"reviews/{review}/scene")["scene"]["shots"]["shot-1"]
    for turn in itertools.count():
        edit = {"kind": "set_shot", "id": "shot-1", "shot": shot | {"exposure": shot["exposure"] + turn % 2 / 10}}
        ask(home, f"reviews/{review}/edits", {"edit": edit}, "POST")
        if turn % 2 == 0 and psutil.cpu_percent(3.0) < RESTS:
            return


@contextmanager
def started(rests: bool = True) -> Iterator[tuple[Home, float]]:
    """The home of a product that has just been started, and rests if that is asked for, and the wall seconds that the
    start took."""
    with tempfile.TemporaryDirectory(prefix="usual-lamp-benchmark-") as folder:
        home = Home.on_free_ports(Path(folder))
        first = lamp(home, "up")
        try:
            if rests:
                wait_for_background(home)
            yield home, first
        finally:
            lamp(home, "down")
