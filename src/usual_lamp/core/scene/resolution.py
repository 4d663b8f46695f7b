"""What the scene comes down to: what is shown, what is framed, what gets traced."""

from __future__ import annotations

import hashlib
from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray
from pydantic import BaseModel, ConfigDict

from usual_lamp.core.appearance import NEUTRAL, SHELF, Appearance, OpenPBR, hex_to_linear
from usual_lamp.core.assembly import Assembly, Mesh, Occurrence
from usual_lamp.core.assembly.laying import Laid
from usual_lamp.core.camera import Camera, frame_points, three_quarter
from usual_lamp.core.light.arranging import Stand, starter_set
from usual_lamp.core.scene.carrying import CarriedLighting
from usual_lamp.core.scene.document import FIRST_LIGHTING, Lighting, ModelUse, PartState, Scene
from usual_lamp.core.scene.floor_plane import LEVEL, FloorPlane, floor_plane
from usual_lamp.core.scene.ground import Ground
from usual_lamp.core.scene.picture_on_part import PictureOnPart
from usual_lamp.core.scene.resolved import ResolvedScene
from usual_lamp.core.scene.section import sectioned
from usual_lamp.core.scene.shot import Habits, Shot

DEFAULT_SHOT = "shot-1"
FIRST_ROUNDING = 0.2
FIRST_SURROUNDINGS = "shiny"
"""mm: edges that are broken, as drawings ask for where they ask for nothing else (ISO 13715, from memory, indicates
such edges; 0.1 to 0.3 mm is common practice)."""


class TracePart(BaseModel):
    """A part as the tracer gets it: mesh, matrix (4 x 4, mm) and appearance."""

    model_config = ConfigDict(frozen=True)

    mesh: str
    matrix: tuple[float, ...]
    appearance: int
    faces: dict[int, int] = {}
    """Face index to appearance, where it differs from the part's."""
    pictures: tuple[PictureOnPart, ...] = ()
    """Laid on in this order, over whatever the faces wear."""
    laid: Laid | None = None
    """How the textures of its appearances lie, unless by each face."""


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
    """mm along `floor_up`, from the origin."""
    center: tuple[float, float, float]
    radius: float
    floor_up: tuple[float, float, float] = LEVEL
    """The floor's unit normal."""
    ground: Appearance | None = None
    """What a floor wears that is not plain; in a transparent picture, what it reflects like."""
    rounding: float = 0.0
    """mm to which sharp edges are rounded for the light."""

    @property
    def floor(self) -> FloorPlane:
        """Where the floor lies, if there is one."""
        return FloorPlane(self.floor_up, self.floor_height)

    @property
    def shows_floor(self) -> bool:
        """Whether there is a plain floor. From beneath, one would hide what stands on it: a camera there sees none."""
        return self.ground is None and self.is_above_floor

    @property
    def shows_catcher(self) -> bool:
        """Whether a floor is there by its shadow and reflection alone, and reflects like an appearance."""
        return self.ground is not None and self.lighting.backdrop.transparent and self.is_above_floor

    @property
    def shows_ground(self) -> bool:
        """The same of a floor that wears an appearance."""
        return self.ground is not None and not self.lighting.backdrop.transparent and self.is_above_floor

    @property
    def is_above_floor(self) -> bool:
        """Whether the camera looks at the floor from above, where there is one."""
        return self.lighting.floor and self.floor.above(self.camera.position) >= 0

    def fingerprint(self) -> str:
        """Return the sha256 of the inputs: equal ones give equal pictures."""
        return hashlib.sha256(self.model_dump_json(exclude_defaults=True).encode()).hexdigest()


