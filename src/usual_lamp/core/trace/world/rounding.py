"""Sharp edges seen as if they were rounded off: only the shading normal turns, no triangle moves.

A rounding of radius r touches both faces and turns the normal from one face's to the other's. Seen from between the two
faces, a point of a face at distance d from the edge lies before that point of the rounding whose normal makes the angle
asin(d cos(h) / r) with the bisector, where h is half of the angle between the faces' normals. So the highlight on the
edge is as wide, and lies where, it would on the cylinder.
"""

from __future__ import annotations

from collections.abc import Hashable, Iterable

import numpy as np

from usual_lamp.core.assembly.sharp_edges import MOST, ROW, Rims
from usual_lamp.core.trace.engine import aligned, dr, mi
from usual_lamp.core.trace.surface.table import Four

SHIFT = 3
"""Bits of a triangle's entry that count its edges; the others say where they are listed."""
ALIKE = 0.9
"""Cosine between the normals beyond two edges that belong to one rim: of those only the nearest turns the normal."""
REACH = float(np.sqrt((1 - MOST) / (1 + MOST)))
"""Of the radius: how far from the steepest edge the rounding begins, the tangent of half the angle."""


class Edges:
    """Edges of the pieces that are held, and which of them each triangle lies at."""

    def __init__(self) -> None:
        self._held: dict[Hashable, Rims | None] = {}
        self._write()

    def hold(self, kept: Iterable[Hashable], added: dict[Hashable, Rims | None]) -> None:
        """Hold those of these pieces, in this order."""
        self._held = {name: self._held[name] for name in kept} | added
        self._write()

    def entries(self, name: Hashable, count: int) -> np.ndarray:
        """(count,) for each triangle of a piece: how many edges, and where they are listed."""
        return self._entries.get(name, np.zeros(count, np.uint32))

    def _write(self) -> None:
        rows, listed = [np.zeros((1, ROW), np.float32)], []
        self._entries: dict[Hashable, np.ndarray] = {}
        edges, place = 1, 0
        for name, rims in self._held.items():
            if rims is None or not len(rims.rows):
                continue
            there = rims.around >= 0
            counts = there.sum(axis=1)
            starts = place + np.cumsum(counts) - counts
            self._entries[name] = (starts << SHIFT | counts).astype(np.uint32)
            listed.append((rims.around[there] + edges).astype(np.uint32))
            rows.append(rims.rows)
            edges, place = edges + len(rims.rows), place + int(counts.sum())
        listed.append(np.zeros(1, np.uint32))
        self.rows = mi.Float(aligned(np.concatenate(rows)).ravel())
        self.listed = mi.UInt32(aligned(np.concatenate(listed)))
        dr.make_opaque(self.rows, self.listed)

    def rounded(
        self, n: mi.Vector3f, point: mi.Vector3f, nearest: mi.Float, entry: mi.UInt32, width: mi.Float, hit: mi.Bool
    ) -> mi.Vector3f:
        """The normal at a point of a triangle, mm in the frame of its piece, where edges are rounded to this width.

        `nearest` is its distance from the nearest side of the triangle, `entry` the triangle's, see `entries`."""
        count = entry & ((1 << SHIFT) - 1)
        near = hit & (count > 0) & (nearest < width * REACH)
        first = entry >> SHIFT
        zero = mi.Vector3f(0.0)
        state = mi.UInt32(0), mi.Float(dr.inf), zero, zero, mi.Float(dr.inf), zero

        def turn(
            k: mi.UInt32,
            near1: mi.Float,
            turn1: mi.Vector3f,
            beyond1: mi.Vector3f,
            near2: mi.Float,
            turn2: mi.Vector3f,
        ) -> tuple[mi.UInt32, mi.Float, mi.Vector3f, mi.Vector3f, mi.Float, mi.Vector3f]:
            """The number of the next edge, and the nearest two rims so far: how far off each is (mm), by what it turns
            the normal, and of the nearest the normal beyond it."""
            here = near & (k < count)
            edge = dr.gather(mi.UInt32, self.listed, first + k, here)
            away, turned, beyond = self._turned(n, point, edge, width, here)
            same = dr.dot(beyond, beyond1) > ALIKE
            nearer = away < near1
            # What was nearest so far is second now, unless both are of one rim.
            second = nearer & ~same & (near1 < near2)
            near2, turn2 = dr.select(second, near1, near2), dr.select(second, turn1, turn2)
            other = ~nearer & ~same & (away < near2)
            near2, turn2 = dr.select(other, away, near2), dr.select(other, turned, turn2)
            near1, turn1 = dr.select(nearer, away, near1), dr.select(nearer, turned, turn1)
            beyond1 = dr.select(nearer, beyond, beyond1)
            return k + 1, near1, turn1, beyond1, near2, turn2

        _, _, one, _, _, two = dr.while_loop(state, lambda k, *_: near & (k < count), turn, label="edges")
        return dr.normalize(n + one + two)

    def _turned(
        self, n: mi.Vector3f, point: mi.Vector3f, edge: mi.UInt32, width: mi.Float, active: mi.Bool
    ) -> tuple[mi.Float, mi.Vector3f, mi.Vector3f]:
        """Distance from an edge, by what it turns the normal, and the normal beyond it."""
        start, way = (dr.gather(Four, self.rows, 4 * edge + k, active) for k in (0, 1))
        apart = point - mi.Vector3f(start[0], start[1], start[2])
        along = mi.Vector3f(way[0], way[1], way[2])
        at = dr.clip(dr.dot(apart, along), 0.0, start[3])
        away = dr.norm(apart - along * at)
        zero = mi.Vector3f(0.0)
        near = active & (away < width * REACH)
        return dr.if_stmt(  # type: ignore[no-any-return]
            (mi.Vector3f(n), edge, at / dr.maximum(start[3], 1e-9), away, dr.minimum(way[3], width)),
            near,
            lambda n, edge, share, away, width: self._rolled(n, edge, share, away, width, near),
            lambda n, edge, share, away, width: (mi.Float(dr.inf), zero, zero),
            label="edge",
        )

    def _rolled(
        self, n: mi.Vector3f, edge: mi.UInt32, share: mi.Float, away: mi.Float, width: mi.Float, active: mi.Bool
    ) -> tuple[mi.Float, mi.Vector3f, mi.Vector3f]:
        """The same of a point so far from an edge, at a share of its length, that is rounded to this width."""
        one, two = (dr.gather(Four, self.rows, 4 * edge + k, active) for k in (2, 3))
        beyond = dr.normalize(
            mi.Vector3f(one[0], one[1], one[2]) * (1 - share) + mi.Vector3f(two[0], two[1], two[2]) * share
        )
        cos, sin = dr.norm(n + beyond) / 2, dr.norm(n - beyond) / 2
        off = away * cos / dr.maximum(width, 1e-6)
        reached = active & (off < sin)
        off = dr.minimum(off, sin)
        made = (n + beyond) * (dr.sqrt(1 - off * off) / (2 * cos)) + (n - beyond) * (off / (2 * sin))
        zero = mi.Vector3f(0.0)
        return dr.select(reached, away, dr.inf), dr.select(reached, made - n, zero), dr.select(reached, beyond, zero)
