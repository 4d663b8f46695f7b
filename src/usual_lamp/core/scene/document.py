"""Everything that is edited in a review, as one immutable document. Collections are maps by id."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import BaseModel, ConfigDict, Field

from usual_lamp.core.appearance import Appearance
from usual_lamp.core.camera import DAYLIGHT, Camera, Finish, Tone
from usual_lamp.core.camera.finish import Exposure, White
from usual_lamp.core.light.surroundings import LightingName

PartState = Literal["hidden", "suppressed"]
HexColor = Annotated[str, Field(pattern=r"^#[0-9A-Fa-f]{6}$")]


class Frozen(BaseModel):
    model_config = ConfigDict(frozen=True, extra="forbid")


class ModelUse(Frozen):
    """A model in the review and the revision of it that is shown."""

    name: str
    revision: str


class Look(Frozen):
    name: str
    assignments: dict[str, str] = Field(default={}, description="part uid to appearance id")


class Backdrop(Frozen):
    """What lies behind the product; `bottom` is also the colour of the floor."""

    kind: Literal["plain", "gradient"] = "gradient"
    bottom: HexColor = "#F1EBE2"
    top: HexColor = "#DFD6CA"


class Lighting(Frozen):
    surroundings: LightingName = "panels"
    brightness: Annotated[float, Field(ge=0.0, le=8.0, description="0: only what glows gives light")] = 1.0
    turn: Annotated[float, Field(ge=-180.0, le=180.0, description="degrees about the vertical")] = 0.0
    floor: bool = True
    backdrop: Backdrop = Backdrop()


class Shot(Frozen):
    name: str
    camera: Camera
    width: Annotated[int, Field(ge=64, le=7680)] = 1280
    height: Annotated[int, Field(ge=64, le=7680)] = 960
    exposure: Exposure = 9.3
    white: White = DAYLIGHT
    tone: Tone = "neutral"

    @property
    def finish(self) -> Finish:
        return Finish(exposure=self.exposure, white=self.white, tone=self.tone)


class Scene(Frozen):
    models: dict[str, ModelUse]
    states: dict[str, PartState] = Field(default={}, description="parts that are not shown, by uid")
    appearances: dict[str, Appearance] = {}
    looks: dict[str, Look] = {"standard": Look(name="Standard")}
    lighting: Lighting = Lighting()
    shots: dict[str, Shot]
