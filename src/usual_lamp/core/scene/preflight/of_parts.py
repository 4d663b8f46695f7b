"""Checks of what the parts are and wear."""

from __future__ import annotations

from collections import defaultdict

import numpy as np

from usual_lamp.core.appearance import Appearance
from usual_lamp.core.assembly.visibility import in_one_place
from usual_lamp.core.numbers_in_words import told
from usual_lamp.core.picture.burn_out import burns_from
from usual_lamp.core.scene.decal_sharpness import SOFT, pixels_covered
from usual_lamp.core.scene.edits import ChangeAppearance, SetStates
from usual_lamp.core.scene.edits.base import counted
from usual_lamp.core.scene.fit_to_shot import PIXELS, pixel_size
from usual_lamp.core.scene.levels import Why
from usual_lamp.core.scene.preflight.check import Check, Fix, Ready

BARE: tuple[Why, ...] = ("from CAD", "nothing yet")
BELOW_BURNING = 0.8
"""Of the luminance at which a glow loses its colour: what the fix sets."""
GLASS = 0.05
"""Transmission weight from which on light goes through."""


SOFT_TEXTURE = 2.0
"""Pixels of the still that one pixel of a texture may cover: grain forgives more than print does (by eye)."""


def untouched(ready: Ready) -> Check | None:
    """Parts in the frame that nobody gave an appearance."""
    uids = [part.uid for part in ready.seen if ready.resolved.worn[part.uid].why in BARE]
    if not uids:
        return None
    number = f"{counted(len(uids), 'part')} of {len(ready.seen)} in this shot"
    return Check(
        kind="untouched",
        title="No appearance yet",
        number=number,
        uids=uids,
        fix=Fix(words="First coat…", action="first coat"),
    )


def never_visible(ready: Ready) -> Check | None:
    """Parts that show from no side: they cost time and change nothing."""
    if ready.sight is None:
        return None
    shown = {part.uid for part in ready.parts}
    uids = [uid for uid in ready.sight.never if uid in shown]
    return _left_out("never visible", "Never visible from outside", uids)


def twice(ready: Ready) -> Check | None:
    """The same part twice in one place: its faces flicker into each other."""
    placed = [(ready.assembly.definition_of(part).mesh, ready.assembly.world[part.uid]) for part in ready.parts]
    uids = [ready.parts[index].uid for group in in_one_place(placed) for index in group[1:]]
    return _left_out("twice in one place", "Twice in one place", uids)


def _left_out(kind: str, title: str, uids: list[str]) -> Check | None:
    if not uids:
        return None
    fix = Fix(words="Suppress", edit=SetStates(states=dict.fromkeys(uids, "suppressed")))
    return Check(kind=kind, title=title, number=counted(len(uids), "part"), uids=uids, fix=fix)  # type: ignore[arg-type]


def clipped_glow(ready: Ready) -> list[Check]:
    """Glowing appearances that burn out to white in this shot, each with the luminance at which they would not."""
    worn = _wearers(ready)
    found = []
    for appearance, uids in worn.items():
        luminance = appearance.params.emission_luminance * 2.0**ready.lighting.glow if ready.lighting.glows else 0.0
        limit = burns_from(appearance.params.emission_color, ready.shot.finish) if luminance > 0 else None
        if limit is None or luminance <= limit:
            continue
        right = float(f"{limit * BELOW_BURNING / 2.0**ready.lighting.glow:.2g}")
        fix = None
        if appearance.id in ready.scene.appearances:
            params = appearance.params.model_copy(update={"emission_luminance": right})
            fixed = appearance.model_copy(update={"params": params})
            fix = Fix(words=f"Set to {told(right)} cd/m²", edit=ChangeAppearance(appearance=fixed))
        number = f"{told(luminance)} cd/m²; loses its colour from {told(limit)} cd/m² at this exposure"
        found.append(
            Check(kind="clipped glow", title=f"{appearance.name} burns out", number=number, uids=uids, fix=fix)
        )
    return found


def _wearers(ready: Ready) -> dict[Appearance, list[str]]:
    """Parts in the frame by what they wear, as a whole or on a face. They share their appearances, so most are told
    apart by what they are in memory."""
    by_id: dict[int, tuple[Appearance, list[str]]] = {}
    for part in ready.seen:
        worn = ready.resolved.worn[part.uid]
        for appearance in {id(one): one for one in (worn.appearance, *worn.faces.values())}.values():
            by_id.setdefault(id(appearance), (appearance, []))[1].append(part.uid)
    found: dict[Appearance, list[str]] = defaultdict(list)
    for appearance, uids in by_id.values():
        found[appearance] += uids
    return found


