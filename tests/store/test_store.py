"""Blobs and the schema, on a real MariaDB."""

import io
import os

import pytest
from alembic import command

from usual_lamp.store import blobs
from usual_lamp.store.migrate import config
from usual_lamp.store.tables import Blob, BlobChunk


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
