"""The API of decals: where one lies when a spot is clicked. They are kept by edits, as everything else."""

from __future__ import annotations

from flask import Response
from flask_openapi3 import APIBlueprint
from pydantic import BaseModel, Field

from usual_lamp.core.camera import Camera
from usual_lamp.core.scene import Decal
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
    picture: str = Field(pattern="^[0-9a-f]{64}$")
    aspect: float = Field(gt=0.001, lt=1000, description="width over height")
    decal: Decal | None = Field(None, description="one that keeps its size and name")


class DecalPlaced(BaseModel):
    decal: Decal


@decal_api.post("/reviews/<review_id>/decals/place", operation_id="placeDecal", responses={"200": DecalPlaced})
def place_decal(path: schemas.ReviewPath, body: DecalWish) -> Response:
    """A decal on a spot, upright to the view; nothing is changed yet."""
    spot = (body.spot.part, body.spot.face, body.spot.point, body.spot.normal)
    picture = (body.name, body.picture, body.aspect)
    made = decals.place(store(), path.review_id, body.decal, picture, spot, body.camera)
    return answer(DecalPlaced(decal=made))
