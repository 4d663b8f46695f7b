"""What differs between two states of a review, as far as one shot shows it, in words for people.

A still keeps the scene that it was taken of; this says why it is out of date.
"""

from __future__ import annotations

import math
from collections import defaultdict
from collections.abc import Iterable, Iterator

from usual_lamp.core.light import Lamp
from usual_lamp.core.numbers_in_words import said_to, told, told_short
from usual_lamp.core.scene.document import Lighting
from usual_lamp.core.scene.edits.base import counted
from usual_lamp.core.scene.levels import Resolved
from usual_lamp.core.scene.resolved import ResolvedScene
from usual_lamp.core.scene.shot import Shot
from usual_lamp.core.scene.touched import differing

NAMED = 2
"""Parts that are named before the rest is counted."""
SURROUNDINGS = {
    "turn": "turned", "tilt": "tilted", "tint": "tinted", "contrast": "contrast changed",
    "saturation": "saturation changed",
}  # fmt: skip
UNITS = {"exposure": "EV", "white": "K", "vignette": "EV"}


def differences(before: ResolvedScene, now: ResolvedScene, shot: str, lighting: str | None = None) -> list[str]:
    """What of a shot (by id) looks otherwise now, the coarsest first; in the lighting of that id if one is given."""
    if shot not in before.scene.shots:
        return ["The shot was not known."]
    if shot not in now.scene.shots:
        return ["The shot was removed."]
    was, is_ = before.scene.shots[shot], now.scene.shots[shot]
    found = [*_models(before, now), *_shown(before, now, was, is_), *_worn(before, now), *_decals(before, now)]
    old, new = (
        one.scene.lightings.get(lighting or "") or one.scene.lighting_of(seen)
        for one, seen in ((before, was), (now, is_))
    )
    if before.scene.rounding != now.scene.rounding:
        found.append(f"Edges: rounded {said_to(before.scene.rounding)} → {said_to(now.scene.rounding)}")
    return [*found, *_light(old, new), *_shots(was, is_)]


def _models(before: ResolvedScene, now: ResolvedScene) -> Iterator[str]:
    old, new = before.scene.models, now.scene.models
    for id in old.keys() | new.keys():
        if id not in new:
            yield f"{old[id].name}: taken out"
        elif id not in old:
            yield f"{new[id].name}: added"
        elif old[id].revision != new[id].revision:
            yield f"{new[id].name}: another revision"
        elif old[id].placement != new[id].placement:
            yield f"{new[id].name}: moved"
    moved = [uid for uid in differing(before.scene.moves, now.scene.moves) if uid in now.assembly.by_uid]
    if moved:
        yield f"{_names(now, moved)}: moved"


def _shown(before: ResolvedScene, now: ResolvedScene, was: Shot, is_: Shot) -> Iterator[str]:
    if was.section != is_.section:
        yield f"Section: {'off' if is_.section is None else 'on' if was.section is None else 'another'}"
    old = {part.uid for part in before.shown} - was.hidden
    new = {part.uid for part in now.shown} - is_.hidden
    gone = [uid for uid in old - new if uid in now.assembly.by_uid]
    if gone:
        yield f"{_names(now, gone)}: hidden"
    come = [uid for uid in new - old if uid in before.assembly.by_uid]
    if come:
        yield f"{_names(now, come)}: shown"


def _worn(before: ResolvedScene, now: ResolvedScene) -> Iterator[str]:
    """Parts by what they wore and wear."""
    changed: dict[tuple[str, str], list[str]] = defaultdict(list)
    for part in now.shown:
        old, new = before.worn.get(part.uid), now.worn[part.uid]
        if old is not None and (old.appearance, old.faces) != (new.appearance, new.faces):
            changed[_looks(old), _looks(new)].append(part.uid)
    for (old_name, new_name), uids in changed.items():
        what = f"{old_name} → {new_name}" if old_name != new_name else f"{new_name} changed"
        yield f"{_names(now, uids)}: {what}"


def _looks(worn: Resolved) -> str:
    name = "colour from CAD" if worn.appearance.family == "from CAD" else worn.appearance.name
    return f"{name} and faces" if worn.faces else name


def _decals(before: ResolvedScene, now: ResolvedScene) -> Iterator[str]:
    old, new = before.scene.decals, now.scene.decals
    for id in {**old, **new}:
        if old.get(id) == new.get(id):
            continue
        name = (new.get(id) or old[id]).name
        yield f"Decal {name}: {'removed' if id not in new else 'added' if id not in old else 'changed'}"


def _light(old: Lighting, new: Lighting) -> Iterator[str]:
    if old == new:
        return
    if (old.surroundings, old.on) != (new.surroundings, new.on):
        yield "Surroundings: others" if new.on and old.on else f"Surroundings: {'on' if new.on else 'off'}"
    if old.brightness != new.brightness:
        stops = math.log2(new.brightness / old.brightness) if new.brightness and old.brightness else None
        change = "brightness changed" if stops is None else f"{told(stops, 1, sign=True)} EV"
        yield f"Surroundings: {change}"
    for name, word in SURROUNDINGS.items():
        if getattr(old, name) != getattr(new, name):
            yield f"Surroundings: {word}"
    for id in {**old.lamps, **new.lamps}:
        words = _lamp(old.lamps.get(id), new.lamps.get(id))
        if words:
            yield words
    if (old.glows, old.glow) != (new.glows, new.glow):
        yield "Glowing parts: brightness changed"
    if (old.floor, old.floor_finish) != (new.floor, new.floor_finish):
        yield "Floor: changed"
    if (old.backdrop, old.below) != (new.backdrop, new.below):
        yield "Backdrop: changed"


def _lamp(old: Lamp | None, new: Lamp | None) -> str | None:
    if old is None or new is None:
        one = new or old
        return f"{one.name}: {'added' if old is None else 'removed'}" if one else None
    if old.on != new.on:
        return f"{new.name}: {'on' if new.on else 'off'}"
    if old.level != new.level:
        return f"{new.name}: {told(new.level - old.level, 1, sign=True)} EV"
    same = old.model_copy(update={"name": new.name}) == new
    return None if same else f"{new.name}: changed"


def _shots(old: Shot, new: Shot) -> Iterator[str]:
    if old.camera.focal_length != new.camera.focal_length:
        yield f"Lens: {told_short(old.camera.focal_length)} → {told_short(new.camera.focal_length)} mm"
    elif old.camera != new.camera:
        yield "Camera: moved or focused anew"
    # A still has a size of its own; of the shot's, only the form of the frame is seen in it.
    if old.width * new.height != new.width * old.height:
        yield f"Frame: {old.width} x {old.height} → {new.width} x {new.height}"
    for name in ("exposure", "white", "tone", "contrast", "saturation", "vignette", "glare", "sharpening"):
        was, is_ = getattr(old, name), getattr(new, name)
        if was != is_:
            shown = (told_short(value) if isinstance(value, float) else str(value) for value in (was, is_))
            yield f"{name.capitalize()}: {' → '.join(shown)} {UNITS.get(name, '')}".rstrip()


def _names(scene: ResolvedScene, uids: Iterable[str]) -> str:
    """ "Knob", "Knob and 2 more", "12 parts"."""
    names = sorted({scene.assembly.by_uid[uid].name for uid in uids})
    count = len(list(uids))
    if len(names) > NAMED:
        return counted(count, "part")
    return " and ".join(names) + (f" ({count})" if count > len(names) else "")