def first_scene(
    assembly: Assembly,
    revision: str,
    aspect: tuple[int, int] = (1280, 960),
    start: Callable[[Stand], CarriedLighting | None] | None = None,
    habits: Habits | None = None,
) -> Scene:
    """The scene a new review starts with: parts hidden in CAD suppressed, one shot framed on the rest, and the lighting
    that `start` gives, or ours. `habits` are those of the shot, in place of `aspect`."""
    habits = habits or Habits(width=aspect[0], height=aspect[1])
    states: dict[str, PartState] = dict.fromkeys(assembly.hidden_in_cad(), "suppressed")
    if len(states) == sum(1 for _ in assembly.parts()):
        states = {}
    points = np.concatenate([assembly.corners(part) for part in assembly.parts() if part.uid not in states])
    direction = three_quarter() if assembly.facing is None else three_quarter(assembly.facing)
    camera = frame_points(points, direction, habits.focal_length, habits.width / habits.height)
    stand = standing_at(points, camera)
    shot = habits.applied(Shot(name="Front, three-quarter", camera=camera))
    models = {"model-1": ModelUse(name=assembly.name, revision=revision)}
    carried = start(stand) if start else None
    return Scene(
        models=models,
        states=states,
        shots={DEFAULT_SHOT: shot},
        lightings={FIRST_LIGHTING: carried.lighting if carried else first_lighting(stand)},
        panoramas=carried.panoramas if carried else {},
        appearances=carried.appearances if carried else {},
        rounding=FIRST_ROUNDING,
    )


def first_lighting(stand: Stand) -> Lighting:
    """The lighting of a new review: the set of lamps that showed form and metal best on the files that we tried, sized
    to the product and turned to the view."""
    lamps, brightness = starter_set("key, fill and rim", stand)
    return Lighting(name="Table top", surroundings=FIRST_SURROUNDINGS, lamps=lamps, brightness=brightness)


def standing_at(points: NDArray[np.float64], camera: Camera) -> Stand:
    """How a product with these points (N, 3) mm stands before a camera."""
    low, high = points.min(axis=0), points.max(axis=0)
    radius = max(float(np.linalg.norm(high - low)) / 2, 1e-3)
    return Stand((low + high) / 2, radius, float(low[2]), np.array(camera.position, float))


def shown_parts(assembly: Assembly, scene: Scene) -> list[Occurrence]:
    """Parts that are neither hidden nor suppressed."""
    return [part for part in assembly.parts() if part.uid not in scene.states]


def model_points(assembly: Assembly, scene: Scene) -> NDArray[np.float64]:
    """(N, 3) box corners of the shown parts, mm."""
    corners = [assembly.corners(part) for part in shown_parts(assembly, scene)]
    return np.concatenate(corners) if corners else np.zeros((0, 3))


def trace_inputs(
    assembly: Assembly, scene: Scene, shot: Shot, size: tuple[int, int] | None = None, look: str | None = None
) -> TraceInputs:
    """Resolve everything the tracer needs. Raises ValueError when no part is shown."""
    return inputs_of(ResolvedScene(assembly, scene, look), shot, size)


def inputs_of(resolved: ResolvedScene, shot: Shot, size: tuple[int, int] | None = None) -> TraceInputs:
    """What the tracer needs of a scene that is resolved already. Raises ValueError when no part is shown."""
    if resolved.bounds is None:
        raise ValueError("Nothing is shown: bring at least one part back.")
    numbers = Numbers()
    shown, cut = cut_in(resolved.assembly, resolved.shown, shot)
    cap = shot.section.cap if shot.section else None
    parts = [_traced(resolved, part, numbers, cut.get(part.uid), cap) for part in shown]
    if not parts:
        raise ValueError("This shot shows no part: bring at least one back in it.")
    x, y, z = (float(v) for v in resolved.bounds.center)
    lit = resolved.scene.lighting_of(shot)
    lighting, floor = unnamed(lit), floor_plane(resolved, lit)
    return TraceInputs(
        parts=parts,
        appearances=list(numbers.by_value),
        lighting=lighting,
        camera=shot.camera,
        width=size[0] if size else shot.width,
        height=size[1] if size else shot.height,
        floor_height=floor.height,
        floor_up=floor.up,
        center=(x, y, z),
        radius=resolved.bounds.radius,
        ground=ground_of(resolved.scene, lighting),
        rounding=resolved.scene.rounding,
    )


def shown_in(resolved: ResolvedScene, shot: Shot) -> list[Occurrence]:
    """The parts that a shot shows, in the order in which the tracer numbers them."""
    return cut_in(resolved.assembly, resolved.shown, shot)[0]


