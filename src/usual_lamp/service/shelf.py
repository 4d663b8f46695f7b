"""The shelf of samples with their finish plates."""

from __future__ import annotations

import hashlib

from sqlalchemy import select

from usual_lamp.core.appearance import SHELF, Appearance
from usual_lamp.core.engine_version import ENGINE_VERSION
from usual_lamp.store import Store, again_after_deadlock, blobs
from usual_lamp.store.tables import FinishPlate


def plate_key(appearance: Appearance, coarse: bool = False) -> str:
    """Names the plate of an appearance: its parameters, its pictures and the engine, whatever it is called."""
    pictures = "".join(texture.model_dump_json() for texture in appearance.textures)
    text = f"{ENGINE_VERSION}:{appearance.params.model_dump_json()}{pictures}{':coarse' if coarse else ''}"
    return hashlib.sha256(text.encode()).hexdigest()


def plates(store: Store) -> dict[str, str | None]:
    """Sample id to the blob of its plate, the coarse one at first, None while it is not traced yet."""
    found = _kept(store)
    return {name: found.get((name, False)) or found.get((name, True)) for name in SHELF}


def missing_plates(store: Store) -> list[tuple[str, bool]]:
    """What is still to be traced, in order: sample id, and whether only the coarse plate is meant."""
    found = _kept(store)
    fine = [(name, False) for name in SHELF if (name, False) not in found]
    return [(name, True) for name, _ in fine if (name, True) not in found] + fine


def _kept(store: Store) -> dict[tuple[str, bool], str]:
    """Blobs of plates by sample id and whether they are the coarse ones."""
    keys = {plate_key(sample, coarse): (sample.id, coarse) for sample in SHELF.values() for coarse in (False, True)}
    with store.begin() as session:
        rows = session.execute(
            select(FinishPlate.key, FinishPlate.picture).where(FinishPlate.key.in_(list(keys)))
        ).all()
    return {keys[key]: picture for key, picture in rows}


@again_after_deadlock
def keep_plate(store: Store, key: str, png: bytes) -> None:
    with store.begin() as session:
        picture = blobs.put_bytes(session, png, "image/png")
        if session.get(FinishPlate, key) is None:
            session.add(FinishPlate(key=key, picture=picture))
