"""A still from start to finish in this process: what the command line does, and the farm in pieces."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import fields, replace
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from usual_lamp.core.picture.area import Area
from usual_lamp.core.trace.engine import mi
from usual_lamp.core.trace.jobs.survey import Survey, survey
from usual_lamp.core.trace.plan import CHANNELS, tiles, units
from usual_lamp.core.trace.tiled import ScratchTiles
from usual_lamp.core.trace.transport.tiles import Sums, trace_block, trace_layers
from usual_lamp.core.trace.world.world import World


def trace_still(world: World, samples: int) -> Iterator[tuple[float, NDArray[np.float32]]]:
    """Yields (share done, sums so far) after each unit; the array is the same one, growing."""
    width, height = world.inputs.width, world.inputs.height
    sums = np.zeros((height, width, CHANNELS), np.float32)
    done = 0
    for unit in units(width, height, samples):
        t = unit.tile
        sums[t.y : t.y + t.height, t.x : t.x + t.width] += trace_block(world, t, unit.start, unit.stop)
        done += unit.pixel_samples
        yield done / (width * height * samples), sums


def trace_into(sums: ScratchTiles, world: World, samples: int) -> Iterator[tuple[float, None]]:
    """The same for a picture of any size, whose sums are kept by tile: yields the share done."""
    width, height = world.inputs.width, world.inputs.height
    number = {tile: k for k, tile in enumerate(tiles(width, height))}
    done = 0
    for unit in units(width, height, samples):
        sums.add(number[unit.tile], trace_block(world, unit.tile, unit.start, unit.stop))
        done += unit.pixel_samples
        yield done / (width * height * samples), None


def trace_still_in_layers(world: World, samples: int) -> Iterator[tuple[float, dict[str, Sums]]]:
    """The same with the light by kind and source: name to sums (H, W, 3), see `tiles.trace_layers`."""
    width, height = world.inputs.width, world.inputs.height
    sums: dict[str, Sums] = {}
    done = 0
    for unit in units(width, height, samples):
        t = unit.tile
        for name, block in trace_layers(world, t, unit.start, unit.stop).items():
            whole = sums.setdefault(name, np.zeros((height, width, 3), np.float32))
            whole[t.y : t.y + t.height, t.x : t.x + t.width] += block
        done += unit.pixel_samples
        yield done / (width * height * samples), sums


def survey_still(world: World, samples: int = 16) -> dict[str, NDArray[np.float32]]:
    """The survey of the whole picture, (H, W) or (H, W, 3) each; parts and appearances as numbers, -1 for none."""
    width, height = world.inputs.width, world.inputs.height
    return surveyed(world, Area(0, 0, width, height), samples)


def surveyed(world: World, area: Area, samples: int) -> dict[str, NDArray[np.float32]]:
    """The survey of an area."""
    found: dict[str, NDArray[np.float32]] = {}
    for tile in tiles(*area.size):
        seen: Survey = survey(world, replace(tile, x=tile.x + area.left, y=tile.y + area.top), samples)
        for name in (field.name for field in fields(Survey)):
            block = np.asarray(getattr(seen, name), np.float32)
            whole = found.setdefault(name, np.zeros((*area.size[::-1], *block.shape[2:]), np.float32))
            whole[tile.y : tile.y + tile.height, tile.x : tile.x + tile.width] = block
    return found


def write_exr(path: Path, layers: dict[str, NDArray[np.float32]]) -> None:
    """One OpenEXR file, float32, scene-linear Rec. 709 in cd/m²; `beauty` as R, G, B, the others by name.

    Layers of one number have the channel Y. Raises OSError where the file cannot be written.
    """
    names, channels = [], []
    for name, values in layers.items():
        if values.ndim == 2:
            names.append(f"{name}.Y")
            channels.append(values[..., None])
        else:
            parts = "XYZ" if name in ("position", "normal", "surface_normal") else "RGB"
            names += [part if name == "beauty" else f"{name}.{part}" for part in parts]
            channels.append(values)
    image = np.ascontiguousarray(np.concatenate(channels, axis=2), np.float32)
    path.touch()
    mi.Bitmap(image, channel_names=names).write(str(path))
