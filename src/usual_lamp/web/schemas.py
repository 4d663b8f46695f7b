"""What goes over the wire. The scene itself travels as the core's own models."""

from __future__ import annotations

from datetime import datetime
from functools import cached_property
from typing import Literal, get_args

import numpy as np
from pydantic import BaseModel, Field, RootModel, field_validator

from usual_lamp.core.appearance import Appearance
from usual_lamp.core.appearance.shaded import Shaded
from usual_lamp.core.assembly.laying import Laid, LayingKind
from usual_lamp.core.assembly.matching import Kind
from usual_lamp.core.camera import SharpRange
from usual_lamp.core.intake.tessellation import Quality as Tessellation
from usual_lamp.core.scene import Decal, Edit, Piece, Scene, Why
from usual_lamp.core.scene.imported_colors import ImportedColor
from usual_lamp.core.scene.patch import Operation


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


class ShotPath(ReviewPath):
    shot_id: str


class StillPath(BaseModel):
    still_id: str


class IntakePath(BaseModel):
    intake_id: str


class BlobPath(BaseModel):
    sha256: str = Field(pattern="^[0-9a-f]{64}$")


class LaidQuery(BaseModel):
    how: str = Field(max_length=400, description="kind, radius and the twelve numbers of the frame, by commas")

    @cached_property
    def laid(self) -> Laid:
        kind, radius, *frame = self.how.split(",")
        return Laid(kind, tuple(map(float, frame)), float(radius))  # type: ignore[arg-type]

    @field_validator("how")
    @classmethod
    def _can_be_read(cls, how: str) -> str:
        kind, *numbers = how.split(",")
        if kind not in get_args(LayingKind) or len(numbers) != 13 or not np.isfinite([*map(float, numbers)]).all():
            raise ValueError("must be a kind and thirteen numbers")
        return how


class LookQuery(BaseModel):
    look: str | None = Field(None, description="the look to resolve; the one that is shown if null")


class KnownQuery(BaseModel):
    known: int | None = Field(None, ge=0, description="seq of the standing that the asker has: only changes are sent")


class SceneQuery(LookQuery, KnownQuery):
    """Which look is asked for, and what is known of the one that is shown."""


class MadePath(BaseModel):
    name: str = Field(max_length=40)


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


class IntakeLine(BaseModel):
    id: str
    name: str
    file_name: str
    state: Literal["queued", "running", "ready", "done", "failed", "stopped"]
    progress: float
    stage: str
    message: str | None
    review_id: str | None
    purpose: Literal["review", "add", "replace", "tessellate"]
    model: str | None


class Node(BaseModel):
    """A node of the tree for the schedule and the picture."""

    uid: str
    parent: str | None
    name: str
    definition: str | None
    model: str
    world: list[float] | None = Field(description="4 x 4 row-major, mm; parts only")
    layers: list[str]
    color: str | None = Field(description="id of the colour that CAD gave it as a whole")
    properties: dict[str, str] = Field(description="of the part and its definition together")


class Definition(BaseModel):
    key: str
    name: str
    mesh: str
    triangles: int
    bounds: tuple[tuple[float, float, float], tuple[float, float, float]]
    volume: float = Field(description="mm³")
    material: str | None
    exact: bool = Field(description="whether it can be tessellated anew")
    chord: float = Field(description="asked, mm")
    angle: float = Field(description="asked, radians")
    deviation: float | None = Field(description="measured, mm")
    defects: list[str]
    faces: list[str] = Field(description="signatures, by face index")
    same_shape: str = Field(description="key of the definition that stands for all of this shape")
    kind: str | None = Field(description="what its shape shows it to be, say a screw")


class ModelLine(BaseModel):
    """A model of the review."""

    id: str
    name: str
    file_name: str
    pivot: tuple[float, float, float] = Field(description="mm: what it is turned about by number")


class Model(BaseModel):
    """Every model of the review, arranged: what does not change while `Standing.arrangement` stays."""

    arrangement: str
    name: str
    file_name: str
    models: list[ModelLine]
    source_units: str
    chord: float
    angle: float
    warnings: list[str]
    hidden_in_cad: list[str]
    nodes: list[Node]
    definitions: dict[str, Definition]


class WornLayer(BaseModel):
    why: Why
    key: str = Field(description="of the assignment, or the rule's id; empty for what nobody gave")
    appearance: str


class Worn(BaseModel):
    """What a part wears and why; `faces` lists face indices that differ."""

    appearance: str
    why: Why
    faces: dict[int, str]
    layers: list[WornLayer] = Field(description="what was given to it, topmost first; empty if nothing was")
    own_faces: dict[int, WornLayer] = Field(description="faces that were given something of their own")
    laid: str | None = Field(None, description="how pictures lie where that was said by hand, as `laid` takes it")


class Step(BaseModel):
    """An edit that undo would take back, or redo make again."""

    words: str = Field(description="what it did, beginning with a verb; empty where that was not noted")
    tab: str | None = Field(description="the browser tab that made it, as it called itself")


class TiltedFloor(BaseModel):
    """A floor that is tilted with a model: its unit normal, and mm along it from the origin."""

    up: tuple[float, float, float]
    height: float


