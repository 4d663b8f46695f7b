"""The shelf: our samples and those that were kept, with their finish plates."""

from __future__ import annotations

import hashlib
import uuid

from sqlalchemy import select
from sqlalchemy.orm import Session

from usual_lamp.core.appearance import SHELF, Appearance
from usual_lamp.core.appearance.first_plates import first_plate
from usual_lamp.core.engine_version import ENGINE_VERSION
from usual_lamp.service import pictures
from usual_lamp.service.errors import NotFound, Refused
from usual_lamp.store import Store, again_when_overtaken, blobs
from usual_lamp.store.tables import FinishPlate, KeptSample

MOST_KEPT = 500
LARGEST_PLATE, COARSE_PLATE, PLATE_SIDES = 288, 96, (96, 192, 288)
"""Pixels along a side of a finish plate as it is traced, of its first picture, and those it is handed out in."""


def plate_key(appearance: Appearance, coarse: bool = False) -> str:
    """Names the plate of an appearance: its parameters, its pictures and the engine, whatever it is called."""
    pictures = "".join(texture.model_dump_json() for texture in appearance.textures)
    text = f"{ENGINE_VERSION}:{LARGEST_PLATE}:{appearance.params.model_dump_json()}{pictures}{':coarse' * coarse}"
    return hashlib.sha256(text.encode()).hexdigest()


def kept(store: Store) -> list[Appearance]:
    """Samples of one's own, the one kept last first."""
    with store.begin() as session:
        rows = session.scalars(select(KeptSample.appearance).order_by(KeptSample.created.desc(), KeptSample.id)).all()
    return [Appearance.model_validate_json(row) for row in rows]


@again_when_overtaken
def keep(store: Store, appearance: Appearance) -> Appearance:
    """Keep an appearance for other reviews, under an id of its own. Raises Refused when the shelf is full."""
    made = appearance.model_copy(update={"id": f"kept-{uuid.uuid4().hex[:12]}"})
    with store.begin() as session:
        if len(session.scalars(select(KeptSample.id)).all()) >= MOST_KEPT:
            raise Refused(f"There are {MOST_KEPT} kept samples already. Remove one first.")
        pictures.require_known(session, {texture.picture for texture in appearance.textures})
        session.add(KeptSample(id=made.id, appearance=made.model_dump_json()))
    return made


@again_when_overtaken
def no_longer_keep(store: Store, sample_id: str) -> None:
    """Take a kept sample off the shelf; reviews that use it have their own copy. Raises NotFound."""
    with store.begin() as session:
        row = session.get(KeptSample, sample_id)
        if row is None:
            raise NotFound("That sample is not kept any more.")
        session.delete(row)


def samples(store: Store) -> dict[str, Appearance]:
    """All that is on the shelf, by id: kept ones first."""
    return {sample.id: sample for sample in kept(store)} | SHELF


def plates(store: Store, of: dict[str, Appearance]) -> dict[str, str | None]:
    """Sample id to the blob of its plate, the coarse one at first, None while it is not traced yet."""
    found = _traced(store, of)
    return {name: found.get((name, False)) or found.get((name, True)) for name in of}


def missing_plates(store: Store) -> list[tuple[Appearance, bool]]:
    """What is still to be traced, in order: the sample, and whether only the coarse plate is meant."""
    of = samples(store)
    found = _traced(store, of)
    fine = [(sample, False) for name, sample in of.items() if (name, False) not in found]
    return [(sample, True) for sample, _ in fine if (sample.id, True) not in found] + fine


def _traced(store: Store, of: dict[str, Appearance]) -> dict[tuple[str, bool], str]:
    """Blobs of plates by sample id and whether they are the coarse ones."""
    keys: dict[str, list[tuple[str, bool]]] = {}
    for sample in of.values():
        for coarse in (False, True):
            keys.setdefault(plate_key(sample, coarse), []).append((sample.id, coarse))
    with store.begin() as session:
        rows = session.execute(
            select(FinishPlate.key, FinishPlate.picture).where(FinishPlate.key.in_(list(keys)))
        ).all()
    return {place: picture for key, picture in rows for place in keys[key]}


@again_when_overtaken
def keep_first_plates(store: Store, missing: list[tuple[Appearance, bool]]) -> bool:
    """Keep what came with the program of the coarse plates that are missing; whether that was any."""
    ready = {plate_key(sample, True): first_plate(sample) for sample, coarse in missing if coarse}
    found = {key: plate for key, plate in ready.items() if plate}
    with store.begin() as session:
        for key, plate in found.items():
            _put(session, key, plate, "image/webp")
    return bool(found)


@again_when_overtaken
def keep_plate(store: Store, key: str, png: bytes) -> None:
    """Keep a traced plate."""
    with store.begin() as session:
        _put(session, key, png, "image/png")


def _put(session: Session, key: str, plate: bytes, kind: str) -> None:
    picture = blobs.put_bytes(session, plate, kind)
    if session.get(FinishPlate, key) is None:
        session.add(FinishPlate(key=key, picture=picture))