def cut_in(assembly: Assembly, shown: list[Occurrence], shot: Shot) -> tuple[list[Occurrence], dict[str, str]]:
    """What of the shown parts a shot shows, and the names of the meshes of those that its section cuts, by uid."""
    left = [part for part in shown if part.uid not in shot.hidden]
    if shot.section is None:
        return left, {}
    found = sectioned(assembly, left, shot.section)
    return [part for part in left if part.uid not in found.gone], found.cut


def ground_under(resolved: ResolvedScene, lighting: Lighting) -> tuple[Appearance, Mesh] | None:
    """What the floor of a lighting wears, and its mesh in the review's frame (mm); None where there is none to see."""
    bounds = resolved.bounds
    worn = ground_of(resolved.scene, lighting)
    if worn is None or bounds is None or lighting.backdrop.transparent:
        return None
    x, y, z = (float(v) for v in bounds.center)
    return worn, Ground.under(lighting, (x, y, z), bounds.radius, floor_plane(resolved, lighting)).mesh()


def ground_of(scene: Scene, lighting: Lighting) -> Appearance | None:
    """What the floor wears; None for a plain one, for a sweep under transparent stills, and where what it wore is
    gone."""
    finish = lighting.floor_finish
    if not lighting.floor or finish.kind == "plain" or (finish.kind == "sweep" and lighting.backdrop.transparent):
        return None
    worn = scene.appearances.get(finish.appearance or "") or SHELF.get(finish.appearance or "")
    if worn is None and finish.kind == "sweep":
        paper = OpenPBR(base_color=hex_to_linear(lighting.backdrop.bottom), specular_weight=0.3, specular_roughness=0.6)
        return NEUTRAL.model_copy(update={"params": paper})
    return worn


def unnamed(lighting: Lighting) -> Lighting:
    """The lighting without what no picture depends on: names, its place in a list, and what tilts the floor, which
    lies where it lies."""
    lamps = {id: lamp.model_copy(update={"name": "lamp"}) for id, lamp in lighting.lamps.items()}
    plain = {name: Lighting.model_fields[name].default for name in ("name", "place")}
    floor = lighting.floor_finish.model_copy(update={"tilts": None})
    return lighting.model_copy(update={**plain, "lamps": lamps, "floor_finish": floor})


class Numbers:
    """Appearances in the order in which they occur. Parts share them, so most are known by what they are in memory."""

    def __init__(self) -> None:
        self.by_value: dict[Appearance, int] = {}
        self._by_id: dict[int, int] = {}

    def of(self, appearance: Appearance) -> int:
        """The number of an appearance, which outlives this."""
        found = self._by_id.get(id(appearance))
        if found is None:
            found = self._by_id[id(appearance)] = self.by_value.setdefault(appearance, len(self.by_value))
        return found


def _traced(
    resolved: ResolvedScene, part: Occurrence, numbers: Numbers, cut: str | None, cap: Appearance | None
) -> TracePart:
    """The part as before, where it wears what it wore, under the same number. `cut` names its mesh where it is cut."""
    found = resolved.worn[part.uid]
    laid = resolved.resolver.laid.get(part.uid)
    number = numbers.of(found.appearance)
    faces = {index: numbers.of(a) for index, a in found.faces.items() if a != found.appearance}
    pictures = resolved.pictures_on.get(part.uid, ())
    if cut is not None and cap is not None:
        faces[len(resolved.assembly.definition_of(part).faces)] = numbers.of(cap)
    key = (number, faces, laid, pictures, cut)
    known: tuple[object, TracePart] | None = resolved.traced.get(part.uid)
    if known is None or known[0] != key:
        made = TracePart(
            mesh=cut or resolved.assembly.definition_of(part).mesh,
            matrix=tuple(resolved.assembly.world[part.uid].ravel().tolist()),
            appearance=number,
            faces=faces,
            pictures=pictures,
            laid=laid,
        )
        resolved.traced[part.uid] = (key, made)
        return made
    return known[1]
