"""Edits of what parts wear: appearances given and changed, rules, looks, colours from CAD, how textures lie."""

from __future__ import annotations

from collections.abc import Collection, Iterable
from typing import Annotated, Literal

from pydantic import Field

from usual_lamp.core.appearance import Appearance
from usual_lamp.core.camera.finish import Exposure
from usual_lamp.core.scene.document import Laying, Look, Rule, Scene, owner_of
from usual_lamp.core.scene.edits.base import BaseEdit, EditRefused, counted, merged, require_look, require_parts


class Assign(BaseEdit):
    """Give an appearance, or take it away (null), by the keys of `levels`. New appearances come in `define`."""

    kind: Literal["assign"] = "assign"
    look: str = "standard"
    assignments: dict[Annotated[str, Field(max_length=120)], str | None] = Field(min_length=1)
    define: dict[str, Appearance | None] = Field(default={}, description="appearances to keep (or drop, null)")

    def apply(self, scene: Scene, parts: Collection[str]) -> tuple[Scene, BaseEdit]:
        """See `BaseEdit.apply`. Raises EditRefused."""
        require_parts([key for key in map(owner_of, self.assignments) if key not in scene.models], parts)
        look = require_look(scene, self.look)
        assignments, back = merged(look.assignments, self.assignments)
        looks = scene.looks | {self.look: look.model_copy(update={"assignments": assignments})}
        appearances, back_define = defined(scene, self.define, looks, scene.imported)
        changed = scene.model_copy(update={"appearances": appearances, "looks": looks})
        return changed, Assign(look=self.look, assignments=back, define=back_define)

    def words(self, scene: Scene) -> str:
        """See `BaseEdit.words`."""
        names = {key for key in self.assignments.values() if key is not None}
        what = _places(self.assignments, scene)
        if not names:
            return f"Take what was given off {what}"
        return f"Give {_name_of(names, scene, self.define)} to {what}"


class ApplyFirstCoat(BaseEdit):
    """Give parts what the first coat proposes, as `Assign` does, and expose shots for it."""

    kind: Literal["apply_first_coat"] = "apply_first_coat"
    look: str = "standard"
    assignments: dict[Annotated[str, Field(max_length=120)], str | None] = Field(min_length=1)
    define: dict[str, Appearance | None] = {}
    exposures: dict[str, Exposure] = Field(default={}, description="EV of shots, by their ids")

    def apply(self, scene: Scene, parts: Collection[str]) -> tuple[Scene, BaseEdit]:
        """See `BaseEdit.apply`. Raises EditRefused."""
        coat = Assign(look=self.look, assignments=self.assignments, define=self.define)
        changed, back = coat.apply(scene, parts)
        assert isinstance(back, Assign)
        shots = dict(scene.shots)
        before: dict[str, float] = {}
        for id, exposure in self.exposures.items():
            # A shot that is gone or locked by now keeps nobody from the appearances.
            if id in shots and not shots[id].locked:
                before[id] = shots[id].exposure
                shots[id] = shots[id].model_copy(update={"exposure": exposure})
        undo = ApplyFirstCoat(look=self.look, assignments=back.assignments, define=back.define, exposures=before)
        return changed.model_copy(update={"shots": shots}), undo

    def words(self, scene: Scene) -> str:
        """See `BaseEdit.words`."""
        return "Apply the first coat"


class ChangeAppearance(BaseEdit):
    """Give an appearance of the review other parameters."""

    kind: Literal["change_appearance"] = "change_appearance"
    appearance: Appearance

    def apply(self, scene: Scene, parts: Collection[str]) -> tuple[Scene, BaseEdit]:
        """See `BaseEdit.apply`. Raises EditRefused."""
        before = scene.appearances.get(self.appearance.id)
        if before is None:
            raise EditRefused("That appearance is not in use in this review any more.")
        appearances = scene.appearances | {self.appearance.id: self.appearance}
        return scene.model_copy(update={"appearances": appearances}), ChangeAppearance(appearance=before)

    def words(self, scene: Scene) -> str:
        """See `BaseEdit.words`."""
        return f"Change {self.appearance.name}"


