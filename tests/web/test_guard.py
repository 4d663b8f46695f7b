"""Who is let in, what browsers are told, and a server that nobody can hold up; over sockets where that matters."""

from __future__ import annotations

import http.client
import json
import socket
import threading
import time
from collections.abc import Iterator
from pathlib import Path

import pytest
import uvicorn
from gunicorn.config import Config

from usual_lamp.store.tables import Review
from usual_lamp.web import bridge, worker
from usual_lamp.web.app import create_app
from usual_lamp.web.bridge import Bridge
from usual_lamp.web.guard import Guard, cookie_name
from usual_lamp.web.later import Later

TOKEN = "0123456789abcdef" * 3
GUARD = Guard(TOKEN)
HOST = "127.0.0.1:8300"
COOKIE = {"host": HOST, "cookie": f"other=1; {cookie_name(HOST)}={TOKEN}"}


@pytest.mark.parametrize(
    ("status", "method", "path", "headers"),
    [
        (None, "GET", "/api/reviews", COOKIE),
        (None, "GET", "/api/reviews", {"host": HOST, "authorization": f"Bearer {TOKEN}"}),
        (None, "GET", "/sign-in", {"host": HOST}),
        (401, "GET", "/", {"host": HOST}),
        (401, "GET", "/assets/index.js", {"host": HOST}),
        (401, "GET", "/api/reviews", {"host": HOST, "authorization": f"Bearer {TOKEN[:-1]}"}),
        (401, "GET", "/api/reviews", {"host": HOST, "authorization": "Bearer "}),
        (401, "GET", "/api/reviews", {"host": HOST, "cookie": f"usual-lamp-9999={TOKEN}"}),
        (403, "GET", "/api/reviews", COOKIE | {"host": "evil.example"}),
        (403, "GET", "/api/reviews", COOKIE | {"host": "[::1"}),
        (403, "POST", "/api/reviews", COOKIE | {"origin": "http://127.0.0.1:9999"}),
        (403, "GET", "/api/reviews", COOKIE | {"sec-fetch-site": "cross-site", "sec-fetch-mode": "no-cors"}),
        (403, "GET", "/api/reviews", COOKIE | {"sec-fetch-site": "same-site", "sec-fetch-mode": "navigate"}),
        (403, "POST", "/", COOKIE | {"sec-fetch-site": "cross-site", "sec-fetch-mode": "navigate"}),
        (None, "GET", "/", COOKIE | {"sec-fetch-site": "cross-site", "sec-fetch-mode": "navigate"}),
        (None, "GET", "/api/reviews", COOKIE | {"sec-fetch-site": "same-origin"}),
    ],
)
def test_who_is_let_in(status: int | None, method: str, path: str, headers: dict[str, str]) -> None:
    refusal = GUARD.refusal(method, path, headers)
    assert (refusal.status if refusal else None) == status


def test_an_empty_token_lets_nobody_in(tmp_path: Path, monkeypatch) -> None:
    (tmp_path / "token").write_text("\n")
    monkeypatch.setenv("USUAL_LAMP_TOKEN_FILE", str(tmp_path / "token"))
    with pytest.raises(RuntimeError, match="no token"):
        Guard.from_environment()
    assert not Guard(None).is_token(""), "nothing is never a token"


class Served:
    """The application on a port, as the product serves it."""

    def __init__(self, store, folder: Path) -> None:
        (folder / "index.html").write_text("<p>page</p>")
        self.app = create_app(store, folder, GUARD)
        self.app.add_url_rule("/slow", view_func=slow)
        hub = self.app.extensions["hub"]
        made = Bridge(self.app, GUARD, store.cache, hub.start, hub.close)
        options = worker.WebWorker.CONFIG_KWARGS | {"limit_concurrency": None}
        self.server = uvicorn.Server(uvicorn.Config(made, port=0, log_level="error", **options))
        self.thread = threading.Thread(target=self.server.run)
        self.thread.start()
        while not self.server.started:
            time.sleep(0.01)
        self.port = self.server.servers[0].sockets[0].getsockname()[1]

    def ask(self, path: str, method: str = "GET", body: object = None, **headers: str) -> http.client.HTTPResponse:
        line = http.client.HTTPConnection("127.0.0.1", self.port, timeout=30)
        line.request(method, path, body, {"Authorization": f"Bearer {TOKEN}", **headers})  # type: ignore[arg-type]
        return line.getresponse()

    def dial(self, words: bytes) -> socket.socket:
        line = socket.create_connection(("127.0.0.1", self.port), 30)
        line.sendall(words.replace(b"\n", b"\r\n"))
        return line

    def close(self) -> None:
        self.server.should_exit = True
        self.thread.join(20)
        assert not self.thread.is_alive()


