"""What the neighbours of a part say of it: what lies flat between two others is a gasket, and what covers a display is
clear.

Only boxes are compared, so that it costs next to nothing, and only parts of which nothing else is known are asked
about. Both are common practice, no published source; how sure they are is no more than a guess.
"""

from __future__ import annotations

import re
from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from usual_lamp.core.appearance.clues import Clue
from usual_lamp.core.assembly import Assembly, Occurrence

Array = NDArray[np.float64]
DISPLAY = re.compile(r"display|\blcd\b|oled|\btft\b|touch ?screen|bildschirm|anzeige\b|écran|pantalla|schermo")
GASKET, WINDOW = ("rubber-black", 0.5), ("polycarbonate-clear", 0.5)
THICKEST_GASKET, THICKEST_WINDOW = 2.0, 6.0
"""mm."""
FLAT = 0.12
"""Thickness over the smaller of the two other extents, up to which a part is flat."""
TOUCHES, BEFORE = 0.1, 5.0
"""mm between boxes: of parts that lie on each other, and of a window and the display behind it."""
COVERS = 0.8
"""Share of an area that a neighbour's box covers."""


def neighbours_say(assembly: Assembly, shown: Sequence[Occurrence], asked: Sequence[Occurrence]) -> dict[str, Clue]:
    """What the neighbours of some of the shown parts say of them, by uid."""
    found: dict[str, Clue] = {}
    if not asked or len(shown) < 2:
        return found
    boxes = np.stack(assembly.boxes(shown), axis=1)
    place = {part.uid: k for k, part in enumerate(shown)}
    displays = [k for k, part in enumerate(shown) if DISPLAY.search(_name(assembly, part).lower())]
    middle = boxes.mean(axis=(0, 1))
    for part in asked:
        own = boxes[place[part.uid]]
        size = own[1] - own[0]
        axis = int(size.argmin())
        if size[axis] > FLAT * np.delete(size, axis).min():
            continue
        called = [f"“{_name(assembly, shown[k])}”" for k in _between(boxes, own, axis, place[part.uid])]
        display = _covered(boxes, own, axis, middle, displays)
        if display is not None:
            found[part.uid] = Clue("beside", f"covers “{_name(assembly, shown[display])}”", *WINDOW)
        elif called:
            found[part.uid] = Clue("beside", f"lies flat between {' and '.join(called)}", *GASKET)
    return found


def _name(assembly: Assembly, part: Occurrence) -> str:
    return part.name or assembly.definition_of(part).name


def _overlap(boxes: Array, own: Array, axis: int) -> Array:
    """(N,) mm² that boxes (N, 2, 3) and another share, seen along an axis."""
    across = [k for k in range(3) if k != axis]
    low, high = np.maximum(boxes[:, 0], own[0])[:, across], np.minimum(boxes[:, 1], own[1])[:, across]
    return np.asarray(np.prod(np.maximum(high - low, 0.0), axis=1))


def _area(box: Array, axis: int) -> float:
    return float(np.prod(np.delete(box[1] - box[0], axis)))


def _covered(boxes: Array, own: Array, axis: int, middle: Array, displays: list[int]) -> int | None:
    """The display right behind a flat part, seen from outside of the product."""
    if own[1, axis] - own[0, axis] > THICKEST_WINDOW or not displays:
        return None
    shared = _overlap(boxes[displays], own, axis)
    for k, area in zip(displays, shared, strict=True):
        box = boxes[k]
        outwards = box[:, axis].mean() >= middle[axis]
        gap = own[0, axis] - box[1, axis] if outwards else box[0, axis] - own[1, axis]
        if area >= COVERS * _area(box, axis) and -TOUCHES <= gap <= BEFORE:
            return k
    return None


def _between(boxes: Array, own: Array, axis: int, place: int) -> tuple[int, ...]:
    """The two parts that a flat part lies on, one with each side, and that cover it; none where there are not two."""
    if own[1, axis] - own[0, axis] > THICKEST_GASKET:
        return ()
    covering = _overlap(boxes, own, axis) >= COVERS * _area(own, axis)
    covering[place] = False
    gaps = (boxes[:, 1, axis] - own[0, axis], boxes[:, 0, axis] - own[1, axis])
    below, above = (np.flatnonzero(covering & (np.abs(gap) <= TOUCHES)) for gap in gaps)
    return (int(below[0]), int(above[0])) if len(below) and len(above) else ()
