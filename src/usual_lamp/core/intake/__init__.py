"""CAD files in, Assemblies out. Foreign files are only ever opened in a child process (see `sandbox`)."""

from usual_lamp.core.intake.sandbox import IntakeError, IntakeResult, take_in, tessellate_again
from usual_lamp.core.intake.tessellation import QUALITIES, Tessellation

__all__ = ["QUALITIES", "IntakeError", "IntakeResult", "Tessellation", "take_in", "tessellate_again"]
