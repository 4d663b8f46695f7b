"""The first coat: an appearance for every part that nobody has given one, from all that the file says, with reasons.

What a finish says decides over a material, a material over what kind of part it is, its name over its shape, and the
colour is the last to be asked. For a part that says nothing itself its neighbours are asked, and what parts of the same
shape are called counts for one that nothing else is known of. Nothing is changed here: what is proposed is taken as
ordinary assignments.
"""

from __future__ import annotations

import re
from collections import defaultdict
from collections.abc import Sequence
from dataclasses import dataclass
from typing import NamedTuple

import numpy as np
from pydantic import BaseModel, Field

from usual_lamp.core.appearance import SHELF, Appearance
from usual_lamp.core.appearance.cad_color import BRIGHT, DARK, GREY, WHITE, as_real, in_cad_color
from usual_lamp.core.appearance.clues import SHAPES, Clue, clues_in
from usual_lamp.core.appearance.color_difference import linear_to_lab
from usual_lamp.core.appearance.openpbr import Color
from usual_lamp.core.appearance.suggestions import in_color
from usual_lamp.core.assembly import Assembly, Occurrence
from usual_lamp.core.assembly.kinds import kinds_by_shape
from usual_lamp.core.assembly.same_shapes import same_shapes
from usual_lamp.core.scene.edits import ApplyFirstCoat, apply_edit
from usual_lamp.core.scene.first_exposure import first_exposure
from usual_lamp.core.scene.imported_look import imported_look
from usual_lamp.core.scene.levels import Why
from usual_lamp.core.scene.neighbours import neighbours_say
from usual_lamp.core.scene.resolution import DEFAULT_SHOT
from usual_lamp.core.scene.resolved import ResolvedScene

LEAST = 0.4
"""Below it a part is left to be decided."""
ECHO = 0.85
"""A material that only a part's name mentions counts by so much less than one of the file's own field."""
Clues = list[tuple[Clue, str]]
"""What is known of a part, and where it stands."""
BY_NOBODY: tuple[Why, ...] = ("from CAD", "nothing yet")
SEE_THROUGH = 0.9
LARGE, PAINTED = 0.35, 80.0
"""Of the assembly's diagonal, and mm: a part at least that large is a case and painted, smaller ones are moulded."""
WHOLE, OF_WHOLE = 0.7, 0.8
"""How sure the name of a sub-assembly must be for what lies in it, and what of that is left: a screw that is drawn as
shank and thread is one screw, but a pump holds more than pumps."""
GATHERED = re.compile(
    r"assembl|assy|baugruppe|\bunit|einheit|group|grupp|ensemble|conjunto|insieme|\bkit\b|\bset\b|housing|gehäuse|driver"
)
"""Words of sub-assemblies that hold other things than what they are called after."""
MOSTLY = 0.7
"""Of a part's area: a colour that so much of it has is the part's own, and others are marks on it."""
MARKED = 0.6
"""How sure it is that what CAD colours on some faces is print or paint."""
ALTERNATIVE = 0.6
"""A second clue that sure, for another family, makes the first doubtful."""
DOUBT = 0.35


class Coat(BaseModel):
    """An appearance for some parts."""

    appearance: Appearance
    uids: list[str]
    names: list[str] = Field(description="of the parts, each once")
    keys: list[str] = Field(description="to assign it by: of same parts that all get it, or of single ones")
    sure: float = Field(description="0 to 1")
    why: str


class Undecided(BaseModel):
    """Parts with one name that nothing says anything of."""

    name: str
    uids: list[str]


class FirstCoat(BaseModel):
    """What is proposed, the surest first, and what is left to decide, the most parts first."""

    coats: list[Coat]
    open: list[Undecided]
    exposures: dict[str, float] = Field(
        {}, description="EV of shots in which the product would be far too light or dark"
    )

    def edit(self, look: str) -> ApplyFirstCoat | None:
        """All of it as one edit of a look; None where nothing is proposed."""
        given = {key: coat.appearance.id for coat in self.coats for key in coat.keys}
        define = {coat.appearance.id: coat.appearance for coat in self.coats}
        if not given:
            return None
        return ApplyFirstCoat(look=look, assignments=given, define=define, exposures=self.exposures)


