"""The shelf: our samples and those that were kept, with their finish plates."""

from __future__ import annotations

import hashlib
import uuid
from collections.abc import Iterable
from typing import NamedTuple

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


class Plate(NamedTuple):
    """A finish plate: of which sample, whether it is the coarse one, and its name."""

    sample: Appearance
    coarse: bool
    key: str


def plates_of(sample: Appearance) -> tuple[Plate, Plate]:
    """The fine and the coarse plate of a sample. Their names go by its parameters, its pictures and the engine,
    whatever it is called."""
    pictures = "".join(texture.model_dump_json() for texture in sample.textures)
    text = f"{ENGINE_VERSION}:{LARGEST_PLATE}:{sample.params.model_dump_json()}{pictures}"
    fine, coarse = (hashlib.sha256(f"{text}{end}".encode()).hexdigest() for end in ("", ":coarse"))
    return Plate(sample, False, fine), Plate(sample, True, coarse)


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
    pairs = {name: plates_of(sample) for name, sample in of.items()}
    found = _traced(store, pairs.values())
    return {name: found.get(fine.key) or found.get(coarse.key) for name, (fine, coarse) in pairs.items()}


def missing_plates(store: Store) -> list[Plate]:
    """What is still to be traced, in order: coarse plates first, of samples that have not even a fine one."""
    pairs = [plates_of(sample) for sample in samples(store).values()]
    found = _traced(store, pairs)
    missing = [pair for pair in pairs if pair[0].key not in found]
    return [coarse for _, coarse in missing if coarse.key not in found] + [fine for fine, _ in missing]


def _traced(store: Store, pairs: Iterable[tuple[Plate, Plate]]) -> dict[str, str]:
    """Blobs of plates by their names."""
    keys = [plate.key for pair in pairs for plate in pair]
    with store.begin() as session:
        rows = session.execute(select(FinishPlate.key, FinishPlate.picture).where(FinishPlate.key.in_(keys))).all()
    return {key: picture for key, picture in rows}


@again_when_overtaken
def keep_first_plates(store: Store, missing: list[Plate]) -> bool:
    """Keep what came with the program of the coarse plates that are missing; whether that was any."""
    ready = {plate.key: first_plate(plate.sample) for plate in missing if plate.coarse}
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
