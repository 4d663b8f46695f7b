"""Following the file on the server that a model came from, and saying so when a newer one has settled."""

from __future__ import annotations

import errno
import os
import stat
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from pathlib import Path
from typing import BinaryIO

from sqlalchemy import select
from sqlalchemy.orm import Session

from usual_lamp.core.intake.formats import SUFFIXES, in_words
from usual_lamp.core.intake.tessellation import Quality
from usual_lamp.service.errors import NotFound, Refused
from usual_lamp.service.intakes import For, receive
from usual_lamp.service.reviews import require, scene_of, touch
from usual_lamp.store import Store, again_when_overtaken
from usual_lamp.store.tables import Followed, IntakeRun, Review

LONGEST_PATH = 1000


@dataclass(frozen=True)
class Following:
    model: str
    path: str
    newer: bool
    problem: str | None


def folders() -> list[Path]:
    """Folders in which files may be followed, from USUAL_LAMP_FOLLOW (several with a colon between them)."""
    named = os.environ.get("USUAL_LAMP_FOLLOW", "").split(os.pathsep)
    return [Path(os.path.realpath(name)) for name in named if name]


@contextmanager
def opened(path: Path) -> Iterator[tuple[BinaryIO, str]]:
    """A regular file below one of the folders, open for reading, and its size and time as one word.

    What lies there as a link is followed only to another place below them. Raises OSError.
    """
    real = Path(os.path.realpath(path))
    allowed = folders()
    _require_inside(real, allowed)
    # Without waiting: a pipe would block until someone writes to it.
    handle = os.open(real, os.O_RDONLY | os.O_NOFOLLOW | os.O_NONBLOCK | os.O_CLOEXEC)
    with os.fdopen(handle, "rb") as file:
        found = os.fstat(handle)
        if not stat.S_ISREG(found.st_mode):
            raise PermissionError(errno.EPERM, "it is not a plain file")
        _require_inside(Path(os.readlink(f"/proc/self/fd/{handle}")), allowed)
        yield file, f"{found.st_size}-{found.st_mtime_ns}"


def _require_inside(path: Path, allowed: list[Path]) -> None:
    if not any(path.is_relative_to(folder) for folder in allowed):
        names = ", ".join(map(str, allowed)) or "none"
        raise PermissionError(errno.EPERM, f"only files in these folders may be watched: {names}")


def look_at_file(path: Path) -> str:
    """Size and time of a file that may be followed, as one word; raises OSError."""
    with opened(path) as (_, state):
        return state


@again_when_overtaken
def follow(store: Store, review_id: str, model: str, path: str) -> None:
    """Watch a file on the server from its present state on. Raises NotFound, Refused."""
    if "\0" in path or len(path) > LONGEST_PATH:
        raise Refused("That is no path of a file.")
    file = Path(path)
    if not file.is_absolute():
        raise Refused("Give the whole path of the file, from the root of the server's file system.")
    if file.suffix.lower() not in SUFFIXES:
        raise Refused(f"Only files that can be imported can be watched: {in_words()}.")
    try:
        state = look_at_file(file)
    except OSError as error:
        raise Refused(f"The server cannot read {file}: {error.strerror or error}.") from error
    with store.begin() as session:
        if model not in scene_of(require(session, review_id)).models:
            raise NotFound("That model is not in this review any more.")
        row = session.get(Followed, (review_id, model)) or Followed(review_id=review_id, model=model)
        row.path, row.taken, row.seen, row.newer, row.problem = str(file), state, state, False, None
        session.add(row)
        touch(session, review_id)


@again_when_overtaken
def unfollow(store: Store, review_id: str, model: str) -> None:
    with store.begin() as session:
        row = session.get(Followed, (review_id, model))
        if row is not None:
            session.delete(row)
            touch(session, review_id)


def followed(store: Store, review_id: str) -> list[Following]:
    with store.begin() as session:
        rows = session.scalars(select(Followed).where(Followed.review_id == review_id)).all()
        return [Following(row.model, row.path, row.newer, row.problem) for row in rows]


@again_when_overtaken
def look_round(store: Store) -> None:
    """One look at every followed file; one that changed and is the same at the next look has settled."""
    with store.begin() as session:
        watched = select(Followed).join(Review, Review.id == Followed.review_id).where(Review.removed.is_(None))
        for row in session.scalars(watched).all():
            before = (row.newer, row.problem)
            try:
                state = look_at_file(Path(row.path))
            except OSError as error:
                row.problem = f"{row.path}: {error.strerror or error}"[:255]
            else:
                row.problem = None
                row.newer = state not in (row.taken,) and state == row.seen
                row.seen = state
            if (row.newer, row.problem) != before:
                touch(session, row.review_id)


def take_newer(store: Store, review_id: str, model: str) -> str:
    """Take the followed file's present state in as the model's next revision; returns the run's id.

    Raises NotFound, Refused.
    """
    with store.begin() as session:
        row = session.get(Followed, (review_id, model))
        if row is None:
            raise NotFound("That model follows no file.")
        path = Path(row.path)
    quality: Quality = "fair"
    try:
        with opened(path) as (stream, state):
            target = For("replace", review_id, model)
            return receive(store, stream, path.name, path.stem, quality, target=target, file_state=state)
    except OSError as error:
        raise Refused(f"The server cannot read {path}: {error.strerror or error}.") from error


def took(session: Session, run: IntakeRun) -> None:
    """The review now shows what this run read; its followed file may have been saved again since."""
    row = session.get(Followed, (run.review_id, run.model))
    if row is not None and run.file_state is not None:
        row.taken, row.newer = run.file_state, row.seen != run.file_state
