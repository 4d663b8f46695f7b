"""A part of a finished still as a still of its own: the same pixels, nothing traced."""

from __future__ import annotations

from usual_lamp.core.camera import Camera
from usual_lamp.core.camera.crop import CannotCrop, Crop, Region
from usual_lamp.core.picture.area import Area
from usual_lamp.core.picture.finished import finish_into
from usual_lamp.core.picture.negative import Cut, Negative, write_negative
from usual_lamp.core.picture.survey_file import SurveyFile, write_part
from usual_lamp.core.scene import Scene
from usual_lamp.core.scene.resolution import TraceInputs
from usual_lamp.service import room
from usual_lamp.service.errors import NotFound, Refused
from usual_lamp.service.reviews import new_id, require, touch_stills
from usual_lamp.service.still_light import light_key, require_still
from usual_lamp.service.still_scenes import words_of
from usual_lamp.service.stills import camera_of, crop_of, finish_of, take
from usual_lamp.store import Store, again_when_overtaken, blobs
from usual_lamp.store.tables import Still, StillPreview, utc_now

KEPT = ("review_id", "shot_id", "name", "engine", "quality", "samples", "grain", "grain_asked", "minutes_asked",
        "exposure", "white", "tone", "scene", "look", "lighting", "finish", "camera")  # fmt: skip
"""What the part has of the whole."""


def crop(store: Store, still_id: str, region: Region) -> str:
    """Keep a region (left, top, right, bottom as shares) of a finished still as one more still; its id. Raises
    NotFound, Refused, or NoRoom on a nearly full disk."""
    room.require(store)
    with store.begin() as session:
        still = session.get(Still, still_id)
        if still is None:
            raise NotFound("This still does not exist.")
        review = require(session, still.review_id)
    if still.negative is None or still.state != "done":
        raise Refused("This still cannot be cropped: its light was not kept. Take it again.")
    part, inputs = _part(still, region)
    made = Still(
        id=new_id(),
        inputs=inputs.model_dump_json(),
        fingerprint=inputs.fingerprint(),
        light_key=light_key(inputs),
        width=inputs.width,
        height=inputs.height,
        crop=_of_the_shot(part, still).model_dump_json(),
        state="done",
        done=1.0,
        finished=utc_now(),
        version=1,
        **{name: getattr(still, name) for name in KEPT},
    )
    # Of a large still that takes minutes: nothing is locked meanwhile.
    jpeg = _keep_files(store, still, made, part, words_of(made, review.name, still.samples))
    _list(store, made, jpeg)
    return made.id


@again_when_overtaken
def _list(store: Store, made: Still, jpeg: bytes) -> None:
    """Put a still among those of its review."""
    with store.begin() as session:
        require(session, made.review_id, lock=True)
        session.merge(made)
        session.flush()
        session.add(StillPreview(still_id=made.id, jpeg=jpeg))
        touch_stills(session, made.review_id)


def anew(store: Store, still_id: str, region: Region) -> str:
    """Queue a region of a still to be traced as a still of its own, as fine and as large as the whole; its id. Raises
    NotFound, Refused, or NoRoom on a nearly full disk."""
    with store.begin() as session:
        still = require_still(session, still_id)
        part, inputs = _part(still, region)
        finer = max(still.width, still.height) / max(inputs.width, inputs.height)
        size = round(inputs.width * finer), round(inputs.height * finer)
        wish = {
            "grain": still.grain_asked,
            "minutes": still.minutes_asked,
            "look": still.look,
            "lighting": still.lighting,
            "camera": camera_of(still),
            "by_kind": still.by_kind,
        }
        shot, quality, of_shot = still.shot_id, still.quality, _of_the_shot(part, still)
    return take(store, still.review_id, shot, quality, size, crop=of_shot, **wish)  # type: ignore[arg-type]


def _part(still: Still, region: Region) -> tuple[Crop, TraceInputs]:
    """A region along the pixels of a still, and what the tracer would need for it alone. Raises Refused."""
    inputs = TraceInputs.model_validate_json(still.inputs)
    try:
        part = Crop.of(region, (still.width, still.height))
        whole = _of_the_shot(part, still)
        camera = part.of_camera(inputs.camera) if whole == part else whole.of_camera(_camera_of_the_shot(still))
    except CannotCrop as error:
        raise Refused(str(error)) from error
    width, height = part.size
    return part, inputs.model_copy(update={"camera": camera, "width": width, "height": height})


def _of_the_shot(part: Crop, still: Still) -> Crop:
    """A part of a still as a part of its shot's frame."""
    earlier = crop_of(still)
    return part if earlier is None else part.inside(earlier)


def _camera_of_the_shot(still: Still) -> Camera:
    """The camera of the whole frame, of a still that shows a part of it."""
    return camera_of(still) or Scene.model_validate_json(still.scene or "").shots[still.shot_id].camera


def _keep_files(store: Store, still: Still, made: Still, part: Crop, words: dict[str, str]) -> bytes:
    """Put negative, picture and survey of a part into the database; returns what there is to look at, as JPEG."""
    left, top = part.corner
    area = Area(left, top, left + made.width, top + made.height)
    ground = TraceInputs.model_validate_json(made.inputs).lighting.ground
    with blobs.folder(store) as folder:
        negative, picture, survey = (folder / name for name in ("negative.exr", "picture.png", "survey.exr"))
        write_negative(negative, Cut(Negative(blobs.local(store, still.negative or "")), area))
        with picture.open("wb") as file:
            seen = finish_into(file, Negative(negative), finish_of(still), words, ground)
        made.negative = blobs.hand_in(store, negative, "image/x-exr")
        made.picture = blobs.hand_in(store, picture, "image/png")
        if still.survey is not None:
            write_part(survey, SurveyFile(blobs.local(store, still.survey)), area)
            made.survey = blobs.hand_in(store, survey, "image/x-exr")
    return seen.jpeg
