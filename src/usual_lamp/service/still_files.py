"""Finished stills as files: one in any of the forms, or many in a ZIP, named by a pattern."""

from __future__ import annotations

import re
import tempfile
import zipfile
from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import Literal, NamedTuple, get_args

import numpy as np
from numpy.typing import NDArray
from sqlalchemy import select
from sqlalchemy.orm import Session

from usual_lamp.core.camera import Finish
from usual_lamp.core.picture import Form, Image, finish, to_jpeg, to_png, to_tiff, to_webp
from usual_lamp.core.picture.finishing import Clean, encoded, encoded_on_nothing, finish_on_nothing
from usual_lamp.core.picture.negative import from_negative, to_scene_linear
from usual_lamp.core.picture.survey_file import matte_words, survey_channels
from usual_lamp.core.scene import Lighting, Scene
from usual_lamp.core.scene.resolution import TraceInputs, shown_in
from usual_lamp.core.scene.resolved import ResolvedScene
from usual_lamp.core.trace.group_sums import kinds, layers, relit, unpacked
from usual_lamp.core.trace.plan import tiles
from usual_lamp.service.errors import NotFound, Refused
from usual_lamp.service.reviews import arranged_assembly, require
from usual_lamp.service.stills import finish_of
from usual_lamp.store import Store, blobs
from usual_lamp.store.tables import Still, StillLight

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


LayerGroup = Literal["raw", "lights", "kinds", "surface", "seen"]
"""The light with its grain; that of each lamp; light by kind; albedo and normal that the grain is removed by; and
depth, position, normals, coverage, occlusion and mattes."""


@dataclass(frozen=True)
class ExrWish:
    """What an OpenEXR file is to hold beside the picture, its light and its backdrop, where the still has kept it."""

    groups: frozenset[LayerGroup] = frozenset(get_args(LayerGroup))
    half: bool = False
    """Light as half numbers, true to 0.05 percent and half as large; depth, position and mattes stay as they are."""


class StillFile(NamedTuple):
    """A picture to download."""

    name: str
    media_type: str
    data: bytes


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
        inputs = TraceInputs.model_validate_json(still.inputs)
        lighting = inputs.lighting
        ground = lighting.ground
        names = _lamp_names(still, lighting)
        more = _kept_layers(session, still, lighting, names, exr.groups) if form == "exr" else {}
        survey, camera = still.survey if "seen" in exr.groups else None, inputs.camera
        words = _matte_words(store, session, still, inputs) if form == "exr" and survey else {}
    ending, media_type = ENDINGS[form]
    name = f"{stem}.{ending}"
    if form == "png":
        return StillFile(name, media_type, blobs.read(store, picture))
    if negative is None:
        raise Refused("This still was taken before its light was kept. Take it again to get other files than PNG.")
    clean = from_negative(blobs.read(store, negative))
    if form == "exr":
        seen = survey_channels(blobs.read(store, survey), camera) if survey else {}
        return StillFile(name, media_type, to_scene_linear(clean, look, more, seen, words, exr.half))
    if form == "jpeg":
        return StillFile(name, media_type, to_jpeg(finish(clean, look), quality))
    if form == "webp":
        flat = finish(clean, look) if ground is None else finish_on_nothing(clean, look, ground)
        return StillFile(name, media_type, to_webp(flat, quality))
    deep = _deep(clean, look, ground)
    return StillFile(name, media_type, to_png(deep) if form == "png16" else to_tiff(deep))


def _lamp_names(still: Still, lighting: Lighting) -> dict[str, str]:
    """By id, as they were called in the scene that it was taken of."""
    scene = Scene.model_validate_json(still.scene) if still.scene else None
    known = {id: lamp.name for one in scene.lightings.values() for id, lamp in one.lamps.items()} if scene else {}
    return {id: known.get(id, id) for id in lighting.lamps}


def _matte_words(store: Store, session: Session, still: Still, inputs: TraceInputs) -> dict[str, str]:
    """What the numbers of its mattes stand for."""
    names: list[str] = []
    scene = Scene.model_validate_json(still.scene) if still.scene else None
    if scene and still.shot_id in scene.shots:
        resolved = ResolvedScene(arranged_assembly(store, session, scene), scene, still.look)
        names = [part.name for part in shown_in(resolved, scene.shots[still.shot_id])]
    return matte_words(names, [worn.name for worn in inputs.appearances])


def _kept_layers(
    session: Session, still: Still, lighting: Lighting, names: dict[str, str], groups: frozenset[LayerGroup]
) -> dict[str, Image]:
    """What a still has kept of its light, as layers of those groups; nothing where that is gone."""
    lender = still if still.light_kept else session.get(Still, still.relit_of or "")
    if lender is None or groups <= {"seen"}:
        return {}
    rows = session.scalars(select(StillLight).where(StillLight.still_id == lender.id)).all()
    cut = tiles(still.width, still.height)
    if len(rows) < len(cut):
        return {}
    by_tile = {row.tile: unpacked(row.means, cut[row.tile].height, cut[row.tile].width) for row in rows}
    means = np.zeros((still.height, still.width, by_tile[0].shape[2]), np.float32)
    for place, t in enumerate(cut):
        means[t.y : t.y + t.height, t.x : t.x + t.width] = by_tile[place]
    named = layers(means, lighting, names)
    surface = {"albedo": named.pop("albedo"), "normal": named.pop("normal")}
    found = (named if "lights" in groups else {}) | (surface if "surface" in groups else {})
    if lender.fingerprint != still.fingerprint:
        return found  # the rest is that of the levels that were traced
    if "raw" in groups:
        whole = relit(means, lighting, None)
        found["light_raw"] = whole[..., 0:3] - whole[..., 9:12]
    return found | (kinds(means) if "kinds" in groups else {})


def _deep(clean: Clean, look: Finish, ground: tuple[float, float, float] | None) -> NDArray[np.uint16]:
    return encoded(clean, look, np.uint16) if ground is None else encoded_on_nothing(clean, look, ground, np.uint16)


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
    with tempfile.NamedTemporaryFile(dir=store.cache, prefix="request-", suffix=".zip", delete=False) as target:
        taken: set[str] = set()
        # Pictures are packed already: packing them again would only cost time.
        with zipfile.ZipFile(target, "w", zipfile.ZIP_STORED) as packed:
            for number, id in enumerate(still_ids, start=1):
                one = file_of(store, id, form, pattern=pattern, number=number)
                packed.writestr(_unlike(one.name, taken), one.data)
        return Path(target.name)


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
