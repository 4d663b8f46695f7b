"""From the event loop to Flask: an ASGI application that serves a WSGI one with a small pool of threads.

A thread is only taken for a request that is here in full, and given back before its answer is sent; so whoever sends or
reads slowly costs memory and a socket, and holds up nobody. Every wait has a limit.
"""

from __future__ import annotations

import asyncio
import contextlib
import logging
import tempfile
import time
from collections.abc import Awaitable, Callable, Iterable, MutableMapping
from concurrent.futures import ThreadPoolExecutor
from contextlib import suppress
from pathlib import Path
from typing import IO, Any

from flask import Response

from usual_lamp.service.intakes import UPLOAD_LIMIT
from usual_lamp.service.pictures import MOST_BYTES, MOST_PANORAMA_BYTES
from usual_lamp.web.guard import HEADERS, Guard, Refusal
from usual_lamp.web.later import HAND_OVER, Later, Stream
from usual_lamp.web.problems import problem

Message = MutableMapping[str, Any]
Receive = Callable[[], Awaitable[Message]]
Send = Callable[[Message], Awaitable[None]]
Headers = list[tuple[bytes, bytes]]

THREADS = 24
IN_MEMORY = 1 << 20
"""Bytes of a body that are kept in memory; what is longer goes to disk."""
BLOCK = 1 << 20
"""Bytes of an answer that are fetched in one go."""
PAUSE, LEAST_RATE, FIRST = 20.0, 8_000, 20.0
"""Seconds that a sender may pause; bytes a second that it has to reach after the first seconds."""
SENDING = 60.0
"""Seconds in which a reader has to take one block."""
LINGERING, LINGERING_BYTES = 1.0, 4 * 2**20
"""Seconds, and bytes, for which what is too large is read on before it is refused."""
LARGEST = {"/api/intakes": UPLOAD_LIMIT, "/api/pictures": MOST_BYTES, "/api/panoramas": MOST_PANORAMA_BYTES,
           "/api/scenes": MOST_BYTES}  # fmt: skip
LARGEST_OTHER = 20 * 2**20
"""Bytes of a request's body, by its address."""
PAGE = """<!doctype html><html lang="en"><meta charset="utf-8"><title>Usual Lamp</title>
<body style="font: 15px/1.6 sans-serif; color: #23272e; background: #f3eee4; display: grid; place-items: center;
height: 90vh; margin: 0"><main style="max-width: 44em; padding: 0 1.5em">
<img src="/favicon.svg" alt="" width="40" height="40"><h1 style="font-size: 20px; margin: .6em 0 .2em">Usual Lamp</h1>
<p style="margin: 0">{words}</p></main></body></html>
"""
log = logging.getLogger("usual_lamp.web")


class TooLarge(Exception):
    pass


class TooSlow(Exception):
    pass


class Gone(Exception):
    """The client has hung up."""


