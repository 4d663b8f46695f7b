"""Claiming rows of work. A row belongs to the attempt that leased it last; anything older may not write."""

from __future__ import annotations

from datetime import timedelta
from typing import Any, TypeVar

from sqlalchemy import column, or_, select, update
from sqlalchemy.orm import Session

from usual_lamp.store import Store
from usual_lamp.store.tables import IntakeRun, Sight, Still, utc_now

LEASE = timedelta(seconds=20)
Row = TypeVar("Row", Still, IntakeRun, Sight)


def claim(session: Session, table: type[Row], *order: Any) -> Row | None:
    """The next row that waits, or that runs with an expired lease, now leased to a new attempt."""
    now = utc_now()
    row = session.scalar(
        select(table)
        .where(or_(table.state == "queued", (table.state == "running") & (table.lease < now)))
        .order_by(*order, table.created)
        .limit(1)
        .with_for_update(skip_locked=True)
    )
    if row is None:
        return None
    row.state, row.attempt, row.lease = "running", row.attempt + 1, now + LEASE
    session.flush()
    return row


def release_all(store: Store) -> None:
    """At the dispatcher's start: what its predecessor had in hand waits again at once.

    Only one dispatcher serves a database, which the supervisor sees to; fencing by attempt covers a straggler.
    """
    with store.begin() as session:
        for table in (Still, IntakeRun, Sight):
            session.execute(update(table).where(column("state") == "running").values(state="queued", lease=None))
