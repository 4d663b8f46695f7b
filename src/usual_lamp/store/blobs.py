"""Blobs: written before the row that refers to them, verified when read into the local cache."""

from __future__ import annotations

import hashlib
import os
import re
import secrets
import tempfile
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import BinaryIO

from sqlalchemy import select, update
from sqlalchemy.dialects.mysql import insert
from sqlalchemy.orm import Session

from usual_lamp.store.database import Store
from usual_lamp.store.tables import Blob, BlobChunk, utc_now

CHUNK = 1 << 20


class BlobMissing(LookupError):
    """No such blob, or it is damaged."""


def put_bytes(session: Session, data: bytes, media_type: str) -> str:
    """Store bytes; returns their sha256. Storing the same content again costs one look-up."""
    name = hashlib.sha256(data).hexdigest()
    _insert(session, name, len(data), media_type, (data[i : i + CHUNK] for i in range(0, len(data), CHUNK)))
    return name


def put_file(session: Session, path: Path, media_type: str) -> str:
    """Store a file, one chunk in memory at a time; returns its sha256."""
    with path.open("rb") as file:
        name = hashlib.file_digest(file, "sha256").hexdigest()
        file.seek(0)
        _insert(session, name, path.stat().st_size, media_type, iter(lambda: file.read(CHUNK), b""))
    return name


def _insert(session: Session, name: str, size: int, media_type: str, chunks: Iterator[bytes]) -> None:
    # Counted as new, and held until the transaction ends: whoever tidies up leaves it alone.
    known = session.execute(update(Blob).where(Blob.sha256 == name).values(created=utc_now()))
    if known.rowcount:  # type: ignore[attr-defined]
        return
    session.execute(insert(Blob).values(sha256=name, size=size, media_type=media_type).prefix_with("IGNORE"))
    for seq, chunk in enumerate(chunks):
        session.execute(insert(BlobChunk).values(sha256=name, seq=seq, data=chunk).prefix_with("IGNORE"))


def spool(stream: BinaryIO, folder: Path, limit: int) -> Path:
    """Write an incoming stream to a temporary file, one chunk in memory. Raises ValueError beyond `limit` bytes."""
    handle, name = tempfile.mkstemp(dir=folder, prefix="upload-")
    path = Path(name)
    try:
        with os.fdopen(handle, "wb") as file:
            size = 0
            while chunk := stream.read(CHUNK):
                size += len(chunk)
                if size > limit:
                    raise ValueError(f"The file is larger than {limit // 2**20} MiB, the most that is taken.")
                file.write(chunk)
    except BaseException:
        path.unlink(missing_ok=True)
        raise
    return path


def chunks_of(store: Store, name: str) -> Iterator[bytes]:
    """The content in order, one chunk in memory. Raises BlobMissing."""
    with store.begin() as session:
        if session.get(Blob, name) is None:
            raise BlobMissing(name)
    seq = 0
    while True:
        with store.begin() as session:
            data = session.scalar(select(BlobChunk.data).where(BlobChunk.sha256 == name, BlobChunk.seq == seq))
        if data is None:
            return
        yield data
        seq += 1


NAME = re.compile(r"[0-9a-f]{64}")


def local(store: Store, name: str) -> Path:
    """The blob as a file in the cache directory, its hash checked when it was fetched. Raises BlobMissing."""
    if not NAME.fullmatch(name):
        raise BlobMissing(name)
    path = store.cache / "blobs" / name[:2] / name
    if path.exists():
        return path
    path.parent.mkdir(parents=True, exist_ok=True)
    digest = hashlib.sha256()
    handle, temporary = tempfile.mkstemp(dir=path.parent)
    try:
        with os.fdopen(handle, "wb") as file:
            for chunk in chunks_of(store, name):
                digest.update(chunk)
                file.write(chunk)
        if digest.hexdigest() != name:
            raise BlobMissing(f"{name} is damaged in the database")
        os.replace(temporary, path)
    except BaseException:
        Path(temporary).unlink(missing_ok=True)
        raise
    return path


@contextmanager
def folder(store: Store) -> Iterator[Path]:
    """A folder for files that are being made, on the disk where there is room for them. What a process that died has
    left in one is tidied up."""
    with tempfile.TemporaryDirectory(dir=store.cache, prefix="request-") as made:
        yield Path(made)


def hand_in(store: Store, path: Path, media_type: str) -> str:
    """Store a file of the cache directory in a transaction of its own, and leave it there as the local copy; returns
    its sha256. Whoever tidies up leaves it alone for a while."""
    with store.begin() as session:
        name = put_file(session, path, media_type)
    target = store.cache / "blobs" / name[:2] / name
    target.parent.mkdir(parents=True, exist_ok=True)
    os.replace(path, target)
    return name


def read(store: Store, name: str) -> bytes:
    return local(store, name).read_bytes()


def made_from(store: Store, name: str, ending: str, make: Callable[[bytes], bytes]) -> Path:
    """What is made of a blob when it is first asked for, and kept beside it. Raises BlobMissing."""
    source = local(store, name)
    made = source.with_name(f"{name}.{ending}")
    if not made.exists():
        write_whole(made, make(source.read_bytes()))
    return made


def write_whole(target: Path, data: bytes) -> None:
    """Whole or not at all, whoever else writes it."""
    draft = target.with_name(f"{target.name}.{secrets.token_hex(4)}")
    draft.write_bytes(data)
    draft.replace(target)
