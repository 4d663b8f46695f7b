"""The API of light: surroundings and their maps, lamps that are sized and placed, imported panoramas."""

from __future__ import annotations

from dataclasses import asdict
from typing import Literal

import numpy as np
from flask import Response, request
from flask_openapi3 import APIBlueprint
from pydantic import BaseModel, Field

from usual_lamp.core.appearance import Appearance, hex_to_linear
from usual_lamp.core.appearance.shaded import Shaded, shaded
from usual_lamp.core.camera import Camera, exposure_scale
from usual_lamp.core.exr import read_exr
from usual_lamp.core.light import LIGHTINGS, Lamp, daylight, irradiance, shining
from usual_lamp.core.light.arranging import CannotPlace, LampKind, SetName
from usual_lamp.core.light.lit_map import with_cards, with_lamps
from usual_lamp.core.light.photometry import MOST_BYTES
from usual_lamp.core.light.sun import SunTime
from usual_lamp.core.light.surroundings import REFERENCE_EV, shrunk, turned, wished_map
from usual_lamp.core.scene import Lighting
from usual_lamp.core.scene.light_groups import ENVIRONMENT, CannotBalance, balanced, gain, light_groups
from usual_lamp.core.scene.resolution import ground_under
from usual_lamp.service import kept_lightings, lighting, pictures
from usual_lamp.service.errors import NotFound, Refused
from usual_lamp.store import blobs
from usual_lamp.web import schemas
from usual_lamp.web.api import answer, nothing, resolved_now, shot_now, store

MAP_WIDTH = 512
FIRST_ROOM = list(LIGHTINGS).index("workshop")
"""Place of the sky that follows the sun: between table tops and rooms."""

lighting_api = APIBlueprint(
    "lighting",
    __name__,
    url_prefix="/api",
    abp_responses={"404": schemas.Problem, "409": schemas.Problem, "422": schemas.Problem},
)


class SurroundingsLine(BaseModel):
    name: str
    label: str
    listed: bool = Field(description="false: shown where it is used already")


class SurroundingsList(BaseModel):
    surroundings: list[SurroundingsLine]


class MapWish(BaseModel):
    """The light of a lighting as one map, for the shaded picture."""

    lighting: Lighting
    center: tuple[float, float, float] = Field(description="of the product, mm")


class GroundMesh(BaseModel):
    """Triangles in the review's frame."""

    positions: list[tuple[float, float, float]] = Field(description="mm")
    normals: list[tuple[float, float, float]]
    triangles: list[tuple[int, int, int]]
    coordinates: list[tuple[float, float]] = Field(description="mm along it")


class GroundShown(BaseModel):
    """What the shaded picture shows of a floor that is not plain."""

    appearance: Appearance
    shaded: Shaded
    mesh: GroundMesh


class GroundQuery(BaseModel):
    lighting: str | None = Field(None, description="by id, in place of the shot's own")


class GroundAnswer(BaseModel):
    ground: GroundShown | None = Field(description="null: the floor is plain, or there is none")


class LampWished(BaseModel):
    kind: LampKind
    camera: Camera


class SetWished(BaseModel):
    set: SetName
    camera: Camera


class LampMade(BaseModel):
    lamp: Lamp


class FileWished(BaseModel):
    """A photometric file."""

    text: str = Field(max_length=MOST_BYTES)
    camera: Camera


class LampRead(BaseModel):
    lamp: Lamp
    notes: list[str]


class SetMade(BaseModel):
    lamps: dict[str, Lamp]
    brightness: float = Field(description="of the surroundings, to go with them")


Vector = tuple[float, float, float]


class PointWish(BaseModel):
    """Where the light of a lamp shall show."""

    lamp: Lamp
    how: Literal["highlight", "shadow"]
    point: Vector = Field(description="mm")
    normal: Vector = Field(description="unit vector, outwards")
    camera: Camera


