"""A model's next revision: proposed with a report of what became of each part, corrected by hand, accepted."""

from __future__ import annotations

import json
from dataclasses import dataclass

from sqlalchemy.orm import Session

from usual_lamp.core.assembly import Assembly
from usual_lamp.core.assembly.matching import Pair, carried_uids, joined, match
from usual_lamp.core.scene import Decal, Scene, SetModels
from usual_lamp.core.scene.decal_carrying import Carried, carried, followed
from usual_lamp.core.scene.document import PartState, owner_of
from usual_lamp.service import editing, following, meshes
from usual_lamp.service.editing import Edited
from usual_lamp.service.errors import NotFound, Refused
from usual_lamp.service.intakes import keep_revision
from usual_lamp.service.reviews import assembly_of, new_id, require, scene_of, touch
from usual_lamp.store import Store, again_when_overtaken
from usual_lamp.store.tables import IntakeRun


@dataclass(frozen=True)
class Proposal:
    """What would become of each part; `kept` lists what hangs on parts that are gone."""

    run_id: str
    file_name: str
    pairs: list[Pair]
    old: Assembly
    new: Assembly
    left_behind: dict[str, list[str]]
    """Uid of a gone part to what hangs on it, in words. It stays in the review, and is there again after undo."""
    decals: list[tuple[Decal, Carried]]
    """On parts whose shape changed: as they lie, and what becomes of them."""

    @property
    def partners(self) -> dict[str, str]:
        """The new part of each old one that is still there, by uid."""
        return {pair.old: pair.new for pair in self.pairs if pair.old and pair.new}

    """By id: those on parts whose shape changed."""


def propose(store: Store, run_id: str, attempt: int) -> None:
    """Match what a replacement found with what the review shows; only then is the run ready.

    Raises NotFound when the model is not in the review any more.
    """
    with store.begin() as session:
        run = session.get(IntakeRun, run_id)
        if run is None or run.state != "running" or run.attempt != attempt:
            return
        old, new = _both(store, session, run)
    pairs = match(old, new)
    with store.begin() as session:
        run = session.get(IntakeRun, run_id, with_for_update=True)
        if run is not None and run.state == "running" and run.attempt == attempt:
            run.state, run.progress, run.stage, run.lease, run.report = "ready", 1.0, "found", None, _text(pairs)
            touch(session, run.review_id or "")


def proposal(store: Store, run_id: str) -> Proposal:
    """Raises NotFound, or Refused while the parts are still being compared."""
    with store.begin() as session:
        run = _require(session, run_id)
        old, new = _both(store, session, run)
        scene = scene_of(require(session, run.review_id or ""))
        pairs = _pairs(run)
        left = {pair.old: _hanging(scene, pair.old) for pair in pairs if pair.new is None and pair.old}
    decals = [(scene.decals[id], found) for id, found in _carried(store, scene, new, pairs).items()]
    return Proposal(
        run.id, run.file_name, pairs, old, new, {uid: words for uid, words in left.items() if words}, decals
    )


@again_when_overtaken
def join(store: Store, run_id: str, new: str, old: str | None) -> None:
    """Say by hand which part a new one was, or (null) that it was none. Raises NotFound, Refused."""
    with store.begin() as session:
        run = _require(session, run_id, lock=True)
        before, after = _both(store, session, run)
        try:
            run.report = _text(joined(before, after, _pairs(run), new, old))
        except KeyError as error:
            raise NotFound("That part is in neither revision.") from error


def accept(store: Store, run_id: str) -> Edited:
    """Put the new revision in the old one's place, as one edit. Raises NotFound, Refused."""
    with store.begin() as session:
        review_id = _require(session, run_id).review_id or ""

    def change(session: Session, scene: Scene) -> SetModels:
        run = _require(session, run_id, lock=True)
        old, new = _both(store, session, run)
        named = new.renamed(carried_uids(old, new, _pairs(run), salt=new_id()))
        use = scene.models[run.model or ""]
        revision = keep_revision(session, named, run.file_name, run.source, parent=use.revision)
        run.state, run.stage = "done", "done"
        fresh = set(named.by_uid) - set(old.by_uid)
        states: dict[str, PartState | None] = {uid: "suppressed" for uid in named.hidden_in_cad() if uid in fresh}
        following.took(session, run)
        fates = _carried(store, scene, new, _pairs(run))
        decals = {id: found.decal for id, found in fates.items() if found.fate != "kept"}
        models = {run.model or "": use.model_copy(update={"revision": revision})}
        return SetModels(models=models, states=states, decals=decals)

    return editing.edit_with(store, review_id, change)


def _both(store: Store, session: Session, run: IntakeRun) -> tuple[Assembly, Assembly]:
    use = scene_of(require(session, run.review_id or "")).models.get(run.model or "")
    if use is None:
        raise NotFound("That model is not in this review any more.")
    return assembly_of(store, session, use.revision), assembly_of(store, session, run.revision or "")


def _require(session: Session, run_id: str, lock: bool = False) -> IntakeRun:
    run = session.get(IntakeRun, run_id, with_for_update=True if lock else None)
    if run is None or run.purpose != "replace":
        raise NotFound("There is no such revision to look at.")
    if run.state != "ready" or run.report is None:
        raise Refused("The parts are still being compared.")
    return run


def _pairs(run: IntakeRun) -> list[Pair]:
    return [Pair.model_validate(pair) for pair in json.loads(run.report or "[]")]


def _text(pairs: list[Pair]) -> str:
    return json.dumps([pair.model_dump() for pair in pairs])


def _carried(store: Store, scene: Scene, new: Assembly, pairs: list[Pair]) -> dict[str, Carried]:
    """What becomes of decals on parts whose shape changed, by id."""
    changed = {pair.old: pair.new for pair in pairs if pair.kind in ("changed shape", "uncertain") and pair.new}
    found = {}
    for id, decal in scene.decals.items():
        partner = changed.get(decal.part)
        if partner is not None and not decal.waits:
            definition = new.definition_of(new.by_uid[partner])
            signatures = [face.signature for face in definition.faces]
            mesh = meshes.read(store, definition.mesh)
            found[id] = carried(mesh, decal, signatures)
            if decal.sheet is not None and found[id].fate != "lost":
                unrolled = meshes.read_mapped(store, definition.mesh, None)
                found[id] = followed(mesh, unrolled, found[id], signatures)
    return found


def _hanging(scene: Scene, uid: str) -> list[str]:
    words = []
    for look in scene.looks.values():
        for key, name in look.assignments.items():
            if owner_of(key) == uid and name in scene.appearances:
                place = " on a face" if "#" in key else " for all parts like it" if key.startswith("=") else ""
                words.append(f"the appearance {scene.appearances[name].name}{place}")
    if uid in scene.states:
        words.append(f"that it is {scene.states[uid]}")
    if uid in scene.moves:
        words.append("where it was moved to")
    words += [f"the decal {decal.name}" for decal in scene.decals.values() if decal.part == uid]
    return words
