"""What the picture does not need: parts that can be left out, each group with its reason and its one-step fix."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Literal

import numpy as np
from pydantic import BaseModel

from usual_lamp.core.assembly import Assembly, Occurrence
from usual_lamp.core.assembly.visibility import in_one_place
from usual_lamp.core.scene.document import Scene
from usual_lamp.core.scene.resolution import shown_parts
from usual_lamp.core.scene.shot import Shot
from usual_lamp.core.scene.sight import SightAnswer

Kind = Literal["hidden in CAD", "never visible", "in no shot", "smaller than a pixel", "twice in one place", "left out"]


class Finding(BaseModel):
    """Something that can be left out of the picture, and why."""

    kind: Kind
    title: str
    reason: str
    uids: list[str]
    """The parts that accepting it changes."""
    fix: Literal["suppress", "bring back"] | None
    notes: list[str] = []


def findings(assembly: Assembly, scene: Scene, sight: SightAnswer | None) -> list[Finding]:
    """What there is to do, most certain first; what needs `sight` is left out until that is known.

    No part is offered twice for suppression: it stands where its reason is strongest.
    """
    found: list[Finding] = []
    offered: set[str] = set()

    def offer(kind: Kind, title: str, reason: str, uids: list[str]) -> None:
        """Offer parts for suppression that were not offered yet."""
        fresh = [uid for uid in uids if uid not in offered]
        if fresh:
            offered.update(fresh)
            found.append(Finding(kind=kind, title=title, reason=reason, uids=fresh, fix="suppress"))

    waiting = [uid for uid in assembly.hidden_in_cad() if scene.states.get(uid) == "suppressed"]
    if waiting:
        reason = "Hidden in the CAD file, so left out."
        found.append(
            Finding(kind="hidden in CAD", title="Hidden in CAD", reason=reason, uids=waiting, fix="bring back")
        )
    shown = shown_parts(assembly, scene)
    twins = in_one_place([(assembly.definition_of(part).mesh, assembly.world[part.uid]) for part in shown])
    again = [shown[index].uid for group in twins for index in group[1:]]
    offer("twice in one place", "Twice in one place", "The same part lies in the same place already.", again)
    if sight is not None:
        now = {part.uid for part in shown}
        never = [uid for uid in sight.never if uid in now]
        offer(
            "never visible",
            "Never visible from outside",
            "Nothing of them shows from any side, as everything stands now.",
            never,
        )
        everywhere = [set(uids) for uids in sight.not_in_shot.values()]
        missing = set.intersection(*everywhere) & now if everywhere else set()
        shots = "the shot" if len(everywhere) == 1 else f"any of the {len(everywhere)} shots"
        in_order = [part.uid for part in shown if part.uid in missing]
        offer("in no shot", "Not in any shot", f"Not seen in {shots}; a reflection may still show them.", in_order)
    tiny = _smaller_than_a_pixel(assembly, shown, scene.shots.values())
    offer("smaller than a pixel", "Smaller than a pixel", "In every shot, at the size it is taken.", tiny)
    # Reviews that were imported before say "left out".
    gone = [warning for warning in assembly.warnings if "skipped" in warning or "left out" in warning]
    if gone:
        reason = "Empty nodes, and triangles without area or twice in one place: nothing that could be seen."
        found.append(Finding(kind="left out", title="Skipped on import", reason=reason, uids=[], fix=None, notes=gone))
    return found


def _smaller_than_a_pixel(assembly: Assembly, shown: list[Occurrence], shots: Iterable[Shot]) -> list[str]:
    """Parts that reach across less than a pixel in every shot, wherever they lie in the frame."""
    if not shown:
        return []
    low, high = assembly.boxes(shown)
    middles, sizes = (low + high) / 2, np.linalg.norm(high - low, axis=1)
    tiny = np.ones(len(shown), dtype=bool)
    for shot in shots:
        camera, aspect = shot.camera, shot.width / shot.height
        depths = camera.project(middles, aspect)[:, 2]
        if camera.parallel:
            depths = np.full_like(depths, np.linalg.norm(np.subtract(camera.target, camera.position)))
        across, _ = camera.half_tangents(aspect)
        tiny &= (depths > sizes) & (sizes / (2 * across * np.maximum(depths, 1e-9)) * shot.width < 1)
    return [part.uid for part, is_tiny in zip(shown, tiny, strict=True) if is_tiny]
