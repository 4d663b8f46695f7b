"""Edits, undo and redo: every one is a command through the core, saved as it is made."""

from __future__ import annotations

import re
from collections.abc import Callable
from contextvars import ContextVar
from dataclasses import dataclass
from datetime import datetime
from typing import Any, Literal

from pydantic import TypeAdapter
from sqlalchemy import Select, select, update
from sqlalchemy.orm import Session

from usual_lamp.core.assembly import Assembly
from usual_lamp.core.scene import BaseEdit, Edit, EditRefused, Scene, apply_edit
from usual_lamp.service import pictures
from usual_lamp.service.errors import Refused
from usual_lamp.service.reviews import arranged_assembly, require, scene_of
from usual_lamp.store import Store, again_when_overtaken
from usual_lamp.store.tables import Review, SceneVersion, utc_now

EDIT: TypeAdapter[BaseEdit] = TypeAdapter(Edit)
SNAPSHOT_EVERY = 50
LONGEST_WORDS = 200
made_in: ContextVar[str | None] = ContextVar("made_in", default=None)
"""The browser tab that the present request comes from, where one does."""
Way = Literal["undo", "redo"]
STANDING: dict[Way, str] = {"undo": "live", "redo": "undone"}
"""The state of edits that each of them acts on."""
MOST_PAST = 50
PICTURE = re.compile(r'"(?:picture":"|surroundings":"map:)([0-9a-f]{64})"')


@dataclass(frozen=True)
class Step:
    """An edit that undo would take back, or redo make again."""

    words: str
    """What it did; empty where that was not noted."""
    tab: str | None
    """The browser tab that made it."""


@dataclass(frozen=True)
class Past:
    """An edit of the history."""

    seq: int
    words: str
    tab: str | None
    made: datetime | None
    """UTC; None where that was not noted."""
    undone: bool


@dataclass(frozen=True)
class Edited:
    """Where a review stands."""

    seq: int
    scene: Scene
    assembly: Assembly
    undoes: Step | None
    redoes: Step | None


def look_at(store: Store, review_id: str) -> Edited:
    with store.begin() as session:
        return _edited(store, session, require(session, review_id))


def edit(store: Store, review_id: str, change: BaseEdit) -> Edited:
    """Apply an edit to the present scene. Raises NotFound, or Refused when it no longer applies."""
    return edit_with(store, review_id, lambda session, scene: change)


@again_when_overtaken
def edit_with(store: Store, review_id: str, change_of: Callable[[Session, Scene], BaseEdit]) -> Edited:
    """Like `edit`, for changes that the present scene and what is stored decide."""
    with store.begin() as session:
        review = require(session, review_id, lock=True)
        _drop_undone(session, review_id)
        _apply(store, session, review, change_of(session, scene_of(review)), "edit")
        return _edited(store, session, review)


def _drop_undone(session: Session, review_id: str) -> None:
    session.execute(
        update(SceneVersion)
        .where(SceneVersion.review_id == review_id, SceneVersion.state == "undone")
        .values(state="dropped")
    )


def undo(store: Store, review_id: str, to: int | None = None) -> Edited:
    """Take back the last edit, or all down to the one with the number `to`. Raises NotFound, Refused."""
    return _steps(store, review_id, "undo", to)


def redo(store: Store, review_id: str, to: int | None = None) -> Edited:
    """Make the last edit that was taken back again, or all up to the one with the number `to`. Raises NotFound,
    Refused."""
    return _steps(store, review_id, "redo", to)


@again_when_overtaken
def _steps(store: Store, review_id: str, way: Way, to: int | None) -> Edited:
    with store.begin() as session:
        review = require(session, review_id, lock=True)
        if to is not None:
            last = session.get(SceneVersion, (review_id, to))
            if last is None or last.state != STANDING[way]:
                raise Refused("The history has changed meanwhile. Look at it again.")
        while True:
            target: SceneVersion | None = session.scalar(_next_to(way, review_id, SceneVersion))
            if target is None:
                raise Refused(f"There is nothing to {way}.")
            _one_step(store, session, review, target, way)
            session.flush()
            if to is None or target.seq == to:
                return _edited(store, session, review)


def _one_step(store: Store, session: Session, review: Review, target: SceneVersion, way: Way) -> None:
    change = EDIT.validate_json(target.inverse if way == "undo" else target.edit)
    inverse = _apply(store, session, review, change, way)
    if way == "redo":
        # Others may have edited in between: what takes this back is what was there just now.
        target.inverse = inverse.model_dump_json()
    target.state = "undone" if way == "undo" else "live"


def history(store: Store, review_id: str) -> list[Past]:
    """The last edits, the newest first: those taken back, which can be made again, and those that stand."""
    with store.begin() as session:
        require(session, review_id)
        rows = session.execute(
            select(SceneVersion.seq, SceneVersion.words, SceneVersion.tab, SceneVersion.made, SceneVersion.state)
            .where(SceneVersion.review_id == review_id, SceneVersion.state.in_(STANDING.values()))
            .order_by(SceneVersion.seq.desc())
            .limit(MOST_PAST)
        ).all()
        return [Past(seq, words, tab, made, state == "undone") for seq, words, tab, made, state in rows]


def _apply(store: Store, session: Session, review: Review, change: BaseEdit, kind: str) -> BaseEdit:
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
            state="live" if kind == "edit" else "step",
            edit=change.model_dump_json(),
            inverse=inverse.model_dump_json(),
            snapshot=review.scene if review.seq % SNAPSHOT_EVERY == 0 else None,
            words=_shortened(change.words(before)) if kind == "edit" else "",
            tab=made_in.get(),
        )
    )
    session.flush()
    return inverse


def _shortened(words: str) -> str:
    return words if len(words) <= LONGEST_WORDS else f"{words[: LONGEST_WORDS - 1]}…"


def _next_to(way: Way, review_id: str, *columns: Any) -> Select[Any]:
    """The question for what undo takes back, the newest live edit, or redo makes again, the oldest undone one."""
    first = SceneVersion.seq.desc() if way == "undo" else SceneVersion.seq
    of_review = (SceneVersion.review_id == review_id, SceneVersion.state == STANDING[way])
    return select(*columns).where(*of_review).order_by(first).limit(1)


def _step_of(session: Session, review_id: str, way: Way) -> Step | None:
    found = session.execute(_next_to(way, review_id, SceneVersion.words, SceneVersion.tab)).first()
    return None if found is None else Step(found.words, found.tab)


def _edited(store: Store, session: Session, review: Review) -> Edited:
    scene = scene_of(review)
    return Edited(
        seq=review.seq,
        scene=scene,
        assembly=arranged_assembly(store, session, scene),
        undoes=_step_of(session, review.id, "undo"),
        redoes=_step_of(session, review.id, "redo"),
    )
