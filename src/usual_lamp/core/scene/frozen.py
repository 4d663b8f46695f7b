"""What every part of the scene document is made of."""

from __future__ import annotations

from typing import Annotated

from pydantic import BaseModel, ConfigDict, Field

Number = Annotated[float, Field(ge=-1e6, le=1e6)]
Share = Annotated[float, Field(ge=-2.0, le=2.0)]
Length = Annotated[float, Field(ge=0.1, le=1e5)]
Triple = tuple[Number, Number, Number]
HexColor = Annotated[str, Field(pattern=r"^#[0-9A-Fa-f]{6}$")]


class Frozen(BaseModel):
    """A part of the scene document: immutable, finite numbers only, no unknown fields."""

    model_config = ConfigDict(frozen=True, extra="forbid", allow_inf_nan=False)
    # JSON has no word for such numbers: a document that holds one could be written but never read again.
