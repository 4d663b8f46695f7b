"""Independent, correlated multijittered and Owen-scrambled Sobol points at equal samples, in our own tracer."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from benchmarks.flip import SIZE, WHOLE, Numbers, engines, reference
from benchmarks.scenes import Frozen, frozen
from benchmarks.tracer import error
from usual_lamp.core.trace import sampler
from usual_lamp.core.trace.engine import mi
from usual_lamp.core.trace.sampler import mix, to_unit
from usual_lamp.core.trace.transport.tiles import trace_block
from usual_lamp.core.trace.world.world import World

SAMPLES, SIDE = 64, 8
SEEDS = (1, 2, 3)
Points = Callable[[mi.UInt32, mi.UInt32, mi.UInt32], mi.Point2f]


def independent(pixel: mi.UInt32, sample: mi.UInt32, pair: mi.UInt32) -> mi.Point2f:
    seed = mix(pixel + pair * 0x9E3779B9) ^ mix(sample)
    return mi.Point2f(to_unit(mix(seed)), to_unit(mix(seed ^ 0x68BC21EB)))


def permuted(i: mi.UInt32, size: int, p: mi.UInt32) -> mi.UInt32:
    """A. Kensler, "Correlated Multi-Jittered Sampling", Pixar technical memo 13-01; sizes that are powers of two."""
    w = size - 1
    i ^= p
    i *= 0xE170893D
    i ^= p >> 16
    i ^= (i & w) >> 4
    i ^= p >> 8
    i *= 0x0929EB3F
    i ^= p >> 23
    i ^= (i & w) >> 1
    i *= 1 | (p >> 27)
    i *= 0x6935FA69
    i ^= (i & w) >> 11
    i *= 0x74DCB303
    i ^= (i & w) >> 2
    i *= 0x9E501CC3
    i ^= (i & w) >> 2
    i *= 0xC860A3DF
    i &= w
    i ^= i >> 5
    return (i + p) & w


def multijittered(pixel: mi.UInt32, sample: mi.UInt32, pair: mi.UInt32) -> mi.Point2f:
    p = mix(pixel + pair * 0x9E3779B9)
    s = permuted(mi.UInt32(sample), SAMPLES, p * 0x51633E2D)
    column, row = s & (SIDE - 1), s >> 3
    sx = permuted(mi.UInt32(column), SIDE, p * 0xA511E9B3)
    sy = permuted(mi.UInt32(row), SIDE, p * 0x63D83595)
    jx, jy = to_unit(mix(s ^ (p * 0xA399D265))), to_unit(mix(s ^ (p * 0x711AD6A5)))
    return mi.Point2f(
        (mi.Float(column) + (mi.Float(sy) + jx) / SIDE) / SIDE, (mi.Float(row) + (mi.Float(sx) + jy) / SIDE) / SIDE
    )


def errors(scene: Frozen, target: Numbers) -> dict[str, float]:
    world, found = World(scene.inputs, scene.mesh_of), {}
    usual = sampler.point
    for name, points in (("independent", independent), ("multijitter", multijittered), ("Sobol", usual)):
        sampler.point = points
        try:
            pictures = [trace_block(world, WHOLE, 0, SAMPLES, seed)[..., :3] / SAMPLES for seed in SEEDS]
        finally:
            sampler.point = usual
        found[name] = float(np.mean([error(p, target) for p in pictures]))
    return found


def main() -> None:
    print(f"relative squared error at {SAMPLES} samples, {SIZE[0]}x{SIZE[1]}, mean of {len(SEEDS)} seeds")
    for scene in frozen(SIZE):
        found = errors(scene, reference(scene.name, "ours", engines(scene)["ours"]))
        best = min(found.values())
        words = "   ".join(f"{name} {value:.5f} ({value / best:.2f})" for name, value in found.items())
        print(f"  {scene.name:<11} {words}", flush=True)


if __name__ == "__main__":
    main()
