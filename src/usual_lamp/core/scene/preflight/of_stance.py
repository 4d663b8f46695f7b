"""The check of how a model stands: files often have it lying on its side or on an edge."""

from __future__ import annotations

import numpy as np

from usual_lamp.core.assembly import Occurrence
from usual_lamp.core.assembly.outline import outermost, unpacked
from usual_lamp.core.assembly.resting import Rest, resting_attitudes
from usual_lamp.core.scene.attitude import placement_of, set_down, turned_about, turning
from usual_lamp.core.scene.edits import SetModels
from usual_lamp.core.scene.preflight.check import Array, Check, Fix, Ready

STANDS = np.cos(np.radians(3.0))
"""Of the angle between what points down and a side that it rests on."""
LIKELY = 0.12
"""Share of all directions that must lead to a side for it to be proposed."""
EASY = -0.2
"""Cosine of the turn up to which a side is proposed before those that would turn the model over."""
DOWN = np.array([0.0, 0.0, -1.0])


def stance(ready: Ready) -> list[Check]:
    """Models that would tip over as they stand, each with the side that they would rest on."""
    found = []
    for model, use in ready.scene.models.items():
        parts = [part for part in ready.resolved.shown if part.model == model]
        if use.piece is not None or not parts:
            continue
        points, middle = _points(ready, model, parts)
        rests = resting_attitudes(points, middle)
        if not rests or any(np.array(rest.down) @ DOWN > STANDS for rest in rests):
            continue
        best = _best(rests)
        if best is None:
            continue
        center = (points.min(axis=0) + points.max(axis=0)) / 2
        rotation = turning(np.array(best.down), DOWN)
        turned = turned_about(use.placement.matrix, rotation, center)
        moved = (points - center) @ rotation.T + center
        placed = placement_of(set_down(turned, moved, float(points[:, 2].min())), use.placement.pivot)
        angle = np.degrees(np.arccos(np.clip(np.array(best.down) @ DOWN, -1, 1)))
        number = f"{use.name} stands on an edge or a point; it rests after a turn of {angle:.0f}°"
        edit = SetModels(models={model: use.model_copy(update={"placement": placed})})
        uids = [part.uid for part in parts]
        found.append(
            Check(
                kind="stance",
                title="It would tip over",
                number=number,
                uids=uids,
                fix=Fix(words="Set it down", edit=edit),
            )
        )
    return found


def _best(rests: list[Rest]) -> Rest | None:
    """The steadiest that needs no turning over, or else the steadiest."""
    likely = [rest for rest in rests if rest.share >= LIKELY]
    easy = [rest for rest in likely if np.array(rest.down) @ DOWN > EASY]
    return next(iter(easy or likely), None)


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
