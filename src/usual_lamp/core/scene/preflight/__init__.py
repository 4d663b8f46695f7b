"""Preflight: what one may want to mend in a shot before a still is taken, found in the scene as it is.

Each check is a function that looks at one thing and says what it found, with the number behind it and a fix where there
is one. One more check is one more function in the list below. Nothing is traced; what only the traced picture tells is
handed in.
"""

from __future__ import annotations

from collections.abc import Callable

from usual_lamp.core.scene.preflight import of_camera, of_parts, of_stance
from usual_lamp.core.scene.preflight.check import Check, CheckKind, Fix, Noise, Ready

__all__ = ["Check", "CheckKind", "Fix", "Noise", "Ready", "preflight"]

Asked = Callable[[Ready], "Check | list[Check] | None"]
CHECKS: tuple[Asked, ...] = (
    of_camera.framed,
    of_camera.inside_a_part,
    of_parts.untouched,
    of_camera.exposure,
    of_camera.backdrop,
    of_camera.focus,
    of_camera.floor,
    of_stance.stance,
    of_parts.clipped_glow,
    of_parts.open_glass,
    of_parts.open_meshes,
    of_parts.facets,
    of_parts.soft_decals,
    of_parts.soft_textures,
    of_parts.twice,
    of_parts.never_visible,
    of_camera.size,
    of_camera.noise,
)
"""What spoils a picture comes first."""


def preflight(ready: Ready) -> list[Check]:
    """What was found, those that are silenced in this review marked."""
    if not ready.parts:
        return []
    found: list[Check] = []
    for check in CHECKS:
        said = check(ready)
        found += said if isinstance(said, list) else [said] if said is not None else []
    silenced = ready.scene.silenced
    return [one.model_copy(update={"silenced": True}) if one.kind in silenced else one for one in found]
