"""Two ways of finding the same light, weighted against each other."""

from __future__ import annotations

from usual_lamp.core.trace.engine import dr, mi


def power_heuristic(a: mi.Float, b: mi.Float) -> mi.Float:
    """Veach's power heuristic with exponent 2."""
    a2, b2 = dr.square(a), dr.square(b)
    return dr.select(a2 > 0, a2 / dr.maximum(a2 + b2, 1e-30), 0.0)
