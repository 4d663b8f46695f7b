"""The event stream of a browser: one line whenever something that it may show has changed, in any review.

One stream is enough for all tabs: browsers allow six connections to a host. A single thread reads how far each review
is, a few times a second and only while somebody listens; edits made through this process wake it at once.
"""

from __future__ import annotations

import asyncio
import json
import logging
import threading
from collections.abc import AsyncIterator

from sqlalchemy import select

from usual_lamp.store import DatabaseAway, Store
from usual_lamp.store.tables import Review

POLL = 0.35
KEEP_ALIVE = 15.0
SILENCE = 4.0
"""Seconds without an answer after which the database counts as away."""
BEHIND = 1000
"""Lines that may wait for a listener; one who is further behind is sent away, and comes back to a fresh start."""
Pulse = tuple[int, int, int, bool]
"""seq of the scene, pulse of the review, that of its stills, removed"""
log = logging.getLogger("usual_lamp.web")


class Listener:
    """One open stream."""

    def __init__(self) -> None:
        self.loop = asyncio.get_running_loop()
        self.lines: asyncio.Queue[str | None] = asyncio.Queue()

    def tell(self, line: str | None) -> None:
        """From any thread; None ends the stream."""
        self.loop.call_soon_threadsafe(self.lines.put_nowait, line if self.lines.qsize() < BEHIND else None)


class Hub:
    def __init__(self, store: Store) -> None:
        self.store = store
        self.lock = threading.Lock()
        self.listeners: set[Listener] = set()
        self.pulses: dict[str, Pulse] | None = None
        """Of all reviews as last read; None before the first time."""
        self.away = False
        self.wake = threading.Event()
        self.thread: threading.Thread | None = None
        self.closing = False

    def start(self) -> None:
        """In the serving process: a thread does not live through a fork."""
        if self.thread is None:
            self.thread = threading.Thread(target=self._watch, daemon=True, name="events")
            self.thread.start()

    def _watch(self) -> None:
        while not self.closing:
            self.wake.wait(POLL if self.listeners else None)
            self.wake.clear()
            if self.listeners:
                self._look()

    def _look(self) -> None:
        # A server that hangs is known by its silence, long before the connection gives up.
        silence = threading.Timer(SILENCE, self._say_away, [True])
        silence.daemon = True
        silence.start()
        try:
            with self.store.begin() as session:
                rows = session.execute(
                    select(Review.id, Review.seq, Review.pulse, Review.still_pulse, Review.removed)
                ).all()
        except Exception as error:
            if not isinstance(error, DatabaseAway):
                log.exception("events could not be read")
            self._say_away(True)
            return
        finally:
            silence.cancel()
        now = {id: (seq, pulse, stills, removed is not None) for id, seq, pulse, stills, removed in rows}
        with self.lock:
            before, self.pulses = self.pulses, now
            changed = {id: pulse for id, pulse in now.items() if before is None or before.get(id) != pulse}
            if changed:
                self._tell(_line("pulses", [[id, *pulse] for id, pulse in changed.items()]))
        self._say_away(False)

    def _say_away(self, away: bool) -> None:
        with self.lock:
            if self.away != away:
                self.away = away
                self._tell(_line("away", away))

    def _tell(self, line: str | None) -> None:
        for listener in list(self.listeners):
            try:
                listener.tell(line)
            except RuntimeError:  # its event loop has ended
                self.listeners.discard(listener)

    def close(self) -> None:
        self.closing = True
        with self.lock:
            self._tell(None)
        self.wake.set()

    async def stream(self) -> AsyncIterator[str]:
        """Server-sent events until the client goes or the server closes: how far all reviews are, then what changes."""
        self.start()
        listener = Listener()
        with self.lock:
            self.listeners.add(listener)
            known = self.pulses
        try:
            yield "retry: 1000\n\n"
            # What was read while nobody listened is old, and will be told anew as far as it has changed.
            yield _line("pulses", [[id, *pulse] for id, pulse in (known or {}).items()])
            self.wake.set()
            while not self.closing:
                try:
                    line = await asyncio.wait_for(listener.lines.get(), KEEP_ALIVE)
                except TimeoutError:
                    line = ": still here\n\n"
                if line is None:
                    return
                yield line
        finally:
            with self.lock:
                self.listeners.discard(listener)


def _line(kind: str, data: object) -> str:
    return f"event: {kind}\ndata: {json.dumps(data)}\n\n"
