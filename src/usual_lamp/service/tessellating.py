"""Changing the tessellation of a model, a sub-assembly or a part that is in a review already."""

from __future__ import annotations

import json
import math
from dataclasses import dataclass

from sqlalchemy.orm import Session

from usual_lamp.core.assembly import Assembly, PartDefinition
from usual_lamp.core.intake import QUALITIES, IntakeResult
from usual_lamp.core.intake.tessellation import Quality
from usual_lamp.core.scene import Scene, SetModels
from usual_lamp.core.scene.fit_to_shot import FREE_ANGLE, MARGIN, chords_for_shot
from usual_lamp.service import editing
from usual_lamp.service.errors import NotFound, Refused
from usual_lamp.service.intakes import keep_derived
from usual_lamp.service.reviews import arranged_assembly, assembly_of, new_id, require, scene_of, touch
from usual_lamp.store import Store, again_when_overtaken, blobs
from usual_lamp.store.tables import IntakeRun

Wanted = dict[str, tuple[float, float, float]]
"""Chord (mm), angle (radians) and the largest deviation accepted (mm, or 0 for any) by definition."""


@dataclass(frozen=True)
class Smoothing:
    """What to do with a mesh that came as triangles."""

    crease: float | None
    """Degrees; none leaves faces and normals as they are grouped."""
    flip: bool


@dataclass(frozen=True)
class Asked:
    assembly: Assembly
    wanted: Wanted
    smoothing: Smoothing | None
    """Then `wanted` names the meshes and its numbers mean nothing."""


@again_when_overtaken
def ask(
    store: Store,
    review_id: str,
    uids: list[str],
    quality: Quality | None = None,
    chord: float | None = None,
    angle: float | None = None,
    shot: str | None = None,
) -> list[str]:
    """Queue new tessellations of the definitions below some nodes (all when there are none); returns the runs' ids.

    By quality, or chord (mm) and angle (degrees), or fitted to a shot. Parts that share a definition change with it.
    Raises NotFound, or Refused when nothing of it has exact surfaces.
    """
    with store.begin() as session:
        scene = scene_of(require(session, review_id))
        assembly = arranged_assembly(store, session, scene)
        chosen = {part.uid for uid in uids if uid in assembly.by_uid for part in assembly.below(uid)}
        if shot is not None and shot not in scene.shots:
            raise NotFound("That shot is not in this review any more.")
        fitted = chords_for_shot(assembly, scene, scene.shots[shot]) if shot is not None else {}
        runs = []
        for model, use in scene.models.items():
            own = assembly_of(store, session, use.revision)
            keys = {p.definition or "" for p in own.parts() if not uids or p.uid in chosen}
            exact = [key for key in sorted(keys) if own.definitions[key].shape is not None]
            wanted: Wanted = {}
            for key in exact:
                if shot is not None:
                    at = fitted.get(own.definitions[key].shape or "")
                    pair = (at, FREE_ANGLE, at / MARGIN) if at is not None else None
                else:
                    pair = _pair(own, quality, chord, angle)
                if pair is not None and pair[:2] != _present(own, key):
                    wanted[key] = pair
            if wanted:
                runs.append(_queue(session, review_id, model, use.name, wanted))
        if not runs:
            raise Refused("Nothing to do: it is tessellated like that already, or came as triangles.")
        touch(session, review_id)
        return runs


@again_when_overtaken
def ask_smoothing(store: Store, review_id: str, uids: list[str], crease: float | None, flip: bool) -> list[str]:
    """Queue new normals, or the other side out, for meshes below some nodes; returns the runs' ids.

    Raises NotFound, or Refused when none of them came as triangles.
    """
    with store.begin() as session:
        scene = scene_of(require(session, review_id))
        assembly = arranged_assembly(store, session, scene)
        chosen = {part.uid for uid in uids if uid in assembly.by_uid for part in assembly.below(uid)}
        runs = []
        for model, use in scene.models.items():
            own = assembly_of(store, session, use.revision)
            keys = {p.definition or "" for p in own.parts() if not uids or p.uid in chosen}
            meshes: Wanted = {key: (0.0, 0.0, 0.0) for key in sorted(keys) if own.definitions[key].shape is None}
            if meshes and use.piece is None:
                runs.append(_queue(session, review_id, model, use.name, meshes, {"crease": crease, "flip": flip}))
        if not runs:
            raise Refused("None of these came as triangles.")
        touch(session, review_id)
        return runs


