"""Edits: typed commands that turn a Scene into a new one, and say how to undo themselves.

Every edit is absolute ("these parts are hidden"), so that one made on an older document still applies to a newer
one as long as what it names still exists.
"""

from __future__ import annotations

from collections.abc import Callable, Collection
from typing import Annotated, Any, Literal, TypeVar

from pydantic import Field

from usual_lamp.core.appearance import Appearance
from usual_lamp.core.scene.document import Frozen, Lighting, Look, ModelUse, PartState, Placement, Scene, Shot

T = TypeVar("T")


class EditRefused(ValueError):
    """The edit does not apply to this scene; the message says why."""


class SetStates(Frozen):
    """Show (null), hide or suppress parts."""

    kind: Literal["set_states"] = "set_states"
    states: dict[str, PartState | None] = Field(min_length=1)


class Assign(Frozen):
    """Give parts an appearance, or take it away (null). New appearances come along in `define`."""

    kind: Literal["assign"] = "assign"
    look: str = "standard"
    assignments: dict[str, str | None] = Field(min_length=1)
    define: dict[str, Appearance | None] = Field(default={}, description="appearances to keep (or drop, null)")


class ChangeAppearance(Frozen):
    kind: Literal["change_appearance"] = "change_appearance"
    appearance: Appearance


class SetLighting(Frozen):
    kind: Literal["set_lighting"] = "set_lighting"
    lighting: Lighting


class SetShot(Frozen):
    kind: Literal["set_shot"] = "set_shot"
    id: str
    shot: Shot


class SetModels(Frozen):
    """Add, exchange, place or (null) remove models. `states` of parts come along: what the new ones start with."""

    kind: Literal["set_models"] = "set_models"
    models: dict[str, ModelUse | None] = Field(min_length=1)
    states: dict[str, PartState | None] = {}
    moves: dict[str, Placement | None] = {}


class MoveParts(Frozen):
    """Put parts or sub-assemblies elsewhere, or back (null)."""

    kind: Literal["move_parts"] = "move_parts"
    moves: dict[str, Placement | None] = Field(min_length=1)


class SetImported(Frozen):
    """Let appearances stand in for colours from CAD. `imported` is the whole map as it shall be."""

    kind: Literal["set_imported"] = "set_imported"
    imported: dict[str, str | None]
    stripped: frozenset[str] = frozenset()
    define: dict[str, Appearance | None] = Field(default={}, description="appearances to keep (or drop, null)")


class SetFilters(Frozen):
    """Keep filters of the parts schedule by name, or (null) drop them."""

    kind: Literal["set_filters"] = "set_filters"
    filters: dict[Annotated[str, Field(min_length=1, max_length=60)], str | None] = Field(min_length=1)


AnyEdit = (
    SetStates | Assign | ChangeAppearance | SetLighting | SetShot | SetModels | MoveParts | SetImported | SetFilters
)
Edit = Annotated[AnyEdit, Field(discriminator="kind")]


def apply_edit(scene: Scene, edit: AnyEdit, parts: Collection[str]) -> tuple[Scene, AnyEdit]:
    """The scene after the edit, and the edit that takes it back.

    `parts` are the uids that exist in the review, of parts and sub-assemblies. Raises EditRefused.
    """
    rule: Callable[[Scene, Any, Collection[str]], tuple[Scene, AnyEdit]] = _RULES[type(edit)]
    return rule(scene, edit, parts)


def merged(old: dict[str, T], change: dict[str, T | None]) -> tuple[dict[str, T], dict[str, T | None]]:
    """A map after setting (or, with None, removing) keys, and the change that restores it."""
    new = {key: value for key, value in old.items() if key not in change}
    new |= {key: value for key, value in change.items() if value is not None}
    return new, {key: old.get(key) for key in change}


def _require_parts(named: Collection[str], parts: Collection[str]) -> None:
    missing = [uid for uid in named if uid not in parts]
    if missing:
        raise EditRefused(f"{len(missing)} of the named parts are not in this review any more.")


def _set_states(scene: Scene, edit: SetStates, parts: Collection[str]) -> tuple[Scene, AnyEdit]:
    _require_parts(edit.states, parts)
    states, back = merged(scene.states, edit.states)
    return scene.model_copy(update={"states": states}), SetStates(states=back)


