"""Claiming rows of work. A row belongs to the attempt that leased it last; anything older may not write."""

from __future__ import annotations

from datetime import datetime, timedelta
from typing import Any, TypeVar

from sqlalchemy import BindParameter, ColumnElement, DateTime, bindparam, column, exists, or_, select, update
from sqlalchemy.orm import Session

from usual_lamp.store import Store
from usual_lamp.store.tables import IntakeRun, Review, SightRun, Still, utc_now

LEASE = timedelta(seconds=20)
MOST_ATTEMPTS = {IntakeRun: 12, SightRun: 6}
"""After which a row ends as failed: whatever takes it in hand seems to die of it. Stills count crashes on their own."""
GIVEN_UP = "The program ended again and again while working on this. Try another file, or look into the logs."
Queue = type[Still | IntakeRun | SightRun]
QUEUES: tuple[Queue, ...] = (Still, IntakeRun, SightRun)
Row = TypeVar("Row", Still, IntakeRun, SightRun)


def _is_free(table: Queue, now: datetime | BindParameter[datetime]) -> ColumnElement[bool]:
    return or_(table.state == "queued", (table.state == "running") & (table.lease < now))


ANY_FREE = select(*(exists().where(_is_free(table, bindparam("now", type_=DateTime))) for table in QUEUES))
"""Put together once, since it is asked several times a second."""


def queues_with_work(store: Store) -> set[Queue]:
    """Tables in which a row may wait to be claimed, found with one cheap question for all of them."""
    with store.begin() as session:
        found = session.execute(ANY_FREE, {"now": utc_now()}).one()
    return {table for table, any_free in zip(QUEUES, found, strict=True) if any_free}


def claim(session: Session, table: type[Row], *order: Any, where: ColumnElement[bool] | None = None) -> Row | None:
    """The next row that waits, or that runs with an expired lease, now leased to a new attempt.

    Work for a review that was removed waits until the review is brought back.
    """
    now = utc_now()
    asked = select(table).where(_is_free(table, now))
    if table is not IntakeRun:
        asked = asked.where(table.review_id.in_(select(Review.id).where(Review.removed.is_(None))))
    if where is not None:
        asked = asked.where(where)
    row = session.scalar(asked.order_by(*order, table.created).limit(1).with_for_update(skip_locked=True))
    if row is None:
        return None
    if row.attempt >= MOST_ATTEMPTS.get(table, row.attempt + 1):
        row.state, row.lease = "failed", None
        if isinstance(row, IntakeRun):
            row.message = GIVEN_UP
        return None
    row.state, row.attempt, row.lease = "running", row.attempt + 1, now + LEASE
    session.flush()
    return row


def release(session: Session, row: Row) -> None:
    """Let a row wait again that an attempt had in hand, unless someone else has it now."""
    now = session.get(type(row), row.key if isinstance(row, SightRun) else row.id, with_for_update=True)
    if now is not None and now.state == "running" and now.attempt == row.attempt:
        now.state, now.lease = "queued", None
        if not isinstance(now, Still):
            now.attempt -= 1  # it was not the row's fault, and does not count


def release_all(store: Store) -> None:
    """At the dispatcher's start: what its predecessor had in hand waits again at once.

    Only one dispatcher serves a database, which the supervisor sees to; fencing by attempt covers a straggler.
    """
    with store.begin() as session:
        for table in QUEUES:
            session.execute(update(table).where(column("state") == "running").values(state="queued", lease=None))
