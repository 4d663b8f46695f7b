"""What one may want to mend in a shot before a still, with what is kept about it."""

from __future__ import annotations

from functools import lru_cache
from pathlib import Path

from PIL import Image
from sqlalchemy import select

from usual_lamp.core.appearance.made_pictures import PREFIX
from usual_lamp.core.scene.preflight import Check, Noise, Ready, preflight
from usual_lamp.core.scene.resolved import ResolvedScene
from usual_lamp.core.scene.sight import SightAnswer, sight_question
from usual_lamp.service import meshes
from usual_lamp.service.errors import NotFound
from usual_lamp.store import Store, blobs
from usual_lamp.store.tables import SightRun, Still


def checks(store: Store, review_id: str, resolved: ResolvedScene, shot_id: str, metered: float | None) -> list[Check]:
    """What was found in a shot of a review; `metered` is the EV that the traced product asks for, where that is known.

    Raises NotFound."""
    if shot_id not in resolved.scene.shots:
        raise NotFound("That shot is not in this review any more.")
    texels = {name: _texels(blobs.local(store, name)) for name in _pictures(resolved)}
    return preflight(
        Ready(
            resolved,
            shot_id,
            lambda name: meshes.read(store, name),
            texels,
            _sight(store, resolved),
            metered,
            _noise(store, review_id, shot_id),
        )
    )


def _pictures(resolved: ResolvedScene) -> set[str]:
    """Content hashes of the pictures that decals and worn appearances lay on parts."""
    decals = {decal.picture for decal in resolved.scene.decals.values() if decal.on and not decal.waits}
    worn = {id(one): one for part in resolved.worn.values() for one in (part.appearance, *part.faces.values())}
    textures = {texture.picture for one in worn.values() for texture in one.textures}
    return decals | {name for name in textures if not name.startswith(PREFIX)}


def _noise(store: Store, review_id: str, shot_id: str) -> Noise | None:
    """What the latest finished still of a shot had left."""
    with store.begin() as session:
        found = session.execute(
            select(Still.grain, Still.samples)
            .where(Still.review_id == review_id, Still.shot_id == shot_id, Still.state == "done")
            .where(Still.grain.is_not(None), Still.removed.is_(None))
            .order_by(Still.created.desc())
            .limit(1)
        ).one_or_none()
        return Noise(found.grain, found.samples) if found else None


def _sight(store: Store, resolved: ResolvedScene) -> SightAnswer | None:
    """Who can be seen, where the farm has answered that."""
    key = sight_question(resolved.assembly, resolved.scene).key()
    with store.begin() as session:
        row = session.get(SightRun, key)
        return SightAnswer.model_validate_json(row.answer) if row is not None and row.answer else None


@lru_cache(maxsize=512)
def _texels(path: Path) -> tuple[int, int]:
    """Pixels of a picture, which never changes under its name."""
    with Image.open(path) as picture:
        return picture.size
