"""Edits of what there is and where: parts, models, decals, rounded edges, and filters and checks that are kept."""

from __future__ import annotations

from collections.abc import Collection
from typing import Annotated, Literal

from pydantic import Field

from usual_lamp.core.numbers_in_words import said_to
from usual_lamp.core.scene.decal import MOST_DECALS, Decal
from usual_lamp.core.scene.document import ModelUse, PartState, Placement, Scene
from usual_lamp.core.scene.edits.base import BaseEdit, EditRefused, counted, merged, require_parts


class SetStates(BaseEdit):
    """Show (null), hide or suppress parts."""

    kind: Literal["set_states"] = "set_states"
    states: dict[str, PartState | None] = Field(min_length=1)

    def apply(self, scene: Scene, parts: Collection[str]) -> tuple[Scene, BaseEdit]:
        """See `BaseEdit.apply`. Raises EditRefused."""
        require_parts(self.states, parts)
        states, back = merged(scene.states, self.states)
        return scene.model_copy(update={"states": states}), SetStates(states=back)

    def words(self, scene: Scene) -> str:
        """See `BaseEdit.words`."""
        meant = set(self.states.values())
        verb = (
            {None: "Show", "hidden": "Hide", "suppressed": "Suppress"}[meant.pop()]
            if len(meant) == 1
            else "Hide or show"
        )
        return f"{verb} {counted(len(self.states), 'part')}"


class MoveParts(BaseEdit):
    """Put parts or sub-assemblies elsewhere, or back (null)."""

    kind: Literal["move_parts"] = "move_parts"
    moves: dict[str, Placement | None] = Field(min_length=1)

    def apply(self, scene: Scene, parts: Collection[str]) -> tuple[Scene, BaseEdit]:
        """See `BaseEdit.apply`. Raises EditRefused."""
        require_parts(self.moves, parts)
        moves, back = merged(scene.moves, self.moves)
        return scene.model_copy(update={"moves": moves}), MoveParts(moves=back)

    def words(self, scene: Scene) -> str:
        """See `BaseEdit.words`."""
        what = counted(len(self.moves), "part")
        return f"Move {what}" if any(self.moves.values()) else f"Put {what} back"


class SetModels(BaseEdit):
    """Add, exchange, place or (null) remove models. `states` of parts come along: what the new ones start with."""

    kind: Literal["set_models"] = "set_models"
    models: dict[str, ModelUse | None] = Field(min_length=1)
    states: dict[str, PartState | None] = {}
    moves: dict[str, Placement | None] = {}
    decals: dict[str, Decal] = Field(default={}, description="decals that are there, as they lie on another revision")

    def apply(self, scene: Scene, parts: Collection[str]) -> tuple[Scene, BaseEdit]:
        """See `BaseEdit.apply`. Raises EditRefused."""
        models, back = merged(scene.models, self.models)
        if not models:
            raise EditRefused("A review keeps at least one model.")
        if all(use.piece for use in models.values()):
            raise EditRefused("A review needs a model beside its context pieces.")
        states, states_back = merged(scene.states, self.states)
        moves, moves_back = merged(scene.moves, self.moves)
        decals = {id: self.decals.get(id, decal) for id, decal in scene.decals.items()}
        decals_back = {id: scene.decals[id] for id in self.decals if id in scene.decals}
        change = {"models": dict(sorted(models.items())), "states": states, "moves": moves, "decals": decals}
        return scene.model_copy(update=change), SetModels(
            models=back, states=states_back, moves=moves_back, decals=decals_back
        )

    def words(self, scene: Scene) -> str:
        """See `BaseEdit.words`."""
        for key, use in self.models.items():
            before = scene.models.get(key)
            if use is None:
                return f"Remove {before.name}" if before else "Remove a model"
            if before is None:
                return f"Add {use.name}"
            if before.revision != use.revision:
                return f"Exchange {use.name} for another revision"
        return f"Place {next(use.name for use in self.models.values() if use)}"


