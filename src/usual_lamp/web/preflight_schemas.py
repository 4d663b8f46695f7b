"""What goes over the wire of the checks before a still."""

from __future__ import annotations

from pydantic import BaseModel, Field

from usual_lamp.core.scene.preflight import Check


class PreflightQuery(BaseModel):
    metered: float | None = Field(None, ge=-20, le=40, description="EV that the traced product asks for")


class Checks(BaseModel):
    """What one may want to mend in a shot before a still."""

    checks: list[Check]
