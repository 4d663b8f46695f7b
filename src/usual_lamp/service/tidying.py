"""Collecting what no review, undo or open import needs any more: `python -m usual_lamp.service.tidying`.

Safe while everything runs: what is younger than the grace time stays, and content that is stored again counts as new.
Reviews and stills that were removed stay for a month, so that one may think again.
"""

from __future__ import annotations

import re
import shutil
import time
from collections.abc import Iterator
from dataclasses import dataclass, fields
from datetime import timedelta
from pathlib import Path
from typing import Any

from sqlalchemy import delete, func, select, text, union, update
from sqlalchemy.orm import Session

from usual_lamp.core.engine_version import ENGINE_VERSION
from usual_lamp.service import checkpoints
from usual_lamp.service.shelf import plates_of, samples
from usual_lamp.store import Store, blobs
from usual_lamp.store.tables import (
    Blob,
    FinishPlate,
    Followed,
    IntakeRun,
    KeptLighting,
    KeptSample,
    ModelRevision,
    Review,
    SceneVersion,
    SightRun,
    Still,
    StillLight,
    utc_now,
)

GRACE = timedelta(days=1)
REMOVED_FOR = timedelta(days=30)
MOST_CACHE = 20 * 2**30
"""Bytes of copies on disk beyond which those not used for longest go; they are made again when asked for."""
HASH = re.compile(r"[0-9a-f]{64}")
REVISION = re.compile(r'"revision":"([0-9a-f]{1,16})"')
BATCH = 200
MOST_ANEW = 2**30
"""Bytes that a table may hold to be written anew."""
LEAST_EMPTY = 2**30
"""Bytes of a table's file that are empty, from which on it is written anew."""
LIGHT_KEPT = 12
"""Stills of a review, the newest ones, that keep their light apart; it takes some 40 MB of a still at 1280 x 960."""


@dataclass
class Tidied:
    """What was collected."""

    reviews: int = 0
    stills: int = 0
    imports: int = 0
    revisions: int = 0
    blobs: int = 0
    blob_bytes: int = 0
    files: int = 0
    file_bytes: int = 0
    table_bytes: int = 0
    """Of the database's files, that were empty."""

    def in_words(self) -> str:
        """What the command line says of it."""
        counts = {f.name: getattr(self, f.name) for f in fields(self) if not f.name.endswith("bytes")}
        rows = [f"{count} {name}" for name, count in counts.items() if count]
        room = f"{(self.blob_bytes + self.file_bytes) / 1e6:.1f} MB"
        removed = f"removed {', '.join(rows)}: {room}" if rows else "nothing to remove"
        smaller = f"; made the database's files {self.table_bytes / 1e9:.1f} GB smaller" if self.table_bytes else ""
        return removed + smaller


def tidy(store: Store, grace: timedelta = GRACE, removed_for: timedelta = REMOVED_FOR) -> Tidied:
    """Collect, in small transactions; what was removed, counted."""
    done = Tidied()
    _rows(store, done, utc_now() - grace, utc_now() - removed_for)
    _revisions(store, done, utc_now() - grace)
    _blobs(store, done, utc_now() - grace)
    _files(store, done, grace)
    _room_in_tables(store, done)
    return done


def _rows(store: Store, done: Tidied, before: Any, removed_before: Any) -> None:
    with store.begin() as session:
        of_gone = Still.review_id.in_(select(Review.id).where(Review.removed < removed_before))
        going = session.scalars(select(Still.id).where(of_gone | (Still.removed < removed_before))).all()
        done_with = session.scalars(select(Still.id).where(Still.state == "done")).all()
    for id in checkpoints.kept_for(store).intersection(done_with):
        checkpoints.drop(store, id)
    # With the rows of stills they would go too, but all at once.
    for id in going:
        checkpoints.drop(store, id, light=True)
    with store.begin() as session:
        gone = session.execute(delete(Review).where(Review.removed < removed_before))
        done.reviews = _count(gone)
        done.stills = _count(session.execute(delete(Still).where(Still.removed < removed_before)))
        # A cover is looked at in the list of reviews, which has its own copy.
        covers = Still.is_cover & Still.state.in_(("done", "failed")) & (Still.created < before)
        done.stills += _count(session.execute(delete(Still).where(covers)))
        ended = IntakeRun.state.in_(("done", "stopped"))
        done.imports = _count(session.execute(delete(IntakeRun).where(ended, IntakeRun.created < before)))
    with store.begin() as session:
        _old_light(session)
        session.execute(delete(SightRun).where(SightRun.state.in_(("done", "failed")), SightRun.created < before))
        there = select(Review.id)
        session.execute(delete(Followed).where(Followed.review_id.not_in(there)))
        keys = {plate.key for sample in samples(store).values() for plate in plates_of(sample)}
        old = session.scalars(select(FinishPlate.key).where(FinishPlate.created < before)).all()
        session.execute(delete(FinishPlate).where(FinishPlate.key.in_([key for key in old if key not in keys])))