class SetFilters(BaseEdit):
    """Keep filters of the parts schedule by name, or (null) drop them."""

    kind: Literal["set_filters"] = "set_filters"
    filters: dict[Annotated[str, Field(min_length=1, max_length=60)], str | None] = Field(min_length=1)

    def apply(self, scene: Scene, parts: Collection[str]) -> tuple[Scene, BaseEdit]:
        """See `BaseEdit.apply`. Raises EditRefused."""
        filters, back = merged(scene.filters, self.filters)
        return scene.model_copy(update={"filters": filters}), SetFilters(filters=back)

    def words(self, scene: Scene) -> str:
        """See `BaseEdit.words`."""
        name, kept = next(iter(self.filters.items()))
        return f"{'Keep' if kept else 'Drop'} the filter “{name}”"


class SetRounding(BaseEdit):
    """Round sharp edges for the light, mm; 0 leaves them sharp."""

    kind: Literal["set_rounding"] = "set_rounding"
    rounding: Annotated[float, Field(ge=0.0, le=3.0)]

    def apply(self, scene: Scene, parts: Collection[str]) -> tuple[Scene, BaseEdit]:
        """See `BaseEdit.apply`."""
        return scene.model_copy(update={"rounding": self.rounding}), SetRounding(rounding=scene.rounding)

    def words(self, scene: Scene) -> str:
        """See `BaseEdit.words`."""
        return f"Round edges to {said_to(self.rounding)}" if self.rounding else "Leave edges sharp"


class SilenceChecks(BaseEdit):
    """Silence (true) kinds of checks before a still in this review, or let them speak again."""

    kind: Literal["silence_checks"] = "silence_checks"
    checks: dict[Annotated[str, Field(min_length=1, max_length=40)], bool] = Field(min_length=1, max_length=40)

    def apply(self, scene: Scene, parts: Collection[str]) -> tuple[Scene, BaseEdit]:
        """See `BaseEdit.apply`."""
        silenced = scene.silenced - self.checks.keys() | {kind for kind, quiet in self.checks.items() if quiet}
        back = {kind: kind in scene.silenced for kind in self.checks}
        return scene.model_copy(update={"silenced": frozenset(silenced)}), SilenceChecks(checks=back)

    def words(self, scene: Scene) -> str:
        """See `BaseEdit.words`."""
        kind, quiet = next(iter(self.checks.items()))
        return f"{'Silence' if quiet else 'Hear again'} the check “{kind}”"


class SetDecals(BaseEdit):
    """Add, change or (null) remove decals, by id."""

    kind: Literal["set_decals"] = "set_decals"
    decals: dict[Annotated[str, Field(min_length=1, max_length=40)], Decal | None] = Field(min_length=1)

    def apply(self, scene: Scene, parts: Collection[str]) -> tuple[Scene, BaseEdit]:
        """See `BaseEdit.apply`. Raises EditRefused."""
        # One that is there already may name a part that is gone: it waits, and can be changed meanwhile.
        named = [
            d.part for id, d in self.decals.items() if d and (id not in scene.decals or scene.decals[id].part != d.part)
        ]
        require_parts(named, parts)
        decals, back = merged(scene.decals, self.decals)
        if len(decals) > MOST_DECALS:
            raise EditRefused(f"A review holds at most {MOST_DECALS} decals.")
        order = [id for id in scene.decals if id in decals] + [id for id in decals if id not in scene.decals]
        return scene.model_copy(update={"decals": {id: decals[id] for id in order}}), SetDecals(decals=back)

    def words(self, scene: Scene) -> str:
        """See `BaseEdit.words`."""
        if len(self.decals) > 1:
            gone = all(decal is None for decal in self.decals.values())
            new = self.decals.keys() - scene.decals.keys()
            return f"{'Remove' if gone else 'Add' if new else 'Change'} {counted(len(self.decals), 'decal')}"
        ((id, decal),) = self.decals.items()
        if decal is None:
            return f"Remove the decal “{scene.decals[id].name}”" if id in scene.decals else "Remove a decal"
        return f"{'Change' if id in scene.decals else 'Add'} the decal “{decal.name}”"
