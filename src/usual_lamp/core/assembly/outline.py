"""A few points of a body that stand for its convex hull: what lies lowest, however it is turned."""

from __future__ import annotations

import base64

import numpy as np
from numpy.typing import NDArray

DIRECTIONS = 256
"""No direction is farther than eight degrees from one of them: a smooth body's lowest point is missed by at most a
hundredth of its radius, a flat side by nothing."""


def spread(count: int) -> NDArray[np.float64]:
    """(count, 3) unit directions spread evenly, on Fibonacci's spiral."""
    k = np.arange(count) + 0.5
    z, turn = 1 - 2 * k / count, np.pi * (1 + 5**0.5) * k
    flat = np.sqrt(1 - z * z)
    return np.stack([flat * np.cos(turn), flat * np.sin(turn), z], axis=1)


def outermost(points: NDArray[np.floating]) -> str:
    """The points that lie farthest out in many directions, packed as text; empty without points."""
    if len(points) == 0:
        return ""
    plain = np.asarray(points, np.float32)
    ways = spread(DIRECTIONS).astype(np.float32)
    best = np.full(DIRECTIONS, -np.inf, np.float32)
    found = np.zeros(DIRECTIONS, np.int64)
    for first in range(0, len(plain), 65536):
        reach = ways @ plain[first : first + 65536].T
        top = reach.argmax(axis=1)
        value = reach[np.arange(DIRECTIONS), top]
        better = value > best
        best[better], found[better] = value[better], top[better] + first
    return base64.b64encode(np.ascontiguousarray(plain[np.unique(found)], "<f4").tobytes()).decode()


def unpacked(text: str) -> NDArray[np.float64]:
    """(N, 3) points of what `outermost` packed."""
    return np.frombuffer(base64.b64decode(text), "<f4").reshape(-1, 3).astype(np.float64)
