"""How much grain is left in a picture, measured on the picture itself. No tracer is needed, so this imports none.

Let M(n) be the mean of the first n samples, n a power of two, and S(n) the root mean square of M(n/2) - M(n). In a
scrambled Sobol sequence the first and the second half of n samples may be exchanged, so M(n/2) - M(n) has no
correlation with the error of M(n), and the squares add up: E(n/2)² = S(n)² + E(n)². Hence E(n)² is the sum of S²
over all further doublings. With the decay r = S(n)² / S(n/2)² going on as it was, E(n)² = S(n)² r / (1 - r); for
independent samples r is 1/2 and E(n) = S(n).

Grain is E relative to the picture's mean: a root mean square error before denoising.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

USUAL_DECAY, DECAY = 0.4, (0.2, 0.5)
"""Decay of the squared error by doubling, and its bounds: smooth pictures lie low, independent samples at a half."""

READ = 1_000_000
"""Pixels of a picture that are read at most."""


def stride_for(pixels: int) -> int:
    """Of a picture of so many pixels, the step from one row or column that is read to the next."""
    return int(np.ceil(np.sqrt(pixels / READ)))


class GrainMeter:
    """Reads a picture's sums tile by tile as they grow."""

    def __init__(self, tiles: int = 1, readings: dict[int, float] | None = None) -> None:
        """`readings` are those of an earlier meter of the same picture, whose work goes on."""
        self.tiles = tiles
        self.readings = dict(readings or {})
        """(S / mean)² by number of samples: powers of two from 2."""
        self._last: dict[int, tuple[int, NDArray[np.float32]]] = {}
        self._open: dict[int, dict[int, tuple[float, float, int]]] = {}
        """By samples and tile: summed squares, summed values, count; until all tiles are read."""

    def read(self, tile: int, sums: NDArray[np.float32], samples: int) -> None:
        """To be called whenever a tile has more samples; only powers of two are looked at."""
        if samples & (samples - 1):
            return
        mean = np.asarray(sums, np.float32) / np.float32(samples)
        known, last = self._last.get(tile, (0, mean))
        self._last[tile] = (samples, mean)
        if known * 2 != samples:
            return
        found = self._open.setdefault(samples, {})
        found[tile] = (float(np.sum(np.square(last - mean), dtype=np.float64)), float(mean.sum()), mean.size)
        if len(found) == self.tiles:
            squares, values, count = (sum(column) for column in zip(*found.values(), strict=True))
            self.readings[samples] = squares / count / (values / count) ** 2 if values > 0 else 0.0
            del self._open[samples]

    def _fit(self) -> tuple[float, float, int] | None:
        """Smoothed (S / mean)² at the last reading, decay, and the samples of that reading."""
        if not self.readings:
            return None
        # Single readings are noisy at few samples: level and slope come from all, the slope held by a guess.
        doublings = np.log2(sorted(self.readings))
        logs = np.log([max(self.readings[n], 1e-20) for n in sorted(self.readings)])
        span = doublings[-1] - doublings[0]
        decay = float(np.clip(np.exp((logs[-1] - logs[0] + np.log(USUAL_DECAY)) / (span + 1)), *DECAY))
        level = float(np.exp(np.mean(logs + np.log(decay) * (doublings[-1] - doublings))))
        return level, decay, int(2 ** doublings[-1])

    def grain(self, samples: int) -> float | None:
        """Error after that many samples, relative to the mean; None when too few were read."""
        fit = self._fit()
        if fit is None:
            return None
        level, decay, at = fit
        return float(np.sqrt(level * decay / (1 - decay) * decay ** np.log2(samples / at)))

    def samples_for(self, grain: float) -> float | None:
        """About how many samples it takes to come down to that grain."""
        fit = self._fit()
        if fit is None:
            return None
        level, decay, at = fit
        now = level * decay / (1 - decay)
        return float(at * 2 ** (np.log(grain**2 / max(now, 1e-20)) / np.log(decay)))
