"""What a part is by its shape alone: screws, nuts, washers, pins, balls, coil springs and O-rings.

Only facts of the definition are asked: kind, area and centre of each face, volume, area, and points on the convex
hull. Nothing depends on how the part lies in its frame, as far as few points on a hull tell. Proportions are those of
ISO 4014, 4032, 4762, 7089 and 3601 with room on both sides, from memory; the index of coil springs, 4 to 20, is common
practice.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from usual_lamp.core.assembly.model import Assembly, PartDefinition
from usual_lamp.core.assembly.outline import unpacked

Array = NDArray[np.float64]
PartKind = Literal["screw", "nut", "washer", "pin", "ball", "spring", "O-ring"]

KEPT = "kinds by shape"
"""Its name among what is kept with the assembly."""
MOST_FACES = 160
"""A fastener has fewer, unless its thread is modelled thread by thread."""
SOLID = 0.8
"""Of the volume of hexagon and shank, that a screw has at least: threads and chamfers take away little."""
CHAMFERS = 0.25
"""Of a washer's area, that cones have at most; races of bearings have more."""
NEAR = 0.02
"""Relative difference below which two lengths of one part are meant to be equal."""


@dataclass(frozen=True)
class Guess:
    """What a part seems to be."""

    kind: PartKind
    sure: float
    """0 to 1."""


def kinds_by_shape(assembly: Assembly) -> dict[str, Guess]:
    """Return what definitions seem to be, by key; those that are nothing known are left out."""
    known: dict[str, Guess] | None = assembly.kept.get(KEPT)
    if known is None:
        found = {key: kind_by_shape(definition) for key, definition in assembly.definitions.items()}
        known = assembly.kept[KEPT] = {key: guess for key, guess in found.items() if guess is not None}
    return known


def kind_by_shape(definition: PartDefinition) -> Guess | None:
    """Return what one definition seems to be; None for all that is not plainly one of the kinds."""
    if definition.volume <= 0 or definition.area <= 0 or definition.solids > 1 or not definition.faces:
        return None
    form = _Form(definition)
    for ask in (_o_ring, _ball, _spring, _hexagonal, _washer, _driven, _pin):
        guess = ask(form)
        if guess is not None:
            return guess
    return None


@dataclass
class _Form:
    """A definition as arrays."""

    definition: PartDefinition

    @cached_property
    def kinds(self) -> NDArray[np.str_]:
        """Of each face, see `Face.kind`; (F,)."""
        return np.array([face.kind for face in self.definition.faces])

    @cached_property
    def areas(self) -> Array:
        """Of each face, mm²; (F,)."""
        return np.array([face.area for face in self.definition.faces])

    @cached_property
    def centers(self) -> Array:
        """Of each face, mm; (F, 3)."""
        return np.array([face.center for face in self.definition.faces])

    @cached_property
    def hull(self) -> Array:
        """(N, 3) points on the convex hull, mm."""
        if self.definition.outline:
            return unpacked(self.definition.outline)
        low, high = np.array(self.definition.bounds)
        return np.array([np.where([i & 1, i & 2, i & 4], high, low) for i in range(8)])

    def share(self, *kinds: str) -> float:
        """Of the area, how much these kinds of faces have."""
        return float(self.areas[np.isin(self.kinds, kinds)].sum() / self.areas.sum())

    @property
    def wire(self) -> tuple[float, float]:
        """Radius and length, mm, of a round wire with this volume and area."""
        radius = 2 * self.definition.volume / self.definition.area
        return radius, self.definition.volume / (np.pi * radius**2)

    def about(self, axis: Array, through: Array) -> Round:
        """How the hull lies about an axis."""
        apart = self.hull - through
        along = apart @ axis
        across = np.linalg.norm(apart - along[:, None] * axis, axis=1)
        return Round(along, across, apart - along[:, None] * axis)

    @cached_property
    def own_axis(self) -> tuple[Array, Array] | None:
        """The direction about which the hull is alike all round, and a point on it; None where there is none."""
        # A rod's axis is the longest of its hull, a disc's the shortest. A hull's points lie unevenly, which turns the
        # axes of a stout body; the middles of faces that go all round lie on the axis itself.
        clouds = [self.hull, self.centers]
        ways = [np.linalg.svd(cloud - cloud.mean(axis=0), full_matrices=True)[2] for cloud in clouds]
        for axis in (ways[0][0], ways[1][0], ways[0][2], ways[1][2], *np.eye(3)):
            middle = self._middle_across(axis)
            if self.about(axis, middle).is_round:
                return axis, middle
        return None

    def _middle_across(self, axis: Array) -> Array:
        """The point half way of the hull's extent along an axis and across it, mm."""
        frame = np.stack([axis, *np.linalg.svd(axis[None])[2][1:]])
        seen = self.hull @ frame.T
        return np.asarray((seen.min(axis=0) + seen.max(axis=0)) / 2 @ frame)


