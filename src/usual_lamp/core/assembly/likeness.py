"""How alike two part definitions are, whatever they are called and wherever their frames lie.

A definition is described by numbers that rigid motion leaves alone: volume, area, and for each face its kind, area
and distance from the area's centroid. A sign tells mirror images apart.
"""

from __future__ import annotations

from collections import Counter
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from usual_lamp.core.assembly.model import PartDefinition

Array = NDArray[np.float64]

RELATIVE = 2e-4
"""Lengths that differ by less, relative to the part's size, are equal: what exporting twice may change."""


@dataclass(frozen=True)
class Shape:
    """Numbers of a definition by which equal shapes are told, whatever their place."""

    size: float
    """mm: root of the area."""
    volume: float
    sizes: tuple[tuple[str, float], ...]
    """Of each face: kind and root of the area in mm; sorted."""
    reaches: tuple[tuple[str, float], ...]
    """Of each face: kind and distance from the centroid in mm; sorted apart, since equal areas come in any order."""
    hand: float
    """Sign of a triple product of third moments, 0 for a shape that is its own mirror image."""
    centroid: tuple[float, float, float]
    signatures: frozenset[tuple[str, int]]
    """Face signatures with how often each occurs: the same only in the same frame."""


def shape_of(definition: PartDefinition) -> Shape:
    """Return the numbers of a definition, from its faces (mm)."""
    areas = np.array([face.area for face in definition.faces] or [0.0])
    centers = np.array([face.center for face in definition.faces] or [(0.0, 0.0, 0.0)])
    centroid = areas @ centers / max(float(areas.sum()), 1e-12)
    apart = centers - centroid
    reach = np.linalg.norm(apart, axis=1)
    kinds = [face.kind for face in definition.faces]
    size = float(np.sqrt(areas.sum()))
    counted = Counter(face.signature for face in definition.faces)
    return Shape(
        size=size,
        volume=definition.volume,
        sizes=tuple(sorted(zip(kinds, np.sqrt(areas).tolist(), strict=False))),
        reaches=tuple(sorted(zip(kinds, reach.tolist(), strict=False))),
        hand=_hand(areas, apart, reach, size),
        centroid=tuple(centroid.tolist()),
        signatures=frozenset(counted.items()),
    )


def _hand(areas: Array, apart: Array, reach: Array, size: float) -> float:
    """Three vectors that turn with the shape; their triple product changes sign in a mirror."""
    weights = areas / max(float(areas.sum()), 1e-12)
    scaled, far = apart / max(size, 1e-12), reach / max(size, 1e-12)
    vectors = [(weights * far**power) @ scaled for power in (1, 2, 3)]
    product = float(np.linalg.det(np.stack(vectors)))
    scale = float(np.prod([np.linalg.norm(vector) for vector in vectors]))
    return 0.0 if abs(product) < 1e-4 * max(scale, 1e-12) or scale < 1e-12 else float(np.sign(product))


def congruent(one: Shape, two: Shape) -> bool:
    """The same shape but for rigid motion."""
    if one.signatures == two.signatures and one.signatures:
        return True
    if len(one.sizes) != len(two.sizes) or one.hand * two.hand < 0:
        return False
    allowed = RELATIVE * max(one.size, two.size)
    if abs(np.cbrt(one.volume) - np.cbrt(two.volume)) > allowed:
        return False
    pairs = [*zip(one.sizes, two.sizes, strict=True), *zip(one.reaches, two.reaches, strict=True)]
    return all(a[0] == b[0] and abs(a[1] - b[1]) <= allowed for a, b in pairs)


def alike(one: Shape, two: Shape) -> float:
    """0..1: how much of the two is the same. 1 for congruent shapes."""
    if congruent(one, two):
        return 1.0
    size = min(one.size, two.size) / max(one.size, two.size, 1e-12)
    mine, theirs = _face_counts(one), _face_counts(two)
    shared = sum((mine & theirs).values())
    every = max(sum(mine.values()), sum(theirs.values()), 1)
    same_frame = {name for name, _ in one.signatures} & {name for name, _ in two.signatures}
    frame = len(same_frame) / max(len(one.signatures), len(two.signatures), 1)
    return float(0.4 * size + 0.4 * shared / every + 0.2 * frame) * 0.99


def _face_counts(shape: Shape) -> Counter[tuple[str, int]]:
    """Faces by kind and size, sizes in steps of a hundredth on a logarithmic scale."""
    return Counter((kind, round(np.log(max(size, 1e-9)) * 100)) for kind, size in shape.sizes)
