"""The API of stills: take, follow, pause, stop, relight, download, remove."""

from __future__ import annotations

from datetime import datetime
from itertools import product
from typing import Any, Literal, get_args

from flask import Response, request, send_file
from flask_openapi3 import APIBlueprint
from pydantic import BaseModel, Field, field_validator

from usual_lamp.core.camera import Camera
from usual_lamp.core.camera.crop import MOST_PIXELS, Crop, PixelSide, Share
from usual_lamp.core.picture import Form
from usual_lamp.core.picture.area import Area
from usual_lamp.core.picture.encoders import smaller_jpeg
from usual_lamp.core.quality import Quality
from usual_lamp.core.scene import Lighting
from usual_lamp.core.scene.shot import Habits
from usual_lamp.service import habits, still_crops, still_files, still_light, still_scenes, stills
from usual_lamp.service.errors import Refused
from usual_lamp.service.still_detail import detail
from usual_lamp.service.still_layers import ExrWish, LayerGroup
from usual_lamp.web import schemas
from usual_lamp.web.api import answer, hub, nothing, store

still_api = APIBlueprint(
    "stills",
    __name__,
    url_prefix="/api",
    abp_responses={"404": schemas.Problem, "409": schemas.Problem, "422": schemas.Problem},
)
SMALL = 480
KEPT = 24 * 3600
"""Seconds that a browser keeps the picture of one version."""


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
    minutes_asked: float | None = Field(description="how long it was to be traced, where that was asked for")
    dropped: int = Field(description="samples that were no finite number and count as black: a fault of the tracer")
    seconds: float
    seconds_left: float | None
    ends_now: bool
    version: int
    message: str | None
    engine: str
    current: bool = Field(description="the scene still gives this picture")
    look: str | None = Field(description="by id, that it was taken in")
    lighting: str | None = Field(description="by id, where it is not that of the shot")
    starred: bool
    note: str
    developable: bool = Field(description="there are files of it in every form")
    light_kept: bool = Field(description="its lights can be changed without tracing")
    by_kind: bool = Field(description="its light is kept by kind, or is to be: its OpenEXR has layers of it")
    can_go_on: bool = Field(description="it can be traced on to less grain from where it ended")
    crop: Crop | None = Field(description="the part of the shot's frame that it shows; null: all of it")
    camera: Camera | None = Field(description="that it was taken with; null: its shot's")
    relit: bool = Field(description="made from the kept light of another still")
    created: datetime


class Stills(BaseModel):
    stills: list[StillLine]


class TakeStill(BaseModel):
    shot: str
    quality: Quality
    width: PixelSide
    height: PixelSide
    grain: float | None = Field(None, ge=0.005, le=0.5, description="trace until the grain is this small")
    minutes: float | None = Field(None, ge=0.1, le=1440, description="trace for so long, in place of a quality")
    look: str | None = Field(None, description="by id; null: the one that is shown")
    lighting: str | None = Field(None, description="by id; null: that of the shot")
    crop: Crop | None = Field(None, description="the part of its frame; null: all of it")
    camera: Camera | None = Field(None, description="another view than the shot's; null: the shot's")
    by_kind: bool = Field(False, description="keep its light by kind, for layers in its OpenEXR")


class TakeStills(BaseModel):
    """Every shot in every look and lighting, each in the shot's own size."""

    shots: list[str] = Field(min_length=1, max_length=60)
    looks: list[str] = Field(default=[], max_length=60, description="by id; none: the one that is shown")
    lightings: list[str] = Field(default=[], max_length=60, description="by id; none: that of each shot")
    quality: Quality
    grain: float | None = Field(None, ge=0.005, le=0.5)


class Ids(BaseModel):
    ids: list[str]


class StillMark(BaseModel):
    """What people put on a still; null: as it is."""

    starred: bool | None = None
    note: str | None = Field(None, max_length=500)


class StillChanges(BaseModel):
    changes: list[str] = Field(description="why it is out of date, in words")


class StillCrop(BaseModel):
    """A part of a finished still."""

    region: tuple[Share, Share, Share, Share] = Field(
        description="left, top, right, bottom as shares of its width and height"
    )
    trace: bool = Field(False, description="anew, as large as the whole; or the pixels that are there")


