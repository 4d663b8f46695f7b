"""Decals for a review: drawn, and placed on a spot of a part."""

from __future__ import annotations

from dataclasses import dataclass
from typing import BinaryIO

import numpy as np
from PIL import Image

from usual_lamp.core.assembly import PartDefinition
from usual_lamp.core.camera import Camera
from usual_lamp.core.decals import Drawing, Drawn, draw, resized
from usual_lamp.core.decals.fonts import OWN
from usual_lamp.core.exr import UnreadablePicture
from usual_lamp.core.picture.clearing import without_background
from usual_lamp.core.scene import Decal
from usual_lamp.core.scene.decal import Cleared
from usual_lamp.core.scene.decal_faces import across, face_beneath
from usual_lamp.core.scene.decal_placing import placed
from usual_lamp.core.scene.decal_sharpness import SOFT, pixels_covered
from usual_lamp.core.scene.decal_snaps import Snaps, snaps
from usual_lamp.core.scene.sheets import on_sheet
from usual_lamp.service import editing, meshes, pictures, room
from usual_lamp.service.errors import NotFound, Refused
from usual_lamp.store import Store, blobs

MOST_FONT_BYTES = 30 * 2**20
Vector = tuple[float, float, float]


def place(
    store: Store,
    review_id: str,
    decal: Decal | None,
    picture: tuple[str, str | None, float],
    spot: tuple[str, int, Vector, Vector],
    camera: Camera,
    drawing: Drawing | None = None,
    keep: bool = False,
) -> Decal:
    """A decal at a spot: part uid, face, point (mm) and normal in the review's frame. A new one of a picture (name,
    content hash, width over height) or a drawing, or one that is there moved to it, with its size; it stands upright
    to the view, or with `keep` as it stood. Raises NotFound and Refused."""
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
    way, matrix = camera.basis()[1], found.assembly.world[uid]
    at = (np.array(point), np.array(normal))
    if decal is None and drawing is not None:
        form = _draw(store, drawing)
        fits = placed(mesh, face, matrix, *at, way, form.width / form.height)
        drawing = resized(drawing, fits["width"] / form.width)
        made = drawn(store, drawing)
        content, size = made.picture, (made.width, made.height)
    elif decal is None and content is None:
        raise Refused("Select a picture for the decal first.")
    if decal is not None and keep and decal.part in found.assembly.world:
        way = found.assembly.world[decal.part][:3, :3] @ np.array(decal.up)
    lies = placed(mesh, face, matrix, *at, way, aspect, size, snap=not keep)
    if decal is not None:
        lies["depth"] = max(decal.depth, float(lies["depth"]) if uid != decal.part else 0.0)  # type: ignore[arg-type]
        if decal.faces:
            # One that was kept to a face is kept to the one that it is put on.
            signature = found.assembly.definition_of(part).faces[face].signature
            lies["faces"] = decal.faces if uid == decal.part and signature in decal.faces else (signature,)
        lies["also"] = tuple(other for other in decal.also if other != uid)
        moved = decal.model_dump() | lies | {"part": uid, "waits": False, "sheet": None}
        put = Decal.model_validate(moved)
        return _following(store, put, found.assembly.definition_of(part), face) if decal.sheet else put
    return Decal.model_validate(
        {"name": name[:60] or "Decal", "picture": content, "part": uid, "drawing": drawing} | lies
    )


@dataclass(frozen=True)
class DrawnPicture:
    """A drawing as a picture in the store."""

    picture: str
    """Content hash."""
    width: float
    """mm."""
    height: float


def drawn(store: Store, drawing: Drawing) -> DrawnPicture:
    """Make and keep the picture of a drawing. Raises Refused, NoRoom."""
    room.require(store)
    made = _draw(store, drawing)
    with store.begin() as session:
        picture = blobs.put_bytes(session, made.png, "image/png")
    return DrawnPicture(picture, made.width, made.height)


def _draw(store: Store, drawing: Drawing) -> Drawn:
    try:
        return draw(drawing, lambda name: blobs.local(store, name))
    except ValueError as error:
        raise Refused(str(error)) from error


def cleared(store: Store, wish: Cleared) -> str:
    """Make and keep a picture without its plain background; its content hash. Raises Refused, NoRoom."""
    room.require(store)
    try:
        png = without_background(blobs.read(store, wish.source), wish.tolerance, wish.inside)
    except UnreadablePicture as error:
        raise Refused(str(error)) from error
    except blobs.BlobMissing as error:
        raise Refused("That picture is not here. Select its file again.") from error
    with store.begin() as session:
        return blobs.put_bytes(session, png, "image/png")


