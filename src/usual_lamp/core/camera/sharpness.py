"""What a lens shows sharp: hyperfocal distance and the range in focus, with the handbook's formulas for a thin lens.

A spot counts as sharp that blurs to no more than 0.03 mm on a sensor of 36 mm (common practice; in proportion on
others). The formulas are in any handbook of photography; here from S. F. Ray, "Applied Photographic Optics", ch. 22
(the chapter from memory).
"""

from __future__ import annotations

from pydantic import BaseModel, ConfigDict, Field

from usual_lamp.core.camera.lens import FILM_WIDTH, Camera

CIRCLE = 0.03
"""mm on a sensor of 36 mm."""


class SharpRange(BaseModel):
    """What a lens shows sharp, mm along the axis."""

    model_config = ConfigDict(frozen=True)

    near: float
    far: float | None = Field(description="null: to infinity")
    hyperfocal: float = Field(description="focused there, all from half of it to infinity is sharp")


def sharp_range(camera: Camera) -> SharpRange | None:
    """What is sharp in a camera's picture; None where everything is."""
    if camera.f_number is None or camera.parallel:
        return None
    focal, focus = camera.true_focal_length(), camera.sharp_at()
    hyperfocal = focal**2 / (camera.f_number * CIRCLE * camera.sensor / FILM_WIDTH) + focal
    near = focus * (hyperfocal - focal) / (hyperfocal + focus - 2 * focal)
    far = focus * (hyperfocal - focal) / (hyperfocal - focus) if focus < hyperfocal else None
    return SharpRange(near=near, far=far, hyperfocal=hyperfocal)