class Bridge:
    """The ASGI application. `started` and `stopping` run in the serving process, before and after all requests."""

    def __init__(
        self, app: Any, guard: Guard, folder: Path, started: Callable[[], None], stopping: Callable[[], None]
    ) -> None:
        self.app, self.guard, self.folder = app, guard, folder
        self.started, self.stopping = started, stopping
        self.pool: ThreadPoolExecutor | None = None

    async def __call__(self, scope: Message, receive: Receive, send: Send) -> None:
        if scope["type"] == "lifespan":
            await self._live(receive, send)
        elif scope["type"] == "http":
            with suppress(Gone):
                await self._answer(scope, receive, send)

    async def _live(self, receive: Receive, send: Send) -> None:
        while True:
            message = await receive()
            if message["type"] == "lifespan.startup":
                self.pool = ThreadPoolExecutor(THREADS, thread_name_prefix="request")
                self.started()
                await send({"type": "lifespan.startup.complete"})
            else:
                self.stopping()
                await send({"type": "lifespan.shutdown.complete"})
                return

    async def _answer(self, scope: Message, receive: Receive, send: Send) -> None:
        headers = {name.decode("latin-1"): value.decode("latin-1") for name, value in scope["headers"]}
        if refusal := self.guard.refusal(scope["method"], scope["path"], headers):
            await self._refuse(send, refusal, as_page=not scope["path"].startswith("/api/"))
            return
        with tempfile.SpooledTemporaryFile(IN_MEMORY, dir=str(self.folder), prefix="request-") as body:
            try:
                size = await _body(receive, body, scope["path"], headers)
            except TooLarge:
                await _let_run_out(receive)
                await self._refuse(send, Refusal(413, "That is larger than what is taken here."))
                return
            except TooSlow:
                await self._refuse(send, Refusal(408, "The request came too slowly and was given up. Try again."))
                return
            except OSError as error:
                log.warning("a request could not be kept: %s", error)
                await self._refuse(send, Refusal(507, "The disk is full. Make room, then try again."))
                return
            handed: list[Later | Stream] = []
            environ = _environ(scope, headers, body, size) | {HAND_OVER: handed.append}
            await self._serve(environ, handed, receive, send)

    async def _serve(self, environ: dict[str, Any], handed: list[Later | Stream], receive: Receive, send: Send) -> None:
        answer = await self._in_pool(Answer, self.app, environ)
        later = handed[0] if handed else None
        if isinstance(later, Stream):
            await _stream(later, receive, send)
            return
        if later is not None:
            response = await _unless_gone(later.wait(), receive)
            answer = await self._in_pool(Answer, response, environ)
        try:
            await send({"type": "http.response.start", "status": answer.status, "headers": answer.headers})
            await _sent(send, answer.first, answer.more)
            while answer.more:
                block = await self._in_pool(answer.block)
                await _sent(send, block, answer.more)
        finally:
            if answer.more:
                await self._in_pool(answer.close)

    async def _in_pool(self, function: Callable[..., Any], *arguments: Any) -> Any:
        return await asyncio.get_running_loop().run_in_executor(self.pool, function, *arguments)

    async def _refuse(self, send: Send, refusal: Refusal, as_page: bool = False) -> None:
        """Answer at once, and hang up rather than read the rest."""
        response = problem(refusal.status, refusal.words)
        if as_page:
            words = PAGE.format(words=refusal.words)
            response = Response(words, refusal.status, mimetype="text/html", headers={"Cache-Control": "no-store"})
        headers = [*_encoded(response.headers.items()), *_encoded(HEADERS.items()), (b"connection", b"close")]
        await send({"type": "http.response.start", "status": refusal.status, "headers": headers})
        await send({"type": "http.response.body", "body": response.get_data()})


class Answer:
    """What a WSGI application answers, fetched in blocks; most have only the first, and are closed with it."""

    def __init__(self, app: Any, environ: dict[str, Any]) -> None:
        self.status, self.headers, self.more = 500, list[tuple[bytes, bytes]](), True
        self.chunks: Iterable[bytes] = app(environ, self._start)
        self.left = iter(self.chunks)
        self.first = self.block()

    def _start(self, status: str, headers: list[tuple[str, str]], _: Any = None) -> Callable[[bytes], object]:
        self.status, self.headers = int(status.split(" ", 1)[0]), _encoded(headers)
        return lambda data: None

    def block(self) -> bytes:
        """The next bytes; `more` says whether there may be others."""
        found, size = [], 0
        try:
            for chunk in self.left:
                found.append(chunk)
                size += len(chunk)
                if size >= BLOCK:
                    return b"".join(found)
        except BaseException:
            self.close()
            raise
        self.close()
        return b"".join(found)

    def close(self) -> None:
        self.more = False
        if hasattr(self.chunks, "close"):
            self.chunks.close()


def _encoded(headers: Iterable[tuple[str, str]]) -> Headers:
    return [(name.lower().encode("latin-1"), str(value).encode("latin-1")) for name, value in headers]


async def _let_run_out(receive: Receive) -> None:
    """Read on for a moment and forget it: who is still sending when the line is closed never hears why."""
    left, deadline = LINGERING_BYTES, time.monotonic() + LINGERING
    with contextlib.suppress(TimeoutError):
        while left > 0 and (now := time.monotonic()) < deadline:
            message = await asyncio.wait_for(receive(), deadline - now)
            left -= len(message.get("body", b""))
            if message["type"] == "http.disconnect" or not message.get("more_body", False):
                return


