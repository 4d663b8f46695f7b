"""Finished stills as files: one in any of the forms, or many in a ZIP, named by a pattern."""

from __future__ import annotations

import os
import re
import shutil
import tempfile
import zipfile
from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import BinaryIO

import numpy as np
from sqlalchemy.orm import Session

from usual_lamp.core.camera import Finish
from usual_lamp.core.picture.encoders import Form, TooLarge, require_webp, to_jpeg, to_webp, write_tiff
from usual_lamp.core.picture.finishing import Ground, Light, encoded, encoded_rows
from usual_lamp.core.picture.negative import Negative, write_scene_linear
from usual_lamp.core.picture.png_file import write_png
from usual_lamp.core.picture.survey_file import SINGLE
from usual_lamp.core.scene import Scene
from usual_lamp.core.scene.resolution import TraceInputs
from usual_lamp.service.errors import NotFound, Refused
from usual_lamp.service.reviews import require
from usual_lamp.service.still_layers import ExrWish, kept_layers
from usual_lamp.service.stills import finish_of
from usual_lamp.store import Store, blobs
from usual_lamp.store.tables import Still

ENDINGS: dict[Form, tuple[str, str]] = {
    "png": ("png", "image/png"),
    "png16": ("png", "image/png"),
    "jpeg": ("jpg", "image/jpeg"),
    "webp": ("webp", "image/webp"),
    "tiff": ("tif", "image/tiff"),
    "exr": ("exr", "image/x-exr"),
}
"""Ending and media type."""
PATTERN = "{review} {shot} {look} {size}"
PLACE = re.compile(r"\{([^{}]*)\}")
MOST_AT_ONCE = 200


@dataclass(frozen=True)
class StillFile:
    """A picture to download."""

    name: str
    media_type: str
    path: Path
    made: bool
    """It was made for this download: whoever has opened it removes it."""

    def opened(self) -> BinaryIO:
        """The file to read from, which goes when it is closed if it was made for this."""
        file = self.path.open("rb")
        if self.made:
            self.path.unlink()  # an open file goes on being read after its name is gone
        return file


def file_of(
    store: Store,
    still_id: str,
    form: Form = "png",
    quality: int = 92,
    pattern: str = PATTERN,
    number: int = 1,
    exr: ExrWish = ExrWish(),
) -> StillFile:
    """A finished still in one of the forms; JPEG and WebP with that quality. Raises NotFound, Refused."""
    with store.begin() as session:
        still = session.get(Still, still_id)
        if still is None or still.picture is None:
            raise NotFound("This still is not finished yet.")
        stem = _stem(session, still, pattern, number)
        picture, negative, look = still.picture, still.negative, finish_of(still)
        ground = TraceInputs.model_validate_json(still.inputs).lighting.ground
        if form == "webp":
            _require_webp(still)
        kept = kept_layers(store, session, still, exr.groups) if form == "exr" else None
    ending, media_type = ENDINGS[form]
    name = f"{stem}.{ending}"
    if form == "png":
        return StillFile(name, media_type, blobs.local(store, picture), made=False)
    if negative is None:
        raise Refused("This still was taken before its light was kept. Take it again to get other files than PNG.")
    light = Negative(blobs.local(store, negative))
    target = _new_file(store, ending)
    try:
        if kept is not None:
            write_scene_linear(target, light, look, kept.words, exr.half, kept.rows, SINGLE)
        else:
            with target.open("wb") as file:
                _write(file, light, look, ground, form, quality)
    except BaseException:
        target.unlink(missing_ok=True)
        raise
    return StillFile(name, media_type, target, made=True)


def _require_webp(still: Still) -> None:
    try:
        require_webp(still.width, still.height)
    except TooLarge as error:
        raise Refused(str(error)) from error


def _write(file: BinaryIO, light: Light, look: Finish, ground: Ground | None, form: Form, quality: int) -> None:
    """A picture in one of the forms; all can be clear but JPEG."""
    if form == "jpeg":
        file.write(to_jpeg(encoded(light, look, np.uint8), quality))
    elif form == "webp":
        file.write(to_webp(encoded(light, look, np.uint8, ground), quality))
    elif form == "png16":
        write_png(file, light.size, encoded_rows(light, look, np.uint16, ground), {})
    else:
        rows = encoded_rows(light, look, np.uint16, ground)
        write_tiff(file, light.size, rows, np.uint16, 3 if ground is None else 4)


def _new_file(store: Store, ending: str) -> Path:
    handle, name = tempfile.mkstemp(dir=store.cache, prefix="request-", suffix=f".{ending}")
    os.close(handle)
    return Path(name)


def zip_of(store: Store, review_id: str, still_ids: Sequence[str], form: Form, pattern: str) -> Path:
    """Some finished stills of a review as a ZIP in the cache, numbered as given. Raises NotFound, Refused."""
    if not 1 <= len(still_ids) <= MOST_AT_ONCE:
        raise Refused(f"Select between 1 and {MOST_AT_ONCE} stills.")
    with store.begin() as session:
        require(session, review_id)
        for id in still_ids:
            still = session.get(Still, id)
            if still is None or still.review_id != review_id:
                raise NotFound("One of these stills is not in this review any more.")
    target = _new_file(store, "zip")
    taken: set[str] = set()
    try:
        # Pictures are packed already: packing them again would only cost time.
        with zipfile.ZipFile(target, "w", zipfile.ZIP_STORED) as packed:
            for number, id in enumerate(still_ids, start=1):
                one = file_of(store, id, form, pattern=pattern, number=number)
                with one.opened() as file, packed.open(_unlike(one.name, taken), "w", force_zip64=True) as place:
                    shutil.copyfileobj(file, place)
    except BaseException:
        target.unlink(missing_ok=True)
        raise
    return target


def _unlike(name: str, taken: set[str]) -> str:
    """The name, or with a number where another file has it."""
    stem, _, ending = name.rpartition(".")
    found, number = name, 2
    while found.lower() in taken:
        found, number = f"{stem} {number}.{ending}", number + 1
    taken.add(found.lower())
    return found


def _stem(session: Session, still: Still, pattern: str, number: int) -> str:
    """The file's name without its ending: {review}, {shot}, {look}, {lighting}, {size}, {date} and {number} stand for
    what they say. Raises Refused for a pattern that has others."""
    scene = Scene.model_validate_json(still.scene) if still.scene else None
    look = scene.looks.get(still.look or "") if scene else None
    lit = None
    if scene and still.shot_id in scene.shots:
        lit = scene.lightings.get(still.lighting or "") or scene.lighting_of(scene.shots[still.shot_id])
    known = {
        "review": require(session, still.review_id).name,
        "shot": still.name,
        "look": look.name if look else "",
        "lighting": lit.name if lit else "",
        "size": f"{still.width}x{still.height}",
        "date": f"{still.created:%Y-%m-%d}",
        "number": f"{number:02}",
    }
    asked = PLACE.findall(pattern)
    if not set(asked) <= set(known) or "{" in PLACE.sub("", pattern) or "}" in PLACE.sub("", pattern):
        raise Refused(f"A name is made of {', '.join(f'{{{word}}}' for word in known)} and plain words.")
    named = PLACE.sub(lambda found: known[found[1]], pattern)
    kept = "".join(c if c.isalnum() or c in "-_ .,+()" else " " for c in named)
    return " ".join(kept.split())[:150].strip(" .") or "still"
