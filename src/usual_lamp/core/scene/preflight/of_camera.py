"""Checks of where the camera stands and what it makes sharp, of the size of the picture, the light and the floor."""

from __future__ import annotations

import math

import numpy as np

from usual_lamp.core.appearance import hex_to_linear
from usual_lamp.core.appearance.color_difference import linear_to_lab
from usual_lamp.core.assembly import Mesh
from usual_lamp.core.camera import frame_points, sharp_range
from usual_lamp.core.numbers_in_words import said, told
from usual_lamp.core.quality import CLEAN, SAMPLES
from usual_lamp.core.scene.edits import SetLighting, SetShot
from usual_lamp.core.scene.preflight.check import Array, Check, Fix, Ready
from usual_lamp.core.scene.shot import Shot

OFF_FLOOR = 2e-3
"""Of the product's size: how far it may hang above the floor or stick in it before that is seen (by eye)."""
LEAST_ACROSS = 0.12
"""Of the frame: a product that is smaller is lost in it (by eye)."""
LEAST_WIDTH = 800
"""Pixels: fewer look coarse on a slide."""
OVERVIEW = 0.4
"""Share of the product's outline that is in the frame, from which on a shot is no close-up (by eye)."""
WHOLE = 0.985
"""The same share, from which on nothing is missing: boxes are wider than what is in them."""
OFF_EXPOSURE = 1.5
"""EV."""
NOISY = 0.08
"""Noise that shows as smears where the denoiser has taken it out (by eye)."""
OWN_TONE = 12.0
"""CIELAB difference: a product that differs less from its backdrop loses its outline (by eye)."""


def framed(ready: Ready) -> Check | None:
    """A product that is out of the frame, lost in it, or cut by its edge."""
    fix = _reframed(ready)
    if not ready.seen:
        return Check(kind="frame", title="Nothing is in the frame", number="0 parts", fix=fix)
    seen = ready.projected[ready.in_frame].reshape(-1, 3)
    if (seen[:, 2] <= 0).any():
        return None
    across = float((seen[:, :2].max(axis=0) - seen[:, :2].min(axis=0)).max() / 2)
    if across < LEAST_ACROSS:
        number = f"it takes {across:.0%} of the frame"
        return Check(kind="frame", title="The product is small in the frame", number=number, fix=fix)
    inside = _inside(ready)
    if not OVERVIEW <= inside < WHOLE:
        return None
    number = f"{1 - inside:.0%} of it lies outside"
    return Check(kind="frame", title="The frame cuts the product", number=number, fix=fix)


def _inside(ready: Ready) -> float:
    """Share of the rectangle round the product's outline that is in the frame; pieces of context do not count."""
    context = {model for model, use in ready.scene.models.items() if use.piece is not None}
    product = np.array([part.model not in context for part in ready.parts])
    points = ready.projected[product].reshape(-1, 3)
    if not len(points) or (points[:, 2] <= 0).any():
        return 1.0
    low, high = points[:, :2].min(axis=0), points[:, :2].max(axis=0)
    return float(np.prod((np.clip(high, -1, 1) - np.clip(low, -1, 1)) / np.maximum(high - low, 1e-9)))


def _reframed(ready: Ready) -> Fix | None:
    if ready.shot.locked or not ready.parts:
        return None
    camera = ready.shot.camera
    made = frame_points(ready.corners.reshape(-1, 3), -camera.basis()[2], camera.focal_length, ready.aspect)
    moved = camera.model_copy(update={"position": made.position, "target": made.target, "near": None})
    return _fixed(ready, "Fit to frame", camera=moved.model_copy(update={"shift": (0.0, 0.0), "focus_distance": None}))


def _fixed(ready: Ready, words: str, **change: object) -> Fix | None:
    """A fix that changes the shot; None where it is locked."""
    if ready.shot.locked:
        return None
    shot = Shot.model_validate(ready.shot.model_copy(update=change).model_dump())
    return Fix(words=words, edit=SetShot(id=ready.shot_id, shot=shot))


def inside_a_part(ready: Ready) -> Check | None:
    """A camera that stands in a part looks at the inside of its surfaces."""
    camera = ready.shot.camera
    if camera.parallel or camera.near is not None:
        return None
    eye = np.array(camera.position)
    low, high = ready.boxes
    for index in np.flatnonzero(np.all((eye > low) & (eye < high), axis=1)):
        part = ready.parts[index]
        if ready.assembly.definition_of(part).volume <= 0:
            continue
        local = np.linalg.inv(ready.assembly.world[part.uid]) @ np.append(eye, 1.0)
        if abs(winding(ready.mesh_of(ready.assembly.definition_of(part).mesh), local[:3])) > 0.5:
            number = f"in {part.name}"
            return Check(
                kind="inside", title="The camera is inside a part", number=number, uids=[part.uid], fix=_reframed(ready)
            )
    return None


def winding(mesh: Mesh, point: Array) -> float:
    """How often a mesh goes round a point: 1 inside of a closed one, 0 outside (van Oosterom and Strackee, 1983)."""
    a, b, c = np.moveaxis(mesh.positions[mesh.triangles].astype(np.float64) - point, 1, 0)
    la, lb, lc = (np.linalg.norm(v, axis=1) for v in (a, b, c))
    dots = [np.einsum("ij,ij->i", u, v) for u, v in ((a, b), (b, c), (c, a))]
    over = np.einsum("ij,ij->i", a, np.cross(b, c))
    angles = 2 * np.arctan2(over, la * lb * lc + dots[0] * lc + dots[1] * la + dots[2] * lb)
    return float(angles.sum() / (4 * np.pi))


