"""Stills as people handle them: take, pause, go on, stop, list, download, remove."""

from __future__ import annotations

import threading
from collections import OrderedDict
from dataclasses import dataclass
from datetime import datetime
from typing import Literal

from sqlalchemy import func, select
from sqlalchemy.orm import Session, defer

from usual_lamp.core.camera import Camera, Finish
from usual_lamp.core.camera.crop import CannotCrop, Crop
from usual_lamp.core.engine_version import ENGINE_VERSION
from usual_lamp.core.quality import SAMPLES, Quality
from usual_lamp.core.scene import Scene, Shot, inputs_of, trace_inputs
from usual_lamp.core.scene.edits import LONGEST_NAME
from usual_lamp.core.scene.light_groups import light_groups
from usual_lamp.core.scene.resolution import TraceInputs
from usual_lamp.core.scene.resolved import ResolvedScene
from usual_lamp.core.trace.group_sums import can_be_kept, channels
from usual_lamp.core.trace.plan import CHANNELS
from usual_lamp.service import checkpoints, room
from usual_lamp.service.errors import NotFound, Refused
from usual_lamp.service.reviews import arranged_assembly, new_id, require, scene_of, touch_stills
from usual_lamp.service.still_light import (
    leave_as_it_was,
    light_key,
    require_room_for_kinds,
    require_still,
    to_relight,
)
from usual_lamp.store import Store, again_when_overtaken
from usual_lamp.store.tables import Review, Still, StillLight, StillPreview, utc_now

BYTES = 60
"""Of room on the disk that a pixel takes while a still is put together; its sums come to that."""
LONGEST_NOTE = 500


@dataclass(frozen=True)
class StillLine:
    """One still as it is shown."""

    id: str
    name: str
    shot_id: str
    state: str
    quality: str
    width: int
    height: int
    samples: int
    samples_done: int
    grain: float | None
    grain_asked: float | None
    minutes_asked: float | None
    ends_now: bool
    """It was, or is to be, finished with the samples it has, fewer than were asked for."""
    dropped: int
    """Samples that were no finite number."""
    seconds: float
    seconds_left: float | None
    version: int
    message: str | None
    engine: str
    current: bool
    """The scene still gives this picture."""
    look: str | None
    """By id; None: not noted."""
    lighting: str | None
    """By id, where it is not the shot's."""
    starred: bool
    note: str
    developable: bool
    """Its light is kept without grain: files of any kind can be made of it."""
    light_kept: bool
    """Its lights can be changed without tracing."""
    by_kind: bool
    """Its light is kept by kind, or is to be."""
    can_go_on: bool
    """It can be traced on to less grain from where it ended."""
    crop: Crop | None
    """The part of the shot's frame that it shows; None: all of it."""
    camera: Camera | None
    """That it was taken with; None: its shot's."""
    relit: bool
    """It was made from the kept light of another still."""
    created: datetime


@again_when_overtaken
def take(
    store: Store,
    review_id: str,
    shot_id: str,
    quality: Quality,
    size: tuple[int, int] | None = None,
    cover: bool = False,
    grain: float | None = None,
    look: str | None = None,
    lighting: str | None = None,
    crop: Crop | None = None,
    camera: Camera | None = None,
    minutes: float | None = None,
    by_kind: bool = False,
) -> str:
    """Queue a still of the present scene; returns its id. Raises NotFound, Refused, or NoRoom on a nearly full disk.

    With a `grain` (relative error before denoising) it is traced until that is reached, whatever the quality; with
    `minutes` for so long. `look` and `lighting` are by id, where they are not those that are shown; `crop` is the part
    of the frame to show, and `camera` looks in place of the shot's. One whose light is kept `by_kind` has layers of it.
    Where a still that is at least as fine has kept its light and differs in the levels of lights or the finish alone,
    nothing is traced.
    """
    with store.begin() as session:
        # Locked first, since the new row would otherwise share a lock that `touch_stills` then needs alone.
        review = require(session, review_id, lock=True)
        scene = scene_of(review)
        shot = shot_as(scene, shot_id, look, lighting, crop, camera)
        width, height = size or (shot.width, shot.height)
        try:
            inputs = trace_inputs(arranged_assembly(store, session, scene), scene, shot, (width, height), look)
        except ValueError as error:
            raise Refused(str(error)) from error
        if by_kind:
            require_room_for_kinds(inputs)
        room.require(store, _room_for(inputs, by_kind))
        light = light_key(inputs)
        fine_as = (inputs.fingerprint(), light, SAMPLES[quality], grain, by_kind)
        still = Still(
            light_key=light,
            relit_of=None if minutes else to_relight(session, review_id, *fine_as),
            id=new_id(),
            review_id=review_id,
            shot_id=shot_id,
            name=(f"{shot.name[: LONGEST_NAME - 12]}, other view" if camera else shot.name)[:LONGEST_NAME],
            is_cover=cover,
            inputs=inputs.model_dump_json(),
            scene=scene.model_dump_json(),
            look=look or scene.look,
            lighting=lighting,
            finish=shot.finish.model_dump_json(),
            crop=crop.model_dump_json() if crop else None,
            camera=camera.model_dump_json() if camera else None,
            fingerprint=inputs.fingerprint(),
            engine=ENGINE_VERSION,
            quality=quality,
            width=width,
            height=height,
            samples=SAMPLES[quality],
            grain_asked=grain,
            minutes_asked=minutes,
            by_kind=by_kind,
            exposure=shot.exposure,
            white=shot.white,
            tone=shot.tone,
        )
        session.add(still)
        touch_stills(session, review_id)
        return still.id


