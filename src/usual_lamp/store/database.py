"""The connection to the database: one URL, sessions, a local cache directory for blobs."""

from __future__ import annotations

import functools
import os
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import ParamSpec, TypeVar

from sqlalchemy import create_engine
from sqlalchemy.exc import DBAPIError
from sqlalchemy.exc import TimeoutError as PoolTimeout
from sqlalchemy.orm import Session, sessionmaker

Arguments = ParamSpec("Arguments")
Result = TypeVar("Result")

OVERTAKEN = frozenset({1213, 1205, 1020, 1062})
"""MariaDB's error numbers for a transaction that another one came before: deadlock, wait for a lock, a row that changed
meanwhile, a row that is there now."""
TRIES = 6
NO_ROOM = frozenset({28, 1021, 1026, 1114, 1030})
"""MariaDB's error numbers when its disk is full (1030 wraps the system's own 28)."""
AWAY = frozenset({1040, 1053, 1077, 1079, 1152, 1158, 1159, 1160, 1161, 1184, 1290, 1836, 1927, 2002, 2003, 2006, 2013,
                  2014, 2027, 2055, 4166})  # fmt: skip
"""Numbers that mean that the server is not there, goes, or cannot take more now."""
TIMEOUTS = {"connect_timeout": 5, "read_timeout": 30, "write_timeout": 30}
"""Seconds after which a server that says nothing counts as away."""

PATIENCE = 3.0
"""Seconds that a transaction waits for a server that is being started again."""


class DatabaseAway(Exception):
    """The database does not answer. Nothing is lost; what was asked may be asked again."""


class NoRoom(Exception):
    """The disk is full; the message says so and what to do."""


def _said(error: DBAPIError) -> Exception:
    """The error in the store's own words, where it is about the server and not about the statement."""
    number = getattr(error.orig, "errno", None)
    words = str(error.orig)
    if number in NO_ROOM and (number != 1030 or '28 "' in words):
        return NoRoom("The disk is full. Make room, then try again; nothing that was saved is lost.")
    if error.connection_invalidated or number in AWAY or "Can't connect" in words or "Lost connection" in words:
        return DatabaseAway("The database is starting again. Try again in a moment.")
    return error


def again_when_overtaken(function: Callable[Arguments, Result]) -> Callable[Arguments, Result]:
    """For a function that is one transaction: run it again when another transaction came before it."""

    @functools.wraps(function)
    def tried(*args: Arguments.args, **kwargs: Arguments.kwargs) -> Result:
        for attempt in range(1, TRIES):
            try:
                return function(*args, **kwargs)
            except DBAPIError as error:
                if getattr(error.orig, "errno", None) not in OVERTAKEN:
                    raise
                time.sleep(0.01 * 2**attempt)
        return function(*args, **kwargs)

    return tried


class Store:
    def __init__(self, url: str, cache: Path) -> None:
        self.url = url
        self.cache = cache
        cache.mkdir(parents=True, exist_ok=True, mode=0o700)
        # Rows are locked by name before they are written; the gaps between them need no locks.
        self.engine = create_engine(
            url,
            isolation_level="READ COMMITTED",
            pool_pre_ping=True,
            pool_recycle=1800,
            pool_size=8,
            max_overflow=56,
            connect_args=TIMEOUTS,
        )
        self._sessions = sessionmaker(self.engine, expire_on_commit=False)

    @staticmethod
    def from_environment() -> Store:
        """From USUAL_LAMP_DATABASE and USUAL_LAMP_CACHE. Raises RuntimeError when the first is missing."""
        url = os.environ.get("USUAL_LAMP_DATABASE")
        if not url:
            raise RuntimeError("USUAL_LAMP_DATABASE is not set: start with ./lamp up")
        cache = os.environ.get("USUAL_LAMP_CACHE", str(Path.home() / ".cache" / "usual-lamp"))
        return Store(url, Path(cache))

    @contextmanager
    def begin(self) -> Iterator[Session]:
        """One transaction: committed at the end, rolled back on any exception.

        A server that is not there is waited for a little, before anything is done. Raises DatabaseAway, and NoRoom when
        its disk is full.
        """
        deadline = time.monotonic() + PATIENCE
        while True:
            try:
                with self._sessions.begin() as session:
                    session.connection()
                    deadline = 0.0  # from here on something may have been done
                    yield session
                return
            except (DBAPIError, PoolTimeout) as error:
                said = _said(error) if isinstance(error, DBAPIError) else DatabaseAway("The database is busy.")
                if isinstance(said, DatabaseAway) and time.monotonic() < deadline:
                    time.sleep(0.1)
                    continue
                if said is error:
                    raise
                raise said from error
