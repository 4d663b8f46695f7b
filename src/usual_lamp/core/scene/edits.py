"""Edits: typed commands that turn a Scene into a new one, and say how to undo themselves.

Every edit is absolute ("these parts are hidden"), so that one made on an older document still applies to a newer
one as long as what it names still exists.
"""

from __future__ import annotations

from collections.abc import Callable, Collection
from typing import Annotated, Any, Literal, TypeVar

from pydantic import Field

from usual_lamp.core.appearance import Appearance
from usual_lamp.core.scene.document import (
    Frozen,
    Laying,
    Lighting,
    Look,
    ModelUse,
    PartState,
    Placement,
    Rule,
    Scene,
    Shot,
    owner_of,
)

T = TypeVar("T")
LONGEST_NAME = 120


class EditRefused(ValueError):
    """The edit does not apply to this scene; the message says why."""


class SetStates(Frozen):
    """Show (null), hide or suppress parts."""

    kind: Literal["set_states"] = "set_states"
    states: dict[str, PartState | None] = Field(min_length=1)


class Assign(Frozen):
    """Give an appearance, or take it away (null), by the keys of `levels`. New appearances come in `define`."""

    kind: Literal["assign"] = "assign"
    look: str = "standard"
    assignments: dict[Annotated[str, Field(max_length=120)], str | None] = Field(min_length=1)
    define: dict[str, Appearance | None] = Field(default={}, description="appearances to keep (or drop, null)")


class ChangeAppearance(Frozen):
    """Give an appearance of the review other parameters."""

    kind: Literal["change_appearance"] = "change_appearance"
    appearance: Appearance


class SetRules(Frozen):
    """The whole list of a look's rules as it shall be."""

    kind: Literal["set_rules"] = "set_rules"
    look: str = "standard"
    rules: tuple[Rule, ...] = Field(max_length=200)
    define: dict[str, Appearance | None] = {}


class LayPictures(Frozen):
    """Lay the pictures of some parts by hand, or (null) no longer so. Their parts leave the layings they were in."""

    kind: Literal["lay_pictures"] = "lay_pictures"
    look: str = "standard"
    layings: dict[Annotated[str, Field(min_length=1, max_length=32)], Laying | None] = Field(min_length=1)


class SetLooks(Frozen):
    """Add, exchange or (null) remove looks, and say which is shown. Appearances that nobody wears may be dropped."""

    kind: Literal["set_looks"] = "set_looks"
    looks: dict[Annotated[str, Field(min_length=1, max_length=32)], Look | None] = {}
    show: str | None = Field(None, description="the look to show; the present one if null")
    imported: dict[str, str | None] | None = Field(None, description="as it shall be; untouched if null")
    define: dict[str, Appearance | None] = {}


class ReplaceAppearance(Frozen):
    """One appearance in place of another wherever it was given, in all looks, by rules and for colours from CAD."""

    kind: Literal["replace_appearance"] = "replace_appearance"
    old: str
    new: Appearance


class SetLighting(Frozen):
    """Replace the lighting."""

    kind: Literal["set_lighting"] = "set_lighting"
    lighting: Lighting


class SetShot(Frozen):
    """Replace a shot."""

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
    SetStates
    | Assign
    | SetRules
    | LayPictures
    | SetLooks
    | ReplaceAppearance
    | ChangeAppearance
    | SetLighting
    | SetShot
    | SetModels
    | MoveParts
    | SetImported
    | SetFilters
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
    _require_parts([key for key in map(owner_of, edit.assignments) if key not in scene.models], parts)
    look = _require_look(scene, edit.look)
    assignments, back = merged(look.assignments, edit.assignments)
    looks = scene.looks | {edit.look: look.model_copy(update={"assignments": assignments})}
    appearances, back_define = _defined(scene, edit.define, looks, scene.imported)
    changed = scene.model_copy(update={"appearances": appearances, "looks": looks})
    return changed, Assign(look=edit.look, assignments=back, define=back_define)


def _require_look(scene: Scene, name: str) -> Look:
    if name not in scene.looks:
        raise EditRefused("That look is not in this review any more.")
    return scene.looks[name]


def _defined(
    scene: Scene, define: dict[str, Appearance | None], looks: dict[str, Look], imported: dict[str, str | None]
) -> tuple[dict[str, Appearance], dict[str, Appearance | None]]:
    """The appearances after some are defined or dropped, and what takes that back. Raises EditRefused.

    One that is already in the review keeps its present values: giving it again must not change the parts that wear
    it, nor may undoing that drop it.
    """
    new = {key: value for key, value in define.items() if value is None or key not in scene.appearances}
    appearances, back = merged(scene.appearances, new)
    worn = _worn(looks, imported)
    for key in [key for key, value in new.items() if value is None and key in worn and key in scene.appearances]:
        appearances[key] = scene.appearances[key]
        del back[key]
    if worn - set(appearances):
        raise EditRefused(f"The appearance {sorted(worn - set(appearances))[0]} is not in this review.")
    return appearances, back


