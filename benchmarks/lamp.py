"""From an edit to the first new traced frame, asked over HTTP as the desk asks, against a bare stock render.

The yardstick is what no tracer of this kind can do without: one sample a pixel by stock Mitsuba on the same
geometry, and one fast denoise.
"""

from __future__ import annotations

import json
import statistics
import time
import urllib.request
from typing import Any

import numpy as np
from launch.paths import Home

from benchmarks.scenes import demo_inputs, mesh_of
from benchmarks.started import ask, started
from benchmarks.tracer import stock_scene
from usual_lamp.core.picture import Layers, denoise
from usual_lamp.core.trace.engine import mi
from usual_lamp.core.trace.world import World

SIZE = (640, 480)
RUNS = 20


def yardstick() -> float:
    """Median wall seconds of a 1-sample stock render and one fast denoise."""
    inputs = demo_inputs(SIZE)
    scene = stock_scene(inputs, World(inputs, mesh_of), SIZE)
    spent = []
    for seed in range(RUNS + 2):
        began = time.monotonic()
        color = np.array(mi.render(scene, spp=1, seed=seed))[..., :3].astype(np.float32)
        denoise(Layers(color, np.full_like(color, 0.5), np.zeros_like(color)), fast=True)
        spent.append(time.monotonic() - began)
    return statistics.median(spent[2:])


def next_frame(home: Home, review: str, wish: dict[str, Any]) -> int:
    """Samples of the next frame for a wish."""
    headers = {"Content-Type": "application/json"}
    url = f"{home.url}api/reviews/{review}/lamp"
    with urllib.request.urlopen(urllib.request.Request(url, json.dumps(wish).encode(), headers), timeout=60) as reply:
        reply.read()
        wish["have"] = reply.headers.get("X-Frame", "")
        return int(reply.headers.get("X-Samples", 0))


def edit_to_frame(home: Home) -> tuple[list[float], list[float]]:
    """Wall seconds from sending an edit (colour, roughness, turn) to its first frame, and to its first full one."""
    review = ask(home, "reviews")["reviews"][0]["id"]
    scene = ask(home, f"reviews/{review}/scene")["scene"]
    wish = {"desk": "beac0000-1", "shot": "shot-1", "camera": scene["shots"]["shot-1"]["camera"], "have": ""}
    wish |= {"width": SIZE[0], "height": SIZE[1], "seq": 0}
    powder = scene["appearances"]["powder-slate"]
    while next_frame(home, review, wish) < 8:
        pass
    first: list[float] = []
    whole: list[float] = []
    for run in range(RUNS):
        share = (run + 1) / RUNS
        if run % 3 == 2:
            edit = {"kind": "set_lighting", "lighting": scene["lighting"] | {"turn": 40 * share}}
        else:
            change = {"base_color": [share, 0.3, 0.4]} if run % 3 else {"specular_roughness": share}
            edit = {"kind": "change_appearance", "appearance": powder | {"params": powder["params"] | change}}
        began = time.monotonic()
        wish |= {"seq": ask(home, f"reviews/{review}/edits", {"edit": edit}, "POST")["seq"], "have": ""}
        samples = next_frame(home, review, wish)
        first.append(time.monotonic() - began)
        while samples < 1:
            samples = next_frame(home, review, wish)
        whole.append(time.monotonic() - began)
    return first, whole


def main() -> None:
    with started() as (home, _):
        first, whole = edit_to_frame(home)
    bare = yardstick()
    print(f"lamp on, demo, {SIZE[0]}x{SIZE[1]}, {RUNS} edits")
    print(f"  bare stock sample and denoise {bare:.2f} s")
    for name, spent in (("first frame, at half size", first), ("first frame at full size", whole)):
        median, worst = statistics.median(spent), sorted(spent)[int(0.95 * RUNS) - 1]
        print(f"  {name}: {median:.2f} s, ratio {median / bare:.2f} (at most 1.5); p95 {worst / median:.2f} of it")


if __name__ == "__main__":
    main()