def focus(ready: Ready) -> Check | None:
    """A lens focused before or behind everything in the frame."""
    sharp = sharp_range(ready.shot.camera)
    if sharp is None or not ready.seen:
        return None
    depth = ready.projected[ready.in_frame][..., 2]
    nearest, farthest = float(depth.min()), float(depth.max())
    behind = sharp.near > farthest
    if not behind and (sharp.far is None or sharp.far >= nearest):
        return None
    middle = float(np.median(depth.mean(axis=1)))
    far = "infinity" if sharp.far is None else said(sharp.far, 0)
    number = f"sharp from {said(sharp.near, 0)} to {far}; the product is {said(nearest, 0)} to {said(farthest, 0)} away"
    camera = ready.shot.camera.model_copy(update={"focus_distance": round(middle, 2)})
    fix = _fixed(ready, "Focus on the product", camera=camera)
    title = f"Focus is {'behind' if behind else 'before'} the product"
    return Check(kind="focus", title=title, number=number, fix=fix)


def size(ready: Ready) -> Check | None:
    """A picture too small for a slide."""
    width, height = ready.shot.width, ready.shot.height
    if max(width, height) >= LEAST_WIDTH:
        return None
    factor = 1920 / max(width, height)
    fix = _fixed(ready, f"Set to {told(1920)} pixels", width=round(width * factor), height=round(height * factor))
    number = f"{told(width)} x {told(height)} pixels; a slide shows {told(1920)}"
    return Check(kind="size", title="Small for a slide", number=number, fix=fix)


def exposure(ready: Ready) -> Check | None:
    """Too little light or too much, by what the traced product asks for."""
    if ready.metered is None or abs(off := ready.shot.exposure - ready.metered) < OFF_EXPOSURE:
        return None
    right = round(ready.metered, 1)
    title = "Too dark" if off > 0 else "Too bright"
    number = f"exposed for {told(ready.shot.exposure, 1)} EV; the product meters {told(right, 1)} EV"
    return Check(
        kind="exposure", title=title, number=number, fix=_fixed(ready, f"Set to {told(right, 1)} EV", exposure=right)
    )


def noise(ready: Ready) -> Check | None:
    """Noise that a still of the usual quality will be left with, by the latest still of the shot: it falls as the root
    of the samples grows."""
    if ready.noise is None:
        return None
    usual = SAMPLES["fair"]
    left = ready.noise.left * math.sqrt(ready.noise.samples / usual)
    if left <= NOISY:
        return None
    needed = math.ceil(usual * (left / CLEAN) ** 2)
    number = f"about {left:.0%} after {usual} samples; {told(needed)} bring it down to {CLEAN:.0%}"
    fix = Fix(words=f"Trace until {CLEAN:.0%}", action="noise")
    return Check(kind="noise", title="Noise will be left", number=number, fix=fix)


def backdrop(ready: Ready) -> Check | None:
    """A plain or graded backdrop of the tone of the product, whose outline is lost in it.

    Compared are the backdrop's colour and the mean of what matt and painted parts send back; metals and clear
    parts mirror what is round them, and are left out.
    """
    behind = ready.lighting.backdrop
    if behind.kind not in ("plain", "gradient", "radial") or behind.transparent:
        return None
    colors, areas = [], []
    for part in ready.seen:
        params = ready.resolved.worn[part.uid].appearance.params
        if params.base_metalness < 0.5 and params.transmission_weight < 0.5 and params.geometry_opacity > 0.5:
            colors.append(params.base_color)
            areas.append(ready.assembly.definition_of(part).area)
    whole = sum(ready.assembly.definition_of(part).area for part in ready.seen)
    if not areas or sum(areas) < 0.5 * whole:
        return None
    product = _lab(np.average(colors, axis=0, weights=areas))
    tone = np.mean([_lab(np.array(hex_to_linear(one))) for one in (behind.bottom, behind.top)], axis=0)
    if np.linalg.norm(product - tone) >= OWN_TONE:
        return None
    lighter = bool(product[0] < 60)
    bottom, top = ("#F1EBE2", "#DFD6CA") if lighter else ("#8A8F96", "#5B6068")
    changed = ready.lighting.model_copy(update={"backdrop": behind.model_copy(update={"bottom": bottom, "top": top})})
    fix = Fix(
        words=f"Make it {'lighter' if lighter else 'darker'}", edit=SetLighting(lighting=changed, id=ready.lit_by)
    )
    number = f"lightness {tone[0]:.0f} behind {product[0]:.0f} of the product (L*), and much the same hue"
    return Check(kind="backdrop", title="Backdrop in the product's own tone", number=number, fix=fix)


def _lab(color: Array) -> Array:
    return np.asarray(linear_to_lab(np.asarray(color)[None])[0])


def floor(ready: Ready) -> Check | None:
    """A floor that the product hangs above or sticks in, or that is looked at from beneath."""
    lighting, bounds = ready.lighting, ready.resolved.bounds
    if not lighting.floor or bounds is None:
        return None
    lift = lighting.floor_finish.lift
    if abs(lift) <= OFF_FLOOR * ready.size:
        return None
    finish = lighting.floor_finish.model_copy(update={"lift": 0.0})
    changed = lighting.model_copy(update={"floor_finish": finish})
    fix = Fix(words="Put the floor under it", edit=SetLighting(lighting=changed, id=ready.lit_by))
    title = "The product sticks in the floor" if lift > 0 else "The product hangs above the floor"
    return Check(kind="floor", title=title, number=said(abs(lift)), fix=fix)