@dataclass(frozen=True)
class _Wish:
    appearance: Appearance
    sure: float
    why: str
    by_words: bool
    """Whether something said of the part decided, not its shape or colour."""


class _Marks(NamedTuple):
    """Faces that are marked in one colour."""

    ink: Appearance
    keys: list[str]
    uids: list[str]


def first_coat(resolved: ResolvedScene) -> FirstCoat:
    """What is proposed for the parts of a scene that are shown and were given nothing."""
    assembly = resolved.assembly
    extent = float(np.linalg.norm(resolved.bounds.size)) if resolved.bounds is not None else 0.0
    bare = [
        part for part in resolved.shown if resolved.worn[part.uid].why in BY_NOBODY and not _has_finish(assembly, part)
    ]
    coats: dict[tuple[str, str], list[str]] = defaultdict(list)
    wishes: dict[tuple[str, str], _Wish] = {}
    undecided: dict[str, list[str]] = defaultdict(list)
    marks: dict[str, _Marks] = {}
    colors = {part.uid: _colors(assembly, part) for part in bare}
    clues = _all_told(assembly, bare)
    silent = [part for part in bare if not clues[part.uid]]
    for uid, clue in neighbours_say(assembly, resolved.shown, silent).items():
        clues[uid] = [(clue, "its neighbours")]
    for part, wish in _wishes(assembly, bare, colors, clues, extent):
        if wish is None or wish.sure < LEAST:
            undecided[part.name or assembly.definition_of(part).name].append(part.uid)
            continue
        place = (wish.appearance.id, wish.why)
        wishes[place] = wish
        coats[place].append(part.uid)
        for face, color in colors[part.uid].marks.items():
            ink = in_color(SHELF["satin-grey"], as_real(color))
            mark = marks.setdefault(ink.id, _Marks(ink, [], []))
            mark.keys.append(f"{part.uid}#{assembly.definition_of(part).faces[face].signature}")
            mark.uids.append(part.uid)
    same: dict[str | None, list[str]] = defaultdict(list)
    for part in bare:
        same[part.definition].append(part.uid)
    found = [_coat(assembly, wishes[place], uids, _keys(assembly, uids, same)) for place, uids in coats.items()]
    for mark in marks.values():
        wish = _Wish(mark.ink, MARKED, "face by face in CAD, as print or paint", by_words=False)
        found.append(_coat(assembly, wish, list(dict.fromkeys(mark.uids)), mark.keys))
    left = [Undecided(name=name, uids=uids) for name, uids in undecided.items()]
    coat = FirstCoat(
        coats=sorted(found, key=lambda coat: (-coat.sure, -len(coat.uids), coat.why)),
        open=sorted(left, key=lambda one: (-len(one.uids), one.name)),
    )
    return coat.model_copy(update={"exposures": _exposures(resolved, coat)})


def _exposures(resolved: ResolvedScene, coat: FirstCoat) -> dict[str, float]:
    """What the first shot is to be exposed for, in the coat."""
    edit = coat.edit(resolved.look)
    if edit is None:
        return {}
    after, _ = resolved.after(apply_edit(resolved.scene, edit, resolved.assembly.by_uid)[0])
    exposure = first_exposure(after)
    return {} if exposure is None else {DEFAULT_SHOT: exposure}


def _coat(assembly: Assembly, wish: _Wish, uids: list[str], keys: list[str]) -> Coat:
    names = sorted({assembly.by_uid[uid].name for uid in uids})
    return Coat(appearance=wish.appearance, uids=uids, names=names, keys=keys, sure=wish.sure, why=wish.why)


class _Colors(NamedTuple):
    own: Color | None
    marks: dict[int, Color]
    """Of faces that are marked with another."""
    motley: bool = False
    """Whether no colour is that of most of it."""


