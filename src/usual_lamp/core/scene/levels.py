"""Where appearances apply: the one plain order, written here and nowhere else.

    face > part > same part > rules (the higher in the list wins) > sub-assembly, inner to outer > model
    > what CAD gave (face, part, definition), or what stands in for that colour > the neutral

So a base coat on everything never defeats a rule for the screws, and a rule never defeats what was given by hand.

Assignments are kept by key: the uid of a part or of a sub-assembly, the id of a model, `=uid` for all parts that are
the same part as that one, `uid#signature` for one face of a part (see `Face.signature`).
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from usual_lamp.core.appearance import Appearance
from usual_lamp.core.assembly import Assembly, Occurrence
from usual_lamp.core.assembly.laying import Laid
from usual_lamp.core.scene.document import Rule, Scene
from usual_lamp.core.scene.filter_words import FilterProblem
from usual_lamp.core.scene.imported_look import unassigned
from usual_lamp.core.scene.part_facts import matching

Why = Literal[
    "face",
    "part",
    "same part",
    "rule",
    "sub-assembly",
    "model",
    "stands for a colour from CAD",
    "from CAD",
    "nothing yet",
]


@dataclass(frozen=True)
class Layer:
    """One thing that was given to a part, at some level."""

    why: Why
    key: str
    """Of the assignment, or the rule's id; empty for what nobody gave."""
    appearance: Appearance


@dataclass(frozen=True)
class Resolved:
    """What a whole part wears and why, the faces that differ (face index to appearance), and what lies beneath."""

    appearance: Appearance
    why: Why
    faces: dict[int, Appearance]
    layers: tuple[Layer, ...] = ()
    """Topmost first, the one that is worn among them."""
    own_faces: tuple[tuple[int, Layer], ...] = ()
    """Faces that were given something of their own, by hand or by a rule."""


class Resolver:
    """Resolves the parts of an assembly in one look of a scene."""

    def __init__(self, assembly: Assembly, scene: Scene, look: str | None = None) -> None:
        self.assembly, self.scene = assembly, scene
        dressed = scene.looks[look or scene.look]
        self.laid = {
            uid: Laid(laying.kind, frame, laying.radius)
            for laying in dressed.layings.values()
            for uid, frame in laying.parts.items()
        }
        """How pictures lie on parts where that was said by hand, by uid."""
        self.given: dict[str, Appearance] = {}
        self.same: dict[str, Layer] = {}
        self.faces: dict[str, dict[str, Layer]] = {}
        for key, name in dressed.assignments.items():
            if name in scene.appearances:
                self._note(key, scene.appearances[name])
        self.rules: dict[str, list[tuple[Rule, Layer]]] = {}
        for rule in dressed.rules:
            if rule.on and rule.appearance in scene.appearances:
                layer = Layer("rule", rule.id, scene.appearances[rule.appearance])
                for uid in _matched(assembly, rule):
                    self.rules.setdefault(uid, []).append((rule, layer))

    def _note(self, key: str, appearance: Appearance) -> None:
        uid, _, signature = key.partition("#")
        if signature:
            self.faces.setdefault(uid, {})[signature] = Layer("face", key, appearance)
        elif key.startswith("="):
            node = self.assembly.by_uid.get(key[1:])
            if node is not None and node.definition is not None:
                self.same[node.definition] = Layer("same part", key, appearance)
        else:
            self.given[key] = appearance

    def resolve(self, part: Occurrence) -> Resolved:
        """Return what a part shows, and what lies beneath it."""
        layers = list(self._layers(part))
        base, why, cad_faces = unassigned(self.assembly, self.scene, part)
        by_hand = bool(layers) and layers[0].why in ("part", "same part")
        faces = {} if layers else dict(cad_faces)
        if why != "nothing yet" or not layers:
            layers.append(Layer(why, "", base))
        own: dict[int, Layer] = {}
        if not by_hand and part.uid in self.rules:
            own |= self._faces_by_rule(part)
        if part.uid in self.faces:
            known = {face.signature: index for index, face in enumerate(self.assembly.definition_of(part).faces)}
            given = self.faces[part.uid]
            own |= {known[signature]: layer for signature, layer in given.items() if signature in known}
        faces |= {index: layer.appearance for index, layer in own.items()}
        top = layers[0]
        return Resolved(top.appearance, top.why, faces, tuple(layers), tuple(sorted(own.items())))

    def _layers(self, part: Occurrence) -> list[Layer]:
        found = []
        if part.uid in self.given:
            found.append(Layer("part", part.uid, self.given[part.uid]))
        if part.definition in self.same:
            found.append(self.same[part.definition])
        found += [layer for rule, layer in self.rules.get(part.uid, ()) if rule.surface is None]
        if self.given:
            found += [
                Layer("sub-assembly", node.uid, self.given[node.uid])
                for node in self.assembly.ancestors(part.uid)
                if node.uid in self.given
            ]
            if part.model in self.given:
                found.append(Layer("model", part.model, self.given[part.model]))
        return found

    def _faces_by_rule(self, part: Occurrence) -> dict[int, Layer]:
        """Faces of the kinds that rules ask for, unless a rule for whole parts stands above."""
        own: dict[int, Layer] = {}
        for rule, layer in self.rules[part.uid]:
            if rule.surface is None:
                break
            for index, face in enumerate(self.assembly.definition_of(part).faces):
                if face.kind == rule.surface:
                    own.setdefault(index, layer)
        return own


def _matched(assembly: Assembly, rule: Rule) -> frozenset[str]:
    try:
        return matching(assembly, rule.filter)
    except FilterProblem:
        # A field may have gone with a new revision; the list of rules says so.
        return frozenset()


def resolve_part(assembly: Assembly, scene: Scene, part: Occurrence, look: str | None = None) -> Resolved:
    """For one part; many are cheaper with one Resolver."""
    return Resolver(assembly, scene, look).resolve(part)
