"""`python -m usual_lamp.store.migrate`: bring the database to the newest schema."""

from __future__ import annotations

from pathlib import Path

from alembic import command
from alembic.config import Config

from usual_lamp.store.database import Store


def config(url: str) -> Config:
    made = Config()
    made.set_main_option("script_location", str(Path(__file__).parent / "migrations"))
    made.attributes["url"] = url
    return made


def migrate(store: Store) -> None:
    command.upgrade(config(store.url), "head")


if __name__ == "__main__":
    migrate(Store.from_environment())
