"""Answers that take long: they are waited for on the event loop, and hold no thread meanwhile.

A view returns one like any response. The server takes it aside and awaits it; without our server, as in tests, it is
worked out on the spot.
"""

from __future__ import annotations

import asyncio
import threading
from collections.abc import AsyncIterator, Awaitable, Callable, Iterable, Iterator
from concurrent.futures import ThreadPoolExecutor
from typing import Any

from flask import Response

HAND_OVER = "usual_lamp.hand_over"
"""Key of a WSGI environment: a function that takes such an answer, if the server can."""


class Later(Response):
    """A response that `wait` brings."""

    def __init__(self, wait: Callable[[], Awaitable[Response]]) -> None:
        super().__init__()
        self.wait = wait

    def __call__(self, environ: dict[str, Any], start_response: Any) -> Iterable[bytes]:
        if HAND_OVER in environ:
            environ[HAND_OVER](self)
            return []
        with ThreadPoolExecutor(1) as pool:  # this thread may have an event loop of its own
            response: Response = pool.submit(asyncio.run, _awaited(self.wait)).result()
        return response(environ, start_response)


async def _awaited(wait: Callable[[], Awaitable[Response]]) -> Response:
    return await wait()


class Stream(Response):
    """A response whose chunks come one by one, without end."""

    def __init__(self, chunks: Callable[[], AsyncIterator[str]], mimetype: str, headers: dict[str, str]) -> None:
        super().__init__(mimetype=mimetype, headers=headers)
        self.chunks = chunks

    def __call__(self, environ: dict[str, Any], start_response: Any) -> Iterable[bytes]:
        if HAND_OVER in environ:
            environ[HAND_OVER](self)
            return []
        start_response(self.status, list(self.headers))
        return self._on_the_spot()

    def _on_the_spot(self) -> Iterator[bytes]:
        loop = asyncio.new_event_loop()
        threading.Thread(target=loop.run_forever, daemon=True).start()
        chunks = self.chunks()
        try:
            while True:
                yield asyncio.run_coroutine_threadsafe(_next(chunks), loop).result().encode()
        except StopAsyncIteration:
            return
        finally:
            asyncio.run_coroutine_threadsafe(chunks.aclose(), loop).result()  # type: ignore[attr-defined]
            loop.call_soon_threadsafe(loop.stop)


async def _next(chunks: AsyncIterator[str]) -> str:
    return await anext(chunks)
