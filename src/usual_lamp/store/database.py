"""The connection to the database: one URL, sessions, a local cache directory for blobs."""

from __future__ import annotations

import os
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from sqlalchemy import create_engine
from sqlalchemy.orm import Session, sessionmaker


class Store:
    def __init__(self, url: str, cache: Path) -> None:
        self.url = url
        self.cache = cache
        cache.mkdir(parents=True, exist_ok=True)
        self.engine = create_engine(url, pool_pre_ping=True, pool_recycle=1800, pool_size=8, max_overflow=56)
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
