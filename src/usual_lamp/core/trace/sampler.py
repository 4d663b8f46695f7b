"""Random numbers that depend only on (pixel, sample, dimension), never on how the work is cut up.

Owen-scrambled Sobol points, padded in pairs: for each pair of dimensions the sample index is shuffled and the
first two Sobol dimensions are scrambled, both with the hash of B. Burley, "Practical Hash-based Owen Scrambling",
JCGT 9(4), 2020 (the hash is due to S. Laine and T. Karras, with better constants by N. Vegdahl).
"""

from __future__ import annotations

from usual_lamp.core.trace.engine import dr, mi


def scramble_reversed(x: mi.UInt32, seed: mi.UInt32) -> mi.UInt32:
    """Owen scrambling of numbers whose bits are in reversed order."""
    x ^= x * 0x3D20ADEA
    x += seed
    x *= (seed >> 16) | 1
    x ^= x * 0x05526C56
    x ^= x * 0x53A22864
    return x


def mix(x: mi.UInt32) -> mi.UInt32:
    """A 32-bit avalanche hash (C. Wellons, lowbias32)."""
    x ^= x >> 16
    x *= 0x7FEB352D
    x ^= x >> 15
    x *= 0x846CA68B
    return x ^ (x >> 16)


def sobol_second(x: mi.UInt32) -> mi.UInt32:
    """Second Sobol dimension of index x, bits reversed.

    Its matrix is Pascal's triangle modulo 2; by Lucas's theorem a bit of the product is the parity of the bits
    whose position contains its own, which is summed over one bit of the position at a time.
    """
    for shift, mask in ((16, 0x0000FFFF), (8, 0x00FF00FF), (4, 0x0F0F0F0F), (2, 0x33333333), (1, 0x55555555)):
        x ^= (x >> shift) & mask
    return x


def to_unit(x: mi.UInt32) -> mi.Float:
    """Return a 32-bit number as a float in [0, 1)."""
    return mi.Float(x >> 8) * (1.0 / 16777216.0)


def point(pixel_seed: mi.UInt32, sample: mi.UInt32, pair: mi.UInt32) -> mi.Point2f:
    """The 2D point number `pair` of one sample of one pixel, in [0, 1)²."""
    seed = mix(pixel_seed + pair * 0x9E3779B9)
    index = dr.brev(scramble_reversed(dr.brev(sample), seed))
    first = scramble_reversed(mi.UInt32(index), mix(seed ^ 0x68BC21EB))
    second = scramble_reversed(sobol_second(index), mix(seed ^ 0x02E5BE93))
    return mi.Point2f(to_unit(dr.brev(first)), to_unit(dr.brev(second)))


class PixelSampler:
    """Hands out 2D points in order. A Dr.Jit pytree: it may be loop state."""

    DRJIT_STRUCT = {"seed": mi.UInt32, "sample": mi.UInt32, "pair": mi.UInt32}

    def __init__(
        self, seed: mi.UInt32 | None = None, sample: mi.UInt32 | None = None, pair: mi.UInt32 | None = None
    ) -> None:
        """From the pair on that is given, or the first."""
        self.seed = mi.UInt32(0) if seed is None else seed
        self.sample = mi.UInt32(0) if sample is None else sample
        self.pair = dr.zeros(mi.UInt32, dr.width(self.seed)) if pair is None else pair

    def next_2d(self) -> mi.Point2f:
        """Return the next two numbers of the sample, in [0, 1)."""
        p = point(self.seed, self.sample, self.pair)
        self.pair += 1
        return p

    def chance(self) -> mi.Float:
        """Return a number in [0, 1) that belongs to no pair, for choices that need not be well spread."""
        return to_unit(mix(self.seed ^ mix(self.sample * 0x9E3779B9 + self.pair)))
