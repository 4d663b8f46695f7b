"""The lighting that new reviews start with, where one of one's own was chosen for that."""

from __future__ import annotations

from sqlalchemy import select
from sqlalchemy.orm import Session

from usual_lamp.core.light.arranging import Stand
from usual_lamp.core.scene.carrying import CarriedLighting
from usual_lamp.store.tables import KeptLighting


def first_lighting(session: Session, stand: Stand) -> CarriedLighting | None:
    """It, as it falls on a product; None where new reviews start with ours."""
    row = session.scalars(select(KeptLighting).where(KeptLighting.is_start)).first()
    if row is None:
        return None
    return carried_in(row).fitted(stand)


def carried_in(row: KeptLighting) -> CarriedLighting:
    """The lighting that a row holds."""
    return CarriedLighting.model_validate_json(row.document)
