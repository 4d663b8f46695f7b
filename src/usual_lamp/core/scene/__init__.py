"""The scene document, its edits, and what they resolve to."""

from usual_lamp.core.scene.arrangement import arranged, arrangement_key
from usual_lamp.core.scene.document import Backdrop, Lighting, Look, ModelUse, Piece, Placement, Scene, Shot
from usual_lamp.core.scene.edits import (
    AnyEdit,
    Assign,
    ChangeAppearance,
    Edit,
    EditRefused,
    MoveParts,
    SetImported,
    SetLighting,
    SetModels,
    SetShot,
    SetStates,
    apply_edit,
)
from usual_lamp.core.scene.resolution import (
    Resolved,
    first_scene,
    imported_look,
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
    "MoveParts",
    "Piece",
    "Placement",
    "Resolved",
    "Scene",
    "SetImported",
    "SetLighting",
    "SetModels",
    "SetShot",
    "SetStates",
    "Shot",
    "apply_edit",
    "arranged",
    "arrangement_key",
    "first_scene",
    "imported_look",
    "model_points",
    "resolve_part",
    "shown_parts",
    "trace_inputs",
]