def _colors(assembly: Assembly, part: Occurrence) -> _Colors:
    """What CAD colours a part: its own colour is that of most of its area."""
    whole, faces = imported_look(assembly, part)
    own = whole.params.base_color if whole else None
    if not faces:
        return _Colors(own, {})
    every = assembly.definition_of(part).faces
    area: dict[Color | None, float] = defaultdict(float)
    given = {index: faces[index].params.base_color if index in faces else own for index in range(len(every))}
    for index, color in given.items():
        area[color] += every[index].area
    most = max(area, key=lambda color: area[color])
    if area[most] < MOSTLY * sum(area.values()):
        return _Colors(None, {}, motley=True)
    return _Colors(most, {index: color for index, color in given.items() if color is not None and color != most})


def _wishes(
    assembly: Assembly, bare: list[Occurrence], colors: dict[str, _Colors], clues: dict[str, Clues], extent: float
) -> list[tuple[Occurrence, _Wish | None]]:
    """What each part is to have. Where only the colour speaks, a part of the same shape that says more is heard."""
    known: dict[tuple[object, ...], _Wish | None] = {}
    by_shape: dict[str, tuple[_Wish, str]] = {}
    stands = same_shapes(assembly)
    found = []
    for part in bare:
        color, _, motley = colors[part.uid]
        said = tuple(clues[part.uid])
        asked = (part.definition, color, motley, said)
        if asked not in known:
            # Where no colour is that of most of it, one appearance for the whole would hide what CAD shows.
            known[asked] = None if motley else _wish(assembly, part, said, color, extent)
        wish = known[asked]
        found.append((part, motley, wish))
        shape = stands[part.definition or ""]
        if wish is not None and wish.by_words and (shape not in by_shape or wish.sure > by_shape[shape][0].sure):
            by_shape[shape] = wish, part.name
    return [(part, _heard(wish, by_shape.get(stands[part.definition or ""]), motley)) for part, motley, wish in found]


def _heard(wish: _Wish | None, said: tuple[_Wish, str] | None, motley: bool) -> _Wish | None:
    """A part's own wish, or what is said of a part of the same shape where its own says too little."""
    if said is None or motley or (wish is not None and wish.by_words):
        return wish
    its, name = said
    sure = round(its.sure * ECHO, 2)
    if wish is not None and wish.sure >= sure:
        return wish
    return _Wish(its.appearance, sure, f"same shape as “{name}”", by_words=False)


def _has_finish(assembly: Assembly, part: Occurrence) -> bool:
    """Whether the file says more than a colour: a finish or pictures."""
    definition = assembly.definition_of(part)
    return bool(definition.finish or definition.pictures)


def _keys(assembly: Assembly, uids: list[str], same: dict[str | None, list[str]]) -> list[str]:
    """One key for same parts where all that are bare (`same`, by definition) get it, so that one more of them gets it,
    too."""
    taken = set(uids)
    keys = []
    done: set[str | None] = set()
    for uid in uids:
        definition = assembly.by_uid[uid].definition
        if len(same[definition]) > 1 and taken.issuperset(same[definition]):
            if definition not in done:
                done.add(definition)
                keys.append(f"={uid}")
        else:
            keys.append(uid)
    return keys


def _wish(
    assembly: Assembly, part: Occurrence, clues: Sequence[tuple[Clue, str]], color: Color | None, extent: float
) -> _Wish | None:
    definition = assembly.definition_of(part)
    clear = definition.opacity < SEE_THROUGH
    if clues:
        return _by_clues(clues, color)
    size = float(np.linalg.norm(np.subtract(*definition.bounds)))
    return _by_color(color, clear, bool(extent) and size > max(LARGE * extent, PAINTED))


def _all_told(assembly: Assembly, parts: list[Occurrence]) -> dict[str, Clues]:
    """What is said of parts, by uid; parts with the same names and facts are looked at once."""
    known: dict[tuple[object, ...], Clues] = {}
    found = {}
    for part in parts:
        asked = part.definition, part.name, _sub_assemblies(assembly, part), tuple(part.properties.items())
        if asked not in known:
            known[asked] = _told(assembly, part)
        found[part.uid] = known[asked]
    return found


