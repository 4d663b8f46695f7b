"""Edits: typed commands that turn a Scene into a new one, and say how to undo themselves.

Every edit is absolute ("these parts are hidden"), so that one made on an older document still applies to a newer
one as long as what it names still exists.
"""

from __future__ import annotations

from collections.abc import Callable, Collection
from typing import Annotated, Any, Literal, TypeVar

from pydantic import Field

from usual_lamp.core.appearance import Appearance
from usual_lamp.core.scene.document import Frozen, Lighting, PartState, Scene, Shot

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


Edit = Annotated[SetStates | Assign | ChangeAppearance | SetLighting | SetShot, Field(discriminator="kind")]
AnyEdit = SetStates | Assign | ChangeAppearance | SetLighting | SetShot


def apply_edit(scene: Scene, edit: AnyEdit, parts: Collection[str]) -> tuple[Scene, AnyEdit]:
    """The scene after the edit, and the edit that takes it back.

    `parts` are the uids that exist in the review. Raises EditRefused.
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
    worn = {name for other in looks.values() for name in other.assignments.values()}
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


_RULES: dict[type, Callable[[Scene, Any, Collection[str]], tuple[Scene, AnyEdit]]] = {
    SetStates: _set_states,
    Assign: _assign,
    ChangeAppearance: _change_appearance,
    SetLighting: _set_lighting,
    SetShot: _set_shot,
}
