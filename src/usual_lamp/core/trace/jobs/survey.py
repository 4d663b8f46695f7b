"""What lies behind each pixel: depth, position, normal, which part, which appearance, how much of it is covered.

Numbers like these must not be averaged over an edge, so they are those of the pixel's middle, of the first surface
behind clear walls and cut-outs. Coverage and ambient occlusion are means over samples.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from usual_lamp.core.trace.engine import dr, mi
from usual_lamp.core.trace.plan import Tile
from usual_lamp.core.trace.sampler import PixelSampler, mix
from usual_lamp.core.trace.surface.bsdf import CLEAR_ROUGHNESS
from usual_lamp.core.trace.transport.sensor import camera_rays
from usual_lamp.core.trace.transport.shadow import covered
from usual_lamp.core.trace.world.world import World

NOTHING = -1
"""Part and appearance where a pixel shows none; the floor has neither."""
Numbers = NDArray[np.float32]
WALLS = 8
"""Clear walls and cut-outs behind which the surface that is told is sought."""
COVERS = 2
"""Clear walls that do not occlude what lies beneath them."""


@dataclass(frozen=True)
class Survey:
    """(H, W) or (H, W, 3) each."""

    depth: Numbers
    """mm along the camera's axis; infinite where nothing is."""
    position: Numbers
    """World, mm; zero where nothing is."""
    normal: Numbers
    part: NDArray[np.int32]
    """Place in the trace inputs' parts, or NOTHING."""
    appearance: NDArray[np.int32]
    alpha: Numbers
    """Share of the pixel that parts cover, clear ones among them; the floor does not count."""
    occlusion: Numbers
    """Ambient: share of the cosine-weighted hemisphere that is free, as seen from the pixel's surface; 1 on nothing."""


def survey(world: World, tile: Tile, samples: int = 16) -> Survey:
    """Look at a tile of the picture."""
    middle, _ = _look(world, tile, 1, jittered=False)
    si, index, on_part, _, _ = middle
    hit = si.is_valid()
    camera = world.inputs.camera
    forward, position = (
        mi.Vector3f(*(dr.opaque(mi.Float, float(v)) for v in row)) for row in (camera.basis()[2], camera.position)
    )
    depth = dr.dot(mi.Vector3f(si.p) - position, forward)
    part = dr.select(on_part, mi.Int32(world.placements.part(si.shape, on_part)), NOTHING)
    worn = dr.select(on_part, mi.Int32(index), NOTHING)
    position, normal = mi.Vector3f(si.p), mi.Vector3f(si.sh_frame.n)
    # At once: asked for one by one, each of them would trace the rays again.
    dr.eval(hit, depth, position, normal, part, worn)
    shape = (tile.height, tile.width)
    many, sampler = _look(world, tile, samples, jittered=True)
    seen, _, _, covers, way = many
    free, covered_by_parts = _free(world, seen, way, sampler), dr.select(covers, mi.Float(1.0), mi.Float(0.0))
    dr.eval(free, covered_by_parts)

    def image(value: mi.Float | mi.Vector3f) -> Numbers:
        """A value of each pixel's middle, (H, W) or (H, W, 3); 0 where nothing is."""
        array = np.array(dr.select(hit, value, 0.0), np.float32)
        return array.T.reshape(*shape, 3) if array.ndim == 2 else array.reshape(shape)

    def mean(value: mi.Float) -> Numbers:
        """A value of all samples, averaged over each pixel, (H, W)."""
        sums = np.array(dr.block_reduce(dr.ReduceOp.Add, value, samples), np.float32)
        return (sums / np.float32(samples)).reshape(shape)

    return Survey(
        depth=np.where(np.array(hit).reshape(shape), image(depth), np.inf).astype(np.float32),
        position=image(position),
        normal=image(normal),
        part=np.array(part, np.int32).reshape(shape),
        appearance=np.array(worn, np.int32).reshape(shape),
        alpha=mean(covered_by_parts),
        occlusion=mean(free),
    )


Look = tuple[mi.SurfaceInteraction3f, mi.UInt32, mi.Bool, mi.Bool, mi.Vector3f]


def _look(world: World, tile: Tile, count: int, jittered: bool) -> tuple[Look, PixelSampler]:
    """The first opaque hit of each lane, its appearance, whether that is a part, whether any part was met, and the way
    of looking. All numbers are opaque, so one kernel serves all tiles, pictures and cameras."""
    inputs = world.inputs
    lane = dr.arange(mi.UInt32, tile.width * tile.height * count)
    left, top, across, of_pixel, width, height = (
        dr.opaque(mi.UInt32, n) for n in (tile.x, tile.y, tile.width, count, inputs.width, inputs.height)
    )
    pixel = lane // of_pixel
    row = pixel // across
    x, y = pixel - row * across + left, row + top
    sampler = PixelSampler(mix(y * width + x), lane - pixel * of_pixel)
    # What gives the middle of the aperture: a polygon of an odd number of blades has another thing in the middle.
    middle = mi.Point2f(dr.opaque(mi.Float, 0.0 if inputs.camera.blades >= 3 else 0.5), 0.5)
    within, lens = (sampler.next_2d(), sampler.next_2d()) if jittered else (mi.Point2f(0.5), middle)
    s, t = (mi.Float(x) + within.x) / mi.Float(width), (mi.Float(y) + within.y) / mi.Float(height)
    ray = camera_rays(inputs, s, t, lens)
    si = world.hit(ray, True, mi.Bool(True))
    met = mi.Bool(False)
    for _ in range(WALLS):
        clear, on_part = _clear(world, si)
        met |= on_part
        si = dr.select(clear, world.hit(si.spawn_ray(ray.d), True, clear), si)
    return (si, *_worn(world, si), met, mi.Vector3f(ray.d)), sampler


def _worn(world: World, si: mi.SurfaceInteraction3f) -> tuple[mi.UInt32, mi.Bool]:
    """Appearance, and whether it is that of a part."""
    hit = si.is_valid()
    index = world.appearance_of(si, hit)
    return index, hit & world.is_part(index)


def _clear(world: World, si: mi.SurfaceInteraction3f) -> tuple[mi.Bool, mi.Bool]:
    """Whether one sees through what was hit, and whether that is a part."""
    index, on_part = _worn(world, si)
    kind, _ = world.table.block("kind", index, on_part)
    clear = on_part & (kind.z > 0.5) & (kind.x < CLEAR_ROUGHNESS)
    clear |= world.looks_through(index, si.is_valid())
    opacity = covered(world, si, index, on_part)
    if opacity is not None:
        clear |= on_part & (opacity < 0.5)
    return clear, on_part


def _free(world: World, si: mi.SurfaceInteraction3f, looks: mi.Vector3f, sampler: PixelSampler) -> mi.Float:
    """Whether nothing but clear walls stands in one direction drawn by the cosine, from the side that is seen."""
    n = dr.mulsign(mi.Vector3f(si.n), -dr.dot(si.n, looks))
    way = mi.Frame3f(n).to_world(mi.warp.square_to_cosine_hemisphere(sampler.next_2d()))
    other = world.hit(si.spawn_ray(way), False, si.is_valid())
    for _ in range(COVERS):
        clear, _ = _clear(world, other)
        other = dr.select(clear, world.hit(other.spawn_ray(way), False, clear), other)
    return dr.select(other.is_valid(), 0.0, 1.0)