def _told(assembly: Assembly, part: Occurrence) -> Clues:
    """What is said of a part and where, and what its shape says, the most telling first."""
    definition = assembly.definition_of(part)
    found: list[tuple[Clue, str]] = []
    shape = kinds_by_shape(assembly).get(part.definition or "")
    if shape is not None:
        sample, sure = SHAPES[shape.kind]
        found.append((Clue("shape", shape.kind, sample, round(sure * shape.sure / 0.85, 2)), "its shape"))
    stated = [definition.material or "", *(definition.properties | part.properties).values()]
    for text in stated:
        found += [(clue, "the file's material") for clue in clues_in(text, ("finish", "material"))]
    names = dict.fromkeys((part.name, definition.name))
    for name in filter(None, names):
        for clue in clues_in(name):
            share = ECHO if clue.kind == "material" else 1.0
            found.append((Clue(clue.kind, clue.word, clue.sample, clue.sure * share), "its name"))
    found += _clues_above(assembly, part)
    order = {"finish": 0, "material": 1, "standard": 2, "name": 3, "shape": 4, "whole": 5}
    return sorted(found, key=lambda one: (order[one[0].kind], -one[0].sure))


def _sub_assemblies(assembly: Assembly, part: Occurrence) -> tuple[str, ...]:
    """The names of what a part lies in, the nearest first, without the product itself."""
    return tuple(node.name for node in assembly.ancestors(part.uid) if node.parent is not None)


def _clues_above(assembly: Assembly, part: Occurrence) -> list[tuple[Clue, str]]:
    """What the nearest sub-assembly that is one bought thing says: a screw, a bearing, a spring."""
    for name in _sub_assemblies(assembly, part):
        for clue in clues_in(name, ("standard", "name")):
            if clue.sure >= WHOLE and SHELF[clue.sample].family == "metal" and not GATHERED.search(name.lower()):
                return [(Clue("whole", clue.word, clue.sample, round(clue.sure * OF_WHOLE, 2)), f"“{name}”")]
    return []


def _by_clues(clues: Sequence[tuple[Clue, str]], color: Color | None) -> _Wish:
    """What the most telling clue asks for; others in favour make it surer, others against it less."""
    best, where = clues[0]
    sample = SHELF[_finer(best, clues)]
    sure = best.sure
    for other, _ in clues[1:]:
        if SHELF[other.sample].family == sample.family:
            sure = 1 - (1 - sure) * (1 - other.sure * 0.5)
        elif other.sure >= ALTERNATIVE and other.kind == best.kind:
            sure *= 1 - DOUBT
    why = f"“{best.word}” in {where}"
    if best.kind == "shape":
        why = f"by its shape: {best.word}"
    elif best.kind == "whole":
        why = f"part of {where}"
    elif best.kind == "beside":
        why = best.word
    wears, said = in_cad_color(sample, color, guessed=best.kind not in ("finish", "material"))
    return _Wish(
        wears, round(min(sure, 0.99), 2), f"{why}{said}", by_words=best.kind not in ("shape", "whole", "beside")
    )


def _finer(best: Clue, clues: Sequence[tuple[Clue, str]]) -> str:
    """The sample for a finish on what it lies on: brushed aluminium is another one than brushed steel."""
    lies_on = next((clue.sample for clue, _ in clues if clue.kind == "material"), "")
    if best.kind == "finish" and best.sample.startswith("steel-") and "-" in lies_on:
        finer = f"{lies_on.split('-')[0]}-{best.sample.split('-')[1]}"
        if finer in SHELF:
            return finer
    return best.sample


def _by_color(color: Color | None, clear: bool, large: bool) -> _Wish | None:
    """What a colour alone may mean; None where there is none."""
    if color is None:
        return None
    light, a, b = linear_to_lab(np.array([color]))[0]
    grey = float(np.hypot(a, b)) < GREY
    if clear:
        sample = SHELF["polycarbonate-clear"]
        return _Wish(sample if grey else in_color(sample, color), 0.7, "see-through in CAD", by_words=False)
    if grey and DARK < light < WHITE:
        sample = SHELF["aluminium-machined" if light > BRIGHT else "steel-cast" if large else "steel-machined"]
        return _Wish(sample, 0.45, "grey in CAD, as bare metal", by_words=False)
    kind = "satin-grey" if large else "abs-grey"
    what = "large, so painted" if large else "small, so moulded"
    return _Wish(in_color(SHELF[kind], as_real(color)), 0.45, f"by its colour; {what}", by_words=False)