class GoOn(BaseModel):
    quality: Quality
    grain: float | None = Field(None, ge=0.005, le=0.5)


class FirstShot(BaseModel):
    """The shot that new reviews start like."""

    review: str
    shot: str


class FirstShotKept(BaseModel):
    habits: Habits | None = Field(description="null: as shipped")


class DetailWish(BaseModel):
    """A part of a still, in its pixels."""

    left: int = Field(ge=0, le=MOST_PIXELS)
    top: int = Field(ge=0, le=MOST_PIXELS)
    width: int = Field(ge=1, le=MOST_PIXELS)
    height: int = Field(ge=1, le=MOST_PIXELS)
    v: int | None = Field(None, description="of the still; its picture can be kept then")


class FileWish(BaseModel):
    form: Form = "png"
    quality: int = Field(92, ge=1, le=100, description="of JPEG and WebP")
    layers: str | None = Field(None, description="of OpenEXR: groups of layers with commas between; null: all")
    half: bool = Field(False, description="OpenEXR of half numbers")

    @field_validator("layers")
    @classmethod
    def known(cls, layers: str | None) -> str | None:
        if unknown := _groups(layers) - set(get_args(LayerGroup)):
            raise ValueError(f"no layers are called {min(unknown)}; there are {', '.join(get_args(LayerGroup))}")
        return layers

    @property
    def exr(self) -> ExrWish:
        wanted = get_args(LayerGroup) if self.layers is None else _groups(self.layers)
        return ExrWish(frozenset(wanted), self.half)


def _groups(layers: str | None) -> set[Any]:
    return set((layers or "").split(",")) - {""}


class PreviewWish(BaseModel):
    v: int | None = Field(None, description="version that is asked for, which may then be kept")
    small: bool = Field(False, description=f"at most {SMALL} pixels a side, for lists")


class ZipWish(BaseModel):
    ids: str = Field(max_length=4000, description="of stills, with commas between")
    form: Form = "png"
    pattern: str = Field(still_files.PATTERN, min_length=1, max_length=200)


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
    still = stills.take(
        store(), path.review_id, body.shot, body.quality, size, grain=body.grain, look=body.look,
        lighting=body.lighting, crop=body.crop, camera=body.camera, minutes=body.minutes, by_kind=body.by_kind,
    )  # fmt: skip
    return answer(schemas.Id(id=still), 201)


@still_api.post("/reviews/<review_id>/stills/many", operation_id="takeStills", responses={"201": Ids})
def take_stills(path: schemas.ReviewPath, body: TakeStills) -> Response:
    """Queue the stills of a matrix, shot by shot."""
    looks: list[str | None] = [*body.looks] or [None]
    lightings: list[str | None] = [*body.lightings] or [None]
    wishes = list(product(body.shots, looks, lightings))
    if len(wishes) > still_files.MOST_AT_ONCE:
        raise Refused(f"That would be {len(wishes)} stills; at most {still_files.MOST_AT_ONCE} are taken at once.")
    found = [
        stills.take(store(), path.review_id, shot, body.quality, grain=body.grain, look=look, lighting=lighting)
        for shot, look, lighting in wishes
    ]
    return answer(Ids(ids=found), 201)


@still_api.patch("/stills/<still_id>", operation_id="markStill", responses={"204": None})
def mark_still(path: schemas.StillPath, body: StillMark) -> Response:
    """Star a still, or note something on it."""
    stills.mark(store(), path.still_id, body.starred, body.note)
    return nothing()


@still_api.post("/stills/<still_id>/first", operation_id="putStillFirst", responses={"204": None})
def put_still_first(path: schemas.StillPath) -> Response:
    """Let it be traced before all others that wait."""
    stills.put_first(store(), path.still_id)
    return nothing()


@still_api.post("/stills/<still_id>/end", operation_id="endStill", responses={"204": None})
def end_still(path: schemas.StillPath) -> Response:
    """Finish it with the samples that it has."""
    stills.end_now(store(), path.still_id)
    return nothing()


@still_api.post("/stills/<still_id>/on", operation_id="traceStillOn", responses={"204": None})
def trace_still_on(path: schemas.StillPath, body: GoOn) -> Response:
    """Trace a finished still on, to a finer quality."""
    still_light.go_on(store(), path.still_id, body.quality, body.grain)
    return nothing()


