"""What it costs to keep the passes of a still: CPU time of the dispatcher and of the database while it is traced, over
that of the tracer, beyond what both take in the same time when nothing is done.

That counts previews, noise and the handing out of work, too, so what checkpoints cost is less than is told. What the
tracer spends on sending them is measured on as many bytes that are sent for nothing.
"""

from __future__ import annotations

import os
import time
from typing import Any

import psutil
from launch.paths import Home
from sqlalchemy import text

from benchmarks.started import ask, started
from launch import api
from usual_lamp.store import Store

STILLS = ((1280, 960, "fair"), (3840, 2160, "coarse"))
BESIDE = ("dispatcher", "mariadb")
TRACES = "worker"
IDLE = 30.0
"""Seconds for which the product is watched at rest."""
SENT = 8 * 2**20
"""Bytes that are sent at once for nothing."""
SENDS = 20


def spent(home: Home, name: str) -> float:
    """CPU seconds of a process of the product and of those that it started."""
    head = psutil.Process(api.child(home, name))
    return sum(sum(process.cpu_times()[:2]) for process in (head, *head.children(recursive=True)))


def received(store: Store) -> int:
    """Bytes that the database has been sent so far."""
    with store.begin() as session:
        return int(session.execute(text("SHOW GLOBAL STATUS LIKE 'Bytes_received'")).one()[1])


def cost_of_sending(store: Store) -> float:
    """CPU seconds of who sends, for each byte."""
    spent = 0.0
    for _ in range(SENDS):
        data = os.urandom(SENT)
        with store.begin() as session:
            began = time.process_time()
            session.execute(text("SELECT LENGTH(:data)"), {"data": data})
            spent += time.process_time() - began
    return spent / SENDS / SENT


def traced(home: Home, store: Store, review: str, width: int, height: int, quality: str) -> dict[str, float]:
    """CPU seconds by process, seconds on the clock and bytes to the database, from a still's first samples to its
    last."""
    body = {"shot": "shot-1", "quality": quality, "width": width, "height": height}
    id = ask(home, f"reviews/{review}/stills", body, "POST")["id"]

    def still() -> Any:
        time.sleep(0.2)
        return next(one for one in ask(home, f"reviews/{review}/stills")["stills"] if one["id"] == id)

    def now() -> dict[str, float]:
        found = {name: spent(home, name) for name in (TRACES, *BESIDE)}
        return found | {"clock": time.monotonic(), "bytes": received(store)}

    while still()["samples_done"] == 0:
        pass
    before = now()
    while (seen := still())["samples_done"] < seen["samples"]:
        pass
    return {name: value - before[name] for name, value in now().items()}


def at_rest(home: Home) -> float:
    """CPU seconds a second of those beside the tracer, when nothing is done."""
    before = sum(spent(home, name) for name in BESIDE)
    time.sleep(IDLE)
    return (sum(spent(home, name) for name in BESIDE) - before) / IDLE


def main() -> None:
    """Print one line for each still."""
    with started() as (home, _):
        store = Store(home.database_url, home.folder / "cache")
        review = ask(home, "reviews")["reviews"][0]["id"]
        rest, send = at_rest(home), cost_of_sending(store)
        for width, height, quality in STILLS:
            found = traced(home, store, review, width, height, quality)
            sending, resting = send * found["bytes"], rest * found["clock"]
            share = (sum(found[name] for name in BESIDE) - resting + sending) / (found[TRACES] - sending)
            told = ", ".join(f"{name} {found[name]:.1f}" for name in BESIDE)
            print(
                f"  {width} x {height}  traced in {found[TRACES]:.0f} CPU s; {told}, {resting:.1f} of it as at rest; "
                f"sending {found['bytes'] / 2**20:.0f} MB {sending:.1f}: {share:.1%} (under 2)",
                flush=True,
            )


if __name__ == "__main__":
    main()
