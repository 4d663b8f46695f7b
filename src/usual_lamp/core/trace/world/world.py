"""From resolved trace inputs to a Mitsuba scene: geometry, appearance numbers, surroundings, floor.

A world follows its inputs: `change` renews only what differs, so that a new colour or a turned lighting costs
milliseconds, and what was hidden and is shown again is not read again.
"""

from __future__ import annotations

from collections.abc import Callable, Hashable
from functools import partial

import numpy as np
from numpy.typing import NDArray

from usual_lamp.core.appearance import NEUTRAL, Appearance, OpenPBR, hex_to_linear, made_pictures
from usual_lamp.core.assembly import Mesh
from usual_lamp.core.assembly.laying import Laid, mapped
from usual_lamp.core.camera import exposure_scale
from usual_lamp.core.light import irradiance
from usual_lamp.core.light.lamp_shapes import illuminance
from usual_lamp.core.light.lamps import Card
from usual_lamp.core.light.surroundings import REFERENCE_EV, blurred, wished_map
from usual_lamp.core.picture.read import linear
from usual_lamp.core.scene.document import Lighting
from usual_lamp.core.scene.floor_plane import FloorPlane
from usual_lamp.core.scene.ground import FLOOR_REACH, PREFIX, Ground
from usual_lamp.core.scene.light_groups import ENVIRONMENT, GLOW, gain, light_groups
from usual_lamp.core.scene.resolution import TraceInputs, TracePart
from usual_lamp.core.trace.engine import dr, mi
from usual_lamp.core.trace.surface.rows import table_of
from usual_lamp.core.trace.surface.table import AppearanceTable
from usual_lamp.core.trace.world.atlas import Atlas, PictureOf
from usual_lamp.core.trace.world.behind import Behind
from usual_lamp.core.trace.world.cards import CARDS, CardKey, card_key, card_piece
from usual_lamp.core.trace.world.floor import smoothstep
from usual_lamp.core.trace.world.floor_light import FloorLight
from usual_lamp.core.trace.world.geometry import Piece, PieceKey, Worn, build, cut, floor_piece
from usual_lamp.core.trace.world.joints import is_clear_solid
from usual_lamp.core.trace.world.kept import Kept, Sky, SkyKey
from usual_lamp.core.trace.world.lamps import Distant, Lamps
from usual_lamp.core.trace.world.light_sample import LUMINANCE
from usual_lamp.core.trace.world.lights import Glow, Lights
from usual_lamp.core.trace.world.pictures import Pictures, Use, key_of
from usual_lamp.core.trace.world.placements import PlacedShape, PlacedShapes, machining
from usual_lamp.core.trace.world.shapes import IDENTITY, Asked, Shapes
from usual_lamp.core.trace.world.triangles import Triangles

MeshOf = Callable[[str], Mesh]
MappedOf = Callable[[str, Laid | None], Mesh]
"""A mesh with coordinates in mm by its name, see `laying.mapped`."""
FloorKey = tuple[tuple[float, float, float], float, FloorPlane]
BesideKey = FloorKey | CardKey
"""Names what stands beside the parts."""
SMALL_PICTURE, SMALL_MAP, LARGE_MAP = 200, 512, 2048
"""Pixels across: pictures no wider than the first get surroundings of the second, all others of the third."""
SPARE_TRIANGLES = 200_000
"""Out of sight, that are held beside as many as are in sight."""


