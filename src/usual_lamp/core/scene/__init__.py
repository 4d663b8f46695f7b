"""The scene document, its edits, and what they resolve to."""

from usual_lamp.core.scene.document import Backdrop, Lighting, Look, ModelUse, Scene, Shot
from usual_lamp.core.scene.edits import Edit, EditRefused, apply_edit
from usual_lamp.core.scene.resolution import Resolved, first_scene, model_points, resolve_part, shown_parts, trace_inputs

__all__ = [
    "Backdrop",
    "Edit",
    "EditRefused",
    "Lighting",
    "Look",
    "ModelUse",
    "Resolved",
    "Scene",
    "Shot",
    "apply_edit",
    "first_scene",
    "model_points",
    "resolve_part",
    "shown_parts",
    "trace_inputs",
]
