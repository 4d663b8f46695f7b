"""What open pages are told while the database answers late or not at all."""

from __future__ import annotations

import asyncio
import json
import threading
from collections.abc import AsyncIterator, Awaitable, Callable, Iterator
from contextlib import contextmanager

import pytest

from usual_lamp.store import DatabaseAway, Store
from usual_lamp.web import events


class Slow:
    """A store that answers when it is allowed to, and then may say that its database is away."""

    def __init__(self, store: Store) -> None:
        self.store, self.allowed, self.away = store, threading.Event(), False

    @contextmanager
    def begin(self) -> Iterator[object]:
        self.allowed.wait(30)
        if self.away:
            raise DatabaseAway("gone")
        with self.store.begin() as session:
            yield session


def told(slow: Slow, what: Callable[[AsyncIterator[bool]], Awaitable[None]]) -> None:
    """Do something with whether the database is away, as a page is told."""
    hub = events.Hub(slow)  # type: ignore[arg-type]

    async def away() -> AsyncIterator[bool]:
        async for line in hub.stream():
            kind, _, data = line.partition("\n")
            if kind == "event: away":
                yield json.loads(data.removeprefix("data: "))

    async def listen() -> None:
        async with asyncio.timeout(30):
            await what(away())

    try:
        asyncio.run(listen())
    finally:
        slow.allowed.set()
        hub.close()


def test_a_database_that_hangs_is_told_and_that_it_answers_again(store: Store, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(events, "SILENCE", 0.05)
    slow = Slow(store)

    async def page(away: AsyncIterator[bool]) -> None:
        assert await anext(away), "it says nothing"
        slow.allowed.set()
        assert not await anext(away)

    told(slow, page)


def test_a_database_that_is_away_is_told_at_once(store: Store, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(events, "SILENCE", 60.0)
    slow = Slow(store)
    slow.allowed.set()
    slow.away = True

    async def page(away: AsyncIterator[bool]) -> None:
        assert await anext(away)
        slow.away = False
        assert not await anext(away)

    told(slow, page)
