"""The scene that a still was taken of: what has changed since, and the review as it was then."""

from __future__ import annotations

import re
from typing import BinaryIO

from pydantic import ValidationError
from sqlalchemy import select

from usual_lamp import __version__
from usual_lamp.core.engine_version import ENGINE_VERSION
from usual_lamp.core.picture import scene_text
from usual_lamp.core.scene import Scene
from usual_lamp.core.scene.differences import differences
from usual_lamp.core.scene.resolution import TraceInputs
from usual_lamp.core.scene.resolved import ResolvedScene
from usual_lamp.service.editing import PICTURE
from usual_lamp.service.errors import NotFound, Refused
from usual_lamp.service.pictures import MOST_BYTES, decoded, require_known
from usual_lamp.service.reviews import arranged_assembly, clean_name, new_id, require, scene_of
from usual_lamp.store import Store, again_when_overtaken
from usual_lamp.store.tables import ModelRevision, Review, Still


def changes(store: Store, still_id: str) -> list[str]:
    """Why a still is out of date, in words; empty where it is not, or where that is not known. Raises NotFound."""
    with store.begin() as session:
        still = session.get(Still, still_id)
        if still is None:
            raise NotFound("This still does not exist.")
        now = scene_of(require(session, still.review_id))
        if still.scene is None:
            return []
        then = Scene.model_validate_json(still.scene)
        look = still.look or then.look
        if look not in now.looks:
            return ["The look was removed."]
        if still.lighting is not None and still.lighting not in now.lightings:
            return ["The lighting was removed."]
        if still.camera is not None and still.shot_id in now.shots and still.shot_id in then.shots:
            # It has a view of its own: where its shot looks is nothing to it.
            same = {"camera": then.shots[still.shot_id].camera}
            shot = now.shots[still.shot_id].model_copy(update=same)
            now = now.model_copy(update={"shots": now.shots | {still.shot_id: shot}})
        before = ResolvedScene(arranged_assembly(store, session, then), then, look)
        after = ResolvedScene(arranged_assembly(store, session, now), now, look)
    return differences(before, after, still.shot_id, still.lighting)


def open_still(store: Store, still_id: str) -> str:
    """A new review with the scene as it was for a still; its id. Raises NotFound, Refused."""
    with store.begin() as session:
        still = session.get(Still, still_id)
        if still is None:
            raise NotFound("This still does not exist.")
        if still.scene is None:
            raise Refused("This still was taken before scenes were kept with stills.")
        document, name = _for(still), require(session, still.review_id).name
    return _open(store, document, name)


def _for(still: Still) -> str:
    """The scene with the still's look, lighting and frame shown, as JSON."""
    scene = Scene.model_validate_json(still.scene or "")
    change = {"look": still.look or scene.look, "lit_by": still.lighting or scene.lit_by}
    if still.shot_id in scene.shots:
        own = None if still.lighting else scene.shots[still.shot_id].lighting
        camera = TraceInputs.model_validate_json(still.inputs).camera
        size = {"width": still.width, "height": still.height} if still.crop else {}
        shot = scene.shots[still.shot_id].model_copy(update={"lighting": own, "camera": camera, **size})
        change["shots"] = scene.shots | {still.shot_id: shot}  # type: ignore[assignment]
    return scene.model_copy(update=change).model_dump_json()


def words_of(still: Still, review_name: str, samples: int) -> dict[str, str]:
    """What a still's PNG says of itself, and of the scene."""
    words = {
        "Software": f"Usual Lamp {__version__}",
        "Engine": ENGINE_VERSION,
        "Samples": str(samples),
        "Inputs": still.fingerprint,
    }
    if still.scene is None:
        return words
    return words | {scene_text.SCENE: scene_text.packed(_for(still)), scene_text.REVIEW: review_name}


def words_for(store: Store, still: Still, samples: int) -> dict[str, str]:
    """The same, with the name that its review has now."""
    with store.begin() as session:
        name = session.scalar(select(Review.name).where(Review.id == still.review_id)) or ""
    return words_of(still, name, samples)


def open_picture(store: Store, stream: BinaryIO) -> str:
    """A new review with the scene that an uploaded PNG of a still holds; its id. Raises Refused."""
    with decoded(store, stream, "usual_lamp.core.picture.scene_text:read", MOST_BYTES) as (folder, found):
        document = (folder / "scene.json").read_text()
    return _open(store, document, str(found["review"]) or "Scene of a picture")


@again_when_overtaken
def _open(store: Store, document: str, name: str) -> str:
    try:
        scene = Scene.model_validate_json(document)
    except ValidationError as error:
        raise Refused(scene_text.NOT_OURS) from error
    with store.begin() as session:
        wanted = [use.revision for use in scene.models.values()]
        if not wanted or any(session.get(ModelRevision, revision) is None for revision in wanted):
            raise Refused("The models of this scene are not here. Open the picture where the still was taken.")
        require_known(session, set(PICTURE.findall(document)))
        arranged_assembly(store, session, scene)
        revision = next((use.revision for use in scene.models.values() if use.piece is None), wanted[0])
        review = Review(
            id=new_id(),
            name=clean_name(f"{re.sub(r', as in a still$', '', name)[:100]}, as in a still"),
            revision=revision,
            scene=scene.model_dump_json(),
        )
        session.add(review)
        return review.id
