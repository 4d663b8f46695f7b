"""Removing the checkpoints of stills, some at a time.

Those of a large still are gigabytes: one statement for all of them would take longer than a statement may.
"""

from __future__ import annotations

from sqlalchemy import select, text

from usual_lamp.store import Store, again_when_overtaken
from usual_lamp.store.tables import StillBlock, StillLight, StillTile

AT_ONCE = 32
"""Rows."""


def drop(store: Store, still_id: str, light: bool = False) -> None:
    """Remove what is kept of a still while it is traced and finished; with its `light`, what it keeps afterwards."""
    for table in (StillTile, StillBlock, StillLight)[: 3 if light else 2]:
        while _drop_some(store, table.__tablename__, still_id):
            pass


def kept_for(store: Store) -> set[str]:
    """Stills that have some, by id."""
    with store.begin() as session:
        return {id for table in (StillTile, StillBlock) for id in session.scalars(select(table.still_id).distinct())}


@again_when_overtaken
def _drop_some(store: Store, table: str, still_id: str) -> bool:
    """Remove a few rows; whether there may be more."""
    some = text(f"DELETE FROM {table} WHERE still_id = :still LIMIT {AT_ONCE}")
    with store.begin() as session:
        found = session.execute(some, {"still": still_id})
        return bool(found.rowcount == AT_ONCE)  # type: ignore[attr-defined]