class SetRules(BaseEdit):
    """The whole list of a look's rules as it shall be."""

    kind: Literal["set_rules"] = "set_rules"
    look: str = "standard"
    rules: tuple[Rule, ...] = Field(max_length=200)
    define: dict[str, Appearance | None] = {}

    def apply(self, scene: Scene, parts: Collection[str]) -> tuple[Scene, BaseEdit]:
        """See `BaseEdit.apply`. Raises EditRefused."""
        look = require_look(scene, self.look)
        if len({rule.id for rule in self.rules}) < len(self.rules):
            raise EditRefused("Two rules have the same id.")
        looks = scene.looks | {self.look: look.model_copy(update={"rules": self.rules})}
        appearances, back = defined(scene, self.define, looks, scene.imported)
        changed = scene.model_copy(update={"appearances": appearances, "looks": looks})
        return changed, SetRules(look=self.look, rules=look.rules, define=back)

    def words(self, scene: Scene) -> str:
        """See `BaseEdit.words`."""
        before, after = len(scene.looks[self.look].rules) if self.look in scene.looks else 0, len(self.rules)
        return "Add a rule" if after > before else "Remove a rule" if after < before else "Change the rules"


class LayPictures(BaseEdit):
    """Lay the pictures of some parts by hand, or (null) no longer so. Their parts leave the layings they were in."""

    kind: Literal["lay_pictures"] = "lay_pictures"
    look: str = "standard"
    layings: dict[Annotated[str, Field(min_length=1, max_length=32)], Laying | None] = Field(min_length=1)

    def apply(self, scene: Scene, parts: Collection[str]) -> tuple[Scene, BaseEdit]:
        """See `BaseEdit.apply`. Raises EditRefused."""
        look = require_look(scene, self.look)
        named = [uid for laying in self.layings.values() if laying for uid in laying.parts]
        require_parts(named, parts)
        if len(set(named)) < len(named):
            raise EditRefused("A part can be in one laying only.")
        change = dict(self.layings)
        for key, laying in look.layings.items():
            left = {uid: frame for uid, frame in laying.parts.items() if uid not in named}
            if key not in change and len(left) < len(laying.parts):
                change[key] = laying.model_copy(update={"parts": left}) if left else None
        layings, back = merged(look.layings, change)
        looks = scene.looks | {self.look: look.model_copy(update={"layings": layings})}
        return scene.model_copy(update={"looks": looks}), LayPictures(look=self.look, layings=back)

    def words(self, scene: Scene) -> str:
        """See `BaseEdit.words`."""
        parts = {uid for laying in self.layings.values() if laying for uid in laying.parts}
        return f"Lay textures on {counted(len(parts), 'part')}" if parts else "Let textures lie as they did"


class SetLooks(BaseEdit):
    """Add, exchange or (null) remove looks, and say which is shown. Appearances that nobody wears may be dropped."""

    kind: Literal["set_looks"] = "set_looks"
    looks: dict[Annotated[str, Field(min_length=1, max_length=32)], Look | None] = {}
    show: str | None = Field(None, description="the look to show; the present one if null")
    imported: dict[str, str | None] | None = Field(None, description="as it shall be; untouched if null")
    define: dict[str, Appearance | None] = {}

    def apply(self, scene: Scene, parts: Collection[str]) -> tuple[Scene, BaseEdit]:
        """See `BaseEdit.apply`. Raises EditRefused."""
        looks, back = merged(scene.looks, self.looks)
        if not looks:
            raise EditRefused("A review keeps at least one look.")
        shown = self.show or scene.look
        if shown not in looks:
            raise EditRefused("The look that is shown cannot be removed. Show another one first.")
        imported = scene.imported if self.imported is None else self.imported
        appearances, back_define = defined(scene, self.define, looks, imported)
        changed = {"looks": looks, "look": shown, "imported": imported, "appearances": appearances}
        inverse = SetLooks(looks=back, show=scene.look, imported=scene.imported, define=back_define)
        return scene.model_copy(update=changed), inverse

    def words(self, scene: Scene) -> str:
        """See `BaseEdit.words`."""
        for key, look in self.looks.items():
            if look is None:
                return f"Remove the look “{scene.looks[key].name}”" if key in scene.looks else "Remove a look"
            if key not in scene.looks:
                return f"Add the look “{look.name}”"
        if self.show is not None and self.show in scene.looks and not self.looks:
            return f"Show the look “{scene.looks[self.show].name}”"
        return "Change the looks"


