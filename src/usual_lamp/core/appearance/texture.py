"""Pictures that belong to an appearance: what they drive, and how large one repeat is."""

from __future__ import annotations

import re
from typing import Annotated, Literal

from pydantic import BaseModel, ConfigDict, Field, field_validator

from usual_lamp.core.appearance.made_pictures import PREFIX, is_made

TextureTarget = Literal["color", "roughness", "opacity", "bump", "normal"]
CONTENT_HASH = re.compile(r"[0-9a-f]{64}")
Mapping = Literal["file", "surface", "machined"]
"""Where its coordinates come from. `file`: those that a mesh file gives each corner, where one repeat is 1 x 1;
`surface`: every face unrolled, in mm; `machined`: the same, but on turned parts round their axis, on the ends too, so
that grooves are rings there."""


class Texture(BaseModel):
    """A repeated picture laid on by a surface's own coordinates; v grows upwards in the picture."""

    model_config = ConfigDict(frozen=True, allow_inf_nan=False)

    picture: str = Field(description="content hash of the picture, or `made:` and the name of one made by rule")
    target: TextureTarget = "color"
    mapping: Mapping = "file"
    width: Annotated[float, Field(gt=0, description="of one repeat, in the mapping's unit")] = 1.0
    height: Annotated[float, Field(gt=0, description="of one repeat, in the mapping's unit")] = 1.0
    offset: tuple[float, float] = (0.0, 0.0)
    turn: float = Field(0.0, description="degrees, counter-clockwise")
    strength: float = Field(1.0, description="bump: mm from black to white; else the share of the picture")
    beneath_coat: bool = Field(
        False, description="bump and normal: the clear coat above stays smooth (OpenPBR's geometry_coat_normal)"
    )

    @field_validator("picture")
    @classmethod
    def _known(cls, picture: str) -> str:
        if picture.startswith(PREFIX) and not is_made(picture.removeprefix(PREFIX)):
            raise ValueError(f"There is no made picture {picture.removeprefix(PREFIX)!r}.")
        if not picture.startswith(PREFIX) and not CONTENT_HASH.fullmatch(picture):
            raise ValueError("A picture is named by its content hash (64 hex digits), or by made: and a name.")
        return picture
