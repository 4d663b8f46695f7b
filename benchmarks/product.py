"""The started product in a home of its own: second start, memory while a large file comes in, the first still."""

from __future__ import annotations

import json
import os
import time
import urllib.request
from collections.abc import Iterator

import psutil
from launch.paths import Home

from benchmarks.started import ask, lamp, started
from launch import api

UPLOAD = 200 * 2**20
BLOCK = os.urandom(1 << 20)


def processes(home: Home, name: str) -> list[psutil.Process]:
    main = psutil.Process(api.child(home, name))
    return [main, *main.children(recursive=True)]


def memory(home: Home) -> float:
    """Resident MB of the web's processes."""
    return sum(process.memory_info().rss for process in processes(home, "web")) / 2**20


def upload_growth(home: Home) -> float:
    """Greatest growth of the web's memory, in MB, while a large file is sent."""
    before = most = memory(home)

    def blocks() -> Iterator[bytes]:
        nonlocal most
        yield b"ISO-10303-21;\n"
        for _ in range(UPLOAD // len(BLOCK)):
            most = max(most, memory(home))
            yield BLOCK

    size = len(b"ISO-10303-21;\n") + UPLOAD
    headers = {"Content-Length": str(size), "Content-Type": "application/octet-stream"}
    headers["Authorization"] = f"Bearer {home.token}"
    url = f"{home.url}api/intakes?file_name=large.step"
    request = urllib.request.Request(url, blocks(), headers, method="POST")
    with urllib.request.urlopen(request, timeout=300) as reply:
        run = json.loads(reply.read())["id"]
    most = max(most, memory(home))
    while ask(home, f"intakes/{run}")["state"] in ("queued", "running"):
        time.sleep(0.5)
    return most - before


def first_still(home: Home) -> tuple[float, float]:
    """CPU seconds of worker and dispatcher, and wall seconds, for a still of 1280 x 960, fair."""

    def spent() -> float:
        times = [p.cpu_times() for name in ("worker", "dispatcher") for p in processes(home, name)]
        return sum(t.user + t.system for t in times)

    review = ask(home, "reviews")["reviews"][0]["id"]
    before, began = spent(), time.monotonic()
    order = {"shot": "shot-1", "quality": "fair", "width": 1280, "height": 960}
    ask(home, f"reviews/{review}/stills", order, "POST")
    while ask(home, f"reviews/{review}/stills")["stills"][0]["state"] != "done":
        time.sleep(0.5)
    return spent() - before, time.monotonic() - began


def main() -> None:
    with started() as (home, first):
        lamp(home, "down")
        again = lamp(home, "up")
        growth = upload_growth(home)
        cpu, wall = first_still(home)
    print("the started product")
    print(f"  up, environment there, new home: {first:.1f} s; second time: {again:.1f} s (under 10)")
    print(f"  web's memory while {UPLOAD // 2**20} MB come in: grows by {growth:.1f} MB (under 30)")
    print(f"  first still of the demo, 1280 x 960, fair: {cpu:.0f} CPU s, {wall:.0f} s on the clock")


if __name__ == "__main__":
    main()
