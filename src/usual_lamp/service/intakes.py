"""Intakes: a file comes in, a run is queued, a review comes out."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path
from typing import BinaryIO

from sqlalchemy import select

from usual_lamp.core.intake import IntakeResult
from usual_lamp.core.intake.formats import SUFFIXES, Unit, Up, in_words
from usual_lamp.core.intake.tessellation import Quality
from usual_lamp.service.errors import NotFound, Refused
from usual_lamp.service.reviews import clean_name, make_review, new_id
from usual_lamp.store import Store, again_after_deadlock, blobs
from usual_lamp.store.tables import IntakeRun, ModelRevision

UPLOAD_LIMIT = 2 * 2**30


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


def receive(
    store: Store,
    stream: BinaryIO,
    file_name: str,
    name: str | None,
    quality: Quality,
    unit: Unit = "as written",
    up: Up = "as written",
) -> str:
    """Keep an uploaded file and queue its intake; returns the run's id. Raises Refused."""
    plain = Path(file_name.replace("\\", "/")).name[:255]
    if Path(plain).suffix.lower() not in SUFFIXES:
        raise Refused(f"{plain or 'This file'} cannot be taken in. Bring {in_words()}.")
    try:
        path = blobs.spool(stream, store.cache, UPLOAD_LIMIT)
    except ValueError as error:
        raise Refused(str(error)) from error
    try:
        with store.begin() as session:
            source = blobs.put_file(session, path, "application/octet-stream")
            run = IntakeRun(
                id=new_id(),
                name=clean_name(name or Path(plain).stem),
                file_name=plain,
                source=source,
                quality=quality,
                unit=unit,
                up=up,
            )
            session.add(run)
            return run.id
    finally:
        path.unlink(missing_ok=True)


def get(store: Store, run_id: str) -> IntakeLine:
    with store.begin() as session:
        run = session.get(IntakeRun, run_id)
        if run is None:
            raise NotFound("This intake does not exist.")
        return _line(run)


def open_runs(store: Store) -> list[IntakeLine]:
    """Intakes that wait, run, or failed and were not put away yet, oldest first."""
    with store.begin() as session:
        states = ("queued", "running", "failed")
        rows = session.scalars(select(IntakeRun).where(IntakeRun.state.in_(states)).order_by(IntakeRun.created)).all()
        return [_line(run) for run in rows]


def _line(run: IntakeRun) -> IntakeLine:
    return IntakeLine(run.id, run.name, run.file_name, run.state, run.progress, run.stage, run.message, run.review_id)


@again_after_deadlock
def stop(store: Store, run_id: str) -> None:
    """End a run that waits or runs, or put a failed one away. Raises NotFound or Refused."""
    with store.begin() as session:
        run = session.get(IntakeRun, run_id, with_for_update=True)
        if run is None:
            raise NotFound("This intake does not exist.")
        if run.state not in ("queued", "running", "failed"):
            raise Refused("This intake has already ended.")
        run.state, run.lease = "stopped", None


@again_after_deadlock
def keep(store: Store, run_id: str, attempt: int, result: IntakeResult) -> str | None:
    """Store what an intake found and make its review, all or nothing; returns the review's id.

    None when the run was stopped or taken over meanwhile: then nothing is stored.
    """
    with store.begin() as session:
        run = session.get(IntakeRun, run_id, with_for_update=True)
        if run is None or run.state != "running" or run.attempt != attempt:
            return None
        for path in result.blobs.values():
            blobs.put_file(session, path, "application/octet-stream")
        manifest = blobs.put_bytes(session, result.assembly.model_dump_json().encode(), "application/json")
        revision = ModelRevision(id=new_id(), file_name=run.file_name, manifest=manifest, source=run.source)
        session.add(revision)
        session.flush()
        review = make_review(session, run.name, revision.id, result.assembly)
        run.state, run.progress, run.stage, run.review_id, run.lease = "done", 1.0, "done", review.id, None
        return review.id