def slow() -> Later:
    import asyncio

    from flask import Response

    async def wait() -> Response:
        await asyncio.sleep(1.0)
        return Response("done")

    return Later(wait)


@pytest.fixture
def served(store, tmp_path: Path) -> Iterator[Served]:
    made = Served(store, tmp_path)
    yield made
    made.close()


def test_signing_in_keeps_a_cookie_and_no_token_in_the_address(served: Served) -> None:
    page = served.ask("/", Authorization="")
    assert page.status == 401 and b"./lamp up" in page.read() and "text/html" in page.headers["Content-Type"]
    assert served.ask("/sign-in?token=guess", Authorization="").status == 401
    reply = served.ask(f"/sign-in?token={TOKEN}", Authorization="")
    assert (reply.status, reply.headers["Location"]) == (303, "/")
    cookie = reply.headers["Set-Cookie"]
    assert "HttpOnly" in cookie and "SameSite=Lax" in cookie
    assert served.ask("/", Authorization="", Cookie=cookie.split(";")[0]).read() == b"<p>page</p>"


def test_browsers_are_told_to_run_nothing_else(served: Served) -> None:
    for path in ("/", "/api/reviews", "/api/reviews/none"):
        headers = served.ask(path).headers
        policy = headers["Content-Security-Policy"]
        assert "script-src 'self';" in policy and "frame-ancestors 'none'" in policy and "unsafe-eval" not in policy
        assert headers["X-Content-Type-Options"] == "nosniff" and headers["Referrer-Policy"] == "no-referrer"


def test_bodies_have_limits_however_they_come(served: Served, monkeypatch) -> None:
    monkeypatch.setattr(bridge, "LARGEST_OTHER", 1000)
    large = json.dumps({"name": "x" * 2000}).encode()
    assert served.ask("/api/color", "POST", large).status == 413
    chunks = (large[k : k + 100] for k in range(0, len(large), 100))
    assert served.ask("/api/color", "POST", chunks).status == 413
    assert served.ask("/api/color", "POST", b"{}", **{"Content-Length": "-1"}).status in (400, 413)
    assert served.ask("/api/color", "POST", b'{"linear": [1, 0, 0]}').status in (200, 422)


def test_nobody_can_hold_up_the_others(served: Served, monkeypatch) -> None:
    """Unfinished heads and bodies, idle streams and long polls: more of each than there are threads."""
    monkeypatch.setattr(bridge, "PAUSE", 3.0)
    ours = f"Host: 127.0.0.1:{served.port}\nAuthorization: Bearer {TOKEN}\n".encode()
    count = bridge.THREADS + 6
    lines = [served.dial(b"GET /api/reviews HTTP/1.1\nHost: ") for _ in range(count)]
    bodies = [served.dial(b"POST /api/color HTTP/1.1\n" + ours + b"Content-Length: 50\n\n{") for _ in range(count)]
    lines += [served.dial(b"GET /api/events HTTP/1.1\n" + ours + b"\n") for _ in range(count)]
    lines += [served.dial(b"GET /slow HTTP/1.1\n" + ours + b"\n") for _ in range(count)]
    assert served.ask("/api/reviews").status == 200
    assert b"408" in bodies[0].recv(100), "who does not go on is told and hung up on"
    for line in (*lines, *bodies):
        line.close()
    assert served.ask("/slow").read() == b"done"


def test_who_never_says_what_they_want_is_hung_up_on(served: Served, monkeypatch) -> None:
    monkeypatch.setattr(worker, "HEAD_SECONDS", 0.3)
    assert served.dial(b"GET /api/reviews HTTP/1.1\n").recv(100) == b""


def test_one_stream_tells_of_all_reviews(served: Served, store, review) -> None:
    stream = served.ask("/api/events")
    other = json.loads(served.ask(f"/api/reviews/{review}/copy", "POST", b"").read())["id"]
    told: set[str] = set()
    while not {review, other} <= told:
        line = stream.readline().decode()
        if line.startswith("data: ["):
            told |= {row[0] for row in json.loads(line[6:])}
    with store.begin() as session:
        assert session.query(Review).count() == 2


def test_gunicorn_takes_our_settings(monkeypatch) -> None:
    monkeypatch.setenv("USUAL_LAMP_WEB_SOCKET", "7")
    config = Config()
    settings: dict[str, object] = {}
    text = (Path(__file__).parents[2] / "launch" / "gunicorn_conf.py").read_text()
    exec(compile(text, "gunicorn_conf.py", "exec"), settings)
    for name in ("bind", "worker_class", "preload_app", "timeout", "umask"):
        config.set(name, settings[name])
    assert config.worker_class is worker.WebWorker and config.preload_app and config.address == [7]
