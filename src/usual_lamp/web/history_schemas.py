"""What goes over the wire of the history of a review."""

from __future__ import annotations

from datetime import datetime

from pydantic import BaseModel, Field

from usual_lamp.web.schemas import KnownQuery


class StepQuery(KnownQuery):
    to: int | None = Field(None, ge=1, description="number of the last edit to take back or make again; one if null")


class PastEdit(BaseModel):
    """An edit of the history."""

    seq: int
    words: str = Field(description="what it did; empty where that was not noted")
    tab: str | None = Field(description="the browser tab that made it, as it called itself")
    made: datetime | None = Field(description="UTC; null where that was not noted")
    undone: bool


class History(BaseModel):
    """The last edits, the newest first."""

    edits: list[PastEdit]