@dataclass(frozen=True)
class Round:
    """Points of a hull about an axis, mm."""

    along: Array
    across: Array
    flat: Array
    """Their places at right angles to the axis."""

    @property
    def length(self) -> float:
        """From end to end."""
        return float(np.ptp(self.along))

    @property
    def radius(self) -> float:
        """Of the widest point."""
        return float(self.across.max())

    @property
    def is_round(self) -> bool:
        """Whether it reaches equally far in all directions across the axis, within a few hundredths."""
        axes = np.linalg.svd(self.flat, full_matrices=False)[2][:2]
        turns = np.linspace(0, np.pi, 7)[:-1]
        ways = np.cos(turns)[:, None] * axes[0] + np.sin(turns)[:, None] * axes[1]
        reach = np.concatenate([(self.flat @ ways.T).max(axis=0), (self.flat @ -ways.T).max(axis=0)])
        return bool(reach.min() > 0.93 * reach.max())

    def radius_near(self, end: float, share: float) -> float:
        """Widest of the points within a share of the length from an end."""
        near = np.abs(self.along - end) <= share * self.length
        return float(self.across[near].max()) if near.any() else 0.0


def _o_ring(form: _Form) -> Guess | None:
    """A torus: V = 2 pi² R r², A = 4 pi² R r (Pappus)."""
    if len(form.kinds) > 8 or form.share("torus", "free") < 0.999:
        return None
    thin = 2 * form.definition.volume / form.definition.area
    middle = form.definition.area / (4 * np.pi**2 * thin)
    if not 1.5 < middle / thin < 80:
        return None
    size = np.sort(np.ptp(form.hull, axis=0))
    asked = np.array([2 * thin, 2 * (middle + thin), 2 * (middle + thin)])
    lies_flat = bool(np.all(np.abs(size / asked - 1) < 2.5 * NEAR))
    round_about = form.own_axis is not None and abs(form.about(*form.own_axis).length / (2 * thin) - 1) < 2.5 * NEAR
    return Guess("O-ring", 0.85 if form.share("torus") > 0.99 else 0.75) if lies_flat or round_about else None


def _ball(form: _Form) -> Guess | None:
    radius = 3 * form.definition.volume / form.definition.area
    whole = abs(form.definition.area / (4 * np.pi * radius**2) - 1) < NEAR
    return Guess("ball", 0.8) if whole and form.share("sphere", "free") > 0.98 else None


def _spring(form: _Form) -> Guess | None:
    """A wire wound to a coil: its length must be that of the turns that fit."""
    swept = form.share("free", "torus", "cylinder")
    if swept < 0.9 or form.share("free") < 0.6 or form.own_axis is None:
        return None
    if form.definition.shape is None and form.areas.max() < 0.9 * form.areas.sum():
        return None  # a tube of a mesh file: two smooth sides
    radius, length = form.wire
    coil = form.about(*form.own_axis)
    mean, height = 2 * (coil.radius - radius), coil.length
    if not 3 < mean / (2 * radius) < 22 or length <= height:
        return None
    turns = np.sqrt(length**2 - height**2) / (np.pi * mean)
    return Guess("spring", 0.85) if 2 < turns < 100 and turns * 2 * radius < 1.15 * height else None


def _hexagons(form: _Form) -> list[tuple[Array, Array, float, float]]:
    """Axis, middle, width across flats and height of each ring of six equal planes, the widest first."""
    planes = np.flatnonzero(form.kinds == "plane")
    found = []
    order = planes[np.argsort(form.areas[planes])]
    for first in range(len(order) - 5):
        six = order[first : first + 6]
        if form.areas[six[-1]] > form.areas[six[0]] * (1 + NEAR):
            continue
        middle = form.centers[six].mean(axis=0)
        apart = form.centers[six] - middle
        reach = np.linalg.norm(apart, axis=1)
        if reach.min() < (1 - NEAR) * reach.max() or reach.min() <= 0:
            continue
        axis = np.linalg.svd(apart)[2][2]
        u = apart[0] / reach[0]
        turns = np.sort(np.arctan2(apart @ np.cross(axis, u), apart @ u))
        if np.all(np.abs(np.diff(turns) - np.pi / 3) < 0.03):
            flats = 2 * float(reach.mean())
            found.append((axis, middle, flats, float(form.areas[six].mean()) / (flats / np.sqrt(3))))
    return sorted(found, key=lambda one: -one[2])


