"""CAD files in, Assemblies out. Foreign files are only ever opened in a child process (see `sandbox`)."""

from usual_lamp.core.intake.sandbox import (
    PRELOADED,
    IntakeError,
    IntakeResult,
    Watch,
    smooth_again,
    take_in,
    tessellate_again,
)
from usual_lamp.core.intake.tessellation import QUALITIES, Tessellation

__all__ = [
    "PRELOADED",
    "QUALITIES",
    "IntakeError",
    "IntakeResult",
    "Tessellation",
    "Watch",
    "smooth_again",
    "take_in",
    "tessellate_again",
]