def _pair(
    own: Assembly, quality: Quality | None, chord: float | None, angle: float | None
) -> tuple[float, float, float]:
    if quality is not None:
        asked = QUALITIES[quality]
        corners = [own.corners(part) for part in own.parts() if not part.hidden_in_cad]
        low = [min(float(c[:, k].min()) for c in corners) for k in range(3)]
        high = [max(float(c[:, k].max()) for c in corners) for k in range(3)]
        return round(asked.chord(math.dist(low, high)), 6), asked.angle, 0.0
    if chord is None or angle is None:
        raise Refused("Say how fine: a quality, or a chord and an angle, or a shot.")
    return chord, round(math.radians(angle), 6), 0.0


def _present(own: Assembly, key: str) -> tuple[float, float]:
    definition = own.definitions[key]
    return definition.chord or own.chord, definition.angle or own.angle


def _queue(
    session: Session, review_id: str, model: str, name: str, wanted: Wanted, smoothing: dict[str, object] | None = None
) -> str:
    run = IntakeRun(
        id=new_id(), name=f"Tessellation of {name}"[:120], file_name="", source=None, quality="fair",
        purpose="tessellate", review_id=review_id, model=model, 
        options=json.dumps({"wanted": wanted, "smoothing": smoothing}),
    )  # fmt: skip
    session.add(run)
    return run.id


def asked_of(store: Store, run_id: str) -> Asked:
    """The model as the review shows it now, and what to do with it. Raises NotFound."""
    with store.begin() as session:
        run = session.get(IntakeRun, run_id)
        if run is None or run.review_id is None:
            raise NotFound("This tessellation does not exist.")
        use = scene_of(require(session, run.review_id)).models.get(run.model or "")
        if use is None:
            raise NotFound("The model is not in the review any more.")
        own = assembly_of(store, session, use.revision)
        options = json.loads(run.options or "{}")
        wanted: Wanted = {key: tuple(asked) for key, asked in options["wanted"].items() if key in own.definitions}
        return Asked(own, wanted, Smoothing(**options["smoothing"]) if options["smoothing"] else None)


def _renewed(old: PartDefinition, new: PartDefinition | None) -> PartDefinition:
    """Only what a tessellation decides; for a mesh that came as triangles, its faces too."""
    if new is None:
        return old
    names = ["mesh", "triangles", "chord", "angle", "deviation", *([] if old.shape else ["faces"])]
    return old.model_copy(update={name: getattr(new, name) for name in names})


def keep(store: Store, run_id: str, attempt: int, result: IntakeResult) -> None:
    """Show the new meshes, as one edit; everything else about the parts stays. Raises NotFound, Refused."""
    with store.begin() as session:
        run = session.get(IntakeRun, run_id)
        review_id = (run.review_id if run else None) or ""

    def change(session: Session, scene: Scene) -> SetModels:
        run = session.get(IntakeRun, run_id, with_for_update=True)
        if run is None or run.state != "running" or run.attempt != attempt:
            raise Refused("This tessellation was stopped.")
        use = scene.models.get(run.model or "")
        if use is None:
            raise NotFound("The model is not in the review any more.")
        for path in result.blobs.values():
            blobs.put_file(session, path, "application/octet-stream")
        now = assembly_of(store, session, use.revision)
        # Others may have replaced the model or tessellated other parts meanwhile: only equal shapes get new meshes.
        before = asked_of(store, run_id).assembly.definitions
        fresh = {
            before[key].shape or before[key].mesh: definition
            for key, definition in result.assembly.definitions.items()
            if definition.mesh in result.blobs
        }
        definitions = {key: _renewed(old, fresh.get(old.shape or old.mesh)) for key, old in now.definitions.items()}
        made = now.model_copy(update={"definitions": definitions})
        revision = keep_derived(session, made, use.revision)
        run.state, run.progress, run.stage, run.lease, run.revision = "done", 1.0, "done", None, revision
        return SetModels(models={run.model or "": use.model_copy(update={"revision": revision})})

    editing.edit_with(store, review_id, change)
