"""Cleaning a large picture of its grain a block at a time, each with a margin that the network sees beyond it."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from itertools import groupby

import numpy as np

from usual_lamp.core.picture.area import Area
from usual_lamp.core.picture.develop import Effort, Layers, Scales, denoise
from usual_lamp.core.picture.finishing import Clean

IN_ONE = 6_000_000
"""Pixels up to which a picture is cleaned whole."""
BAND, BLOCK = 1024, 2048
"""Rows and columns of a block: a whole number of tiles."""
MARGIN = 128
"""Pixels. More than half of what the network sees round a pixel (its own tiles overlap by as much)."""


def is_small(size: tuple[int, int]) -> bool:
    """Whether a picture of that width and height is cleaned whole."""
    return size[0] * size[1] <= IN_ONE


def blocks_of(size: tuple[int, int]) -> list[Area]:
    """The blocks in which a picture of that width and height is cleaned, row by row; a small one is one."""
    width, height = size
    if is_small(size):
        return [Area(0, 0, width, height)]
    return [
        Area(left, top, min(left + BLOCK, width), min(top + BAND, height))
        for top in range(0, height, BAND)
        for left in range(0, width, BLOCK)
    ]


def rows_of_blocks(size: tuple[int, int]) -> list[list[int]]:
    """Places in that list of those that lie side by side, row by row."""
    numbered = enumerate(blocks_of(size))
    return [[number for number, _ in row] for _, row in groupby(numbered, lambda found: found[1].top)]


def cleaned_block(
    size: tuple[int, int], area: Area, layers_of: Callable[[Area], Layers], scales: Scales | None, effort: Effort
) -> Clean:
    """A block without grain. `layers_of` gives the picture's layers in an area; `scales` are those of all of it, where
    the block is not all of it: blocks are to agree on how bright the picture is."""
    around = area.grown(MARGIN, size)
    layers = layers_of(around)
    if scales is not None and scales.backdrop is None:
        layers = replace(layers, backdrop=None)
    found = denoise(layers, effort, scales)
    if found.backdrop is None and scales is not None and scales.backdrop is not None:
        found = replace(found, backdrop=np.zeros_like(found.color))
    return found.part(*area.inside(around))
