"""What goes over the wire of intakes, meshes, the filter and findings."""

from __future__ import annotations

from typing import Literal

from pydantic import BaseModel, Field

from usual_lamp.core.intake.formats import Unit, Up
from usual_lamp.core.intake.reading import Reading
from usual_lamp.core.intake.tessellation import Quality as Tessellation
from usual_lamp.core.scene.findings import Finding
from usual_lamp.web.schemas import IntakeLine, Model


class OddEdges(BaseModel):
    """Six numbers an edge, mm, in the mesh's own frame."""

    open: list[float] = Field(description="with one triangle only")
    crowded: list[float] = Field(description="with three or more triangles")


class IntakeQuery(BaseModel):
    file_name: str = Field(min_length=1, max_length=255)
    name: str | None = Field(default=None, max_length=120)
    quality: Tessellation = Field("fair", description="for files with exact surfaces")
    unit: Unit = Field("as written", description="where the format has none, and for mesh files")
    up: Up = Field("as written", description="the axis that points up in a mesh file")
    purpose: Literal["review", "add", "replace"] = "review"
    review_id: str | None = Field(None, description="that the model is for, unless it makes its own review")
    model: str | None = Field(None, description="that is replaced")
    ask: bool = Field(False, description="stop when the file is read, and wait to be accepted")


class HeadQuery(BaseModel):
    file_name: str = Field(min_length=1, max_length=255)


class FirstLook(BaseModel):
    problem: str | None = Field(description="why the file cannot be read, by how it begins; null: it may be")


class IntakeFound(BaseModel):
    """What a file holds, before it is taken in."""

    line: IntakeLine
    quality: Tessellation
    unit: Unit
    up: Up
    size: tuple[float, float, float] = Field(description="extent of what is not hidden in CAD, mm")
    doubt: str | None = Field(description="why the unit may be another than the file says")
    triangles: int = Field(description="with every occurrence counted")
    reading: Reading
    chord: float = Field(description="that was tessellated with, mm; 0 for a mesh file")
    angle: float = Field(description="that was tessellated with, degrees")
    variants: list[str] = Field(description="of materials, that the file offers")
    variant: str | None
    model: Model
    face_colors: dict[str, dict[int, str]] = Field(
        description="ids of the colours that CAD gave to single faces, by part and face; parts with such alone"
    )


class IntakeAccept(BaseModel):
    name: str = Field(min_length=1, max_length=120)
    only: str | None = Field(None, description="uid of the sub-assembly to take alone")


class IntakeAgain(Reading):
    quality: Tessellation
    unit: Unit
    up: Up


class IntakeLines(BaseModel):
    intakes: list[IntakeLine]


class FilterQuery(BaseModel):
    text: str = Field(max_length=500)


class Filtered(BaseModel):
    uids: list[str]
    problem: str | None


class FilterField(BaseModel):
    name: str
    kind: Literal["number", "text"]
    values: list[str]


class FilterFields(BaseModel):
    fields: list[FilterField]


class Findings(BaseModel):
    findings: list[Finding]
    looking: bool