async def _body(receive: Receive, body: IO[bytes], path: str, headers: dict[str, str]) -> int:
    """Read a request's body to its end; its size. Raises TooLarge, TooSlow, Gone, OSError."""
    most = LARGEST.get(path, LARGEST_OTHER)
    length = headers.get("content-length", "0")
    if not length.isdecimal() or int(length) > most:
        raise TooLarge
    began, size = time.monotonic(), 0
    while True:
        try:
            message = await asyncio.wait_for(receive(), PAUSE)
        except TimeoutError as error:
            raise TooSlow from error
        if message["type"] == "http.disconnect":
            raise Gone
        chunk = message.get("body", b"")
        size += len(chunk)
        if size > most:
            raise TooLarge
        if len(chunk) + size > IN_MEMORY:
            await asyncio.to_thread(body.write, chunk)
        else:
            body.write(chunk)
        if not message.get("more_body", False):
            body.seek(0)
            return size
        spent = time.monotonic() - began
        if spent > FIRST and size < LEAST_RATE * (spent - FIRST):
            raise TooSlow


def _environ(scope: Message, headers: dict[str, str], body: IO[bytes], size: int) -> dict[str, Any]:
    """A WSGI environment (PEP 3333) of an ASGI request that is here in full."""
    host, port = scope.get("server") or ("127.0.0.1", 0)
    found: dict[str, Any] = {
        "REQUEST_METHOD": scope["method"],
        "SCRIPT_NAME": "",
        "PATH_INFO": scope["path"].encode("utf-8", "surrogateescape").decode("latin-1"),
        "QUERY_STRING": scope["query_string"].decode("latin-1"),
        "SERVER_NAME": host,
        "SERVER_PORT": str(port),
        "SERVER_PROTOCOL": f"HTTP/{scope['http_version']}",
        "REMOTE_ADDR": (scope.get("client") or ("", 0))[0],
        "CONTENT_LENGTH": str(size),
        "wsgi.version": (1, 0),
        "wsgi.url_scheme": scope["scheme"],
        "wsgi.input": body,
        "wsgi.input_terminated": True,
        "wsgi.errors": _Errors(),
        "wsgi.multithread": True,
        "wsgi.multiprocess": False,
        "wsgi.run_once": False,
    }
    for name, value in headers.items():
        if name == "content-type":
            found["CONTENT_TYPE"] = value
        elif name not in ("content-length", "transfer-encoding") and "_" not in name:
            found[f"HTTP_{name.upper().replace('-', '_')}"] = value
    return found


class _Errors:
    """Where WSGI applications write complaints."""

    def write(self, text: str) -> None:
        if text.strip():
            log.warning("%s", text.strip())

    def flush(self) -> None: ...


async def _sent(send: Send, block: bytes, more: bool) -> None:
    try:
        await asyncio.wait_for(send({"type": "http.response.body", "body": block, "more_body": more}), SENDING)
    except TimeoutError as error:
        raise Gone from error


async def _hung_up(receive: Receive) -> None:
    while (await receive())["type"] != "http.disconnect":
        continue


async def _unless_gone(wait: Awaitable[Any], receive: Receive) -> Any:
    """What is waited for. Raises Gone when the client hangs up meanwhile."""
    work, gone = asyncio.ensure_future(wait), asyncio.ensure_future(_hung_up(receive))
    try:
        await asyncio.wait({work, gone}, return_when=asyncio.FIRST_COMPLETED)
        if not work.done():
            raise Gone
        return work.result()
    finally:
        work.cancel()
        gone.cancel()
        await asyncio.wait({work, gone})


async def _stream(answer: Stream, receive: Receive, send: Send) -> None:
    headers = _encoded(answer.headers.items())
    headers = [(name, value) for name, value in headers if name != b"content-length"]
    await send({"type": "http.response.start", "status": answer.status_code, "headers": headers})
    chunks = answer.chunks()
    try:
        while True:
            try:
                chunk = await _unless_gone(anext(chunks), receive)
            except StopAsyncIteration:
                await _sent(send, b"", False)
                return
            await _sent(send, chunk.encode(), True)
    finally:
        await chunks.aclose()  # type: ignore[attr-defined]
