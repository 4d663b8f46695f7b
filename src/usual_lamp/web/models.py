"""What goes over the wire. The scene itself travels as the core's own models."""

from __future__ import annotations

from datetime import datetime
from typing import Literal

from pydantic import BaseModel, Field

from usual_lamp.core.appearance import Appearance
from usual_lamp.core.camera import Camera
from usual_lamp.core.intake.formats import Unit, Up
from usual_lamp.core.intake.tessellation import Quality as Tessellation
from usual_lamp.core.quality import Quality
from usual_lamp.core.scene import Edit, Scene
from usual_lamp.core.scene.resolution import Why


class Problem(BaseModel):
    """RFC 9457 problem details."""

    type: str = "about:blank"
    title: str
    status: int
    detail: str


class Id(BaseModel):
    id: str


class ReviewPath(BaseModel):
    review_id: str


class StillPath(BaseModel):
    still_id: str


class IntakePath(BaseModel):
    intake_id: str


class BlobPath(BaseModel):
    sha256: str = Field(pattern="^[0-9a-f]{64}$")


class ReviewLine(BaseModel):
    id: str
    name: str
    file_name: str
    updated: datetime
    cover: str | None
    stills: int


class ReviewList(BaseModel):
    reviews: list[ReviewLine]
    intakes: list[IntakeLine]


class Rename(BaseModel):
    name: str = Field(min_length=1, max_length=120)


class IntakeQuery(BaseModel):
    file_name: str = Field(min_length=1, max_length=255)
    name: str | None = Field(default=None, max_length=120)
    quality: Tessellation = Field("fair", description="for files with exact surfaces")
    unit: Unit = Field("as written", description="where the format has none, and for mesh files")
    up: Up = Field("as written", description="the axis that points up in a mesh file")


class IntakeLine(BaseModel):
    id: str
    name: str
    file_name: str
    state: Literal["queued", "running", "done", "failed", "stopped"]
    progress: float
    stage: str
    message: str | None
    review_id: str | None


class Node(BaseModel):
    """A node of the tree for the schedule and the picture."""

    uid: str
    parent: str | None
    name: str
    definition: str | None
    world: list[float] | None = Field(description="4 x 4 row-major, mm; parts only")


class Definition(BaseModel):
    key: str
    name: str
    mesh: str
    triangles: int
    bounds: tuple[tuple[float, float, float], tuple[float, float, float]]


class Model(BaseModel):
    """What never changes while a revision is shown."""

    name: str
    file_name: str
    source_units: str
    chord: float
    angle: float
    warnings: list[str]
    hidden_in_cad: list[str]
    nodes: list[Node]
    definitions: dict[str, Definition]


class Worn(BaseModel):
    """What a part wears and why; `faces` lists face indices that differ."""

    appearance: str
    why: Why
    faces: dict[int, str]


class Standing(BaseModel):
    """The scene as it is now, resolved."""

    seq: int
    can_undo: bool
    can_redo: bool
    scene: Scene
    worn: dict[str, Worn]
    appearances: dict[str, Appearance]
    size: tuple[float, float, float] | None = Field(description="extent of what is shown, mm")
    floor: float = Field(description="height of the floor, mm")
    whites: dict[str, list[float]] = Field(
        description="by shot: the white balance as a 3 x 3 matrix of linear Rec. 709, row by row"
    )


class ReviewOpened(BaseModel):
    id: str
    name: str
    model: Model


class EditBody(BaseModel):
    edit: Edit


class Sample(BaseModel):
    appearance: Appearance
    plate: str | None = Field(description="blob of the finish plate; null while it is being traced")


class Shelf(BaseModel):
    families: list[str]
    samples: list[Sample]


class LightingChoice(BaseModel):
    name: Literal["panels", "overcast", "overhead"]
    label: str


class Lightings(BaseModel):
    lightings: list[LightingChoice]


class MapPath(BaseModel):
    name: Literal["panels", "overcast", "overhead"]


class MapQuery(BaseModel):
    floor: str = Field(pattern="^[0-9A-Fa-f]{6}$", description="sRGB colour of the floor, without #")


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
    seconds: float
    seconds_left: float | None
    version: int
    message: str | None
    engine: str
    current: bool
    created: datetime


class Stills(BaseModel):
    stills: list[StillLine]


class TakeStill(BaseModel):
    shot: str
    quality: Quality
    width: int = Field(ge=64, le=7680)
    height: int = Field(ge=64, le=7680)
    grain: float | None = Field(None, ge=0.005, le=0.5, description="trace until the grain is this small")


class Tracing(BaseModel):
    """How much of the machine tracing may take."""

    cores: int = Field(ge=1)
    memory: float = Field(ge=0.5, description="GB, of each tracing process")


class TracingSettings(BaseModel):
    tracing: Tracing
    machine: Tracing


class PictureForm(BaseModel):
    form: Literal["png", "jpeg"] = "png"


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
    have: str = Field("", description="token of the frame that is shown")


ReviewList.model_rebuild()