class Standing(BaseModel):
    """The scene as it is now, resolved."""

    seq: int
    undoes: Step | None
    redoes: Step | None
    scene: Scene
    arrangement: str = Field(description="changes when the model must be fetched again")
    worn: dict[str, Worn]
    appearances: dict[str, Appearance]
    shaded: dict[str, Shaded] = Field(description="of each of these appearances, what the shaded picture shows")
    size: tuple[float, float, float] | None = Field(description="extent of what is shown, mm")
    floor: float = Field(description="height of a level floor that is not lifted, mm")
    tilted: dict[str, TiltedFloor] = Field(description="by lighting, floors that are not level")
    burns: dict[str, dict[str, float]] = Field(
        description="by appearance that glows and shot: cd/m² from which half its colour is lost to white"
    )
    whites: dict[str, list[float]] = Field(description="by shot: white balance, 3 x 3, linear Rec. 709, row by row")
    sharp: dict[str, SharpRange] = Field(description="by shot that does not show everything sharp")


class StandingChange(BaseModel):
    """What differs from the standing that the asker has."""

    base: int = Field(description="seq of the standing that this changes")
    seq: int
    undoes: Step | None
    redoes: Step | None
    patch: list[Operation] = Field(description="JSON Patch of the scene (RFC 6902), without tests and moves")
    worn: dict[str, Worn] = Field(description="of parts that wear something else, or in another way")
    appearances: dict[str, Appearance] = Field(description="new ones, and those with other values")
    shaded: dict[str, Shaded]
    size: tuple[float, float, float] | None
    floor: float
    tilted: dict[str, TiltedFloor]
    burns: dict[str, dict[str, float]]
    whites: dict[str, list[float]]
    sharp: dict[str, SharpRange]


class StandingAnswer(RootModel[Standing | StandingChange]):
    """The whole, or what changed since the `known` that was asked with."""


class ReviewOpened(BaseModel):
    id: str
    name: str
    model: Model


class ReportPart(BaseModel):
    uid: str
    name: str
    path: str
    mesh: str
    world: list[float]


class ReportPair(BaseModel):
    new: ReportPart | None
    old: ReportPart | None
    kind: Kind
    confidence: float
    because: str
    by_hand: bool
    left_behind: list[str] = Field(description="what hangs on a part that is gone")


class ReportDecal(BaseModel):
    """A decal on a part whose shape changed."""

    name: str
    part: str = Field(description="its name")
    fate: Literal["kept", "moved", "lost"]
    shift: float = Field(description="mm along its normal, of one that moved with its face")
    old: ReportPart = Field(description="its part before, and")
    new: ReportPart = Field(description="now")
    was: Decal
    lies: Decal = Field(description="where it lies now; where it lay, if its face is gone")


class RevisionReport(BaseModel):
    id: str
    file_name: str
    pairs: list[ReportPair]
    decals: list[ReportDecal]


class Join(BaseModel):
    new: str
    old: str | None


class ImportedQuery(BaseModel):
    threshold: float = Field(4.0, ge=0.0, le=40.0, description="CIEDE2000")


class ImportedColors(BaseModel):
    colors: list[ImportedColor]
    alike: list[list[str]] = Field(description="groups that differ by no more than the threshold")


class ModelPath(BaseModel):
    review_id: str
    model: str


class FaceRef(BaseModel):
    uid: str
    face: int = Field(ge=0)


class PlaceStep(BaseModel):
    """One step with a model's placement; exactly one of these is given."""

    axis: Literal["x", "y", "z"] | None = None
    degrees: float = Field(90.0, ge=-360.0, le=360.0)
    rest: tuple[float, float, float] | None = Field(None, description="what shall point down, in the model's frame")
    face: FaceRef | None = None
    against: FaceRef | None = Field(None, description="with `face`: lay that face flat against this one")
    floor: bool = False
    reset: bool = False


class RestLine(BaseModel):
    down: tuple[float, float, float]
    share: float
    tilt: float


class Rests(BaseModel):
    rests: list[RestLine]


class PieceBody(BaseModel):
    piece: Piece
    model: str | None = Field(None, description="give this piece another size instead of making one")


class TessellationBody(BaseModel):
    """By quality, or chord and angle, or fitted to a shot; what came as triangles by crease or flip. No uids: all."""

    uids: list[str] = []
    quality: Tessellation | None = None
    chord: float | None = Field(None, ge=0.0005, le=100.0, description="mm")
    angle: float | None = Field(None, ge=1.0, le=60.0, description="degrees")
    shot: str | None = None
    crease: float | None = Field(None, ge=0.0, le=180.0, description="degrees: smooth what came as triangles anew")
    flip: bool = Field(False, description="turn what came as triangles inside out")


class Ids(BaseModel):
    ids: list[str]


class FollowBody(BaseModel):
    path: str = Field(min_length=1, max_length=1024, description="on the server")


class FollowLine(BaseModel):
    model: str
    path: str
    newer: bool
    problem: str | None


class Follows(BaseModel):
    followed: list[FollowLine]


class EditBody(BaseModel):
    edit: Edit


class Sample(BaseModel):
    appearance: Appearance
    plate: str | None = Field(description="blob of the finish plate; null while it is being traced")
    words: str = Field(description="other words that it is sought by")
    kept: bool = Field(False, description="one's own, kept for all reviews")


class Shelf(BaseModel):
    families: list[str]
    samples: list[Sample]


class Tracing(BaseModel):
    """How much of the machine tracing may take."""

    cores: int = Field(ge=1)
    memory: float = Field(ge=0.5, description="GB, of each tracing process")


class TracingSettings(BaseModel):
    tracing: Tracing
    machine: Tracing


ReviewList.model_rebuild()
