"""Edits, undo and redo: every one is a command through the core, saved as it is made."""

from __future__ import annotations

import re
from collections.abc import Callable
from dataclasses import dataclass
from typing import Literal

from pydantic import TypeAdapter
from sqlalchemy import select, update
from sqlalchemy.orm import Session

from usual_lamp.core.assembly import Assembly
from usual_lamp.core.scene import AnyEdit, Edit, EditRefused, Scene, apply_edit
from usual_lamp.service import pictures
from usual_lamp.service.errors import Refused
from usual_lamp.service.reviews import arranged_assembly, require, scene_of
from usual_lamp.store import Store, again_after_deadlock
from usual_lamp.store.tables import Review, SceneVersion, utc_now

EDIT: TypeAdapter[AnyEdit] = TypeAdapter(Edit)
SNAPSHOT_EVERY = 50
PICTURE = re.compile(r'"picture":"([0-9a-f]{64})"')


@dataclass(frozen=True)
class Edited:
    """Where a review stands."""

    seq: int
    scene: Scene
    assembly: Assembly
    can_undo: bool
    can_redo: bool


def look_at(store: Store, review_id: str) -> Edited:
    with store.begin() as session:
        return _standing(store, session, require(session, review_id))


def edit(store: Store, review_id: str, change: AnyEdit) -> Edited:
    """Apply an edit to the present scene. Raises NotFound, or Refused when it no longer applies."""
    return edit_with(store, review_id, lambda session, scene: change)


@again_after_deadlock
def edit_with(store: Store, review_id: str, change_of: Callable[[Session, Scene], AnyEdit]) -> Edited:
    """Like `edit`, for changes that the present scene and what is stored decide."""
    with store.begin() as session:
        review = require(session, review_id, lock=True)
        _drop_undone(session, review_id)
        _apply(store, session, review, change_of(session, scene_of(review)), "edit")
        return _standing(store, session, review)


def _drop_undone(session: Session, review_id: str) -> None:
    session.execute(
        update(SceneVersion)
        .where(SceneVersion.review_id == review_id, SceneVersion.standing == "undone")
        .values(standing="dropped")
    )


def undo(store: Store, review_id: str) -> Edited:
    return _step(store, review_id, "undo")


def redo(store: Store, review_id: str) -> Edited:
    return _step(store, review_id, "redo")


@again_after_deadlock
def _step(store: Store, review_id: str, way: Literal["undo", "redo"]) -> Edited:
    with store.begin() as session:
        review = require(session, review_id, lock=True)
        target = _newest(session, review_id, "live") if way == "undo" else _oldest_undone(session, review_id)
        if target is None:
            raise Refused(f"There is nothing to {way}.")
        change = EDIT.validate_json(target.inverse if way == "undo" else target.edit)
        inverse = _apply(store, session, review, change, way)
        if way == "redo":
            # Others may have edited in between: what takes this back is what was there just now.
            target.inverse = inverse.model_dump_json()
        target.standing = "undone" if way == "undo" else "live"
        return _standing(store, session, review)


def _apply(store: Store, session: Session, review: Review, change: AnyEdit, kind: str) -> AnyEdit:
    before = scene_of(review)
    if kind == "edit":
        pictures.require_known(session, set(PICTURE.findall(change.model_dump_json())))
    assembly = arranged_assembly(store, session, before)
    try:
        scene, inverse = apply_edit(before, change, assembly.by_uid.keys())
    except EditRefused as error:
        raise Refused(str(error)) from error
    if scene.models != before.models:
        # Refused here when a revision does not exist, before anything is kept.
        arranged_assembly(store, session, scene)
        review.revision = next(use.revision for use in scene.models.values() if use.piece is None)
    review.seq += 1
    review.pulse += 1
    review.updated = utc_now()
    review.scene = scene.model_dump_json()
    session.add(
        SceneVersion(
            review_id=review.id,
            seq=review.seq,
            kind=kind,
            standing="live" if kind == "edit" else "step",
            edit=change.model_dump_json(),
            inverse=inverse.model_dump_json(),
            snapshot=review.scene if review.seq % SNAPSHOT_EVERY == 0 else None,
        )
    )
    session.flush()
    return inverse


def _has(session: Session, review_id: str, standing: str) -> bool:
    found = select(SceneVersion.seq).where(SceneVersion.review_id == review_id, SceneVersion.standing == standing)
    return session.scalar(found.limit(1)) is not None


def _newest(session: Session, review_id: str, standing: str) -> SceneVersion | None:
    return session.scalar(
        select(SceneVersion)
        .where(SceneVersion.review_id == review_id, SceneVersion.standing == standing)
        .order_by(SceneVersion.seq.desc())
        .limit(1)
    )


def _oldest_undone(session: Session, review_id: str) -> SceneVersion | None:
    return session.scalar(
        select(SceneVersion)
        .where(SceneVersion.review_id == review_id, SceneVersion.standing == "undone")
        .order_by(SceneVersion.seq)
        .limit(1)
    )


def _standing(store: Store, session: Session, review: Review) -> Edited:
    scene = scene_of(review)
    return Edited(
        seq=review.seq,
        scene=scene,
        assembly=arranged_assembly(store, session, scene),
        can_undo=_has(session, review.id, "live"),
        can_redo=_has(session, review.id, "undone"),
    )