def _room_for(inputs: TraceInputs, by_kind: bool) -> float:
    """MB that a still takes while it is made."""
    groups = light_groups(inputs.lighting).kept
    apart = can_be_kept(inputs.width, inputs.height, groups, by_kind)
    sums = channels(groups, by_kind) if apart else CHANNELS
    return inputs.width * inputs.height * (BYTES + 4 * sums) / 2**20


def shot_as(
    scene: Scene, id: str, look: str | None, lighting: str | None, crop: Crop | None, camera: Camera | None
) -> Shot:
    """A shot as a still shows it: in the lighting of that id, from another view, a part of its frame; each where it is
    given. Raises NotFound, Refused."""
    shot = scene.shots.get(id)
    if shot is None:
        raise NotFound("That shot is not in this review any more.")
    if look is not None and look not in scene.looks:
        raise NotFound("That look is not in this review any more.")
    if camera is not None:
        shot = shot.model_copy(update={"camera": camera})
    if crop is not None:
        try:
            shot = shot.model_copy(update={"camera": crop.of_camera(shot.camera)})
        except CannotCrop as error:
            raise Refused(str(error)) from error
    if lighting is None:
        return shot
    if lighting not in scene.lightings:
        raise NotFound("That lighting is not in this review any more.")
    return shot.model_copy(update={"lighting": lighting})


def finish_of(still: Still) -> Finish:
    """How a still is finished."""
    if still.finish is not None:
        return Finish.model_validate_json(still.finish)
    return Finish.model_validate({"exposure": still.exposure, "white": still.white, "tone": still.tone})


def crop_of(still: Still) -> Crop | None:
    """The part of the shot's frame that a still shows; None for all of it."""
    return None if still.crop is None else Crop.model_validate_json(still.crop)


def camera_of(still: Still) -> Camera | None:
    """The camera that a still was taken with; None for its shot's."""
    return None if still.camera is None else Camera.model_validate_json(still.camera)


def list_stills(store: Store, review_id: str) -> list[StillLine]:
    """Newest first."""
    with store.begin() as session:
        review = require(session, review_id)
        rows = session.scalars(
            select(Still)
            .where(Still.review_id == review_id, Still.removed.is_(None), Still.is_cover.is_(False))
            .order_by(Still.created.desc())
            .options(defer(Still.inputs), defer(Still.scene))
        ).all()
        now = Present(store, session, review)
        unended = select(StillLight.still_id).where(StillLight.samples.is_(None))
        whole = set(
            session.scalars(
                select(Still.id).where(
                    Still.review_id == review_id, Still.light_kept.is_(True), Still.relit_of.is_(None),
                    Still.engine == ENGINE_VERSION, Still.state == "done", Still.id.not_in(unended),
                )
            )
        )  # fmt: skip
        lenders = set(
            session.scalars(select(Still.id).where(Still.review_id == review_id, Still.light_kept.is_(True))).all()
        )
        return [
            _line(
                still,
                current=now.gives(still),
                light_kept=still.state == "done" and not lenders.isdisjoint((still.id, still.relit_of)),
                can_go_on=still.id in whole,
            )
            for still in rows
        ]


FINGERPRINTS: OrderedDict[tuple[object, ...], str] = OrderedDict()
"""Of what a step of a review gives, by step, shot, size, look and lighting: asked again whenever a still goes on."""
MOST_FINGERPRINTS = 4000
_fingerprints_lock = threading.Lock()


class Present:
    """What a review gives now; worked out once for all stills that were taken alike."""

    def __init__(self, store: Store, session: Session, review: Review) -> None:
        self.store, self.session, self.review = store, session, review
        self.scene = scene_of(review)
        self._resolved: dict[str, ResolvedScene] = {}

    def gives(self, still: Still) -> bool:
        """Whether that is the still's picture."""
        look = still.look or self.scene.look
        try:
            seen = crop_of(still), camera_of(still)
            shot = shot_as(self.scene, still.shot_id, look, still.lighting, *seen)
        except (NotFound, Refused):
            return False
        # Exposure, white and the like are no trace inputs, but they are part of the picture.
        if shot.finish != finish_of(still):
            return False
        return self._fingerprint(shot, still, look) == still.fingerprint

    def _fingerprint(self, shot: Shot, still: Still, look: str) -> str:
        size = (still.width, still.height)
        key = (self.review.id, self.review.seq, still.shot_id, *size, look, still.lighting, still.crop, still.camera)
        with _fingerprints_lock:
            known = FINGERPRINTS.get(key)
        if known is None:
            try:
                known = inputs_of(self._in(look), shot, size).fingerprint()
            except ValueError:
                known = ""
            with _fingerprints_lock:
                FINGERPRINTS[key] = known
                while len(FINGERPRINTS) > MOST_FINGERPRINTS:
                    FINGERPRINTS.popitem(last=False)
        return known

    def _in(self, look: str) -> ResolvedScene:
        if look not in self._resolved:
            assembly = arranged_assembly(self.store, self.session, self.scene)
            self._resolved[look] = ResolvedScene(assembly, self.scene, look)
        return self._resolved[look]


