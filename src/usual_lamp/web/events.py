"""The event stream of a review: one line whenever something a browser shows has changed.

A single thread reads all watched reviews in one query a few times a second; streams wait on it, not on the
database. Edits made through this process wake it at once.
"""

from __future__ import annotations

import json
import threading
import time
from collections.abc import Iterator
from functools import partial

from sqlalchemy import select

from usual_lamp.store import Store
from usual_lamp.store.tables import Review

POLL = 0.35
KEEP_ALIVE = 15.0
Pulse = tuple[int, int, bool]
"""seq of the scene, pulse of the review, removed"""


class Hub:
    def __init__(self, store: Store) -> None:
        self.store = store
        self.changed = threading.Condition()
        self.watched: dict[str, int] = {}
        self.pulses: dict[str, Pulse] = {}
        self.wake = threading.Event()
        self.closing = False
        threading.Thread(target=self._watch, daemon=True, name="events").start()

    def _watch(self) -> None:
        while not self.closing:
            self.wake.wait(POLL)
            self.wake.clear()
            with self.changed:
                ids = list(self.watched)
            if not ids:
                continue
            try:
                with self.store.begin() as session:
                    rows = session.execute(
                        select(Review.id, Review.seq, Review.pulse, Review.removed).where(Review.id.in_(ids))
                    ).all()
            except Exception:  # the database may be restarting; the next round finds it
                time.sleep(1.0)
                continue
            with self.changed:
                for id, seq, pulse, removed in rows:
                    self.pulses[id] = (seq, pulse, removed is not None)
                self.changed.notify_all()

    def close(self) -> None:
        self.closing = True
        with self.changed:
            self.changed.notify_all()

    def _news(self, review_id: str, seen: Pulse | None) -> bool:
        return self.closing or self.pulses.get(review_id) != seen

    def stream(self, review_id: str) -> Iterator[str]:
        """Server-sent events until the client goes or the server closes."""
        with self.changed:
            self.watched[review_id] = self.watched.get(review_id, 0) + 1
        self.wake.set()
        last: Pulse | None = None
        try:
            yield "retry: 1000\n\n"
            while not self.closing:
                with self.changed:
                    self.changed.wait_for(partial(self._news, review_id, last), KEEP_ALIVE)
                    now = self.pulses.get(review_id)
                if now is None or now == last:
                    yield ": still here\n\n"
                    continue
                last = now
                yield f"data: {json.dumps({'seq': now[0], 'pulse': now[1], 'removed': now[2]})}\n\n"
        finally:
            with self.changed:
                self.watched[review_id] -= 1
                if not self.watched[review_id]:
                    del self.watched[review_id]
                    self.pulses.pop(review_id, None)