def facets(ready: Ready) -> Check | None:
    """Parts whose triangles lie farther off their surface than half a pixel, as far as that was measured."""
    uids, worst = [], 0.0
    for part, corners in zip(ready.parts, ready.corners, strict=True):
        definition = ready.assembly.definition_of(part)
        if definition.deviation is None or definition.shape is None:
            continue
        scale = float(np.cbrt(abs(np.linalg.det(ready.assembly.world[part.uid][:3, :3]))))
        off = definition.deviation * scale / pixel_size(ready.shot, corners)
        if off > PIXELS:
            uids.append(part.uid)
            worst = max(worst, off)
    inside = {part.uid for part in ready.seen}
    uids = [uid for uid in uids if uid in inside]
    if not uids:
        return None
    number = f"up to {told(worst, 1)} pixels off the true outline on {counted(len(uids), 'part')}"
    fix = Fix(words="Fit to this shot", action="tessellate")
    return Check(kind="facets", title="Facets will show", number=number, uids=uids, fix=fix)


def soft_decals(ready: Ready) -> list[Check]:
    """Decals whose picture has fewer pixels than the shot shows of them."""
    shown = {part.uid for part in ready.seen}
    found = []
    for decal in ready.scene.decals.values():
        texels = ready.texels.get(decal.picture)
        if not decal.on or decal.waits or decal.part not in shown or texels is None:
            continue
        matrix, size = ready.assembly.world[decal.part], (ready.shot.width, ready.shot.height)
        pixels = pixels_covered(decal, matrix, ready.shot.camera, size, texels)
        if pixels is not None and pixels > SOFT:
            wanted = int(np.ceil(texels[0] * pixels / 10) * 10)
            number = f"one pixel of it covers {told(pixels, 1)} of the still; use a picture {told(wanted)} pixels wide"
            found.append(
                Check(kind="soft decal", title=f"{decal.name} will look soft", number=number, uids=[decal.part])
            )
    return found


def soft_textures(ready: Ready) -> list[Check]:
    """Appearances laid on in mm whose picture has fewer pixels than the shot shows of it, where it comes nearest."""
    corners = dict(zip((part.uid for part in ready.parts), ready.corners, strict=True))
    found = []
    for appearance, uids in _wearers(ready).items():
        texels = [
            (texture.width / ready.texels[texture.picture][0], texture)
            for texture in appearance.textures
            if texture.mapping != "file" and texture.picture in ready.texels
        ]
        if not texels:
            continue
        texel, texture = max(texels, key=lambda one: one[0])
        pixels = texel / min(pixel_size(ready.shot, corners[uid]) for uid in uids)
        if pixels > SOFT_TEXTURE:
            wanted = int(np.ceil(ready.texels[texture.picture][0] * pixels / 100) * 100)
            covers = f"one pixel of its picture covers {told(pixels, 1)} of the still"
            number = f"{covers}; use one {told(wanted)} pixels wide"
            title = f"{appearance.name} will look soft"
            found.append(Check(kind="soft texture", title=title, number=number, uids=uids))
    return found


def open_glass(ready: Ready) -> Check | None:
    """Clear parts that are no closed body: light that enters never leaves, so they look like solid glass or black."""
    uids = []
    for part in ready.seen:
        params = ready.resolved.worn[part.uid].appearance.params
        clear = params.transmission_weight > GLASS and not params.geometry_thin_walled
        if clear and ready.assembly.definition_of(part).volume <= 0:
            uids.append(part.uid)
    if not uids:
        return None
    number = f"{counted(len(uids), 'part')}, open or without volume; use a thin-walled appearance or close the body"
    return Check(kind="open glass", title="Glass without thickness", number=number, uids=uids)


def open_meshes(ready: Ready) -> Check | None:
    """Meshes in the frame that are open or turned over in places: one may look at their back."""
    uids = [
        part.uid
        for part in ready.seen
        if any("open:" in defect or "no outside" in defect for defect in ready.assembly.definition_of(part).defects)
    ]
    if not uids:
        return None
    number = f"{counted(len(uids), 'part')}; their backs may be seen"
    return Check(kind="open mesh", title="Open meshes in view", number=number, uids=uids)