def _assign(scene: Scene, edit: Assign, parts: Collection[str]) -> tuple[Scene, AnyEdit]:
    _require_parts(edit.assignments, parts)
    if edit.look not in scene.looks:
        raise EditRefused("That look is not in this review any more.")
    # An appearance that is already in the review keeps its present values: giving it again must not
    # change the parts that wear it, nor may undoing that drop it.
    new = {key: value for key, value in edit.define.items() if value is None or key not in scene.appearances}
    appearances, back_define = merged(scene.appearances, new)
    look = scene.looks[edit.look]
    assignments, back = merged(look.assignments, edit.assignments)
    looks = scene.looks | {edit.look: look.model_copy(update={"assignments": assignments})}
    worn = _worn(looks, scene.imported)
    for key in [key for key, value in new.items() if value is None and key in worn]:
        appearances[key] = scene.appearances[key]
        del back_define[key]
    if worn - set(appearances):
        raise EditRefused(f"The appearance {sorted(worn - set(appearances))[0]} is not in this review.")
    changed = scene.model_copy(update={"appearances": appearances, "looks": looks})
    return changed, Assign(look=edit.look, assignments=back, define=back_define)


def _change_appearance(scene: Scene, edit: ChangeAppearance, parts: Collection[str]) -> tuple[Scene, AnyEdit]:
    before = scene.appearances.get(edit.appearance.id)
    if before is None:
        raise EditRefused("That appearance is not in use in this review any more.")
    appearances = scene.appearances | {edit.appearance.id: edit.appearance}
    return scene.model_copy(update={"appearances": appearances}), ChangeAppearance(appearance=before)


def _set_lighting(scene: Scene, edit: SetLighting, parts: Collection[str]) -> tuple[Scene, AnyEdit]:
    return scene.model_copy(update={"lighting": edit.lighting}), SetLighting(lighting=scene.lighting)


def _set_shot(scene: Scene, edit: SetShot, parts: Collection[str]) -> tuple[Scene, AnyEdit]:
    before = scene.shots.get(edit.id)
    if before is None:
        raise EditRefused("That shot is not in this review any more.")
    return scene.model_copy(update={"shots": scene.shots | {edit.id: edit.shot}}), SetShot(id=edit.id, shot=before)


def _worn(looks: dict[str, Look], imported: dict[str, str | None]) -> set[str]:
    """Ids of the appearances that something wears."""
    given = {name for look in looks.values() for name in look.assignments.values()}
    return given | {name for name in imported.values() if name is not None}


def _set_models(scene: Scene, edit: SetModels, parts: Collection[str]) -> tuple[Scene, AnyEdit]:
    models, back = merged(scene.models, edit.models)
    if not models:
        raise EditRefused("A review keeps at least one model.")
    if all(use.piece for use in models.values()):
        raise EditRefused("A review needs a model beside its context pieces.")
    states, states_back = merged(scene.states, edit.states)
    moves, moves_back = merged(scene.moves, edit.moves)
    changed = scene.model_copy(update={"models": dict(sorted(models.items())), "states": states, "moves": moves})
    return changed, SetModels(models=back, states=states_back, moves=moves_back)


def _move_parts(scene: Scene, edit: MoveParts, parts: Collection[str]) -> tuple[Scene, AnyEdit]:
    _require_parts(edit.moves, parts)
    moves, back = merged(scene.moves, edit.moves)
    return scene.model_copy(update={"moves": moves}), MoveParts(moves=back)


def _set_imported(scene: Scene, edit: SetImported, parts: Collection[str]) -> tuple[Scene, AnyEdit]:
    new = {key: value for key, value in edit.define.items() if value is None or key not in scene.appearances}
    appearances, back_define = merged(scene.appearances, new)
    worn = _worn(scene.looks, edit.imported)
    for key in [key for key, value in new.items() if value is None and key in worn]:
        appearances[key] = scene.appearances[key]
        del back_define[key]
    if worn - set(appearances):
        raise EditRefused(f"The appearance {sorted(worn - set(appearances))[0]} is not in this review.")
    changed = {"appearances": appearances, "imported": edit.imported, "stripped": edit.stripped}
    back = SetImported(imported=scene.imported, stripped=scene.stripped, define=back_define)
    return scene.model_copy(update=changed), back


def _set_filters(scene: Scene, edit: SetFilters, parts: Collection[str]) -> tuple[Scene, AnyEdit]:
    filters, back = merged(scene.filters, edit.filters)
    return scene.model_copy(update={"filters": filters}), SetFilters(filters=back)


_RULES: dict[type, Callable[[Scene, Any, Collection[str]], tuple[Scene, AnyEdit]]] = {
    SetStates: _set_states,
    Assign: _assign,
    ChangeAppearance: _change_appearance,
    SetLighting: _set_lighting,
    SetShot: _set_shot,
    SetModels: _set_models,
    MoveParts: _move_parts,
    SetImported: _set_imported,
    SetFilters: _set_filters,
}
