"""Cleaning a large picture of its grain a block at a time, each with a margin that the network sees beyond it."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import replace
from itertools import groupby

import numpy as np

from usual_lamp.core.picture.area import Area
from usual_lamp.core.picture.develop import Effort, Layers, Scales, denoise, scales_of
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


def cleaned_bands(
    size: tuple[int, int], layers_of: Callable[[Area], Layers], sketch: Callable[[], Layers], effort: Effort = "best"
) -> Iterator[tuple[Area, Clean]]:
    """A picture without grain, from the top, a band at a time, each with where it is. `sketch` gives the whole of it,
    as small as one likes."""
    scales = None if is_small(size) else scales_of(sketch())
    for _, row in groupby(blocks_of(size), lambda area: area.top):
        areas = list(row)
        blocks = [cleaned_block(size, area, layers_of, scales, effort) for area in areas]
        yield Area(0, areas[0].top, size[0], areas[0].bottom), _side_by_side(blocks)


def _side_by_side(blocks: list[Clean]) -> Clean:
    color = np.concatenate([block.color for block in blocks], axis=1)
    backdrops = [block.backdrop for block in blocks if block.backdrop is not None]
    return Clean(color, np.concatenate(backdrops, axis=1) if backdrops else None)
