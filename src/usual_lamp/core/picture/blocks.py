"""Cleaning a large picture of its grain a block at a time, each with a margin that the network sees beyond it."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import replace

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


def bands_of(size: tuple[int, int]) -> list[tuple[int, int]]:
    """Rows [first, last) of the bands in which a picture of that width and height is cleaned."""
    height = size[1]
    step = height if is_small(size) else BAND
    return [(first, min(first + step, height)) for first in range(0, height, step)]


def cleaned_bands(
    size: tuple[int, int], layers_of: Callable[[Area], Layers], sketch: Callable[[], Layers], effort: Effort = "best"
) -> Iterator[Clean]:
    """A picture without grain, from the top, a band at a time.

    `layers_of` gives its layers in an area. `sketch` gives the whole of it, as small as one likes: blocks are to agree
    on how bright the picture is.
    """
    width, _ = size
    if is_small(size):
        yield denoise(layers_of(Area(0, 0, *size)), effort)
        return
    scales = scales_of(sketch())
    for first, last in bands_of(size):
        row = [Area(left, first, min(left + BLOCK, width), last) for left in range(0, width, BLOCK)]
        yield _side_by_side([_block(size, area, layers_of, scales, effort) for area in row])


def _block(
    size: tuple[int, int], area: Area, layers_of: Callable[[Area], Layers], scales: Scales, effort: Effort
) -> Clean:
    """An area without grain."""
    around = area.grown(MARGIN, size)
    layers = layers_of(around)
    if scales.backdrop is None:
        layers = replace(layers, backdrop=None)
    found = denoise(layers, effort, scales)
    if found.backdrop is None and scales.backdrop is not None:
        found = replace(found, backdrop=np.zeros_like(found.color))
    return found.part(
        slice(area.top - around.top, area.bottom - around.top), slice(area.left - around.left, area.right - around.left)
    )


def _side_by_side(blocks: list[Clean]) -> Clean:
    color = np.concatenate([block.color for block in blocks], axis=1)
    backdrops = [block.backdrop for block in blocks if block.backdrop is not None]
    return Clean(color, np.concatenate(backdrops, axis=1) if backdrops else None)