class ShineWish(BaseModel):
    """A spot that shall shine."""

    lighting: Lighting
    point: Vector = Field(description="mm")
    normal: Vector = Field(description="unit vector, outwards")
    camera: Camera


class Turned(BaseModel):
    turn: float = Field(description="degrees")


class BrightWish(BaseModel):
    lighting: Lighting


class Bright(BaseModel):
    """A bright direction of the surroundings before they are rotated."""

    azimuth: float = Field(description="degrees from the front to the right")
    elevation: float = Field(description="degrees above the horizon")
    share: float = Field(description="of the light from above the horizon")


class BrightList(BaseModel):
    directions: list[Bright]


class BalanceWish(BaseModel):
    """How strong one lamp shall be beside all other light."""

    lighting: Lighting
    shares: dict[str, float] = Field(description="of the picture's light, as measured, by lamp id and environment")
    key: str = Field(description="id of the lamp")
    ratio: float = Field(ge=0.05, le=100.0)
    all: float = Field(0.0, ge=-6.0, le=6.0, description="EV by which all light changes")
    backdrop: float = Field(0.0, ge=-8.0, le=8.0, description="EV by which it gets brighter beside the product")


class LightingBalanced(BaseModel):
    lighting: Lighting


class SunWish(BaseModel):
    """A lamp that shall be the sun."""

    lamp: Lamp
    when: SunTime


class PanoramaKept(BaseModel):
    panorama: str = Field(description="content hash")
    width: int
    height: int
    notes: list[str]


class KeptLightingPath(BaseModel):
    kept_id: str


class KeptLightingLine(BaseModel):
    id: str
    name: str
    is_start: bool = Field(description="new reviews start with it")


class KeptLightings(BaseModel):
    lightings: list[KeptLightingLine]


class KeepLighting(BaseModel):
    lighting: str = Field(description="id in the review")
    camera: Camera


class FitLighting(BaseModel):
    kept: str
    camera: Camera


class LightingFitted(BaseModel):
    lighting: Lighting
    panoramas: dict[str, str] = Field(description="names of imported ones that it uses, by content hash")
    appearances: dict[str, Appearance] = Field(description="what its floor wears, where that did not ship")


class StartWish(BaseModel):
    kept: str | None = Field(description="null: with ours")


@lighting_api.get(
    "/reviews/<review_id>/shots/<shot_id>/ground", operation_id="getGround", responses={"200": GroundAnswer}
)
def get_ground(path: schemas.ShotPath, query: GroundQuery) -> Response:
    """The floor of a shot where it wears an appearance or is a sweep."""
    resolved, shot = shot_now(path)
    lit = resolved.scene.lightings.get(query.lighting) if query.lighting else resolved.scene.lighting_of(shot)
    if lit is None:
        raise NotFound("That lighting is not in this review any more.")
    found = ground_under(resolved, lit)
    if found is None:
        return answer(GroundAnswer(ground=None))
    worn, mesh = found
    assert mesh.coordinates is not None
    shape = GroundMesh(
        positions=mesh.positions.tolist(),
        normals=mesh.normals.tolist(),
        triangles=mesh.triangles.tolist(),
        coordinates=mesh.coordinates.tolist(),
    )
    return answer(GroundAnswer(ground=GroundShown(appearance=worn, shaded=shaded(worn.params), mesh=shape)))


@lighting_api.get("/surroundings", operation_id="getSurroundings", responses={"200": SurroundingsList})
def get_surroundings() -> Response:
    lines = [SurroundingsLine(name=name, label=one.label, listed=one.listed) for name, one in LIGHTINGS.items()]
    sky = SurroundingsLine(name=daylight.NAME, label="Clear sky, follows the sun", listed=True)
    lines.insert(FIRST_ROOM, sky)
    return answer(SurroundingsList(surroundings=lines))