class World:
    """A Mitsuba scene plus the tables and numbers that our integrator reads.

    What kinds of surface there are decides which kernel runs. A kind that has occurred stays compiled in, since
    a kernel that can do more costs less than another compilation.
    """

    def __init__(
        self,
        inputs: TraceInputs,
        mesh_of: MeshOf,
        surroundings: NDArray[np.float32] | None = None,
        picture_of: PictureOf | None = None,
        mapped_of: MappedOf | None = None,
        kept: Kept | None = None,
    ) -> None:
        """`surroundings` replaces the lighting's map (H, W, 3 in cd/m², as in `light`); used for measurements.
        Without `mapped_of` coordinates are worked out here. `kept` is shared with other worlds."""
        self.mesh_of, self.picture_of, self.measured = mesh_of, picture_of, surroundings
        self.kept = kept or Kept(mesh_of)
        self.mapped_of = mapped_of or (lambda name, how: mapped(mesh_of(name), how))
        self.has_clear = self.has_floor = self.has_nested = self.has_instances = False
        self.has_cards = self.has_ground = self.has_catcher = self.has_rounding = False
        self.dropped = 0
        """Samples traced so far that were no finite number: each is a fault of the tracer."""
        self.table: AppearanceTable = table_of([NEUTRAL])
        self.pictures: Pictures | None = None
        self._unwrapped: dict[tuple[str, Laid | None], Mesh] = {}
        self.triangles = Triangles()
        self._shapes = Shapes(self.kept.triangles)
        """Of what the triangles hold."""
        self._in_scene: list[int] | None = None
        self._lit_by: SkyKey | None = None
        self.sky: Sky
        self.glow: Glow | None = None
        self.lamps: Lamps | None = None
        self.distant: Distant | None = None
        self.floor_light = FloorLight()
        self.change(inputs)

    def change(self, inputs: TraceInputs) -> None:
        """Follow new inputs."""
        self.inputs = inputs
        self._dress(inputs.appearances)
        self.has_rounding |= inputs.rounding > 0
        # As a number that the kernel reads, like all that is set by degrees.
        self.rounding = dr.opaque(mi.Float, inputs.rounding)
        offsets = self.kept.joints.follow(inputs)
        self.has_nested |= self.kept.joints.nested
        worn = [
            (piece, place)
            for place, part in enumerate(inputs.parts)
            for piece in cut(part, inputs.appearances, offsets[place], self.has_rounding)
        ]
        if inputs.shows_ground or inputs.shows_catcher:
            self.ground = Ground.under(inputs.lighting, inputs.center, inputs.radius, inputs.floor)
            number = self.floor_index if inputs.shows_catcher else self.ground_index
            part = TracePart(mesh=self.ground.name, matrix=IDENTITY, appearance=number)
            worn += [(piece, len(inputs.parts)) for piece in cut(part, self.appearances)]
        self._place(worn)
        self.glow = self._glow(worn)
        self._surround(inputs.lighting)
        self._light(inputs.lighting)

    def _dress(self, appearances: list[Appearance]) -> None:
        self.floor_index = len(appearances)
        # As a number that the kernel reads: one more appearance is no reason for another kernel.
        self.floor_number = dr.opaque(mi.UInt32, self.floor_index)
        self.has_cards |= bool(self.inputs.lighting.cards)
        self.has_ground |= self.inputs.shows_ground
        self.has_catcher |= self.inputs.shows_catcher
        ground = [self.inputs.ground] if self.inputs.ground and self.inputs.shows_ground else []
        floor = gloss_of(self.inputs.ground) if self.inputs.ground and self.inputs.shows_catcher else NEUTRAL
        self.appearances = [*appearances, floor, *(CARDS.values() if self.has_cards else ()), *ground]
        self.ground_index = len(self.appearances) - 1 if ground else len(self.appearances)
        self.has_clear |= any(lets_through(a) for a in [*appearances, *ground])
        self.table = table_of(self.appearances, self.table)

    def _place(self, worn: list[tuple[Worn, int]]) -> None:
        """Put the pieces and the floor into the scene, and note what each wears; each comes with its part's place."""
        glows = [bool(emission(appearance).any()) for appearance in self.appearances]
        alone = [glows[piece.appearance] or bool(piece.key.offsets) for piece, _ in worn]
        asked = self._shapes.asked([piece.key for piece, _ in worn], alone)
        floor = (self.inputs.center, self.inputs.radius, self.inputs.floor)
        beside: list[tuple[BesideKey, int]] = [
            (card_key(card), self._card_index(card)) for card in self.inputs.lighting.cards
        ]
        if self.inputs.shows_floor:
            beside.append((floor, self.floor_index))
        self._hold([a.name for a in asked], [name for name, _ in beside])
        shown = [(piece, a, place) for (piece, place), a in zip(worn, asked, strict=True) if a.name in self._shapes]
        shapes = [self._shapes.shape(a) for _, a, _ in shown]
        uses: list[Use] = []
        rows: dict[tuple[int, int, tuple[int, ...]], tuple[int, int]] = {}
        placed = []
        for (piece, _, place), shape in zip(shown, shapes, strict=True):
            part = self.inputs.parts[place] if place < len(self.inputs.parts) else None
            owner = (piece.appearance, place if piece.pictures else -1, piece.pictures)
            if owner not in rows:
                on = [part.pictures[k] for k in piece.pictures] if part else []
                worn_pictures: tuple[Use, ...] = (*self.appearances[piece.appearance].textures, *on)
                rows[owner] = (len(uses), len(worn_pictures))
                uses += worn_pictures
            made = self.kept.machining(part.mesh) if part else machining(self.ground.mesh())
            placed.append(PlacedShape(shape.number, part.matrix if part else IDENTITY, made, place, rows[owner]))
        self.has_floor |= self.inputs.lighting.floor
        names, numbers = [a.name for _, a, _ in shown], [piece.appearance for piece, _, _ in shown]
        for name, number in beside:
            shapes.append(self._shapes.shape(Asked(name)))
            names.append(name)
            numbers.append(number)
        ids = [shape.number for shape in shapes]
        if ids != self._in_scene:
            self._in_scene = ids
            self.scene = self._shapes.scene(shapes)
        frames = {s.number: a.place for s, (_, a, _) in zip(shapes, shown, strict=False) if a.place is not None}
        self.has_instances |= bool(frames)
        self.triangles.shown(ids, names, frames)
        self.shape_numbers = number_table(ids, numbers)
        self.placements = PlacedShapes(placed, max(ids, default=0))
        self.has_clear |= any(use.target == "opacity" for use in uses)
        # Ink on a clear body is lit from within it, too: rays must know where they start.
        self.has_nested |= any(
            is_clear_solid(self.appearances[piece.appearance]) and piece.pictures for piece, _, _ in shown
        )
        self.pictures = Pictures(uses, self._pictured(uses), self.placements) if uses else None

    def _card_index(self, card: Card) -> int:
        """Its appearance in the table: those that the camera looks through come first."""
        return self.floor_index + 1 + list(CARDS).index((card.seen, card.surface))

    def _hold(self, wanted: list[Hashable], beside: list[BesideKey]) -> None:
        """Read what is new, and let go of what is out of sight once that is more than what is seen."""
        new: dict[Hashable, Piece] = {
            key: self.kept.piece(key, partial(self._build, key))
            for key in dict.fromkeys(wanted)
            if key not in self.triangles and isinstance(key, PieceKey)
        }
        for name in beside:
            if name not in self.triangles:
                new[name] = card_piece(name) if isinstance(name, CardKey) else floor_piece(self.inputs)
        used: set[Hashable] = {*wanted, *beside}
        kept = self.triangles.names()
        seen = [name for name in kept if name in used]
        in_sight = self.triangles.count(seen) + sum(len(piece.triangles) for piece in new.values())
        if self.triangles.count(kept) - self.triangles.count(seen) > SPARE_TRIANGLES + in_sight:
            kept = seen
            self._shapes.keep(used)
        self.triangles.hold(kept, new)
        self._shapes.add(new)

    def _build(self, key: PieceKey) -> Piece:
        return build(key, self.ground.mesh() if key.mesh.startswith(PREFIX) else self._mapped(key))

    def _pictured(self, uses: list[Use]) -> Atlas:
        """The texels of all pictures in use."""
        return self.kept.atlas({key_of(use) for use in uses}, self._picture)

    def _picture(self, name: str, color: bool) -> NDArray[np.float32]:
        if name.startswith(made_pictures.PREFIX):
            return linear(made_pictures.picture(name.removeprefix(made_pictures.PREFIX)), color)
        if self.picture_of is None:
            raise ValueError("A part wears a picture, but there is none to be had here.")
        return self.picture_of(name, color)

    def _mapped(self, key: PieceKey) -> Mesh:
        """The mesh with the coordinates that its pictures need."""
        if key.mapping != "surface":
            return self.mesh_of(key.mesh)
        place = (key.mesh, key.laid)
        if place not in self._unwrapped:
            self._unwrapped[place] = self.mapped_of(*place)
        return self._unwrapped[place]

    def _surround(self, lighting: Lighting) -> None:
        """Backdrop and surroundings, these at a brightness of 1."""
        backdrop = lighting.backdrop
        self.bottom = unit = np.array(hex_to_linear(backdrop.bottom)) / exposure_scale(REFERENCE_EV)
        key = self._sky_key(lighting, f"ground {lighting.below}" if lighting.below else backdrop.bottom)
        if key != self._lit_by:
            self._lit_by = key
            sky = self._sky(key, lighting)
            self.sky, self.map, self.surroundings = sky, sky.map, sky.surroundings()
        self.surroundings.adjust(lighting.turn)
        self.upwards = self.sky.on_floor(self.inputs.floor_up, lighting.turn)
        self.floor_albedo = np.clip(unit * np.pi / self.upwards, 0.0, 0.95)
        self.behind = self._behind(lighting)

    def _behind(self, lighting: Lighting) -> Behind:
        """What is seen where nothing stands."""
        backdrop, aspect = lighting.backdrop, self.inputs.width / self.inputs.height
        if backdrop.transparent or backdrop.kind not in ("environment", "photo"):
            return Behind(backdrop, aspect)
        if backdrop.kind == "photo":
            if backdrop.picture is None:
                return Behind(backdrop, aspect)
            if self.picture_of is None:
                raise ValueError("The backdrop is a photo, which is not to be had here.")
            return Behind(backdrop, aspect, photo=self.picture_of(backdrop.picture, True))
        key = self._sky_key(lighting, f"seen {backdrop.blur}")
        sky = self.kept.sky(key, lambda: Sky(blurred(self._map(key, seen=True), backdrop.blur), None))
        seen = sky.surroundings()
        seen.adjust(lighting.turn)
        x, y, _ = self.inputs.center
        middle = (x + backdrop.slide[0], y + backdrop.slide[1], self.inputs.floor_height + backdrop.viewpoint)
        return Behind(backdrop, aspect, environment=seen, middle=middle)

    def _light(self, lighting: Lighting) -> None:
        """Lamps, what the floor gets of all light, and how light is sampled."""
        self.groups = light_groups(lighting)
        center = np.array(self.inputs.center)
        if lighting.sources or self.lamps is not None:
            room = self.lamps.powers.pieces if self.lamps else 64
            self.lamps = Lamps(lighting, self.groups, center, room)
        distant = Distant(lighting, self.groups, center)
        if distant.shines or self.distant is not None:
            self.distant = distant
        given = {False: 0.0, True: 0.0}
        nominal = float(self.upwards @ LUMINANCE)
        for id, lamp in lighting.sources.items():
            arrives = float(illuminance(lamp, center[None])[0])
            given[lamp.kind == "distant"] += arrives * float(gain(lamp) @ LUMINANCE)
            nominal += arrives * float(self.groups.traced_in[id] @ LUMINANCE)
        even = self.upwards * self.groups.gains[ENVIRONMENT]
        self.lights = Lights(
            self.surroundings,
            self.glow,
            self.lamps,
            self.distant,
            self.groups,
            (float(even @ LUMINANCE), given[False], given[True]),
            nominal / np.pi,
        )
        self.light_floor(self.floor_light, lighting)

    def light_floor(self, table: FloorLight, lighting: Lighting) -> None:
        """Work out how the floor is lit by a lighting that differs from the world's in levels at most."""
        lamps = [(lamp, gain(lamp)) for lamp in lighting.sources.values()]
        even = self.upwards * light_groups(lighting).gains[ENVIRONMENT]
        inputs = self.inputs
        table.follow(even, lamps, inputs.center, inputs.radius, inputs.floor, lighting.floor_finish.shadow)

    @property
    def is_dark(self) -> bool:
        """Whether there is no light at all."""
        glows = self.glow is not None and self.glow.shines and bool(self.groups.gains[GLOW].any())
        lamps = any(gain(lamp).any() for lamp in self.inputs.lighting.sources.values())
        return not (glows or lamps or self.groups.gains[ENVIRONMENT].any())

    def _sky(self, key: SkyKey, lighting: Lighting) -> Sky:
        """The surroundings over their ground, or over a floor that sends back the backdrop's colour."""
        if self.measured is not None:
            return Sky(self.measured, None)

        def make() -> Sky:
            """The map (scene-linear radiance) with what lies under its horizon."""
            image = self._map(key)
            if lighting.below is None:
                return Sky(image, self.bottom)
            return Sky(image, irradiance(image, (0.0, 0.0, 1.0)) * hex_to_linear(lighting.below) / np.pi)

        return self.kept.sky(key, make)

    def _sky_key(self, lighting: Lighting, below: str) -> SkyKey:
        width = SMALL_MAP if self.inputs.width <= SMALL_PICTURE else LARGE_MAP
        return (lighting.map_wish, below, width)

    def _map(self, key: SkyKey, seen: bool = False) -> NDArray[np.float32]:
        picture_of = self.picture_of
        return wished_map(key[0], key[2], picture_of and (lambda name: picture_of(name, False)), seen)

    def _glow(self, worn: list[tuple[Worn, int]]) -> Glow | None:
        corners, radiance = [], []
        light = [emission(appearance) for appearance in self.appearances]
        glows = [bool(found.any()) for found in light]
        for (number, key, _), _ in worn:
            if glows[number] and key in self._shapes:
                corners.append(self.triangles.corners(key))
                radiance.append(np.broadcast_to(light[number], (len(corners[-1]), 3)))
        room = self.glow.powers.pieces if self.glow else 1
        if corners:
            return Glow(np.concatenate(corners), np.concatenate(radiance), room)
        return Glow(np.zeros((0, 3, 3), np.float32), np.zeros((0, 3)), room) if self.glow else None

    def hit(self, ray: mi.Ray3f, coherent: mi.Bool | bool, active: mi.Bool) -> mi.SurfaceInteraction3f:
        """The first surface along each ray."""
        return self.hit_at(self.near(ray, coherent, active), active)

    def near(self, ray: mi.Ray3f, coherent: mi.Bool | bool, active: mi.Bool) -> mi.PreliminaryIntersection3f:
        """The first hit along each ray, as little as is known of it at once; of an instance, its shape is that."""
        found = self.scene.ray_intersect_preliminary(ray, coherent, active)
        if self.has_instances:
            found.shape = dr.select(found.instance != None, found.instance, found.shape)  # noqa: E711
        return found

    def hit_at(self, near: mi.PreliminaryIntersection3f, active: mi.Bool) -> mi.SurfaceInteraction3f:
        """Return the surface at a hit that was found already."""
        mapped = self.pictures is not None and self.pictures.by_coordinates
        return self.triangles.at(near, active, mapped, self.rounding if self.has_rounding else None)

    def looks_through(self, index: mi.UInt32, straight: mi.Bool) -> mi.Bool:
        """Whether who looks straight from the camera sees what is behind: cards that only mirrors show."""
        if not self.has_cards:
            return mi.Bool(False)
        return straight & (index > self.floor_number) & (index <= self.floor_number + len(CARDS) // 2)

    def fades(self, si: mi.SurfaceInteraction3f, index: mi.UInt32, luck: mi.Float) -> mi.Bool:
        """Whether a floor that wears an appearance is not there at a hit: far out it goes over into the backdrop."""
        foot, up = (
            mi.Vector3f(*(dr.opaque(mi.Float, float(v)) for v in value))
            for value in (self.inputs.floor.under(self.inputs.center), self.inputs.floor_up)
        )
        off = mi.Vector3f(si.p) - foot
        far = dr.norm(off - up * dr.dot(off, up)) / dr.opaque(mi.Float, self.inputs.radius)
        there = 1 - smoothstep(0.35 * FLOOR_REACH, 0.95 * FLOOR_REACH, far)
        return (index == dr.opaque(mi.UInt32, self.ground_index)) & (luck >= there)

    def is_part(self, index: mi.UInt32) -> mi.Bool:
        """Whether an appearance is that of a part, and not of the floor or a card."""
        return index < self.floor_number

    def appearance_of(self, hit: mi.SurfaceInteraction3f | mi.PreliminaryIntersection3f, active: mi.Bool) -> mi.UInt32:
        """Table index of the appearance at a hit."""
        shape = dr.reinterpret_array(mi.UInt32, hit.shape)
        return dr.gather(mi.UInt32, self.shape_numbers, shape, active)


def gloss_of(appearance: Appearance) -> Appearance:
    """What of an appearance a floor has that is there by its reflection alone: colour, roughness and relief."""
    p = appearance.params
    plain = OpenPBR(
        base_color=p.base_color, base_metalness=p.base_metalness, specular_roughness=p.specular_roughness
    )  # fmt: skip
    kept = tuple(one for one in appearance.textures if one.target in ("color", "roughness", "bump", "normal"))
    return NEUTRAL.model_copy(update={"params": plain, "textures": kept})


def lets_through(appearance: Appearance) -> bool:
    """Whether shadow rays may pass it."""
    return appearance.params.transmission_weight > 0 or appearance.params.geometry_opacity < 1


def number_table(ids: list[int], numbers: list[int]) -> mi.UInt32:
    """Appearance index by the shape's registry number."""
    table = np.zeros(max([*ids, 0]) + 1, np.uint32)
    table[ids] = numbers
    result = mi.UInt32(table)
    dr.make_opaque(result)
    return result


def emission(appearance: Appearance) -> NDArray[np.float64]:
    """Radiance in cd/m², linear Rec. 709."""
    return np.multiply(appearance.params.emission_color, appearance.params.emission_luminance)