def _old_light(session: Session) -> None:
    """Let older stills go without their light, but for layers of it that somebody asked for; the pictures stay."""
    newest = (
        select(
            Still.id, func.row_number().over(partition_by=Still.review_id, order_by=Still.created.desc()).label("place")
        )
        .where(Still.light_kept.is_(True), Still.removed.is_(None))
        .subquery()
    )
    asked = select(Still.id).where(Still.by_kind.is_(True), Still.light_kept.is_(True), Still.removed.is_(None))
    keep = session.scalars(select(newest.c.id).where(newest.c.place <= LIGHT_KEPT).union(asked)).all()
    # Rows of a still that is just being finished belong to one that runs.
    busy = select(Still.id).where(Still.state.in_(("queued", "running")))
    session.execute(delete(StillLight).where(StillLight.still_id.not_in(keep), StillLight.still_id.not_in(busy)))
    session.execute(update(Still).where(Still.light_kept.is_(True), Still.id.not_in(keep)).values(light_kept=False))


def _count(result: Any) -> int:
    return int(result.rowcount)


def _texts(session: Session) -> Iterator[str]:
    """All documents in which content or revisions are named, one after the other."""
    for column in (
        Review.scene, SceneVersion.edit, SceneVersion.inverse, SceneVersion.snapshot, Still.inputs, Still.scene,
        IntakeRun.options, KeptSample.appearance, KeptLighting.document,
    ):  # fmt: skip
        for document in session.scalars(select(column).execution_options(yield_per=50)):
            if document:
                yield document


def _revisions(store: Store, done: Tidied, before: Any) -> None:
    """States of models that no scene, edit or import names."""
    with store.begin() as session:
        used = set(session.scalars(union(select(Review.revision), select(IntakeRun.revision))).all())
        for text in _texts(session):
            used.update(REVISION.findall(text))
        old = session.scalars(select(ModelRevision.id).where(ModelRevision.created < before)).all()
        unused = [name for name in old if name not in used]
        for start in range(0, len(unused), BATCH):
            batch = ModelRevision.id.in_(unused[start : start + BATCH])
            done.revisions += _count(session.execute(delete(ModelRevision).where(batch)))


def _blobs(store: Store, done: Tidied, before: Any) -> None:
    """Content that nothing names, by foreign key or in a document."""
    with store.begin() as session:
        keys = [ModelRevision.manifest, ModelRevision.source, Review.cover, IntakeRun.source, Still.picture,
                Still.negative, Still.survey, FinishPlate.picture]  # fmt: skip
        used = {name for name in session.scalars(union(*(select(key) for key in keys))) if name}
        for text in _texts(session):
            used.update(HASH.findall(text))
        manifests = session.scalars(select(ModelRevision.manifest)).all()
        old = session.execute(select(Blob.sha256, Blob.size).where(Blob.created < before)).all()
    for manifest in set(manifests):
        used.update(HASH.findall(blobs.read(store, manifest).decode()))
    for name, size in [(name, size) for name, size in old if name not in used]:
        with store.begin() as session:
            if _count(session.execute(delete(Blob).where(Blob.sha256 == name, Blob.created < before))):
                done.blobs, done.blob_bytes = done.blobs + 1, done.blob_bytes + size


def _files(store: Store, done: Tidied, grace: timedelta) -> None:
    """Left-over uploads and working folders, copies of what is gone, and the oldest copies beyond MOST_CACHE."""
    before = time.time() - grace.total_seconds()

    def remove(path: Path) -> None:
        done.files += 1
        if path.is_dir():
            done.file_bytes += sum(file.stat().st_size for file in path.rglob("*") if file.is_file())
            shutil.rmtree(path, ignore_errors=True)
        else:
            done.file_bytes += path.stat().st_size
            path.unlink(missing_ok=True)

    for pattern in ("upload-*", "usual-lamp-*", "request-*"):
        for path in store.cache.glob(pattern):
            if path.stat().st_mtime < before:
                remove(path)
    with store.begin() as session:
        there = set(session.scalars(select(Blob.sha256)).all())
    copies = [path for path in (store.cache / "blobs").rglob("*") if path.is_file()]
    for path in copies:
        # Drafts of files have other names; an old one was left by a process that died.
        if path.stat().st_mtime < before and path.name[:64] not in there:
            remove(path)
    left = sorted((path for path in copies if path.exists()), key=lambda path: path.stat().st_atime)
    size = sum(path.stat().st_size for path in left)
    for path in left:
        if size <= MOST_CACHE:
            break
        size -= path.stat().st_size
        remove(path)


def _room_in_tables(store: Store, done: Tidied) -> None:
    """Give the disk back what large rows have left empty in the files of the database, which keeps it otherwise."""
    sizes = text(
        "SELECT table_name, data_length, data_free FROM information_schema.tables "
        "WHERE table_schema = DATABASE() AND table_name IN ('still_tile', 'still_block', 'still_light', 'blob_chunk')"
    )
    with store.begin() as session:
        found = session.execute(sizes).all()
    for table, length, empty in found:
        # What it holds is written anew beside it, which must not take long, nor fill the disk.
        if empty >= LEAST_EMPTY and length <= MOST_ANEW and shutil.disk_usage(store.cache).free > 2 * length:
            with store.begin() as session:
                session.execute(text(f"OPTIMIZE TABLE {table}"))
            done.table_bytes += empty


def main() -> None:
    print(f"Usual Lamp {ENGINE_VERSION}: {tidy(Store.from_environment()).in_words()}.")


if __name__ == "__main__":
    main()
