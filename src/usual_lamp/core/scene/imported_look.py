"""What CAD gave a part, and what stands in for that in a review."""

from __future__ import annotations

from typing import Literal

from usual_lamp.core.appearance import NEUTRAL, Appearance, from_cad
from usual_lamp.core.assembly import Assembly, Occurrence
from usual_lamp.core.scene.document import Scene

Beneath = Literal["stands for a colour from CAD", "from CAD", "nothing yet"]
LOOKS = "imported looks"
"""Their name among what is kept with the assembly."""
PLAIN = (0.8, 0.8, 0.8)
"""Under pictures of a file that gives no colour of its own."""


def imported_look(assembly: Assembly, part: Occurrence) -> tuple[Appearance | None, dict[int, Appearance]]:
    """What CAD gave a part: its colour, if any, and the colours of faces that have their own. Not to be changed."""
    known: dict[str, tuple[Appearance | None, dict[int, Appearance]]] = assembly.kept.setdefault(LOOKS, {})
    if part.uid not in known:
        known[part.uid] = _given_by_cad(assembly, part)
    return known[part.uid]


def _given_by_cad(assembly: Assembly, part: Occurrence) -> tuple[Appearance | None, dict[int, Appearance]]:
    definition = assembly.definition_of(part)
    inherited = next((node.color for node in assembly.ancestors(part.uid) if node.color), None)
    color = part.color or inherited or definition.color
    faces = {i: from_cad(face.color) for i, face in enumerate(definition.faces) if face.color}
    if part.color or inherited:
        faces = {}
    if definition.pictures or definition.finish:
        color = color or PLAIN
    pictures = tuple(definition.pictures.items())
    finish = tuple((name, tuple(v) if isinstance(v, list) else v) for name, v in sorted(definition.finish.items()))
    return (from_cad(color, definition.opacity, pictures, finish) if color is not None else None), faces


def unassigned(assembly: Assembly, scene: Scene, part: Occurrence) -> tuple[Appearance, Beneath, dict[int, Appearance]]:
    """What a part wears that nobody gave anything: as a whole, why, and on faces that differ."""
    if scene.stripped and _is_stripped(assembly, scene, part):
        return NEUTRAL, "nothing yet", {}
    whole, faces = imported_look(assembly, part)
    if not scene.imported:
        if whole is not None:
            return whole, "from CAD", faces
        if len(faces) == len(assembly.definition_of(part).faces) and faces:
            return next(iter(faces.values())), "from CAD", faces
        return NEUTRAL, "from CAD" if faces else "nothing yet", faces
    return _with_stand_ins(scene, whole, faces, len(assembly.definition_of(part).faces))


def _is_stripped(assembly: Assembly, scene: Scene, part: Occurrence) -> bool:
    return part.uid in scene.stripped or any(node.uid in scene.stripped for node in assembly.ancestors(part.uid))


def _with_stand_ins(
    scene: Scene, whole: Appearance | None, faces: dict[int, Appearance], face_count: int
) -> tuple[Appearance, Beneath, dict[int, Appearance]]:
    """The imported look with this review's appearances in place of the colours that have one."""

    def stand_in(found: Appearance) -> Appearance:
        """What stands in for a colour from CAD, or the colour itself."""
        name = scene.imported.get(found.id, found.id)
        return found if name == found.id else NEUTRAL if name is None else scene.appearances.get(name, found)

    shown = {index: stand_in(found) for index, found in faces.items()}
    base = stand_in(whole) if whole is not None else NEUTRAL
    if whole is None and shown and len(shown) == face_count:
        base, whole = next(iter(shown.values())), next(iter(faces.values()))
    shown = {index: found for index, found in shown.items() if found != base}
    worn = [base, *shown.values()]
    if all(found == NEUTRAL for found in worn):
        return base, "nothing yet", {}
    touched = any(found.family not in ("from CAD", "neutral") for found in worn)
    return base, "stands for a colour from CAD" if touched else "from CAD", shown
