"""Pictures that come in for textures: decoded in a child process, one at a time, and kept in a safe form."""

from __future__ import annotations

import os
import tempfile
import threading
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any, BinaryIO

from sqlalchemy import select
from sqlalchemy.orm import Session

from usual_lamp.core.appearance.texture import CONTENT_HASH
from usual_lamp.core.sandbox import Crashed, OutOfRoom, Unusable, run_job
from usual_lamp.service import room
from usual_lamp.service.errors import Refused
from usual_lamp.store import NoRoom, Store, blobs
from usual_lamp.store.tables import Blob

MOST_BYTES = 60 * 2**20
MOST_PANORAMA_BYTES = 256 * 2**20
DEFAULT_MEGAPIXELS = 40
SECONDS, MEMORY = 60.0, 3 * 2**30
"""What decoding one may take: time by the clock, and bytes of address space."""
_one_at_a_time = threading.Lock()


@dataclass(frozen=True)
class Kept:
    """A picture in the store."""

    name: str
    """Content hash."""
    width: int
    height: int
    pages: int = field(default=1, kw_only=True)
    """Of the file that it came from."""


def most_pixels() -> int:
    """From USUAL_LAMP_MEGAPIXELS."""
    text = os.environ.get("USUAL_LAMP_MEGAPIXELS", "")
    return (int(text) if text.isdecimal() else DEFAULT_MEGAPIXELS) * 1_000_000


def receive(store: Store, stream: BinaryIO, page: int = 1) -> Kept:
    """Keep an uploaded picture, or that page of a PDF. Raises Refused when it cannot be used, NoRoom when the disk is
    nearly full."""
    with decoded(store, stream, "usual_lamp.core.picture.decoding:decode", MOST_BYTES, page=page) as (folder, found):
        with store.begin() as session:
            kept = blobs.put_file(session, folder / "picture", str(found["media"]))
        return Kept(kept, int(found["width"]), int(found["height"]), pages=int(found["pages"]))


@dataclass(frozen=True)
class KeptPanorama(Kept):
    """A panorama in the store, and what was odd about its file."""

    notes: tuple[str, ...]


def receive_panorama(store: Store, stream: BinaryIO) -> KeptPanorama:
    """Keep an uploaded panorama. Raises Refused when it cannot be used, NoRoom when the disk is nearly full."""
    with decoded(store, stream, "usual_lamp.core.light.panorama:decode", MOST_PANORAMA_BYTES) as (folder, found):
        with store.begin() as session:
            kept = blobs.put_file(session, folder / "panorama", "image/x-exr")
        return KeptPanorama(kept, int(found["width"]), int(found["height"]), tuple(found["notes"]))


@contextmanager
def decoded(
    store: Store, stream: BinaryIO, job: str, most_bytes: int, **more: object
) -> Iterator[tuple[Path, dict[str, Any]]]:
    """Decode an upload in a child process, which is asked for `more`: the folder that holds what came out, and what the
    job says of it."""
    room.require(store)
    try:
        source = blobs.spool(stream, store.cache, most_bytes)
    except ValueError as error:
        raise Refused(f"The file is larger than {most_bytes // 2**20} MB. Make it smaller first.") from error
    try:
        with _one_at_a_time, tempfile.TemporaryDirectory(prefix="usual-lamp-picture-", dir=store.cache) as name:
            asked = {"source": str(source), "most_pixels": most_pixels(), **more}
            yield (
                Path(name),
                run_job(job, Path(name), asked, readable=[source], seconds=SECONDS, silence=SECONDS, memory=MEMORY),
            )
    except Unusable as error:
        raise Refused(str(error)) from error
    except OutOfRoom as error:
        raise NoRoom(str(error)) from error
    except Crashed as error:
        raise Refused("The picture could not be read. Save it again and try once more.") from error
    finally:
        source.unlink(missing_ok=True)


def require_known(session: Session, names: set[str]) -> None:
    """Raises Refused for a picture that is not in the store."""
    asked = {name for name in names if CONTENT_HASH.fullmatch(name)}
    if asked and asked - set(session.scalars(select(Blob.sha256).where(Blob.sha256.in_(asked)))):
        raise Refused("A picture of that appearance is not here. Select its file again.")
