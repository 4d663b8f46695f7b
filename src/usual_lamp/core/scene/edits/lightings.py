"""Edits of what lights the product."""

from __future__ import annotations

from collections.abc import Collection
from typing import Annotated, Literal

from pydantic import Field

from usual_lamp.core.appearance import Appearance
from usual_lamp.core.light import Lamp
from usual_lamp.core.scene.document import MOST_LAMPS, Lighting, Scene, few_suns
from usual_lamp.core.scene.edits.base import BaseEdit, EditRefused, T, counted, merged
from usual_lamp.core.scene.edits.giving import defined

MOST_LIGHTINGS = 100
SPOKEN = {"on": "surroundings' switch", "turn": "turn of the light", "glows": "glow", "lamps": "lamps"}


class SetLighting(BaseEdit):
    """Replace a lighting, by default the one that is shown."""

    kind: Literal["set_lighting"] = "set_lighting"
    id: str | None = None
    lighting: Lighting

    def apply(self, scene: Scene, parts: Collection[str]) -> tuple[Scene, BaseEdit]:
        """See `BaseEdit.apply`. Raises EditRefused."""
        id = self.id or scene.lit_by
        before = _lighting(scene, id)
        lightings = scene.lightings | {id: self.lighting}
        return scene.model_copy(update={"lightings": lightings}), SetLighting(id=id, lighting=before)

    def words(self, scene: Scene) -> str:
        """See `BaseEdit.words`."""
        before = scene.lightings.get(self.id or scene.lit_by)
        if before is None:
            return "Change a lighting"
        changed = [name for name in Lighting.model_fields if getattr(self.lighting, name) != getattr(before, name)]
        if changed == ["name"]:
            return f"Rename the lighting “{before.name}”"
        if len(changed) != 1:
            return "Change the lighting"
        return f"Change the {SPOKEN.get(changed[0], changed[0].replace('_', ' '))}"


class SetLamps(BaseEdit):
    """Add, exchange or (null) remove lamps of one lighting, by default the one that is shown."""

    kind: Literal["set_lamps"] = "set_lamps"
    id: str | None = None
    lamps: dict[Annotated[str, Field(min_length=1, max_length=32)], Lamp | None] = Field(min_length=1)

    def apply(self, scene: Scene, parts: Collection[str]) -> tuple[Scene, BaseEdit]:
        """See `BaseEdit.apply`. Raises EditRefused."""
        id = self.id or scene.lit_by
        before = _lighting(scene, id)
        lamps, back = merged(before.lamps, self.lamps)
        if len(lamps) > MOST_LAMPS:
            raise EditRefused(f"A lighting holds at most {MOST_LAMPS} lamps.")
        try:
            few_suns(lamps)
        except ValueError as error:
            raise EditRefused(f"Not one more: {error}.") from error
        changed = before.model_copy(update={"lamps": _in_order(before.lamps, lamps)})
        return scene.model_copy(update={"lightings": scene.lightings | {id: changed}}), SetLamps(id=id, lamps=back)

    def words(self, scene: Scene) -> str:
        """See `BaseEdit.words`."""
        before = scene.lightings.get(self.id or scene.lit_by)
        known = before.lamps if before else {}
        if len(self.lamps) == 1:
            ((id, lamp),) = self.lamps.items()
            if lamp is None:
                return f"Remove {_called(known[id])}" if id in known else "Remove a lamp"
            return f"Change {_called(known[id])}" if id in known else f"Add {_called(lamp)}"
        if all(lamp is None for lamp in self.lamps.values()):
            return f"Remove {counted(len(self.lamps), 'lamp')}"
        new = self.lamps.keys() - known.keys()
        return f"Add {counted(len(new), 'lamp')}" if new else f"Change {counted(len(self.lamps), 'lamp')}"


def _called(lamp: Lamp) -> str:
    return f"the {'card' if lamp.kind == 'card' else 'lamp'} “{lamp.name}”"


class SetLightings(BaseEdit):
    """Add, exchange or (null) remove lightings, and say which is shown."""

    kind: Literal["set_lightings"] = "set_lightings"
    lightings: dict[Annotated[str, Field(min_length=1, max_length=32)], Lighting | None] = {}
    show: str | None = Field(None, description="the lighting to show; the present one if null")
    define: dict[str, Appearance | None] = Field(
        default={}, description="what their floors wear: to keep, or null: drop"
    )

    def apply(self, scene: Scene, parts: Collection[str]) -> tuple[Scene, BaseEdit]:
        """See `BaseEdit.apply`. Raises EditRefused."""
        lightings, back = merged(scene.lightings, self.lightings)
        if not lightings:
            raise EditRefused("A review keeps at least one lighting.")
        if len(lightings) > MOST_LIGHTINGS:
            raise EditRefused(f"A review holds at most {MOST_LIGHTINGS} lightings.")
        shown = self.show or scene.lit_by
        if shown not in lightings:
            raise EditRefused("The lighting that is shown cannot be removed. Show another one first.")
        using = [shot.name for shot in scene.shots.values() if shot.lighting and shot.lighting not in lightings]
        if using:
            raise EditRefused(f"The shot “{using[0]}” uses that lighting. Give the shot another one first.")
        changed = scene.model_copy(update={"lightings": _in_order(scene.lightings, lightings), "lit_by": shown})
        appearances, dropped = defined(changed, self.define, scene.looks, scene.imported)
        inverse = SetLightings(lightings=back, show=scene.lit_by, define=dropped)
        return changed.model_copy(update={"appearances": appearances}), inverse

    def words(self, scene: Scene) -> str:
        """See `BaseEdit.words`."""
        for id, lighting in self.lightings.items():
            if lighting is None:
                return f"Remove the lighting “{scene.lightings[id].name}”" if id in scene.lightings else "Remove it"
            if id not in scene.lightings:
                return f"Add the lighting “{lighting.name}”"
        if self.show in scene.lightings and not self.lightings:
            return f"Use the lighting “{scene.lightings[self.show].name}”"
        return "Change the lightings"


class SetPanoramas(BaseEdit):
    """Add, rename or (null) take away imported panoramas, by content hash."""

    kind: Literal["set_panoramas"] = "set_panoramas"
    panoramas: dict[Annotated[str, Field(min_length=64, max_length=64)], Annotated[str, Field(max_length=120)] | None]

    def apply(self, scene: Scene, parts: Collection[str]) -> tuple[Scene, BaseEdit]:
        """See `BaseEdit.apply`. Raises EditRefused."""
        panoramas, back = merged(scene.panoramas, self.panoramas)
        for lighting in scene.lightings.values():
            name = lighting.surroundings.removeprefix("map:")
            if name in self.panoramas and name not in panoramas:
                raise EditRefused(f"“{lighting.name}” uses that panorama. Give it other surroundings first.")
        return scene.model_copy(update={"panoramas": panoramas}), SetPanoramas(panoramas=back)

    def words(self, scene: Scene) -> str:
        """See `BaseEdit.words`."""
        names = [name for name in self.panoramas.values() if name is not None]
        return f"Add the surroundings “{names[0]}”" if names else "Remove surroundings"


def _lighting(scene: Scene, id: str) -> Lighting:
    """The lighting of that id. Raises EditRefused."""
    if id not in scene.lightings:
        raise EditRefused("That lighting is not in this review any more.")
    return scene.lightings[id]


def _in_order(before: dict[str, T], after: dict[str, T]) -> dict[str, T]:
    """What is exchanged keeps its place, and what is new comes last."""
    return {id: after[id] for id in (*before, *after) if id in after}
