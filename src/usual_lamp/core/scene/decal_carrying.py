"""What becomes of a decal when its part has another shape: it keeps its place, moves with its face, or has lost it."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from usual_lamp.core.assembly import Mesh
from usual_lamp.core.scene.decal import Decal
from usual_lamp.core.scene.decal_faces import crossings, face_beneath
from usual_lamp.core.scene.sheets import on_sheet
from usual_lamp.core.scene.wrapping import slope_of

Array = NDArray[np.float64]
Fate = Literal["kept", "moved", "lost"]
REACH = 20.0
"""mm along its normal within which a face that moved is looked for; for large decals twice their size."""
CARRIES = 3
"""Of the five spots that are looked at, middle and towards the corners, that must lie on a face."""


@dataclass(frozen=True)
class Carried:
    """A decal on the new shape."""

    fate: Fate
    decal: Decal
    shift: float = 0.0
    """mm along its normal."""


def carried(mesh: Mesh, decal: Decal, signatures: Sequence[str] = ()) -> Carried:
    """The decal on a mesh in its part's frame; `signatures` are those of its faces, in their order. One that was kept
    to faces is kept to those that are still there, or to the face that it lies on now."""
    found = _carried(mesh, decal)
    left = tuple(signature for signature in decal.faces if signature in signatures)
    if found.fate == "lost" or left == decal.faces:
        return found
    if not left:
        try:
            left = (signatures[face_beneath(mesh, found.decal.plain)],)
        except LookupError:
            return Carried("lost", decal.model_copy(update={"waits": True}))
    fate: Fate = "moved" if found.fate == "kept" else found.fate
    return Carried(fate, found.decal.model_copy(update={"faces": left}), found.shift)


def followed(mesh: Mesh, unrolled: Mesh, found: Carried, signatures: Sequence[str]) -> Carried:
    """What was found of a decal that follows its face, along the face that lies beneath it now; `unrolled` is the mesh
    with its faces unrolled."""
    try:
        face = face_beneath(mesh, found.decal.plain)
        sheet = on_sheet(unrolled, face, signatures[face], found.decal)
    except LookupError:
        return Carried("lost", found.decal.model_copy(update={"waits": True}))
    if sheet == found.decal.sheet:
        return found
    return Carried("moved", found.decal.model_copy(update={"sheet": sheet}), found.shift)


def _carried(mesh: Mesh, decal: Decal) -> Carried:
    """Where it lies on the new shape, whatever faces it was kept to."""
    right, up, out = decal.plain.axes(turned=decal.wrap is None)
    center = np.asarray(decal.center)
    reach = max(REACH, 2 * max(decal.width, decal.height))
    spots = [(0.0, 0.0), *((0.3 * a, 0.3 * b) for a in (-1, 1) for b in (-1, 1))]
    if decal.wrap:
        # Beside its middle a round face falls away: what counts is its middle line.
        along = slope_of(np.stack([right, up, out]), decal.wrap)
        length = decal.height if decal.wrap.along == "up" else decal.width
        points = [center + along * (length * k) for k in (-0.4, -0.2, 0.0, 0.2, 0.4)]
    else:
        points = [center + right * (decal.width * a) + up * (decal.height * b) for a, b in spots]
    heights = [_height(mesh, point, out, reach) for point in points]
    found = np.array([height for height in heights if height is not None])
    if len(found) < CARRIES:
        return Carried("lost", decal.model_copy(update={"waits": True}))
    shift = float(np.median(found))
    if abs(shift) <= max(decal.depth / 2, 0.05):
        return Carried("kept", decal)
    x, y, z = (round(float(v), 6) for v in center + out * shift)
    change: dict[str, object] = {"center": (x, y, z)}
    if decal.wrap:
        radius = decal.wrap.radius + shift * np.cos(np.radians(decal.wrap.taper))
        change["wrap"] = decal.wrap.model_copy(update={"radius": round(radius, 4)})
    return Carried("moved", Decal.model_validate(decal.model_dump() | change), shift)


def _height(mesh: Mesh, point: Array, out: Array, reach: float) -> float | None:
    """How far along `out` the nearest face that looks that way lies, mm; None for none within reach."""
    heights, _ = crossings(mesh, point, out, out)
    heights = heights[np.abs(heights) <= reach]
    return float(heights[np.abs(heights).argmin()]) if len(heights) else None
