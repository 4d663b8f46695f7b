"""Blobs and the schema, on a real MariaDB."""

import io
import os

import pytest
from alembic import command
from sqlalchemy import update

from usual_lamp.store import again_when_overtaken, blobs
from usual_lamp.store.migrate import config
from usual_lamp.store.tables import Blob, BlobChunk, ModelRevision, Review, utc_now


def test_schema_is_what_the_tables_say(store) -> None:
    command.check(config(store.url))


def test_blob_round_trip_in_chunks(store) -> None:
    data = os.urandom(3 * blobs.CHUNK + 17)
    with store.begin() as session:
        name = blobs.put_bytes(session, data, "application/octet-stream")
        assert blobs.put_bytes(session, data, "application/octet-stream") == name
    with store.begin() as session:
        assert session.query(BlobChunk).count() == 4 and session.get(Blob, name).size == len(data)
    assert blobs.read(store, name) == data
    assert b"".join(blobs.chunks_of(store, name)) == data


def test_a_file_that_is_handed_in_is_the_local_copy_and_in_the_database(store) -> None:
    path = store.cache / "made.exr"
    path.write_bytes(data := os.urandom(blobs.CHUNK + 5))
    name = blobs.hand_in(store, path, "image/x-exr")
    assert not path.exists() and blobs.local(store, name).read_bytes() == data
    blobs.local(store, name).unlink()
    assert blobs.read(store, name) == data


def test_damaged_blob_is_not_believed(store) -> None:
    with store.begin() as session:
        name = blobs.put_bytes(session, b"whole", "text/plain")
    with store.begin() as session:
        session.get(BlobChunk, (name, 0)).data = b"other"
    with pytest.raises(blobs.BlobMissing, match="damaged"):
        blobs.read(store, name)
    with pytest.raises(blobs.BlobMissing):
        blobs.read(store, "0" * 64)


def test_upload_above_the_limit_leaves_nothing(store, tmp_path) -> None:
    with pytest.raises(ValueError, match="larger"):
        blobs.spool(io.BytesIO(b"x" * 5000), tmp_path, 4000)
    assert not list(tmp_path.glob("upload-*"))


def test_a_failed_transaction_stores_nothing(store) -> None:
    with pytest.raises(RuntimeError), store.begin() as session:
        blobs.put_bytes(session, b"half", "text/plain")
        raise RuntimeError
    with store.begin() as session:
        assert session.query(Blob).count() == 0


def test_a_transaction_that_lost_a_deadlock_runs_again(store, review) -> None:
    """Two edits of the same rows in opposite order: the database ends one, which must still take effect."""
    from threading import Barrier, Thread

    both_hold_one = Barrier(2, timeout=20)
    tries: list[str] = []

    @again_when_overtaken
    def cross(first: type, second: type) -> None:
        with store.begin() as session:
            tries.append(first.__name__)
            session.execute(update(first).values(created=utc_now()))
            if len(tries) <= 2:
                both_hold_one.wait()
            session.execute(update(second).values(created=utc_now()))

    pairs = [(Review, ModelRevision), (ModelRevision, Review)]
    threads = [Thread(target=cross, args=pair) for pair in pairs]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join(30)
    assert len(tries) == 3, "one of them had to run twice"