def _hexagonal(form: _Form) -> Guess | None:
    """A nut, a screw with a hexagon head, or one with a hexagon socket."""
    if len(form.kinds) > MOST_FACES:
        return None
    for axis, middle, flats, height in _hexagons(form):
        body = form.about(axis, middle)
        low, high = float(body.along.min()), float(body.along.max())
        outside = body.radius < 1.45 * flats and abs(body.radius / (flats / np.sqrt(3)) - 1) < 0.35
        prism = np.sqrt(3) / 2 * flats**2 * body.length
        if outside and 0.25 < body.length / flats < 1.35 and 0.4 < form.definition.volume / prism < 0.86:
            return Guess("nut", 0.85)
        head, tip = (high, low) if high < -low else (low, high)  # the hexagon is at 0, near the head
        at_an_end = abs(head) < height + 0.25 * flats
        if not at_an_end or body.length < 0.5 * flats:
            continue
        thin = body.radius_near(tip, 0.3)
        # A shank fills its length; a nipple or a barb with a hexagon is hollow.
        full = np.sqrt(3) / 2 * flats**2 * height + np.pi * thin**2 * (body.length - height)
        if outside and body.length > 1.3 * height and thin < 0.85 * flats / 2:
            return Guess("screw", 0.85) if form.definition.volume > SOLID * full else None
        inside = 0.75 * flats < body.radius < 2.0 * flats and body.is_round
        if inside and body.length > 0.8 * body.radius and thin < body.radius * 1.001:
            return Guess("screw", 0.8)
    return None


def _washer(form: _Form) -> Guess | None:
    """A flat ring: two equal planes, an outer and an inner cylinder."""
    planes = np.flatnonzero(form.kinds == "plane")
    if len(form.kinds) > 16 or not 2 <= len(planes) <= 4 or form.own_axis is None:
        return None
    if form.share("plane", "cylinder", "cone", "torus", "free") < 0.999 or form.share("cone") > CHAMFERS:
        return None
    body = form.about(*form.own_axis)
    thick, outer = body.length, body.radius
    if not 0.03 < thick / (2 * outer) < 0.25:
        return None
    hole = np.pi * outer**2 - form.definition.volume / thick
    if hole <= 0:
        return None
    inner = float(np.sqrt(hole / np.pi))
    ring = 2 * (np.pi * outer**2 - hole) + 2 * np.pi * (outer + inner) * thick
    plain = abs(form.definition.area / ring - 1) < 0.06
    return Guess("washer", 0.8) if plain and 0.25 < inner / outer < 0.85 else None


def _driven(form: _Form) -> Guess | None:
    """A screw with a cross, a star or a slot: wider at the end that holds faces off the axis."""
    if form.own_axis is None or not 8 <= len(form.kinds) <= MOST_FACES:
        return None
    axis, middle = form.own_axis
    body = form.about(axis, middle)
    half = body.length / 2
    wide, thin = body.radius_near(half, 0.08), body.radius_near(-half, 0.25)
    end = 1.0
    if wide < thin:
        wide, thin, end = body.radius_near(-half, 0.08), body.radius_near(half, 0.25), -1.0
    wide = body.radius
    if not 1.35 < wide / max(thin, 1e-9) < 3.2 or not 1.2 < body.length / wide < 30:
        return None
    apart = form.centers - middle
    along = end * (apart @ axis)
    across = np.linalg.norm(apart - (apart @ axis)[:, None] * axis, axis=1)
    recess = (along > half - 1.2 * wide) & (across > 0.05 * wide) & (across < 0.75 * wide)
    recess &= np.isin(form.kinds, ("plane", "free", "cylinder", "cone")) & (form.areas < 1.5 * wide**2)
    plain = form.areas[~recess & (across > 0.1 * wide)].sum() < 0.55 * form.areas.sum()
    slot = tuple(form.kinds[recess]) >= ("plane",) * 2 if recess.sum() == 2 else False
    if not plain or not (recess.sum() >= 4 or slot):
        return None
    # What drives it lies evenly about the axis.
    off = np.linalg.norm(form.areas[recess] @ apart[recess] / form.areas[recess].sum() - _on_axis(apart, axis, recess))
    return Guess("screw", 0.7) if off < 0.12 * wide else None


def _on_axis(apart: Array, axis: Array, which: NDArray[np.bool_]) -> Array:
    """The foot on the axis of the middle of some faces."""
    return axis * float((apart[which] @ axis).mean())


def _pin(form: _Form) -> Guess | None:
    """A plain cylinder, its ends flat, chamfered or domed."""
    if len(form.kinds) > 10 or form.own_axis is None or form.share("cylinder") < 0.6:
        return None
    body = form.about(*form.own_axis)
    full = np.pi * body.radius**2 * body.length
    return Guess("pin", 0.55) if body.length > 2.5 * body.radius and form.definition.volume > 0.93 * full else None
