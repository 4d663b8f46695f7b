"""The scene document, its edits, and what they resolve to."""

from usual_lamp.core.scene.document import Backdrop, Lighting, Look, ModelUse, Scene, Shot
from usual_lamp.core.scene.edits import (
    AnyEdit,
    Assign,
    ChangeAppearance,
    Edit,
    EditRefused,
    SetLighting,
    SetShot,
    SetStates,
    apply_edit,
)
from usual_lamp.core.scene.resolution import (
    Resolved,
    first_scene,
    model_points,
    resolve_part,
    shown_parts,
    trace_inputs,
)

__all__ = [
    "AnyEdit",
    "Assign",
    "Backdrop",
    "ChangeAppearance",
    "Edit",
    "EditRefused",
    "Lighting",
    "Look",
    "ModelUse",
    "Resolved",
    "Scene",
    "SetLighting",
    "SetShot",
    "SetStates",
    "Shot",
    "apply_edit",
    "first_scene",
    "model_points",
    "resolve_part",
    "shown_parts",
    "trace_inputs",
]
