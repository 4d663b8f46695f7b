"""What a person may ask of the reading of a file beyond its quality, unit and upward axis."""

from __future__ import annotations

from typing import Annotated

from pydantic import BaseModel, ConfigDict, Field


class Reading(BaseModel):
    """All of it may be left open."""

    model_config = ConfigDict(frozen=True)

    chord: Annotated[float, Field(ge=1e-4, le=1e4, description="mm, instead of the quality's")] | None = None
    angle: Annotated[float, Field(ge=0.5, le=90.0, description="degrees, instead of the quality's")] | None = None
    variant: Annotated[str, Field(max_length=80, description="of materials, as a glTF file names it")] | None = None
