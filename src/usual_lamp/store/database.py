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
from sqlalchemy.exc import OperationalError
from sqlalchemy.orm import Session, sessionmaker

Arguments = ParamSpec("Arguments")
Result = TypeVar("Result")

DEADLOCK, LOCK_WAIT = 1213, 1205
"""MariaDB's error numbers for a transaction that was rolled back in favour of another one."""
TRIES = 6


def again_after_deadlock(function: Callable[Arguments, Result]) -> Callable[Arguments, Result]:
    """For a function that is one transaction: run it again when the database gave way to another transaction."""

    @functools.wraps(function)
    def tried(*args: Arguments.args, **kwargs: Arguments.kwargs) -> Result:
        for attempt in range(1, TRIES):
            try:
                return function(*args, **kwargs)
            except OperationalError as error:
                if getattr(error.orig, "errno", None) not in (DEADLOCK, LOCK_WAIT):
                    raise
                time.sleep(0.01 * 2**attempt)
        return function(*args, **kwargs)

    return tried


class Store:
    def __init__(self, url: str, cache: Path) -> None:
        self.url = url
        self.cache = cache
        cache.mkdir(parents=True, exist_ok=True)
        # Rows are locked by name before they are written; the gaps between them need no locks.
        self.engine = create_engine(
            url,
            isolation_level="READ COMMITTED",
            pool_pre_ping=True,
            pool_recycle=1800,
            pool_size=8,
            max_overflow=56,
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
        """One transaction: committed at the end, rolled back on any exception."""
        with self._sessions.begin() as session:
            yield session