def _set_rules(scene: Scene, edit: SetRules, parts: Collection[str]) -> tuple[Scene, AnyEdit]:
    look = _require_look(scene, edit.look)
    if len({rule.id for rule in edit.rules}) < len(edit.rules):
        raise EditRefused("Two rules have the same id.")
    looks = scene.looks | {edit.look: look.model_copy(update={"rules": edit.rules})}
    appearances, back = _defined(scene, edit.define, looks, scene.imported)
    changed = scene.model_copy(update={"appearances": appearances, "looks": looks})
    return changed, SetRules(look=edit.look, rules=look.rules, define=back)


def _lay_pictures(scene: Scene, edit: LayPictures, parts: Collection[str]) -> tuple[Scene, AnyEdit]:
    look = _require_look(scene, edit.look)
    named = [uid for laying in edit.layings.values() if laying for uid in laying.parts]
    _require_parts(named, parts)
    if len(set(named)) < len(named):
        raise EditRefused("A part can be in one laying only.")
    change = dict(edit.layings)
    for key, laying in look.layings.items():
        left = {uid: frame for uid, frame in laying.parts.items() if uid not in named}
        if key not in change and len(left) < len(laying.parts):
            change[key] = laying.model_copy(update={"parts": left}) if left else None
    layings, back = merged(look.layings, change)
    looks = scene.looks | {edit.look: look.model_copy(update={"layings": layings})}
    return scene.model_copy(update={"looks": looks}), LayPictures(look=edit.look, layings=back)


def _set_looks(scene: Scene, edit: SetLooks, parts: Collection[str]) -> tuple[Scene, AnyEdit]:
    looks, back = merged(scene.looks, edit.looks)
    if not looks:
        raise EditRefused("A review keeps at least one look.")
    shown = edit.show or scene.look
    if shown not in looks:
        raise EditRefused("The look that is shown cannot be removed. Show another one first.")
    imported = scene.imported if edit.imported is None else edit.imported
    appearances, back_define = _defined(scene, edit.define, looks, imported)
    changed = {"looks": looks, "look": shown, "imported": imported, "appearances": appearances}
    inverse = SetLooks(looks=back, show=scene.look, imported=scene.imported, define=back_define)
    return scene.model_copy(update=changed), inverse


def _replace_appearance(scene: Scene, edit: ReplaceAppearance, parts: Collection[str]) -> tuple[Scene, AnyEdit]:
    new = edit.new.id
    if edit.old not in _worn(scene.looks, scene.imported):
        raise EditRefused("That appearance is not in use in this review any more.")

    def renamed(name: str) -> str:
        return new if name == edit.old else name

    looks = {}
    for key, look in scene.looks.items():
        assignments = {place: renamed(name) for place, name in look.assignments.items()}
        rules = tuple(rule.model_copy(update={"appearance": renamed(rule.appearance)}) for rule in look.rules)
        looks[key] = look.model_copy(update={"assignments": assignments, "rules": rules})
    imported = {key: name and renamed(name) for key, name in scene.imported.items()}
    appearances, back = _defined(scene, {new: edit.new}, looks, imported)
    changed = {"looks": looks, "imported": imported, "appearances": appearances}
    return scene.model_copy(update=changed), SetLooks(
        looks=dict(scene.looks), show=None, imported=scene.imported, define=back
    )


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
    if not 1 <= len(edit.shot.name.strip()) <= LONGEST_NAME and edit.shot.name != before.name:
        raise EditRefused(f"Give the shot a name of at most {LONGEST_NAME} letters.")
    return scene.model_copy(update={"shots": scene.shots | {edit.id: edit.shot}}), SetShot(id=edit.id, shot=before)


def _worn(looks: dict[str, Look], imported: dict[str, str | None]) -> set[str]:
    """Ids of the appearances that something wears."""
    given = {name for look in looks.values() for name in look.assignments.values()}
    given |= {rule.appearance for look in looks.values() for rule in look.rules}
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
    appearances, back_define = _defined(scene, edit.define, scene.looks, edit.imported)
    changed = {"appearances": appearances, "imported": edit.imported, "stripped": edit.stripped}
    back = SetImported(imported=scene.imported, stripped=scene.stripped, define=back_define)
    return scene.model_copy(update=changed), back


def _set_filters(scene: Scene, edit: SetFilters, parts: Collection[str]) -> tuple[Scene, AnyEdit]:
    filters, back = merged(scene.filters, edit.filters)
    return scene.model_copy(update={"filters": filters}), SetFilters(filters=back)


_RULES: dict[type, Callable[[Scene, Any, Collection[str]], tuple[Scene, AnyEdit]]] = {
    SetStates: _set_states,
    Assign: _assign,
    SetRules: _set_rules,
    LayPictures: _lay_pictures,
    SetLooks: _set_looks,
    ReplaceAppearance: _replace_appearance,
    ChangeAppearance: _change_appearance,
    SetLighting: _set_lighting,
    SetShot: _set_shot,
    SetModels: _set_models,
    MoveParts: _move_parts,
    SetImported: _set_imported,
    SetFilters: _set_filters,
}
