"""What it costs to keep every pass of a still: CPU time beside the tracing, of a still of the demo while it is traced.

Counted is all that the dispatcher and the database do in that time, so previews, noise and the handing out of work,
too: what checkpoints cost is less than is told.
"""

from __future__ import annotations

import time
from typing import Any

import psutil
from launch.paths import Home

from benchmarks.started import ask, started
from launch import api

STILLS = ((1280, 960, "fair"), (3840, 2160, "coarse"))
BESIDE = ("dispatcher", "mariadb")
TRACES = "worker"


def spent(home: Home, name: str) -> float:
    """CPU seconds of a process of the product and of those that it started."""
    head = psutil.Process(api.child(home, name))
    return sum(sum(process.cpu_times()[:2]) for process in (head, *head.children(recursive=True)))


def traced(home: Home, review: str, width: int, height: int, quality: str) -> dict[str, float]:
    """CPU seconds by process, from a still's first samples to its last."""
    body = {"shot": "shot-1", "quality": quality, "width": width, "height": height}
    id = ask(home, f"reviews/{review}/stills", body, "POST")["id"]

    def still() -> Any:
        time.sleep(0.2)
        return next(one for one in ask(home, f"reviews/{review}/stills")["stills"] if one["id"] == id)

    while still()["samples_done"] == 0:
        pass
    before = {name: spent(home, name) for name in (TRACES, *BESIDE)}
    while (now := still())["samples_done"] < now["samples"]:
        pass
    return {name: spent(home, name) - cpu for name, cpu in before.items()}


def main() -> None:
    """Print one line for each still."""
    with started() as (home, _):
        review = ask(home, "reviews")["reviews"][0]["id"]
        for width, height, quality in STILLS:
            found = traced(home, review, width, height, quality)
            beside = {name: found[name] for name in BESIDE}
            told = ", ".join(f"{name} {cpu:.1f}" for name, cpu in beside.items())
            share = sum(beside.values()) / found[TRACES]
            print(
                f"  {width} x {height}  traced in {found[TRACES]:.0f} CPU s, {told}: {share:.1%} (under 2)", flush=True
            )


if __name__ == "__main__":
    main()
