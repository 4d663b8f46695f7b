"""What differs between two scenes, as a JSON Patch (RFC 6902) of the document: "add", "replace" and "remove" only."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from typing import Any, Literal

from pydantic import BaseModel
from pydantic_core import to_jsonable_python

from usual_lamp.core.scene.document import Scene


class Operation(BaseModel):
    """One step of a patch; `path` is a JSON Pointer (RFC 6901)."""

    op: Literal["add", "replace", "remove"]
    path: str
    value: Any = None


def scene_patch(before: Scene, after: Scene) -> list[Operation]:
    """The steps from one scene to the other. What both share unchanged is not looked into."""
    return list(_steps(before, after, ""))


def _steps(old: Any, new: Any, path: str) -> Iterator[Operation]:
    if old is new:
        return
    if type(old) is type(new) and isinstance(old, BaseModel):
        for name in type(new).model_fields:
            yield from _steps(getattr(old, name), getattr(new, name), f"{path}/{_escaped(name)}")
    elif isinstance(old, Mapping) and isinstance(new, Mapping):
        for key in old:
            if key not in new:
                yield Operation(op="remove", path=f"{path}/{_escaped(key)}")
        for key, value in new.items():
            place = f"{path}/{_escaped(key)}"
            if key not in old:
                yield Operation(op="add", path=place, value=_json(value))
            else:
                yield from _steps(old[key], value, place)
    elif old != new:
        yield Operation(op="replace", path=path, value=_json(new))


def _json(value: Any) -> Any:
    return sorted(value) if isinstance(value, frozenset) else to_jsonable_python(value)


def _escaped(key: object) -> str:
    return str(key).replace("~", "~0").replace("/", "~1")
