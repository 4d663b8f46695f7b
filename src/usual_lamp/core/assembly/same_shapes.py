"""Definitions that are the same shape, whatever they are called: many files repeat a part as products of their own.

Mirror images count as one shape here: what is given to a left bracket is wanted on the right one, too.
"""

from __future__ import annotations

from collections import defaultdict
from dataclasses import replace

import numpy as np

from usual_lamp.core.assembly.likeness import Shape, congruent, shape_of
from usual_lamp.core.assembly.model import Assembly

KEPT = "same shapes"
"""Its name among what is kept with the assembly."""
LEAST_FACES = 2
"""An open shape of fewer says too little: any other with its area would be the same."""


def same_shapes(assembly: Assembly) -> dict[str, str]:
    """Return for each definition's key the key that stands for its shape: that of the first of equal ones."""
    known: dict[str, str] | None = assembly.kept.get(KEPT)
    if known is None:
        known = assembly.kept[KEPT] = _grouped(assembly)
    return known


def _grouped(assembly: Assembly) -> dict[str, str]:
    groups: dict[tuple[object, ...], list[tuple[str, Shape]]] = defaultdict(list)
    stands: dict[str, str] = {}
    for key, definition in assembly.definitions.items():
        # Sizes are compared within a tolerance, so in three neighbouring steps.
        shape = replace(shape_of(definition), hand=0.0)
        faces, step = len(shape.sizes), _step(definition.area)
        near = [one for at in (step - 1, step, step + 1) for one in groups[faces, at]]
        same = next((other for other, its in near if congruent(its, shape)), None)
        stands[key] = same or key
        if same is None and (faces >= LEAST_FACES or definition.volume > 0):
            groups[faces, step].append((key, shape))
    return stands


def _step(area: float) -> int:
    """Areas within a thousandth of each other are in the same step or in neighbouring ones."""
    return round(float(np.log(max(area, 1e-12))) * 1000)
