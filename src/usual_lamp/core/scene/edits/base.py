"""What all edits have in common: they apply to a scene, say what takes them back, and what they do in words.

Every edit is absolute ("these parts are hidden"), so that one made on an older document still applies to a newer
one as long as what it names still exists.
"""

from __future__ import annotations

from collections.abc import Collection
from typing import TypeVar

from usual_lamp.core.numbers_in_words import told
from usual_lamp.core.scene.document import Look, Scene
from usual_lamp.core.scene.frozen import Frozen

T = TypeVar("T")
LONGEST_NAME = 120


class EditRefused(ValueError):
    """The edit does not apply to this scene; the message says why."""


class BaseEdit(Frozen):
    """An edit. Its `kind`, a word of its own, tells it from others in JSON."""

    def apply(self, scene: Scene, parts: Collection[str]) -> tuple[Scene, BaseEdit]:
        """The scene after the edit, and the edit that takes it back.

        `parts` are the uids that exist in the review, of parts and sub-assemblies. Raises EditRefused.
        """
        raise NotImplementedError

    def words(self, scene: Scene) -> str:
        """What it does to the scene before it, in a few words that begin with a verb: "Hide 3 parts"."""
        raise NotImplementedError


def apply_edit(scene: Scene, edit: BaseEdit, parts: Collection[str]) -> tuple[Scene, BaseEdit]:
    """The scene after the edit, and the edit that takes it back, see `BaseEdit.apply`. Raises EditRefused."""
    return edit.apply(scene, parts)


def merged(old: dict[str, T], change: dict[str, T | None]) -> tuple[dict[str, T], dict[str, T | None]]:
    """A map after setting (or, with None, removing) keys, and the change that restores it."""
    new = {key: value for key, value in old.items() if key not in change}
    new |= {key: value for key, value in change.items() if value is not None}
    return new, {key: old.get(key) for key in change}


def require_parts(named: Collection[str], parts: Collection[str]) -> None:
    """Raises EditRefused when one of the named is not there."""
    missing = [uid for uid in named if uid not in parts]
    if missing:
        raise EditRefused(f"{len(missing)} of the named parts are not in this review any more.")


def require_look(scene: Scene, name: str) -> Look:
    """The look of that name. Raises EditRefused."""
    if name not in scene.looks:
        raise EditRefused("That look is not in this review any more.")
    return scene.looks[name]


def counted(number: int, noun: str) -> str:
    """A number with its noun, in the singular or plural."""
    return f"{told(number)} {noun}{'' if number == 1 else 's'}"
