"""Many browsers at once on the demo, and a long run of lamp edits that must not swell anything.

Thirty people have the review open: each has a stream, polls what a desk polls, and edits now and then. Like a desk they
say which standing they know and are told what changed since. Printed are the
times of edits on a quiet machine, how many answers failed, and how much each process grew.
"""

from __future__ import annotations

import os
import statistics
import sys
import threading
import time
from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Any

import psutil
from launch.paths import Home

from benchmarks.kills import Work
from benchmarks.started import ask, started
from launch import api, processes

BROWSERS, SECONDS = 30, 60.0
SWELL_SECONDS = 600.0
WARM_UP = 0.2
"""Share of a run of lamp edits after which processes count as warm."""
PAUSE = 2.0
"""Seconds between two rounds of polls of one browser; every fourth brings an edit."""
OPENING = 5.0
"""Seconds in which all browsers open the review."""
POLLED = ("scene", "stills", "intakes", "findings")
EditOf = Callable[[int, int], dict[str, Any]]
"""The edit of a browser at a turn."""


@dataclass
class Met:
    """What the browsers met."""

    edits: list[float] = field(default_factory=list)
    answers: int = 0
    told: int = 0
    failed: list[str] = field(default_factory=list)
    lock: threading.Lock = field(default_factory=threading.Lock)


def turned(number: int, turn: int) -> dict[str, Any]:
    """The light turned."""
    lighting = {"surroundings": "panels", "turn": float((number * 7 + turn) % 360 - 180)}
    return {"kind": "set_lighting", "lighting": lighting}


def browse(home: Home, review: str, number: int, until: float, met: Met, edit_of: EditOf) -> None:
    """One browser: polls and edits, with a stream beside."""
    listening = threading.Thread(target=listen, args=(home, until, met), daemon=True)
    listening.start()
    # They open one after the other, as people do, and edit once all have.
    time.sleep(OPENING * number / BROWSERS)
    known = api.ask(home, f"reviews/{review}/scene")["seq"]
    time.sleep(OPENING * (1 - number / BROWSERS) + PAUSE * number / BROWSERS)
    for turn in range(10**6):
        if time.monotonic() > until:
            return
        try:
            if turn % 4 == 0:
                began = time.monotonic()
                edit = {"edit": edit_of(number, turn)}
                known = api.ask(home, f"reviews/{review}/edits?known={known}", "POST", edit)["seq"]
                met.edits.append(time.monotonic() - began)
            polled = POLLED[turn % len(POLLED)]
            found = api.ask(
                home, f"reviews/{review}/{polled}{f'?known={known}' if polled == 'scene' else ''}", timeout=10
            )
            known = found["seq"] if polled == "scene" else known
            with met.lock:
                met.answers += 1
        except Exception as error:
            met.failed.append(f"{type(error).__name__}: {error}")
        time.sleep(PAUSE)


def listen(home: Home, until: float, met: Met) -> None:
    """A stream, read as it comes."""
    try:
        with api.send(home, "events", timeout=30) as stream:
            while time.monotonic() < until:
                is_news = stream.readline().startswith(b"data: [")
                with met.lock:
                    met.told += is_news
    except OSError as error:
        met.failed.append(f"stream: {error}")


def load(home: Home, review: str, browsers: int, seconds: float, edit_of: EditOf = turned) -> Met:
    """So many browsers for so long."""
    # Sixty threads of this process must not make each other wait for Python's turn of 5 ms.
    sys.setswitchinterval(0.0005)
    met, until = Met(), time.monotonic() + OPENING + seconds
    threads = [threading.Thread(target=browse, args=(home, review, n, until, met, edit_of)) for n in range(browsers)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    return met


def told(met: Met, browsers: int, seconds: float, asked: int) -> None:
    """Print what they met; `asked` is what 95 percent of the edits may take, ms."""
    edit = sorted(met.edits)
    p95 = edit[int(0.95 * len(edit))] * 1000
    counted = f"{len(edit)} edits, {met.answers} answers, {met.told} pieces of news"
    print(f"{browsers} browsers for {seconds:.0f} s: {counted}")
    print(f"  an edit: median {statistics.median(edit) * 1000:.0f} ms, p95 {p95:.0f} ms (asked {asked})")
    print(f"  failed or timed out: {len(met.failed)} (asked 0) {met.failed[:3] or ''}")


def sizes(home: Home) -> dict[str, float]:
    """Memory of each process of the product in MB (anonymous pages), by its service and place below it."""
    found = {}
    for name, marked in processes.state_of(home)["children"].items():  # type: ignore[attr-defined]
        head = psutil.Process(marked[0])
        for place, process in enumerate([head, *head.children(recursive=True)]):
            with open(f"/proc/{process.pid}/status") as file:
                kilobytes = next(int(line.split()[1]) for line in file if line.startswith("RssAnon:"))
            found[f"{name} {place}" if place else name] = kilobytes / 1024
    return found


def lamp_edits(home: Home, review: str, seconds: float) -> tuple[int, dict[str, tuple[float, float]]]:
    """Edits that the lamp follows, for so long; their number, and the size of each process when warm and at the end."""
    work = Work(home, [review])
    began, edits, warm = time.monotonic(), 0, {}
    while time.monotonic() - began < seconds:
        edits += work.edit(review, float(edits % 300 - 150)) and work.frame()
        if not warm and time.monotonic() - began > WARM_UP * seconds:
            warm = sizes(home)
    if work.faults:
        raise RuntimeError(work.faults[0])
    now = sizes(home)
    return edits, {name: (warm[name], now[name]) for name in warm if name in now}


def main() -> None:
    seconds = float(os.environ.get("USUAL_LAMP_LOAD_SECONDS", SECONDS))
    swelling = float(os.environ.get("USUAL_LAMP_SWELL_SECONDS", SWELL_SECONDS))
    with started() as (home, _):
        review = ask(home, "reviews")["reviews"][0]["id"]
        met = load(home, review, BROWSERS, seconds)
        edits, grown = lamp_edits(home, review, swelling)
    told(met, BROWSERS, seconds, 150)
    print(f"{edits} lamp edits in {swelling:.0f} s; memory from warm to the end (asked: no more than 5 percent)")
    for name, (before, after) in grown.items():
        print(f"  {name}: {before:.0f} to {after:.0f} MB, {100 * (after / before - 1):+.1f} percent")


if __name__ == "__main__":
    main()