class ReplaceAppearance(BaseEdit):
    """One appearance in place of another wherever it was given, in all looks, by rules and for colours from CAD."""

    kind: Literal["replace_appearance"] = "replace_appearance"
    old: str
    new: Appearance

    def apply(self, scene: Scene, parts: Collection[str]) -> tuple[Scene, BaseEdit]:
        """See `BaseEdit.apply`. Raises EditRefused."""
        new = self.new.id
        if self.old not in _worn(scene.looks, scene.imported):
            raise EditRefused("That appearance is not in use in this review any more.")

        def renamed(name: str) -> str:
            """The id that stands in place of an appearance."""
            return new if name == self.old else name

        looks = {}
        for key, look in scene.looks.items():
            assignments = {place: renamed(name) for place, name in look.assignments.items()}
            rules = tuple(rule.model_copy(update={"appearance": renamed(rule.appearance)}) for rule in look.rules)
            looks[key] = look.model_copy(update={"assignments": assignments, "rules": rules})
        imported = {key: name and renamed(name) for key, name in scene.imported.items()}
        appearances, back = defined(scene, {new: self.new}, looks, imported)
        changed = {"looks": looks, "imported": imported, "appearances": appearances}
        return scene.model_copy(update=changed), SetLooks(
            looks=dict(scene.looks), show=None, imported=scene.imported, define=back
        )

    def words(self, scene: Scene) -> str:
        """See `BaseEdit.words`."""
        return f"Put {self.new.name} in place of {_name_of({self.old}, scene, {})}"


class SetImported(BaseEdit):
    """Let appearances stand in for colours from CAD. `imported` is the whole map as it shall be."""

    kind: Literal["set_imported"] = "set_imported"
    imported: dict[str, str | None]
    stripped: frozenset[str] = frozenset()
    define: dict[str, Appearance | None] = Field(default={}, description="appearances to keep (or drop, null)")

    def apply(self, scene: Scene, parts: Collection[str]) -> tuple[Scene, BaseEdit]:
        """See `BaseEdit.apply`. Raises EditRefused."""
        appearances, back_define = defined(scene, self.define, scene.looks, self.imported)
        changed = {"appearances": appearances, "imported": self.imported, "stripped": self.stripped}
        back = SetImported(imported=scene.imported, stripped=scene.stripped, define=back_define)
        return scene.model_copy(update=changed), back

    def words(self, scene: Scene) -> str:
        """See `BaseEdit.words`."""
        if self.stripped != scene.stripped:
            return "Strip or heed colours from CAD"
        return "Change what stands for colours from CAD"


def defined(
    scene: Scene, define: dict[str, Appearance | None], looks: dict[str, Look], imported: dict[str, str | None]
) -> tuple[dict[str, Appearance], dict[str, Appearance | None]]:
    """The appearances after some are defined or dropped, and what takes that back. Raises EditRefused.

    One that is already in the review keeps its present values: giving it again must not change the parts that wear
    it, nor may undoing that drop it.
    """
    new = {key: value for key, value in define.items() if value is None or key not in scene.appearances}
    appearances, back = merged(scene.appearances, new)
    worn = _worn(looks, imported)
    floors = {lighting.floor_finish.appearance for lighting in scene.lightings.values()}
    used = worn | floors
    for key in [key for key, value in new.items() if value is None and key in used and key in scene.appearances]:
        appearances[key] = scene.appearances[key]
        del back[key]
    if worn - set(appearances):
        raise EditRefused(f"The appearance {sorted(worn - set(appearances))[0]} is not in this review.")
    return appearances, back


def _worn(looks: dict[str, Look], imported: dict[str, str | None]) -> set[str]:
    """Ids of the appearances that something wears."""
    given = {name for look in looks.values() for name in look.assignments.values()}
    given |= {rule.appearance for look in looks.values() for rule in look.rules}
    return given | {name for name in imported.values() if name is not None}


def _name_of(ids: Collection[str], scene: Scene, define: dict[str, Appearance | None]) -> str:
    """The name of an appearance, or how many there are."""
    if len(ids) > 1:
        return counted(len(ids), "appearance")
    (one,) = ids
    known = define.get(one) or scene.appearances.get(one)
    return known.name if known else one


def _places(keys: Iterable[str], scene: Scene) -> str:
    """Where assignments hang, in words."""
    keys = list(keys)
    if all("#" in key for key in keys):
        return counted(len(keys), "face")
    if len(keys) == 1 and keys[0] in scene.models:
        return f"all of {scene.models[keys[0]].name}"
    if all(key.startswith("=") for key in keys):
        return "all same parts"
    return counted(len(keys), "part")
