"""The traced picture on the desk, over HTTP: a wish goes up, the next frame for it comes back as JPEG."""

from __future__ import annotations

import json
from typing import Literal
from urllib.parse import quote

from flask import Response, current_app
from flask_openapi3 import APIBlueprint
from pydantic import BaseModel, Field

from usual_lamp.core.camera import Camera
from usual_lamp.core.camera.crop import PixelSide
from usual_lamp.core.quality import SAMPLES, Quality
from usual_lamp.core.trace.jobs.outlook import Forecast, Outlook
from usual_lamp.core.trace.plan import WHOLE, Region
from usual_lamp.farm.lamp_client import Lamp
from usual_lamp.farm.lamp_wish import Frame, Wish
from usual_lamp.service.errors import NotFound, NotReady, Refused
from usual_lamp.web import schemas
from usual_lamp.web.api import answer
from usual_lamp.web.later import Later
from usual_lamp.web.problems import problem

api = APIBlueprint(
    "lamp",
    __name__,
    url_prefix="/api",
    abp_responses={"404": schemas.Problem, "409": schemas.Problem, "422": schemas.Problem},
)


class PictureForm(BaseModel):
    form: Literal["png", "jpeg", "webp"] = "png"


class DeskPath(BaseModel):
    desk: str = Field(pattern="^[0-9a-f-]{8,40}$", description="named by the browser tab")


class LampWish(BaseModel):
    """What the traced picture on a desk should show, and which frame the desk has already."""

    desk: str = Field(pattern="^[0-9a-f-]{8,40}$")
    seq: int = Field(description="of the scene that the desk shows")
    shot: str = Field(description="whose exposure and tone curve to use")
    camera: Camera
    width: int = Field(ge=16, le=4096)
    height: int = Field(ge=16, le=4096)
    region: tuple[float, float, float, float] = Field(
        (0.0, 0.0, 1.0, 1.0), description="left, top, right, bottom as shares of the picture: only this is traced"
    )
    paused: bool = False
    look: str | None = Field(None, description="the one that is shown if null")
    lighting: str | None = Field(None, description="a lighting by id; that of the shot if null")
    surroundings: str | None = Field(None, description="in place of those of the lighting")
    shows: Literal["picture", "luminance"] = Field("picture", description="or its luminance in false colours")
    aside: bool = Field(False, description="whether the pictures of all other desks go first")
    have: str = Field("", description="token of the frame that is shown")


class ForecastWish(BaseModel):
    """A still that somebody thinks of taking."""

    seq: int = Field(description="of the scene that the desk shows")
    shot: str
    camera: Camera
    width: PixelSide
    height: PixelSide
    look: str | None = Field(None, description="by id; null: the one that is shown")
    lighting: str | None = Field(None, description="by id; null: that of the shot")
    grain: float | None = Field(None, ge=0.005, le=0.5, description="that would be accepted")
    minutes: float | None = Field(None, ge=0.1, le=1440, description="that it may take")


class StillOutlook(BaseModel):
    samples: int
    seconds: float = Field(description="of tracing, where nothing else is traced")
    grain: float | None = Field(description="relative error before denoising; null: nothing is lit")


class StillForecast(BaseModel):
    """What it would take, going by a probe: a small part of the picture that was traced for it."""

    qualities: dict[Quality, StillOutlook]
    at_grain: StillOutlook | None = Field(description="where a grain was asked for")
    in_time: StillOutlook | None = Field(description="where minutes were given")


def lamp() -> Lamp:
    return current_app.extensions["lamp"]  # type: ignore[no-any-return]


@api.post("/reviews/<review_id>/lamp", operation_id="nextFrame")
def next_frame(path: schemas.ReviewPath, body: LampWish) -> Response:
    """Waits for a frame newer than `have`: a JPEG, or 204 when there was none in time. Asked again and again."""
    wish = Wish(
        review=path.review_id,
        seq=body.seq,
        shot=body.shot,
        camera=body.camera,
        width=body.width,
        height=body.height,
        region=Region(*body.region),
        paused=body.paused,
        look=body.look,
        lighting=body.lighting,
        surroundings=body.surroundings,
        shows=body.shows,
        aside=body.aside,
    )
    lamps, desk, have = lamp(), body.desk, body.have

    async def wait() -> Response:
        try:
            return frame_reply(await lamps.next_frame(desk, wish, have))
        except NotReady as error:
            return problem(503, str(error))

    return Later(wait)


@api.post("/reviews/<review_id>/forecast", operation_id="forecastStill", responses={"200": StillForecast, "204": None})
def forecast_still(path: schemas.ReviewPath, body: ForecastWish) -> Response:
    """Waits for a probe of the still: what it would take, or 204 when there is none in time. Then ask again."""
    size = (body.width, body.height)
    wish = Wish(path.review_id, body.seq, body.shot, body.camera, *size, WHOLE, True, body.look, body.lighting)
    lamps = lamp()

    async def wait() -> Response:
        try:
            found = await lamps.probe(wish)
        except NotReady as error:
            return problem(503, str(error))
        except Refused as error:
            return problem(409, str(error))
        if found is None:
            return Response(status=204)
        probe, processes = found
        return answer(told(Forecast(probe, body.width * body.height, processes), body))

    return Later(wait)


def told(forecast: Forecast, wish: ForecastWish) -> StillForecast:
    """What a forecast says of the wish."""

    def outlook(one: Outlook) -> StillOutlook:
        return StillOutlook(**vars(one))

    return StillForecast(
        qualities={quality: outlook(forecast.after(samples)) for quality, samples in SAMPLES.items()},
        at_grain=None if wish.grain is None else outlook(forecast.at_grain(wish.grain)),
        in_time=None if wish.minutes is None else outlook(forecast.within(wish.minutes * 60)),
    )


def frame_reply(frame: Frame | None) -> Response:
    if frame is None:
        return Response(status=204)
    if frame.message is not None:
        # With its token the desk can wait for something else, instead of hearing the same again and again.
        return problem(409, frame.message, {"X-Frame": frame.token})
    facts = {"X-Frame": frame.token, "X-Samples": str(frame.samples), "Cache-Control": "no-store"}
    if frame.grain is not None:
        facts["X-Grain"] = f"{frame.grain:.5f}"
    if frame.shares is not None:
        facts["X-Shares"] = json.dumps({name: round(share, 4) for name, share in frame.shares.items()})
    if frame.outline is not None:
        lost, where, over = frame.outline
        facts["X-Outline"] = json.dumps({"lost": round(lost, 3), "where": where, "over": round(over, 2)})
    if frame.metered is not None:
        facts["X-Metered"] = f"{frame.metered:.2f}"
    if frame.scale is not None:
        facts["X-Scale"] = json.dumps(frame.scale)
    if frame.remark is not None:
        facts["X-Remark"] = quote(frame.remark)
    return Response(frame.jpeg, mimetype="image/jpeg", headers=facts)


@api.get("/lamp/<desk>/picture", doc_ui=False)
def keep_picture(path: DeskPath, query: PictureForm) -> Response:
    """What the desk shows now, developed like a finished still."""
    data = lamp().keep(path.desk, query.form)
    if data is None:
        raise NotFound("Nothing has been traced on this desk yet. Switch the lamp on and wait for the picture.")
    return Response(data, mimetype=f"image/{query.form}", headers={"Cache-Control": "no-store"})


@api.delete("/lamp/<desk>", operation_id="lampOff", responses={"204": None})
def lamp_off(path: DeskPath) -> Response:
    lamp().off(path.desk)
    return Response(status=204)
