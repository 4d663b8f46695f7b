"""Edits of how it is looked at: lighting and shots."""

from __future__ import annotations

from collections.abc import Collection
from typing import Literal

from usual_lamp.core.scene.document import Lighting, Scene, Shot
from usual_lamp.core.scene.edits.base import LONGEST_NAME, BaseEdit, EditRefused


class SetLighting(BaseEdit):
    """Replace the lighting."""

    kind: Literal["set_lighting"] = "set_lighting"
    lighting: Lighting

    def apply(self, scene: Scene, parts: Collection[str]) -> tuple[Scene, BaseEdit]:
        return scene.model_copy(update={"lighting": self.lighting}), SetLighting(lighting=scene.lighting)

    def words(self, scene: Scene) -> str:
        changed = [
            name for name in Lighting.model_fields if getattr(self.lighting, name) != getattr(scene.lighting, name)
        ]
        if len(changed) != 1:
            return "Change the lighting"
        return f"Change the {'turn of the light' if changed == ['turn'] else changed[0].replace('_', ' ')}"


class SetShot(BaseEdit):
    """Replace a shot."""

    kind: Literal["set_shot"] = "set_shot"
    id: str
    shot: Shot

    def apply(self, scene: Scene, parts: Collection[str]) -> tuple[Scene, BaseEdit]:
        before = scene.shots.get(self.id)
        if before is None:
            raise EditRefused("That shot is not in this review any more.")
        if not 1 <= len(self.shot.name.strip()) <= LONGEST_NAME and self.shot.name != before.name:
            raise EditRefused(f"Give the shot a name of at most {LONGEST_NAME} letters.")
        return scene.model_copy(update={"shots": scene.shots | {self.id: self.shot}}), SetShot(id=self.id, shot=before)

    def words(self, scene: Scene) -> str:
        before = scene.shots.get(self.id)
        if before is not None and before.name != self.shot.name:
            return f"Rename the shot “{before.name}”"
        what = "camera of " if before is not None and before.camera != self.shot.camera else ""
        return f"Change the {what}shot “{self.shot.name}”"
