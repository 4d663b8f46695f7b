"""Decals for a review: placed on a spot of a part."""

from __future__ import annotations

import numpy as np

from usual_lamp.core.camera import Camera
from usual_lamp.core.scene import Decal
from usual_lamp.core.scene.decal_placing import placed
from usual_lamp.service import editing, meshes
from usual_lamp.service.errors import NotFound, Refused
from usual_lamp.store import Store

Vector = tuple[float, float, float]


def place(
    store: Store,
    review_id: str,
    decal: Decal | None,
    picture: tuple[str, str, float],
    spot: tuple[str, int, Vector, Vector],
    camera: Camera,
) -> Decal:
    """A decal at a spot: part uid, face, point (mm) and normal in the review's frame. A new one of a picture (name,
    content hash, width over height), or one that is there moved to it, with its size. Raises NotFound and Refused."""
    uid, face, point, normal = spot
    found = editing.look_at(store, review_id)
    part = found.assembly.by_uid.get(uid)
    if part is None or part.definition is None:
        raise NotFound("That part is not in this review any more.")
    mesh = meshes.read(store, found.assembly.definition_of(part).mesh)
    if not 0 <= face < len(mesh.face_ranges):
        raise Refused("That face is not on this part any more. Click it once more.")
    name, content, aspect = picture
    size = (decal.width, decal.height) if decal else None
    way = camera.basis()[1]
    lies = placed(mesh, face, found.assembly.world[uid], np.array(point), np.array(normal), way, aspect, size)
    if decal is not None:
        lies["depth"] = max(decal.depth, float(lies["depth"]) if uid != decal.part else 0.0)  # type: ignore[arg-type]
        return Decal.model_validate(decal.model_dump() | lies | {"part": uid})
    return Decal.model_validate({"name": name[:60] or "Decal", "picture": content, "part": uid} | lies)
