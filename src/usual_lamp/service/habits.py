"""Which shot new reviews start like."""

from __future__ import annotations

from sqlalchemy import delete
from sqlalchemy.dialects.mysql import insert

from usual_lamp.core.scene.shot import Habits
from usual_lamp.service.errors import NotFound
from usual_lamp.service.first_shot import FIRST_SHOT, first_shot
from usual_lamp.service.reviews import require, scene_of
from usual_lamp.store import Store, again_when_overtaken
from usual_lamp.store.tables import Setting


@again_when_overtaken
def start_like(store: Store, review_id: str, shot_id: str) -> None:
    """Let new reviews start with a shot like this one. Raises NotFound."""
    with store.begin() as session:
        shot = scene_of(require(session, review_id)).shots.get(shot_id)
        if shot is None:
            raise NotFound("That shot is not in this review any more.")
        text = Habits.of(shot).model_dump_json()
        session.execute(insert(Setting).values(name=FIRST_SHOT, value=text).on_duplicate_key_update(value=text))


@again_when_overtaken
def start_as_shipped(store: Store) -> None:
    """Let new reviews start as they do at first."""
    with store.begin() as session:
        session.execute(delete(Setting).where(Setting.name == FIRST_SHOT))


def start(store: Store) -> Habits | None:
    """What they start with; None: as shipped."""
    with store.begin() as session:
        return first_shot(session)
