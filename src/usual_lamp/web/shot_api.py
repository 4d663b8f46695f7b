"""The API of shots: what is worked out for one before an edit keeps it."""

from __future__ import annotations

import numpy as np
from flask import Response
from flask_openapi3 import APIBlueprint
from pydantic import BaseModel, Field

from usual_lamp.core.appearance import hex_to_linear
from usual_lamp.core.camera import Camera, CannotCrop, NoGrey, cropped, white_from_grey
from usual_lamp.service.errors import Refused
from usual_lamp.web import schemas
from usual_lamp.web.api import answer

shot_api = APIBlueprint("shots", __name__, url_prefix="/api/shots", abp_responses={"422": schemas.Problem})


class CropWish(BaseModel):
    camera: Camera
    region: tuple[float, float, float, float] = Field(description="left, top, right, bottom as shares of the frame")
    width: int = Field(ge=1, le=100_000, description="pixels")
    height: int = Field(ge=1, le=100_000)


class Cropped(BaseModel):
    camera: Camera
    width: int
    height: int


class GreyWish(BaseModel):
    color: str = Field(pattern="^#[0-9A-Fa-f]{6}$", description="of the finished picture, sRGB")
    white: float = Field(ge=2000, le=20000, description="K, for which it is balanced")


class WhiteFound(BaseModel):
    white: float = Field(description="K")
    tint: float = Field(description="how far from grey it stays, as a share")


@shot_api.post("/cropped", operation_id="cropShot", responses={"200": Cropped})
def crop_shot(body: CropWish) -> Response:
    """A camera that shows a part of a frame alone."""
    try:
        camera, (width, height) = cropped(body.camera, body.region, (body.width, body.height))
    except CannotCrop as error:
        raise Refused(str(error)) from error
    return answer(Cropped(camera=camera, width=width, height=height))


@shot_api.post("/white", operation_id="whiteFromGrey", responses={"200": WhiteFound})
def white_of_grey(body: GreyWish) -> Response:
    """The white balance under which a colour of the picture is grey."""
    try:
        white, tint = white_from_grey(np.array(hex_to_linear(body.color)), body.white)
    except NoGrey as error:
        raise Refused(str(error)) from error
    return answer(WhiteFound(white=round(white), tint=round(tint, 4)))