def _line(still: Still, current: bool, light_kept: bool, can_go_on: bool) -> StillLine:
    # While it waits for a tracer, or its grain is removed, the time is not that of tracing.
    known = still.done > 0.01 and still.state in ("running", "paused") and still.message is None
    left = still.seconds / still.done * (1 - still.done) if known else None
    return StillLine(
        id=still.id, name=still.name, shot_id=still.shot_id, state=still.state, quality=still.quality,
        width=still.width, height=still.height, samples=still.samples,
        samples_done=int(still.done * still.samples + 1e-6),
        grain=still.grain,
        grain_asked=still.grain_asked,
        minutes_asked=still.minutes_asked,
        ends_now=still.ends_now,
        dropped=still.dropped,
        seconds=still.seconds, seconds_left=left, version=still.version, message=still.message, engine=still.engine,
        current=current, created=still.created, light_kept=light_kept, relit=still.relit_of is not None,
        look=still.look, lighting=still.lighting, starred=still.starred, note=still.note,
        developable=still.negative is not None, can_go_on=can_go_on, by_kind=still.by_kind, crop=crop_of(still),
        camera=camera_of(still),
    )  # fmt: skip


MOVES: dict[str, tuple[tuple[str, ...], str]] = {
    "pause": (("queued", "running"), "paused"),
    "resume": (("paused", "stopped", "failed"), "queued"),
    "stop": (("queued", "running", "paused"), "stopped"),
}


def move(store: Store, still_id: str, step: Literal["pause", "resume", "stop"]) -> None:
    """Change the state of a still; whoever traces it notices within a unit of work. Raises NotFound, Refused."""
    if _moved_back(store, still_id, step):
        checkpoints.drop(store, still_id)


@again_when_overtaken
def _moved_back(store: Store, still_id: str, step: Literal["pause", "resume", "stop"]) -> bool:
    """Change its state; whether it is as it was before it was to be traced on."""
    allowed, target = MOVES[step]
    with store.begin() as session:
        still = require_still(session, still_id)
        if still.state not in allowed:
            raise Refused(f"A still that is {still.state} cannot be told to {step}.")
        if step == "stop" and still.picture is not None:
            leave_as_it_was(session, still)
            return True
        still.state, still.message, still.lease = target, None, None
        touch_stills(session, still.review_id)
        return False


@again_when_overtaken
def end_now(store: Store, still_id: str) -> None:
    """Finish a still with the samples that it has, no pixel with less than half of what most others have.

    Raises NotFound, Refused."""
    with store.begin() as session:
        still = require_still(session, still_id)
        if still.state not in ("queued", "running", "paused", "stopped"):
            raise Refused(f"A still that is {still.state} cannot be finished now.")
        if still.done == 0:
            raise Refused("Nothing of this still is traced yet.")
        still.ends_now = True
        if still.state != "running":
            still.state, still.message, still.lease = "queued", None, None
        touch_stills(session, still.review_id)


@again_when_overtaken
def set_removed(store: Store, still_id: str, removed: bool) -> None:
    """Take a still off the list (stopping it if it is being traced), or put it back."""
    with store.begin() as session:
        still = require_still(session, still_id)
        still.removed = utc_now() if removed else None
        if removed and still.state in MOVES["stop"][0]:
            still.state = "stopped"
        touch_stills(session, still.review_id)


@again_when_overtaken
def mark(store: Store, still_id: str, starred: bool | None = None, note: str | None = None) -> None:
    """Star a still or not, or note something on it. Raises NotFound."""
    with store.begin() as session:
        still = require_still(session, still_id)
        if starred is not None:
            still.starred = starred
        if note is not None:
            still.note = note.strip()[:LONGEST_NOTE]
        touch_stills(session, still.review_id)


@again_when_overtaken
def put_first(store: Store, still_id: str) -> None:
    """Let a still that waits be traced before all others that wait. Raises NotFound, Refused."""
    with store.begin() as session:
        still = require_still(session, still_id)
        if still.state not in ("queued", "running", "paused"):
            raise Refused(f"A still that is {still.state} does not wait.")
        still.first = 1 + (session.scalar(select(func.max(Still.first))) or 0)
        touch_stills(session, still.review_id)


def preview(store: Store, still_id: str) -> bytes:
    with store.begin() as session:
        jpeg = session.scalar(select(StillPreview.jpeg).where(StillPreview.still_id == still_id))
    if jpeg is None:
        raise NotFound("There is no picture of this still yet.")
    return bytes(jpeg)