@dataclass(frozen=True)
class Sharpness:
    """How one shot shows a decal."""

    shot: str
    """Its name."""
    pixels: float
    """Of the picture that one pixel of the decal covers."""
    soft: bool


def sharpness(store: Store, review_id: str, decal_id: str) -> list[Sharpness]:
    """How sharp a decal is in each shot that does not look away from it. Raises NotFound."""
    found, decal, _ = _on_its_part(store, review_id, decal_id)
    with Image.open(blobs.local(store, decal.picture)) as picture:
        texels = picture.size
    lines = []
    for shot in found.scene.shots.values():
        matrix = found.assembly.world[decal.part]
        pixels = pixels_covered(decal, matrix, shot.camera, (shot.width, shot.height), texels)
        if pixels is not None:
            lines.append(Sharpness(shot.name, round(pixels, 3), pixels > SOFT))
    return lines


def snaps_of(store: Store, review_id: str, decal_id: str, face: int) -> Snaps:
    """What a decal snaps to that is moved over a face of its part. Raises NotFound."""
    found, decal, definition = _on_its_part(store, review_id, decal_id)
    mesh = meshes.read(store, definition.mesh)
    if not 0 <= face < len(mesh.face_ranges):
        raise NotFound("That face is not on this part any more.")
    look = found.scene.look
    others = [
        other
        for key, other in found.scene.decals.items()
        if key != decal_id and other.part == decal.part and other.look in (None, look)
    ]
    return snaps(mesh, face, decal, others)


def face_of(store: Store, review_id: str, decal_id: str) -> str:
    """The signature of the face that a decal lies on. Raises NotFound, Refused."""
    _, decal, definition = _on_its_part(store, review_id, decal_id)
    try:
        return definition.faces[face_beneath(meshes.read(store, definition.mesh), decal.plain)].signature
    except (LookupError, IndexError) as error:
        raise Refused("No face lies beneath the middle of this decal. Move it onto one first.") from error


def along_face(store: Store, review_id: str, decal_id: str) -> Decal:
    """A decal that follows the face it lies on, as that unrolls. Raises NotFound, Refused."""
    _, decal, definition = _on_its_part(store, review_id, decal_id)
    try:
        return _following(store, decal, definition, face_beneath(meshes.read(store, definition.mesh), decal.plain))
    except LookupError as error:
        raise Refused("No face lies beneath the middle of this decal. Move it onto one first.") from error


def _following(store: Store, decal: Decal, definition: PartDefinition, face: int) -> Decal:
    """The decal along a face of its part. Raises LookupError."""
    unrolled = meshes.read_mapped(store, definition.mesh, None)
    sheet = on_sheet(unrolled, face, definition.faces[face].signature, decal)
    change = {"sheet": sheet, "wrap": None, "also": (), "faces": ()}
    return Decal.model_validate(decal.model_dump() | change)


def to_far_side(store: Store, review_id: str, decal_id: str) -> Decal:
    """A decal on the opposite side of the wall that it lies on. Raises NotFound, Refused."""
    _, decal, definition = _on_its_part(store, review_id, decal_id)
    try:
        return across(meshes.read(store, definition.mesh), decal)
    except LookupError as error:
        raise Refused("The wall beneath this decal has no far side that it could lie on.") from error


def _on_its_part(store: Store, review_id: str, decal_id: str) -> tuple[editing.Edited, Decal, PartDefinition]:
    """A review, a decal of it, and the definition of its part. Raises NotFound."""
    found = editing.look_at(store, review_id)
    decal = found.scene.decals.get(decal_id)
    part = found.assembly.by_uid.get(decal.part) if decal else None
    if decal is None or part is None or part.definition is None:
        raise NotFound("That decal, or its part, is not in this review any more.")
    return found, decal, found.assembly.definition_of(part)


def keep_font(store: Store, stream: BinaryIO) -> tuple[str, str]:
    """Keep a font file; the name that drawings know it by, and its own. Raises Refused, NoRoom."""
    with pictures.decoded(store, stream, "usual_lamp.core.decals.fonts:decode", MOST_FONT_BYTES) as (folder, found):
        with store.begin() as session:
            kept = blobs.put_file(session, folder / "font", "font/ttf")
        return OWN + kept, str(found["family"])
