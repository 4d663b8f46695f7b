"""The shelf of samples with their finish plates."""

from __future__ import annotations

import hashlib

from sqlalchemy import select

from usual_lamp.core.appearance import SHELF, Appearance
from usual_lamp.core.engine_version import ENGINE_VERSION
from usual_lamp.store import Store, again_after_deadlock, blobs
from usual_lamp.store.tables import FinishPlate


def plate_key(appearance: Appearance) -> str:
    """Names the plate of an appearance: its parameters and the engine, whatever it is called."""
    text = f"{ENGINE_VERSION}:{appearance.params.model_dump_json()}"
    return hashlib.sha256(text.encode()).hexdigest()


def plates(store: Store) -> dict[str, str | None]:
    """Sample id to the blob of its plate, None while it is not traced yet."""
    keys = {sample.id: plate_key(sample) for sample in SHELF.values()}
    with store.begin() as session:
        found = dict(
            session.execute(
                select(FinishPlate.key, FinishPlate.picture).where(FinishPlate.key.in_(keys.values()))
            ).all()
        )
    return {name: found.get(key) for name, key in keys.items()}


@again_after_deadlock
def keep_plate(store: Store, key: str, png: bytes) -> None:
    with store.begin() as session:
        picture = blobs.put_bytes(session, png, "image/png")
        if session.get(FinishPlate, key) is None:
            session.add(FinishPlate(key=key, picture=picture))
