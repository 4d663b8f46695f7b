"""Lightings that are kept for all reviews, and the one that new reviews start with."""

from __future__ import annotations

import uuid
from dataclasses import dataclass

from sqlalchemy import select, update
from sqlalchemy.orm import Session

from usual_lamp.core.camera import Camera
from usual_lamp.core.scene.carrying import CarriedLighting
from usual_lamp.core.scene.resolved import ResolvedScene
from usual_lamp.service import editing, lighting
from usual_lamp.service.errors import NotFound, Refused
from usual_lamp.service.first_lighting import carried_in
from usual_lamp.store import Store, again_when_overtaken
from usual_lamp.store.tables import KeptLighting

MOST_KEPT = 100


@dataclass(frozen=True)
class KeptLine:
    """One of them."""

    id: str
    name: str
    is_start: bool


def kept(store: Store) -> list[KeptLine]:
    """All of them, the one kept last first."""
    with store.begin() as session:
        rows = session.scalars(select(KeptLighting).order_by(KeptLighting.created.desc(), KeptLighting.id)).all()
        return [KeptLine(row.id, carried_in(row).lighting.name, row.is_start) for row in rows]


@again_when_overtaken
def keep(store: Store, review_id: str, lighting_id: str, camera: Camera) -> str:
    """Keep a lighting of a review, as it falls on its product. Returns its id. Raises NotFound and Refused."""
    found = editing.look_at(store, review_id)
    one = found.scene.lightings.get(lighting_id)
    if one is None:
        raise NotFound("That lighting is not in this review any more.")
    stand = lighting.stand(ResolvedScene(found.assembly, found.scene), camera)
    carried = CarriedLighting.of(one, stand, found.scene.panoramas, found.scene.appearances)
    with store.begin() as session:
        if len(session.scalars(select(KeptLighting.id)).all()) >= MOST_KEPT:
            raise Refused(f"There are {MOST_KEPT} kept lightings already. Remove one first.")
        id = f"lighting-{uuid.uuid4().hex[:12]}"
        session.add(KeptLighting(id=id, document=carried.model_dump_json()))
    return id


def fitted(store: Store, kept_id: str, review_id: str, camera: Camera) -> CarriedLighting:
    """A kept lighting as it falls on the product of a review. Raises NotFound and Refused."""
    with store.begin() as session:
        carried = carried_in(_require(session, kept_id))
    found = editing.look_at(store, review_id)
    stand = lighting.stand(ResolvedScene(found.assembly, found.scene), camera)
    return carried.fitted(stand)


@again_when_overtaken
def start_with(store: Store, kept_id: str | None) -> None:
    """Let new reviews start with a kept lighting, or (None) with the one that ships. Raises NotFound."""
    with store.begin() as session:
        session.execute(update(KeptLighting).values(is_start=False))
        if kept_id is not None:
            _require(session, kept_id).is_start = True


@again_when_overtaken
def no_longer_keep(store: Store, kept_id: str) -> None:
    """Remove a kept lighting; reviews that use it have their own copy. Raises NotFound."""
    with store.begin() as session:
        session.delete(_require(session, kept_id))


def _require(session: Session, kept_id: str) -> KeptLighting:
    row = session.get(KeptLighting, kept_id)
    if row is None:
        raise NotFound("That lighting is not kept any more.")
    return row