@lighting_api.post("/lighting-map", doc_ui=False)
def lighting_map(body: MapWish) -> Response:
    """Half floats, RGBA, MAP_WIDTH wide, the zenith first, in units of the reference exposure's white; below the
    horizon what the floor sends back. Turned, dimmed and with all lamps in it."""
    light = body.lighting
    image = turned(_surroundings(light), light.turn).astype(np.float64)
    if light.below:
        floor = irradiance(image, (0.0, 0.0, 1.0)) * hex_to_linear(light.below) / np.pi
    else:
        floor = np.array(hex_to_linear(light.backdrop.bottom)) / exposure_scale(REFERENCE_EV)
    image[image.shape[0] // 2 :] = floor
    image *= light_groups(light).gains[ENVIRONMENT]
    image = with_cards(image, light.cards, np.array(body.center))
    lamps = [(lamp, gain(lamp)) for lamp in light.sources.values()]
    return _half_floats(with_lamps(image, lamps, np.array(body.center)))


@lighting_api.post("/backdrop-map", doc_ui=False)
def backdrop_map(body: MapWish) -> Response:
    """The surroundings as they are seen, also below the horizon: the same form."""
    light = body.lighting
    image = turned(_surroundings(light, seen=True), light.turn)
    return _half_floats(image * 2.0**light.backdrop.level)


def _surroundings(light: Lighting, seen: bool = False) -> np.ndarray:
    """(MAP_WIDTH / 2, MAP_WIDTH, 3) in cd/m², without brightness and turn."""
    image = wished_map(light.map_wish, MAP_WIDTH, lambda name: read_exr(blobs.read(store(), name)), seen)
    return shrunk(image, MAP_WIDTH)


def _half_floats(image: np.ndarray) -> Response:
    scaled = np.minimum(image * exposure_scale(REFERENCE_EV), 60000.0)
    rgba = np.concatenate([scaled, np.ones_like(scaled[..., :1])], axis=-1).astype("<f2")
    return Response(rgba.tobytes(), mimetype="application/octet-stream", headers={"Cache-Control": "no-store"})


@lighting_api.post("/reviews/<review_id>/lamps/new", operation_id="newLamp", responses={"200": LampMade})
def new_lamp(path: schemas.ReviewPath, body: LampWished) -> Response:
    """A lamp sized to the product and turned to the view; nothing is changed yet."""
    return answer(LampMade(lamp=lighting.lamp(resolved_now(path.review_id), body.camera, body.kind)))


@lighting_api.post("/reviews/<review_id>/lamps/set", operation_id="newLampSet", responses={"200": SetMade})
def new_set(path: schemas.ReviewPath, body: SetWished) -> Response:
    """A starter set sized to the product and turned to the view; nothing is changed yet."""
    lamps, brightness = lighting.lamp_set(resolved_now(path.review_id), body.camera, body.set)
    return answer(SetMade(lamps=lamps, brightness=brightness))


@lighting_api.post("/reviews/<review_id>/lamps/photometric", operation_id="readPhotometry", responses={"200": LampRead})
def read_photometry(path: schemas.ReviewPath, body: FileWished) -> Response:
    """A luminaire by its photometric file, aimed at the product; nothing is changed yet."""
    lamp, notes = lighting.photometric(resolved_now(path.review_id), body.camera, body.text)
    return answer(LampRead(lamp=lamp, notes=list(notes)))


@lighting_api.post("/reviews/<review_id>/lamps/pointed", operation_id="pointLamp", responses={"200": LampMade})
def point_lamp(path: schemas.ReviewPath, body: PointWish) -> Response:
    """The lamp where its highlight or its shadow falls on a point; nothing is changed yet."""
    resolved = resolved_now(path.review_id)
    place, normal = np.array(body.point), np.array(body.normal)
    return answer(LampMade(lamp=lighting.pointed(resolved, body.camera, body.lamp, body.how, place, normal)))


@lighting_api.post("/shine", operation_id="turnToShine", responses={"200": Turned})
def turn_to_shine(body: ShineWish) -> Response:
    """The nearest turn of the surroundings at which a spot mirrors a bright area; nothing is changed yet."""
    eye, point, normal = (np.array(v, float) for v in (body.camera.position, body.point, body.normal))
    try:
        turn = shining.turn_to_shine(_surroundings(body.lighting), body.lighting.turn, eye, point, normal)
    except CannotPlace as error:
        raise Refused(str(error)) from error
    return answer(Turned(turn=turn))


@lighting_api.post("/brightest", operation_id="brightestDirections", responses={"200": BrightList})
def brightest_directions(body: BrightWish) -> Response:
    """The directions from which the surroundings give most light."""
    found = shining.brightest(_surroundings(body.lighting))
    return answer(BrightList(directions=[Bright(**asdict(one)) for one in found]))


@lighting_api.post("/balance", operation_id="balanceLights", responses={"200": LightingBalanced})
def balance_lights(body: BalanceWish) -> Response:
    """A lighting with levels that make one lamp so much stronger than all else; nothing is changed yet."""
    try:
        made = balanced(body.lighting, body.shares, body.key, body.ratio, body.all, body.backdrop)
    except CannotBalance as error:
        raise Refused(str(error)) from error
    return answer(LightingBalanced(lighting=made))


@lighting_api.post("/sun", operation_id="putSun", responses={"200": LampMade})
def put_sun(body: SunWish) -> Response:
    """A distant lamp as the sun at a moment and place; nothing is changed yet."""
    return answer(LampMade(lamp=lighting.sun(body.lamp, body.when)))


@lighting_api.post("/panoramas", operation_id="keepPanorama", responses={"201": PanoramaKept})
def keep_panorama() -> Response:
    """Keep a panorama (OpenEXR or Radiance HDR as the request's body) for surroundings."""
    kept = pictures.receive_panorama(store(), request.stream)  # type: ignore[arg-type]
    return answer(PanoramaKept(panorama=kept.name, width=kept.width, height=kept.height, notes=list(kept.notes)), 201)


@lighting_api.get("/lightings/kept", operation_id="getKeptLightings", responses={"200": KeptLightings})
def get_kept() -> Response:
    """Lightings that were kept for all reviews."""
    lines = [KeptLightingLine(**asdict(line)) for line in kept_lightings.kept(store())]
    return answer(KeptLightings(lightings=lines))


@lighting_api.post("/reviews/<review_id>/lightings/keep", operation_id="keepLighting", responses={"201": schemas.Id})
def keep_lighting(path: schemas.ReviewPath, body: KeepLighting) -> Response:
    """Keep a lighting of a review for all reviews."""
    return answer(schemas.Id(id=kept_lightings.keep(store(), path.review_id, body.lighting, body.camera)), 201)


@lighting_api.post("/reviews/<review_id>/lightings/fit", operation_id="fitLighting", responses={"200": LightingFitted})
def fit_lighting(path: schemas.ReviewPath, body: FitLighting) -> Response:
    """A kept lighting, sized to the product and turned to the view; nothing is changed yet."""
    found = kept_lightings.fitted(store(), body.kept, path.review_id, body.camera)
    return answer(LightingFitted(lighting=found.lighting, panoramas=found.panoramas, appearances=found.appearances))


@lighting_api.put("/lightings/start", operation_id="startWithLighting", responses={"204": None})
def start_with(body: StartWish) -> Response:
    """Let new reviews start with a kept lighting, or with ours."""
    kept_lightings.start_with(store(), body.kept)
    return nothing()


@lighting_api.delete("/lightings/kept/<kept_id>", operation_id="removeKeptLighting", responses={"204": None})
def remove_kept_lighting(path: KeptLightingPath) -> Response:
    kept_lightings.no_longer_keep(store(), path.kept_id)
    return nothing()
