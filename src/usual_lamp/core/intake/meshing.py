"""Exact shapes to meshes that lie as near to their surfaces as was asked. Runs in the child process.

The kernel takes a tolerance as a request and misses it on spheres, tori and free surfaces. What came out is measured,
and where it lies too far off the kernel is asked for less.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping
from pathlib import Path

import numpy as np
from OCP.TopoDS import TopoDS_Shape

from usual_lamp.core.assembly import Mesh
from usual_lamp.core.assembly.deviation import deviation
from usual_lamp.core.intake import shapes

LEAST_ANGLE = 0.02
"""Radians."""
Say = Callable[[float, str], None]


def meshes_within(
    exact: Mapping[str, TopoDS_Shape],
    wanted: Mapping[str, tuple[float, float, float]],
    folder: Path,
    say: Say,
    turns: int = 4,
) -> tuple[dict[str, Mesh], dict[str, float]]:
    """Meshes of shapes, and the farthest that each lies from its surface in mm, by key.

    `wanted` is chord (mm), angle (radians) and the largest deviation that is accepted (mm, or 0 for any); in at most so
    many `turns` it is tried to keep to that. `say` is told the share that is done, and what is going on.
    """
    asked = {key: (chord, angle) for key, (chord, angle, _) in wanted.items()}
    waiting = list(asked)
    meshes: dict[str, Mesh] = {}
    reached: dict[str, float] = {}
    for turn in range(turns):
        for done, key in enumerate(waiting):
            shapes.tessellate(exact[key], *asked[key])
            say(0.7 * (done + 1) / len(waiting), f"tessellating, {done + 1} of {len(waiting)}")
        bare = {key: exact[key] for key in waiting}
        meshes |= shapes.export_arrays(bare, folder, lambda share: say(0.7 + 0.3 * share, "meshes"))
        reached |= {key: deviation(meshes[key]) for key in waiting}
        waiting = [key for key in waiting if reached[key] > (wanted[key][2] or np.inf)]
        if not waiting or turn == turns - 1:
            break
        for key in waiting:
            # What lies too far off is nearly always bounded by the angle: both go down.
            share = max(0.8 * wanted[key][2] / reached[key], 0.1)
            asked[key] = asked[key][0] * share, max(asked[key][1] * share**0.5, LEAST_ANGLE)
    return meshes, reached
