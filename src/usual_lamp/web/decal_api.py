"""The API of decals: what is drawn for one, and where it lies when a spot is clicked. Edits keep them."""

from __future__ import annotations

from flask import Response, request
from flask_openapi3 import APIBlueprint
from pydantic import BaseModel, Field

from usual_lamp.core.camera import Camera
from usual_lamp.core.decals import Drawing
from usual_lamp.core.scene import Decal
from usual_lamp.core.scene.decal import Cleared
from usual_lamp.core.scene.decal_snaps import Snaps
from usual_lamp.service import decals
from usual_lamp.web import schemas
from usual_lamp.web.api import answer, store

decal_api = APIBlueprint(
    "decals",
    __name__,
    url_prefix="/api",
    abp_responses={"404": schemas.Problem, "409": schemas.Problem, "422": schemas.Problem},
)

Vector = tuple[float, float, float]


class Spot(BaseModel):
    """A spot on a part, in the review's frame."""

    part: str
    face: int
    point: Vector = Field(description="mm")
    normal: Vector = Field(description="unit vector, outwards")


class DecalWish(BaseModel):
    """A picture that shall lie on a spot, or a decal that shall lie there instead."""

    spot: Spot
    camera: Camera
    name: str = Field("Decal", max_length=200)
    picture: str | None = Field(None, pattern="^[0-9a-f]{64}$", description="content hash; null: it is drawn")
    aspect: float = Field(1.0, gt=0.001, lt=1000, description="width over height")
    decal: Decal | None = Field(None, description="one that keeps its size and name")
    drawing: Drawing | None = Field(None, description="what a new one is drawn from, in place of the picture")
    keep: bool = Field(False, description="a decal that is there stands as it stood, not upright to the view")


class DecalPlaced(BaseModel):
    decal: Decal


class DrawingWish(BaseModel):
    drawing: Drawing


class DrawnPicture(BaseModel):
    picture: str = Field(description="content hash")
    width: float = Field(description="mm")
    height: float = Field(description="mm")


class ClearingWish(BaseModel):
    clearing: Cleared


class ClearedPicture(BaseModel):
    picture: str = Field(description="content hash")


class DecalPath(BaseModel):
    review_id: str
    decal_id: str


class FaceQuery(BaseModel):
    face: int = Field(ge=0)


class SharpnessLine(BaseModel):
    shot: str = Field(description="its name")
    pixels: float = Field(description="of the picture that one pixel of the decal covers")
    soft: bool


class SharpnessList(BaseModel):
    shots: list[SharpnessLine]


class FaceBeneath(BaseModel):
    face: str = Field(description="its signature")


class FontKept(BaseModel):
    font: str = Field(description="as drawings name it")
    family: str


@decal_api.post("/reviews/<review_id>/decals/place", operation_id="placeDecal", responses={"200": DecalPlaced})
def place_decal(path: schemas.ReviewPath, body: DecalWish) -> Response:
    """A decal on a spot, upright to the view; nothing is changed yet."""
    spot = (body.spot.part, body.spot.face, body.spot.point, body.spot.normal)
    picture = (body.name, body.picture, body.aspect)
    made = decals.place(store(), path.review_id, body.decal, picture, spot, body.camera, body.drawing, body.keep)
    return answer(DecalPlaced(decal=made))


@decal_api.get(
    "/reviews/<review_id>/decals/<decal_id>/sharpness", operation_id="decalSharpness", responses={"200": SharpnessList}
)
def decal_sharpness(path: DecalPath) -> Response:
    """How sharp a decal is in each shot."""
    lines = [SharpnessLine(**vars(line)) for line in decals.sharpness(store(), path.review_id, path.decal_id)]
    return answer(SharpnessList(shots=lines))


@decal_api.get("/reviews/<review_id>/decals/<decal_id>/snaps", operation_id="decalSnaps", responses={"200": Snaps})
def decal_snaps(path: DecalPath, query: FaceQuery) -> Response:
    """What a decal snaps to that is moved over a face of its part."""
    return answer(decals.snaps_of(store(), path.review_id, path.decal_id, query.face))


@decal_api.get("/reviews/<review_id>/decals/<decal_id>/face", operation_id="decalFace", responses={"200": FaceBeneath})
def decal_face(path: DecalPath) -> Response:
    """The face that a decal lies on."""
    return answer(FaceBeneath(face=decals.face_of(store(), path.review_id, path.decal_id)))


@decal_api.get(
    "/reviews/<review_id>/decals/<decal_id>/along-face", operation_id="decalAlongFace", responses={"200": DecalPlaced}
)
def decal_along_face(path: DecalPath) -> Response:
    """A decal that follows its face as that unrolls; nothing is changed yet."""
    return answer(DecalPlaced(decal=decals.along_face(store(), path.review_id, path.decal_id)))


@decal_api.get(
    "/reviews/<review_id>/decals/<decal_id>/far-side", operation_id="decalFarSide", responses={"200": DecalPlaced}
)
def decal_far_side(path: DecalPath) -> Response:
    """A decal on the opposite side of the wall that it lies on; nothing is changed yet."""
    return answer(DecalPlaced(decal=decals.to_far_side(store(), path.review_id, path.decal_id)))


@decal_api.post("/drawings", operation_id="drawDrawing", responses={"200": DrawnPicture})
def draw_drawing(body: DrawingWish) -> Response:
    """The picture of a drawing, kept for decals."""
    return answer(DrawnPicture(**vars(decals.drawn(store(), body.drawing))))


@decal_api.post("/pictures/cleared", operation_id="clearPicture", responses={"200": ClearedPicture})
def clear_picture(body: ClearingWish) -> Response:
    """A picture without its plain background, kept for decals."""
    return answer(ClearedPicture(picture=decals.cleared(store(), body.clearing)))


@decal_api.post("/fonts", operation_id="keepFont", responses={"201": FontKept})
def keep_font() -> Response:
    """Keep a font (a TTF or OTF file as the request's body) for drawings."""
    font, family = decals.keep_font(store(), request.stream)  # type: ignore[arg-type]
    return answer(FontKept(font=font, family=family), 201)
