"""The API of stills: take, follow, pause, stop, relight, download, remove."""

from __future__ import annotations

from datetime import datetime
from typing import Literal

from flask import Response, request, send_file
from flask_openapi3 import APIBlueprint
from pydantic import BaseModel, Field

from usual_lamp.core.quality import Quality
from usual_lamp.core.scene import Lighting
from usual_lamp.service import stills
from usual_lamp.store import blobs
from usual_lamp.web import schemas
from usual_lamp.web.api import answer, hub, nothing, store

still_api = APIBlueprint(
    "stills",
    __name__,
    url_prefix="/api",
    abp_responses={"404": schemas.Problem, "409": schemas.Problem, "422": schemas.Problem},
)


class StillLine(BaseModel):
    id: str
    name: str
    shot_id: str
    state: Literal["queued", "running", "paused", "done", "stopped", "failed"]
    quality: Quality
    width: int
    height: int
    samples: int
    samples_done: int
    grain: float | None = Field(description="measured so far: relative error before denoising")
    grain_asked: float | None
    dropped: int = Field(description="samples that were no finite number and count as black: a fault of the tracer")
    seconds: float
    seconds_left: float | None
    version: int
    message: str | None
    engine: str
    current: bool = Field(description="the scene still gives this picture")
    light_kept: bool = Field(description="its lights can be changed without tracing")
    relit: bool = Field(description="made from the kept light of another still")
    created: datetime


class Stills(BaseModel):
    stills: list[StillLine]


class TakeStill(BaseModel):
    shot: str
    quality: Quality
    width: int = Field(ge=64, le=7680)
    height: int = Field(ge=64, le=7680)
    grain: float | None = Field(None, ge=0.005, le=0.5, description="trace until the grain is this small")


class StillLighting(BaseModel):
    """The lighting that a still was taken in, or that a new version of it shall have."""

    lighting: Lighting


@still_api.get("/reviews/<review_id>/stills", operation_id="listStills", responses={"200": Stills})
def list_stills(path: schemas.ReviewPath) -> Response:
    lines = [StillLine(**vars(line)) for line in stills.list_stills(store(), path.review_id)]
    return answer(Stills(stills=lines))


@still_api.post("/reviews/<review_id>/stills", operation_id="takeStill", responses={"201": schemas.Id})
def take_still(path: schemas.ReviewPath, body: TakeStill) -> Response:
    size = (body.width, body.height)
    still = stills.take(store(), path.review_id, body.shot, body.quality, size, grain=body.grain)
    return answer(schemas.Id(id=still), 201)


def _move(path: schemas.StillPath, step: Literal["pause", "resume", "stop"]) -> Response:
    stills.move(store(), path.still_id, step)
    hub().wake.set()
    return nothing()


@still_api.post("/stills/<still_id>/pause", operation_id="pauseStill", responses={"204": None})
def pause_still(path: schemas.StillPath) -> Response:
    return _move(path, "pause")


@still_api.post("/stills/<still_id>/resume", operation_id="resumeStill", responses={"204": None})
def resume_still(path: schemas.StillPath) -> Response:
    return _move(path, "resume")


@still_api.post("/stills/<still_id>/stop", operation_id="stopStill", responses={"204": None})
def stop_still(path: schemas.StillPath) -> Response:
    return _move(path, "stop")


@still_api.delete("/stills/<still_id>", operation_id="removeStill", responses={"204": None})
def remove_still(path: schemas.StillPath) -> Response:
    stills.set_removed(store(), path.still_id, True)
    return nothing()


@still_api.post("/stills/<still_id>/restore", operation_id="restoreStill", responses={"204": None})
def restore_still(path: schemas.StillPath) -> Response:
    stills.set_removed(store(), path.still_id, False)
    return nothing()


@still_api.get("/stills/<still_id>/lighting", operation_id="stillLighting", responses={"200": StillLighting})
def still_lighting(path: schemas.StillPath) -> Response:
    return answer(StillLighting(lighting=stills.lighting_of(store(), path.still_id)))


@still_api.post("/stills/<still_id>/relight", operation_id="relightStill", responses={"201": schemas.Id})
def relight_still(path: schemas.StillPath, body: StillLighting) -> Response:
    return answer(schemas.Id(id=stills.relight(store(), path.still_id, body.lighting)), 201)


@still_api.get("/stills/<still_id>/preview", doc_ui=False)
def still_preview(path: schemas.StillPath) -> Response:
    reply = Response(stills.preview(store(), path.still_id), mimetype="image/jpeg")
    reply.headers["Cache-Control"] = "private, no-cache"
    reply.add_etag()
    reply.make_conditional(request)
    return reply


@still_api.get("/stills/<still_id>/picture", doc_ui=False)
def still_picture(path: schemas.StillPath) -> Response:
    blob, name = stills.picture(store(), path.still_id)
    return send_file(blobs.local(store(), blob), mimetype="image/png", as_attachment=True, download_name=name)
