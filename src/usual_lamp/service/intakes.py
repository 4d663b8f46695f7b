"""Intakes: a file comes in, a run is queued, and a review, a further model or a proposal for a revision comes out."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import timedelta
from pathlib import Path
from typing import BinaryIO, Literal

from sqlalchemy import select
from sqlalchemy.orm import Session

from usual_lamp.core.assembly import Assembly
from usual_lamp.core.intake import IntakeResult
from usual_lamp.core.intake.formats import SUFFIXES, Unit, Up, in_words
from usual_lamp.core.intake.reading import Reading
from usual_lamp.core.intake.tessellation import Quality
from usual_lamp.service import room
from usual_lamp.service.errors import NotFound, Refused
from usual_lamp.service.reviews import assembly_of, clean_name, make_review, new_id, remember, require, scene_of, touch
from usual_lamp.store import Store, again_when_overtaken, blobs
from usual_lamp.store.tables import IntakeRun, ModelRevision, utc_now

UPLOAD_LIMIT = 2 * 2**30
LONGEST_FILE_NAME = 200


@dataclass(frozen=True)
class IntakeLine:
    id: str
    name: str
    file_name: str
    state: str
    progress: float
    stage: str
    message: str | None
    review_id: str | None
    purpose: str
    model: str | None


@dataclass(frozen=True)
class For:
    """What a file is taken in for: a review of its own, or as a model of one that exists."""

    purpose: Literal["review", "add", "replace"] = "review"
    review_id: str | None = None
    model: str | None = None
    ask: bool = False
    """Let a person look at what was found before the review is made."""


NEW_REVIEW = For()
FOR_THE_REST = timedelta(seconds=120)
"""How long matching with the revision before may take."""


def receive(
    store: Store,
    stream: BinaryIO,
    file_name: str,
    name: str | None,
    quality: Quality,
    unit: Unit = "as written",
    up: Up = "as written",
    target: For = NEW_REVIEW,
    file_state: str | None = None,
) -> str:
    """Keep an uploaded file and queue its intake; returns the run's id. Raises Refused, NotFound, NoRoom.

    `file_state` tells which state of a followed file this is.
    """
    room.require(store)
    plain = Path(file_name.replace("\\", "/").replace("\0", "")).name
    if len(plain) > LONGEST_FILE_NAME:
        plain = plain[: LONGEST_FILE_NAME - len(Path(plain).suffix)] + Path(plain).suffix
    if Path(plain).suffix.lower() not in SUFFIXES:
        raise Refused(f"{plain or 'This file'} cannot be imported. Use {in_words()}.")
    try:
        path = blobs.spool(stream, store.cache, UPLOAD_LIMIT)
    except ValueError as error:
        raise Refused(str(error)) from error
    try:
        with store.begin() as session:
            if target.purpose != "review":
                scene = scene_of(require(session, target.review_id or ""))
                if target.purpose == "replace" and target.model not in scene.models:
                    raise NotFound("That model is not in this review any more.")
            source = blobs.put_file(session, path, "application/octet-stream")
            run = IntakeRun(
                id=new_id(),
                name=clean_name(name or Path(plain).stem),
                file_name=plain,
                source=source,
                quality=quality,
                unit=unit,
                up=up,
                purpose=target.purpose,
                review_id=target.review_id,
                model=target.model,
                ask=target.ask,
                file_state=file_state,
            )
            session.add(run)
            return run.id
    finally:
        path.unlink(missing_ok=True)


def get(store: Store, run_id: str) -> IntakeLine:
    with store.begin() as session:
        run = session.get(IntakeRun, run_id)
        if run is None:
            raise NotFound("This import does not exist.")
        return _line(run)


OPEN = ("queued", "running", "ready", "failed")


def open_runs(store: Store, review_id: str | None = None) -> list[IntakeLine]:
    """Intakes that wait, run, are ready to be looked at, or failed and were not put away yet, oldest first.

    Those for new reviews, or those for an existing one.
    """
    mine = IntakeRun.purpose == "review" if review_id is None else (IntakeRun.review_id == review_id)
    with store.begin() as session:
        open_ones = select(IntakeRun).where(IntakeRun.state.in_(OPEN), mine)
        rows = session.scalars(open_ones.order_by(IntakeRun.created)).all()
        return [_line(run) for run in rows]


def _line(run: IntakeRun) -> IntakeLine:
    return IntakeLine(
        run.id, run.name, run.file_name, run.state, run.progress, run.stage, run.message, run.review_id, run.purpose,
        run.model,
    )  # fmt: skip


@again_when_overtaken
def stop(store: Store, run_id: str) -> None:
    """End a run that waits or runs, or put away what failed or was found. Raises NotFound or Refused."""
    with store.begin() as session:
        run = session.get(IntakeRun, run_id, with_for_update=True)
        if run is None:
            raise NotFound("This import does not exist.")
        if run.state not in OPEN:
            raise Refused("This import has already ended.")
        run.state, run.lease = "stopped", None
        if run.purpose != "review" and run.review_id:
            touch(session, run.review_id)


@again_when_overtaken
def keep(store: Store, run_id: str, attempt: int, result: IntakeResult) -> str | None:
    """Store what an intake found; returns the id of a review that was made of it.

    For a further model or a revision the run goes on: `models.add_found` or `revisions.propose` ends it. Nothing is
    stored when the run was stopped or taken over meanwhile.
    """
    with store.begin() as session:
        run = session.get(IntakeRun, run_id, with_for_update=True)
        if run is None or run.state != "running" or run.attempt != attempt:
            return None
        for path in result.blobs.values():
            blobs.put_file(session, path, "application/octet-stream")
        run.revision = keep_revision(session, result.assembly, run.file_name, run.source)
        run.state, run.progress, run.stage, run.lease = "done", 1.0, "done", None
        if run.purpose == "review" and not run.ask:
            run.review_id = make_review(session, run.name, run.revision, result.assembly).id
            return run.review_id
        if run.purpose == "review":
            run.state, run.stage = "ready", "found"
        else:
            # Not ready before what it is for is done as well: whoever goes on after a crash reads the file again.
            run.state, run.progress, run.stage, run.lease = "running", 0.99, "comparing", utc_now() + FOR_THE_REST
        return None


def keep_revision(
    session: Session, assembly: Assembly, file_name: str, source: str | None, parent: str | None = None
) -> str:
    """A new row for a state of a model; returns its id."""
    manifest = blobs.put_bytes(session, assembly.model_dump_json().encode(), "application/json")
    row = ModelRevision(id=new_id(), file_name=file_name, manifest=manifest, source=source, parent=parent)
    session.add(row)
    session.flush()
    remember(manifest, assembly)
    return row.id


def keep_derived(session: Session, assembly: Assembly, parent: str) -> str:
    """A state made from another without a new file; returns its id."""
    before = session.get(ModelRevision, parent)
    file_name, source = (before.file_name, before.source) if before else ("", None)
    return keep_revision(session, assembly, file_name, source, parent)


@dataclass(frozen=True)
class ReadyIntake:
    """What an intake that waits to be accepted has found."""

    line: IntakeLine
    assembly: Assembly
    quality: str
    unit: str
    up: str
    reading: Reading


def found(store: Store, run_id: str) -> ReadyIntake:
    """Raises NotFound, or Refused when the run is not ready."""
    with store.begin() as session:
        run = _ready(session, run_id)
        assembly = assembly_of(store, session, run.revision or "")
        return ReadyIntake(_line(run), assembly, run.quality, run.unit, run.up, reading_of(run))


def _ready(session: Session, run_id: str, lock: bool = False) -> IntakeRun:
    run = session.get(IntakeRun, run_id, with_for_update=True if lock else None)
    if run is None:
        raise NotFound("This import does not exist.")
    if run.state != "ready":
        raise Refused("This import is not waiting for an answer.")
    return run


def reading_of(run: IntakeRun) -> Reading:
    return Reading.model_validate_json(run.options) if run.options else Reading()


@again_when_overtaken
def read_again(store: Store, run_id: str, quality: Quality, unit: Unit, up: Up, reading: Reading = Reading()) -> None:
    """Queue a run that was found to be read with other choices. Raises NotFound, Refused."""
    with store.begin() as session:
        run = _ready(session, run_id, lock=True)
        if run.source is None:
            raise Refused("This import has no file to read again.")
        run.state, run.progress, run.stage, run.report = "queued", 0.0, "waiting", None
        run.quality, run.unit, run.up = quality, unit, up
        run.options = reading.model_dump_json()


@again_when_overtaken
def accept(store: Store, run_id: str, name: str, only: str | None = None) -> str:
    """Make the review of what was found, of one node of its tree if `only` says so; returns its id.

    Raises NotFound, Refused.
    """
    with store.begin() as session:
        run = _ready(session, run_id, lock=True)
        if run.purpose != "review":
            raise Refused("This import is for a review that exists. Open that review to go on with it.")
        assembly, revision = assembly_of(store, session, run.revision or ""), run.revision or ""
        if only is not None:
            if only not in assembly.by_uid:
                raise NotFound("That sub-assembly is not in the file.")
            assembly = assembly.only(only)
            revision = keep_revision(session, assembly, run.file_name, run.source, parent=revision)
        review = make_review(session, name, revision, assembly)
        run.state, run.stage, run.review_id = "done", "done", review.id
        return review.id
