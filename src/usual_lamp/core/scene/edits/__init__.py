"""Edits: typed commands that turn a Scene into a new one, and say how to undo themselves.

One more edit is one more class in one of these modules; the union that JSON is read with follows from the classes.
"""

from __future__ import annotations

import functools
import operator
from typing import TYPE_CHECKING, Annotated

from pydantic import Field

from usual_lamp.core.scene.edits.base import LONGEST_NAME, BaseEdit, EditRefused, apply_edit
from usual_lamp.core.scene.edits.giving import (
    ApplyFirstCoat,
    Assign,
    ChangeAppearance,
    LayPictures,
    ReplaceAppearance,
    SetImported,
    SetLooks,
    SetRules,
)
from usual_lamp.core.scene.edits.lightings import SetLamps, SetLighting, SetLightings, SetPanoramas
from usual_lamp.core.scene.edits.parts import (
    MoveParts,
    SetDecals,
    SetFilters,
    SetModels,
    SetRounding,
    SetStates,
    SilenceChecks,
)
from usual_lamp.core.scene.edits.shots import SetShot, SetShots

if TYPE_CHECKING:
    Edit = BaseEdit
else:
    Edit = Annotated[functools.reduce(operator.or_, BaseEdit.__subclasses__()), Field(discriminator="kind")]

__all__ = [
    "LONGEST_NAME",
    "ApplyFirstCoat",
    "Assign",
    "BaseEdit",
    "ChangeAppearance",
    "Edit",
    "EditRefused",
    "LayPictures",
    "MoveParts",
    "ReplaceAppearance",
    "SetDecals",
    "SetFilters",
    "SetImported",
    "SetLamps",
    "SetLighting",
    "SetLightings",
    "SetLooks",
    "SetModels",
    "SetPanoramas",
    "SetRounding",
    "SetRules",
    "SetShot",
    "SetShots",
    "SetStates",
    "SilenceChecks",
    "apply_edit",
]
