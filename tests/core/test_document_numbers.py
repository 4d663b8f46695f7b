"""What is not a number gets into no document: JSON could not give it back."""

from __future__ import annotations

import json
from collections.abc import Iterator

import pytest
from pydantic import TypeAdapter, ValidationError

from usual_lamp.core.appearance import SHELF
from usual_lamp.core.appearance.texture import Texture
from usual_lamp.core.camera import Camera
from usual_lamp.core.scene import (
    ChangeAppearance,
    Edit,
    Laying,
    LayPictures,
    Lighting,
    ModelUse,
    MoveParts,
    Piece,
    Placement,
    SetLighting,
    SetModels,
    SetShot,
    Shot,
)

EDIT: TypeAdapter[Edit] = TypeAdapter(Edit)
CAMERA = Camera(position=(1, -200, 30), target=(0, 0, 5), f_number=8.0, focus_distance=190.0, shift=(1.0, 2.0))
TEXTURE = Texture(picture="made:oak", target="bump", mapping="surface", width=80, height=40, offset=(1, 2), turn=30)
MEASURED = next(a for a in SHELF.values() if a.params.base_conductor is not None)
EDITS = [
    SetShot(id="shot-1", shot=Shot(name="Front", camera=CAMERA)),
    SetLighting(lighting=Lighting()),
    ChangeAppearance(appearance=MEASURED.model_copy(update={"textures": (TEXTURE,)})),
    MoveParts(moves={"p1": Placement(shift=(1, 2, 3), turn=(4, 5, 6), pivot=(7, 8, 9))}),
    SetModels(models={"m": ModelUse(name="Wall", revision="r", piece=Piece(kind="wall", size=(10, 20, 30)))}),
    LayPictures(layings={"l": Laying(kind="plane", parts={"p1": (1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0)})}),
]


def numbers(value: object, path: tuple[str | int, ...] = ()) -> Iterator[tuple[str | int, ...]]:
    """Where a JSON document holds numbers."""
    if isinstance(value, dict | list):
        for key, inner in value.items() if isinstance(value, dict) else enumerate(value):
            yield from numbers(inner, (*path, key))
    elif isinstance(value, int | float) and not isinstance(value, bool):
        yield path


def with_value(document: dict, path: tuple[str | int, ...], value: float) -> dict:
    changed = json.loads(json.dumps(document))
    place = changed
    for key in path[:-1]:
        place = place[key]
    place[path[-1]] = value
    return changed


@pytest.mark.parametrize("edit", EDITS, ids=lambda edit: edit.kind)
def test_no_number_of_an_edit_may_be_infinite_or_none(edit) -> None:
    document = edit.model_dump(mode="json")
    assert EDIT.validate_python(document) == edit
    places = list(numbers(document))
    assert len(places) >= 2
    for path in places:
        for value in (float("nan"), float("inf"), float("-inf")):
            with pytest.raises(ValidationError):
                EDIT.validate_python(with_value(document, path, value))
