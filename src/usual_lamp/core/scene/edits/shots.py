"""Edits of shots."""

from __future__ import annotations

from collections.abc import Collection
from typing import Annotated, Literal

from pydantic import Field

from usual_lamp.core.scene.document import Scene
from usual_lamp.core.scene.edits.base import LONGEST_NAME, BaseEdit, EditRefused, merged
from usual_lamp.core.scene.shot import MOST_SHOTS, Shot


class SetShot(BaseEdit):
    """Replace a shot."""

    kind: Literal["set_shot"] = "set_shot"
    id: str
    shot: Shot

    def apply(self, scene: Scene, parts: Collection[str]) -> tuple[Scene, BaseEdit]:
        """See `BaseEdit.apply`. Raises EditRefused."""
        before = scene.shots.get(self.id)
        if before is None:
            raise EditRefused("That shot is not in this review any more.")
        _check(scene, before, self.shot)
        return scene.model_copy(update={"shots": scene.shots | {self.id: self.shot}}), SetShot(id=self.id, shot=before)

    def words(self, scene: Scene) -> str:
        """See `BaseEdit.words`."""
        before = scene.shots.get(self.id)
        if before is None:
            return f"Change the shot “{self.shot.name}”"
        if before.name != self.shot.name:
            return f"Rename the shot “{before.name}”"
        if before.locked != self.shot.locked:
            return f"{'Lock' if self.shot.locked else 'Unlock'} the shot “{before.name}”"
        if before.hidden != self.shot.hidden:
            return f"Change what the shot “{before.name}” shows"
        was, now = before.section, self.shot.section
        if was != now:
            what = "Cut" if was is None else "Close the section of" if now is None else "Change the section of"
            return f"{what} the shot “{before.name}”"
        what = "camera of " if before.camera != self.shot.camera else ""
        return f"Change the {what}shot “{self.shot.name}”"


class SetShots(BaseEdit):
    """Add, exchange or (null) remove shots."""

    kind: Literal["set_shots"] = "set_shots"
    shots: dict[Annotated[str, Field(min_length=1, max_length=32)], Shot | None] = Field(min_length=1)

    def apply(self, scene: Scene, parts: Collection[str]) -> tuple[Scene, BaseEdit]:
        """See `BaseEdit.apply`. Raises EditRefused."""
        for id, shot in self.shots.items():
            before = scene.shots.get(id)
            if shot is not None:
                _check(scene, before, shot)
            elif before is not None and before.locked:
                raise EditRefused(f"The shot “{before.name}” is locked. Unlock it first.")
        shots, back = merged(scene.shots, self.shots)
        if not shots:
            raise EditRefused("A review keeps at least one shot.")
        if len(shots) > MOST_SHOTS:
            raise EditRefused(f"A review holds at most {MOST_SHOTS} shots.")
        # What is exchanged keeps its age, and what is new comes last.
        ordered = {id: shots[id] for id in (*scene.shots, *shots) if id in shots}
        return scene.model_copy(update={"shots": ordered}), SetShots(shots=back)

    def words(self, scene: Scene) -> str:
        """See `BaseEdit.words`."""
        for id, shot in self.shots.items():
            if shot is None:
                return f"Remove the shot “{scene.shots[id].name}”" if id in scene.shots else "Remove a shot"
            if id not in scene.shots:
                return f"Add the shot “{shot.name}”"
        return "Change the order of shots"


def _check(scene: Scene, before: Shot | None, after: Shot) -> None:
    """Raises EditRefused for a shot that the scene cannot have in place of the one before."""
    if after.lighting is not None and after.lighting not in scene.lightings:
        raise EditRefused("That lighting is not in this review any more.")
    if not 1 <= len(after.name.strip()) <= LONGEST_NAME and (before is None or after.name != before.name):
        raise EditRefused(f"Give the shot a name of at most {LONGEST_NAME} letters.")
    if before is not None and before.locked and after.locked and before.as_locked() != after.as_locked():
        raise EditRefused(f"The shot “{before.name}” is locked. Unlock it first.")
