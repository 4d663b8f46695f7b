"""The check of how a model stands: files often have it lying on its side or on an edge."""

from __future__ import annotations

import numpy as np

from usual_lamp.core.assembly import Occurrence
from usual_lamp.core.assembly.outline import outermost, unpacked
from usual_lamp.core.assembly.resting import Rest, resting_attitudes
from usual_lamp.core.scene.attitude import placement_of, set_down, turned_about, turning
from usual_lamp.core.scene.document import ModelUse
from usual_lamp.core.scene.edits import SetModels
from usual_lamp.core.scene.preflight.check import Array, Check, Fix, Ready
from usual_lamp.core.scene.preflight.labels import Label, labels_of

STANDS = np.cos(np.radians(3.0))
"""Of the angle between what points down and a side that it rests on."""
LIKELY = 0.12
"""Share of all directions that must lead to a side for it to be proposed."""
LIKELY_READ = 0.03
"""The same share, for a side on which its labels are upright."""
READABLE, ON_ITS_HEAD = 0.3, -0.5
"""Means of how upright labels are: from here on they are read, and below they are on their heads (by eye)."""
EASY = -0.2
"""Cosine of the turn up to which a side is proposed before those that would turn the model over."""
DOWN = np.array([0.0, 0.0, -1.0])


def stance(ready: Ready) -> list[Check]:
    """Models that would tip over as they stand, or whose print stands on its head, each with the side to rest on."""
    found = []
    for model, use in ready.scene.models.items():
        parts = [part for part in ready.resolved.shown if part.model == model]
        tilted_with = ready.lighting.floor_finish.tilts
        if use.piece is not None or not parts or (tilted_with and tilted_with.model == model):
            continue
        points, middle = _points(ready, model, parts)
        rests, labels = resting_attitudes(points, middle), labels_of(ready, model, parts)
        tips = not any(np.array(rest.down) @ DOWN > STANDS for rest in rests)
        printed = [label for label in labels if label.printed]
        reversed_print = bool(printed) and _read(printed, DOWN) < ON_ITS_HEAD
        best = _best(rests, labels)
        if not (tips or reversed_print) or best is None:
            continue
        if not tips and _read(printed, np.array(best.down)) < READABLE:
            continue
        edit, angle = _set_on(best, use, points)
        title = "It would tip over" if tips else "Its print is upside down"
        stands = "stands on an edge or a point" if tips else "stands on its head"
        number = f"{use.name} {stands}; it {'rests' if tips else 'is upright'} after a turn of {angle:.0f}°"
        fix = Fix(words="Set it down" if tips else "Set it upright", edit=SetModels(models={model: edit}))
        found.append(Check(kind="stance", title=title, number=number, uids=[part.uid for part in parts], fix=fix))
    return found


def _set_on(rest: Rest, use: ModelUse, points: Array) -> tuple[ModelUse, float]:
    """A model set down on a side, as high as it stood, and the degrees that it is turned by."""
    down = np.array(rest.down)
    center = (points.min(axis=0) + points.max(axis=0)) / 2
    rotation = turning(down, DOWN)
    turned = turned_about(use.placement.matrix, rotation, center)
    moved = (points - center) @ rotation.T + center
    placed = placement_of(set_down(turned, moved, float(points[:, 2].min())), use.placement.pivot)
    angle = np.degrees(np.arccos(np.clip(down @ DOWN, -1, 1)))
    return use.model_copy(update={"placement": placed}), float(angle)


def _read(labels: list[Label], down: Array) -> float:
    """How well labels are read where a direction points to the ground, -1 to 1; 0 without any."""
    return float(np.mean([label.upright(down) for label in labels])) if labels else 0.0


def _best(rests: list[Rest], labels: list[Label]) -> Rest | None:
    """The steadiest side of those on which labels are read best; if they say nothing, the steadiest that needs no
    turning over; or else the steadiest."""
    likely = [rest for rest in rests if rest.share >= LIKELY]
    read = [rest for rest in rests if rest.share >= LIKELY_READ and _read(labels, np.array(rest.down)) > READABLE]
    if read:
        return max(read, key=lambda rest: (round(_read(labels, np.array(rest.down)), 1), _is_easy(rest), rest.share))
    return next(iter([rest for rest in likely if _is_easy(rest)] or likely), None)


def _is_easy(rest: Rest) -> bool:
    """Whether it takes no turning over."""
    return bool(np.array(rest.down) @ DOWN > EASY)


def _points(ready: Ready, model: str, parts: list[Occurrence]) -> tuple[Array, Array]:
    """Points on the hull of some parts and their centre of mass, mm, as far as volumes are known."""
    shown = tuple(part.uid for part in parts)
    known: dict[str, tuple[tuple[str, ...], Array, Array]] = ready.assembly.kept.setdefault("stances", {})
    if model not in known or known[model][0] != shown:
        clouds, middles, weights = [], [], []
        for part in parts:
            definition, matrix = ready.assembly.definition_of(part), ready.assembly.world[part.uid]
            cloud = unpacked(definition.outline) if definition.outline else np.array(definition.bounds)
            cloud = cloud @ matrix[:3, :3].T + matrix[:3, 3]
            clouds.append(cloud)
            middles.append((cloud.min(axis=0) + cloud.max(axis=0)) / 2)
            weights.append(max(definition.volume, 1e-6))
        hull = unpacked(outermost(np.concatenate(clouds)))
        known[model] = shown, hull, np.average(middles, axis=0, weights=weights)
    return known[model][1:]