@still_api.post("/stills/<still_id>/crop", operation_id="cropStill", responses={"201": schemas.Id})
def crop_still(path: schemas.StillPath, body: StillCrop) -> Response:
    """A part of it as one more still."""
    make = still_crops.anew if body.trace else still_crops.crop
    return answer(schemas.Id(id=make(store(), path.still_id, body.region)), 201)


@still_api.get("/stills/<still_id>/changes", operation_id="stillChanges", responses={"200": StillChanges})
def still_changes(path: schemas.StillPath) -> Response:
    return answer(StillChanges(changes=still_scenes.changes(store(), path.still_id)))


@still_api.post("/stills/<still_id>/open", operation_id="openStill", responses={"201": schemas.Id})
def open_still(path: schemas.StillPath) -> Response:
    """A new review with the scene as it was for the still."""
    return answer(schemas.Id(id=still_scenes.open_still(store(), path.still_id)), 201)


@still_api.post("/scenes", operation_id="openPicture", responses={"201": schemas.Id})
def open_picture() -> Response:
    """A new review with the scene in a still's PNG (the request's body)."""
    return answer(schemas.Id(id=still_scenes.open_picture(store(), request.stream)), 201)  # type: ignore[arg-type]


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
    return answer(StillLighting(lighting=still_light.lighting_of(store(), path.still_id)))


@still_api.post("/stills/<still_id>/relight", operation_id="relightStill", responses={"201": schemas.Id})
def relight_still(path: schemas.StillPath, body: StillLighting) -> Response:
    return answer(schemas.Id(id=still_light.relight(store(), path.still_id, body.lighting)), 201)


@still_api.get("/settings/first-shot", operation_id="getFirstShot", responses={"200": FirstShotKept})
def get_first_shot() -> Response:
    return answer(FirstShotKept(habits=habits.start(store())))


@still_api.put("/settings/first-shot", operation_id="setFirstShot", responses={"204": None})
def set_first_shot(body: FirstShot) -> Response:
    """Let new reviews start with the lens, size and finish of a shot."""
    habits.start_like(store(), body.review, body.shot)
    return nothing()


@still_api.delete("/settings/first-shot", operation_id="resetFirstShot", responses={"204": None})
def reset_first_shot() -> Response:
    habits.start_as_shipped(store())
    return nothing()


@still_api.get("/stills/<still_id>/preview", doc_ui=False)
def still_preview(path: schemas.StillPath, query: PreviewWish) -> Response:
    picture = stills.preview(store(), path.still_id)
    reply = Response(smaller_jpeg(picture, SMALL) if query.small else picture, mimetype="image/jpeg")
    reply.headers["Cache-Control"] = "private, no-cache" if query.v is None else f"private, max-age={KEPT}"
    reply.add_etag()
    reply.make_conditional(request)
    return reply


@still_api.get("/stills/<still_id>/detail", doc_ui=False)
def still_detail(path: schemas.StillPath, query: DetailWish) -> Response:
    """A part of the finished picture at its full size."""
    area = Area(query.left, query.top, query.left + query.width, query.top + query.height)
    reply = Response(detail(store(), path.still_id, area), mimetype="image/jpeg")
    reply.headers["Cache-Control"] = "private, no-cache" if query.v is None else f"private, max-age={KEPT}"
    return reply


@still_api.get("/stills/<still_id>/picture", doc_ui=False)
def still_picture(path: schemas.StillPath, query: FileWish) -> Response:
    """The finished picture as a file."""
    found = still_files.file_of(store(), path.still_id, query.form, query.quality, exr=query.exr)
    return send_file(found.opened(), mimetype=found.media_type, as_attachment=True, download_name=found.name)


@still_api.get("/reviews/<review_id>/stills.zip", doc_ui=False)
def stills_zip(path: schemas.ReviewPath, query: ZipWish) -> Response:
    """Some finished stills in one file."""
    packed = still_files.zip_of(store(), path.review_id, query.ids.split(","), query.form, query.pattern)
    # The open file goes on being read after its name is gone.
    opened = packed.open("rb")
    packed.unlink()
    return send_file(opened, mimetype="application/zip", as_attachment=True, download_name="stills.zip")
