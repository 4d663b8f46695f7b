"""Asking a running home over HTTP, with its token: for the launcher, the tests and the benchmarks."""

from __future__ import annotations

import json
import urllib.request
from typing import Any

from launch import processes
from launch.paths import Home


def send(home: Home, path: str, method: str = "GET", data: object = None, timeout: float = 60.0) -> Any:
    """The open reply to a request; `data` is bytes, or an iterable of them. Raises OSError (HTTPError is one)."""
    headers = {"Authorization": f"Bearer {home.token}", "Content-Type": "application/json"}
    request = urllib.request.Request(f"{home.url}api/{path}", data, headers, method=method)  # type: ignore[arg-type]
    return urllib.request.urlopen(request, timeout=timeout)


def ask(home: Home, path: str, method: str = "GET", body: object = None, timeout: float = 60.0) -> Any:
    """What the API answers: a document if it is JSON, bytes if not. Raises OSError."""
    data = json.dumps(body).encode() if body is not None else (b"" if method != "GET" else None)
    with send(home, path, method, data, timeout) as reply:
        raw = reply.read()
        is_document = reply.headers.get_content_type() == "application/json"
    return json.loads(raw) if is_document else raw


def child(home: Home, name: str) -> int:
    """Process id of one of the supervisor's services."""
    children: Any = processes.state_of(home)["children"]
    return int(children[name][0])
