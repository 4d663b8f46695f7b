"""How the first shot of new reviews is made, where that was kept from a shot."""

from __future__ import annotations

from sqlalchemy.orm import Session

from usual_lamp.core.scene.shot import Habits
from usual_lamp.store.tables import Setting

FIRST_SHOT = "first shot"
"""Name of the setting."""


def first_shot(session: Session) -> Habits | None:
    """What was kept; None where new reviews start as shipped."""
    row = session.get(Setting, FIRST_SHOT)
    return Habits.model_validate_json(row.value) if row else None
