"""What the scene comes down to: which appearance each face wears and why, what is shown, what gets traced.

Order, nearest first: what was given to the part; what CAD gave (face, part, definition), or what stands in for that
colour in this review; the neutral.
"""

from __future__ import annotations

import hashlib
from dataclasses import dataclass
from typing import Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import BaseModel, ConfigDict

from usual_lamp.core.appearance import NEUTRAL, Appearance, from_cad
from usual_lamp.core.assembly import Assembly, Occurrence
from usual_lamp.core.camera import Camera, frame_points, three_quarter
from usual_lamp.core.scene.document import Lighting, ModelUse, PartState, Scene, Shot
from usual_lamp.core.scene.picture_on_part import PictureOnPart

Why = Literal["part", "stands for a colour from CAD", "from CAD", "nothing yet"]
DEFAULT_SHOT = "shot-1"
PLAIN = (0.8, 0.8, 0.8)
"""Under pictures of a file that gives no colour of its own."""


@dataclass(frozen=True)
class Resolved:
    """Appearance of a whole part, reason, and the faces that differ (face index to appearance)."""

    appearance: Appearance
    why: Why
    faces: dict[int, Appearance]


class TracePart(BaseModel):
    model_config = ConfigDict(frozen=True)

    mesh: str
    matrix: tuple[float, ...]
    appearance: int
    faces: dict[int, int] = {}
    """Face index to appearance, where it differs from the part's."""
    pictures: tuple[PictureOnPart, ...] = ()
    """Laid on in this order, over whatever the faces wear."""


class TraceInputs(BaseModel):
    """All that decides the traced light of a picture; equal inputs give equal pictures."""

    model_config = ConfigDict(frozen=True)

    parts: list[TracePart]
    appearances: list[Appearance]
    lighting: Lighting
    camera: Camera
    width: int
    height: int
    floor_height: float
    center: tuple[float, float, float]
    radius: float

    def fingerprint(self) -> str:
        return hashlib.sha256(self.model_dump_json(exclude_defaults=True).encode()).hexdigest()


def first_scene(assembly: Assembly, revision: str, aspect: tuple[int, int] = (1280, 960)) -> Scene:
    """The scene a new review starts with: parts hidden in CAD suppressed, one shot framed on the rest."""
    states: dict[str, PartState] = dict.fromkeys(assembly.hidden_in_cad(), "suppressed")
    if len(states) == sum(1 for _ in assembly.parts()):
        states = {}
    points = np.concatenate([assembly.corners(part) for part in assembly.parts() if part.uid not in states])
    camera = frame_points(points, three_quarter(), 85.0, aspect[0] / aspect[1])
    shot = Shot(name="Front, three-quarter", camera=camera, width=aspect[0], height=aspect[1])
    models = {"model-1": ModelUse(name=assembly.name, revision=revision)}
    return Scene(models=models, states=states, shots={DEFAULT_SHOT: shot})


def shown_parts(assembly: Assembly, scene: Scene) -> list[Occurrence]:
    """Parts that are neither hidden nor suppressed."""
    return [part for part in assembly.parts() if part.uid not in scene.states]


def model_points(assembly: Assembly, scene: Scene) -> NDArray[np.float64]:
    """(N, 3) box corners of the shown parts, mm."""
    corners = [assembly.corners(part) for part in shown_parts(assembly, scene)]
    return np.concatenate(corners) if corners else np.zeros((0, 3))


def imported_look(assembly: Assembly, part: Occurrence) -> tuple[Appearance | None, dict[int, Appearance]]:
    """What CAD gave a part: its colour, if any, and the colours of faces that have their own."""
    definition = assembly.definition_of(part)
    inherited = next((node.color for node in assembly.ancestors(part.uid) if node.color), None)
    color = part.color or inherited or definition.color
    faces = {i: from_cad(face.color) for i, face in enumerate(definition.faces) if face.color}
    if part.color or inherited:
        faces = {}
    if definition.pictures:
        color = color or PLAIN
    pictures = tuple(definition.pictures.items())
    return (from_cad(color, definition.opacity, pictures) if color is not None else None), faces


def resolve_part(assembly: Assembly, scene: Scene, part: Occurrence, look: str = "standard") -> Resolved:
    given = scene.looks[look].assignments.get(part.uid)
    if given is not None and given in scene.appearances:
        return Resolved(scene.appearances[given], "part", {})
    if scene.stripped and _is_stripped(assembly, scene, part):
        return Resolved(NEUTRAL, "nothing yet", {})
    whole, faces = imported_look(assembly, part)
    if not scene.imported:
        if whole is not None:
            return Resolved(whole, "from CAD", faces)
        if len(faces) == len(assembly.definition_of(part).faces) and faces:
            return Resolved(next(iter(faces.values())), "from CAD", faces)
        return Resolved(NEUTRAL, "from CAD" if faces else "nothing yet", faces)
    return _with_stand_ins(scene, whole, faces, len(assembly.definition_of(part).faces))


def _is_stripped(assembly: Assembly, scene: Scene, part: Occurrence) -> bool:
    return part.uid in scene.stripped or any(node.uid in scene.stripped for node in assembly.ancestors(part.uid))


def _with_stand_ins(scene: Scene, whole: Appearance | None, faces: dict[int, Appearance], face_count: int) -> Resolved:
    """The imported look with this review's appearances in place of the colours that have one."""

    def stand_in(found: Appearance) -> Appearance:
        name = scene.imported.get(found.id, found.id)
        return found if name == found.id else NEUTRAL if name is None else scene.appearances.get(name, found)

    shown = {index: stand_in(found) for index, found in faces.items()}
    base = stand_in(whole) if whole is not None else NEUTRAL
    if whole is None and shown and len(shown) == face_count:
        base, whole = next(iter(shown.values())), next(iter(faces.values()))
    shown = {index: found for index, found in shown.items() if found != base}
    worn = [base, *shown.values()]
    if all(found == NEUTRAL for found in worn):
        return Resolved(base, "nothing yet", {})
    touched = any(found.family not in ("from CAD", "neutral") for found in worn)
    return Resolved(base, "stands for a colour from CAD" if touched else "from CAD", shown)


def trace_inputs(
    assembly: Assembly, scene: Scene, shot: Shot, size: tuple[int, int] | None = None, look: str = "standard"
) -> TraceInputs:
    """Resolve everything the tracer needs. Raises ValueError when no part is shown."""
    appearances: dict[Appearance, int] = {}

    def number(appearance: Appearance) -> int:
        return appearances.setdefault(appearance, len(appearances))

    parts = []
    for part in shown_parts(assembly, scene):
        found = resolve_part(assembly, scene, part, look)
        parts.append(
            TracePart(
                mesh=assembly.definition_of(part).mesh,
                matrix=tuple(float(v) for v in assembly.world[part.uid].reshape(-1)),
                appearance=number(found.appearance),
                faces={index: number(a) for index, a in found.faces.items() if a != found.appearance},
            )
        )
    if not parts:
        raise ValueError("Nothing is shown: bring at least one part back before taking a still.")
    points = model_points(assembly, scene)
    low, high = points.min(axis=0), points.max(axis=0)
    cx, cy, cz = (float(v) for v in (low + high) / 2)
    return TraceInputs(
        parts=parts,
        appearances=list(appearances),
        lighting=scene.lighting,
        camera=shot.camera,
        width=size[0] if size else shot.width,
        height=size[1] if size else shot.height,
        floor_height=float(low[2]),
        center=(cx, cy, cz),
        radius=float(np.linalg.norm(high - low)) / 2,
    )
