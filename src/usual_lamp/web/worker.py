"""gunicorn's worker: uvicorn, with a limit on how long a client may take to say what it wants."""

from __future__ import annotations

import asyncio
from typing import Any

from uvicorn.protocols.http.h11_impl import H11Protocol
from uvicorn_worker import UvicornWorker

HEAD_SECONDS = 15.0
"""From the connection, or from the end of the last answer's rest, to the whole head of a request."""
MOST_CONNECTIONS = 800


class PatientProtocol(H11Protocol):
    """HTTP/1.1 that hangs up on those who never finish their first head."""

    head_timer: asyncio.TimerHandle | None = None

    def connection_made(self, transport: Any) -> None:
        super().connection_made(transport)
        self.head_timer = self.loop.call_later(HEAD_SECONDS, self._give_up)

    def data_received(self, data: bytes) -> None:
        before = self.cycle
        super().data_received(data)
        if self.cycle is not before:
            self._stop_timer()
        elif self.head_timer is None and (before is None or before.response_complete):
            # A further head has begun on a connection that was kept.
            self.head_timer = self.loop.call_later(HEAD_SECONDS, self._give_up)

    def connection_lost(self, exc: Exception | None) -> None:
        self._stop_timer()
        super().connection_lost(exc)

    def _stop_timer(self) -> None:
        if self.head_timer is not None:
            self.head_timer.cancel()
            self.head_timer = None

    def _give_up(self) -> None:
        self.head_timer = None
        self.transport.close()


class WebWorker(UvicornWorker):
    CONFIG_KWARGS = {
        "loop": "asyncio",
        "http": PatientProtocol,
        "ws": "none",
        "lifespan": "on",
        "limit_concurrency": MOST_CONNECTIONS,
        "server_header": False,
        "access_log": False,
        "timeout_graceful_shutdown": 2,
        "proxy_headers": False,
    }
