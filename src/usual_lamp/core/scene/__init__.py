"""The scene document, its edits, and what they resolve to."""

from usual_lamp.core.scene.arrangement import arranged, arrangement_key
from usual_lamp.core.scene.document import Backdrop, Lighting, Look, ModelUse, Piece, Placement, Rule, Scene, Shot
from usual_lamp.core.scene.edits import (
    AnyEdit,
    Assign,
    ChangeAppearance,
    Edit,
    EditRefused,
    MoveParts,
    ReplaceAppearance,
    SetImported,
    SetLighting,
    SetLooks,
    SetModels,
    SetRules,
    SetShot,
    SetStates,
    apply_edit,
)
from usual_lamp.core.scene.imported_look import imported_look
from usual_lamp.core.scene.levels import Layer, Resolved, Resolver, Why, resolve_part
from usual_lamp.core.scene.resolution import (
    first_scene,
    model_points,
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
    "Layer",
    "Lighting",
    "Look",
    "ModelUse",
    "MoveParts",
    "Piece",
    "Placement",
    "ReplaceAppearance",
    "Resolved",
    "Resolver",
    "Rule",
    "Scene",
    "SetImported",
    "SetLighting",
    "SetLooks",
    "SetModels",
    "SetRules",
    "SetShot",
    "SetStates",
    "Shot",
    "Why",
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
