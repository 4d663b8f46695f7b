"""The light that finished stills keep: other levels of it, and more samples of it."""

from __future__ import annotations

from sqlalchemy import func, select, true
from sqlalchemy.orm import Session

from usual_lamp.core.engine_version import ENGINE_VERSION
from usual_lamp.core.quality import SAMPLES, Quality
from usual_lamp.core.scene import Lighting
from usual_lamp.core.scene.light_groups import at_nominal_levels, light_groups
from usual_lamp.core.scene.resolution import TraceInputs, unnamed
from usual_lamp.core.trace.group_sums import MOST_ASKED_FOR, can_be_kept
from usual_lamp.service import room
from usual_lamp.service.errors import NotFound, Refused
from usual_lamp.service.reviews import new_id, require, scene_of, touch_stills
from usual_lamp.store import Store, again_when_overtaken
from usual_lamp.store.tables import Still, StillLight


def light_key(inputs: TraceInputs) -> str:
    """Hash of the inputs with every light at its nominal level."""
    nominal = at_nominal_levels(inputs.lighting)
    groups = light_groups(inputs.lighting).kept
    return f"{groups}{inputs.model_copy(update={'lighting': nominal}).fingerprint()}"[:64]


def to_relight(
    session: Session, review_id: str, fingerprint: str, key: str, samples: int, grain: float | None, by_kind: bool
) -> str | None:
    """A still whose kept light gives one that is to be as fine as this: the same light, or else the finest that can be
    relit. Light by kind does not follow other levels: it takes the same light, kept so."""
    found = select(Still.id).where(
        Still.review_id == review_id, Still.removed.is_(None), Still.engine == ENGINE_VERSION, Still.state == "done",
        Still.samples >= samples if grain is None else Still.grain <= grain,
    ).order_by(Still.samples.desc(), Still.created.desc()).limit(1)  # fmt: skip
    same = session.scalar(
        found.where(
            Still.fingerprint == fingerprint,
            Still.negative.is_not(None),
            Still.by_kind.is_(True) if by_kind else true(),
        )
    )
    if same or by_kind:
        return same
    return session.scalar(found.where(Still.light_key == key, Still.light_kept.is_(True)))


def require_room_for_kinds(inputs: TraceInputs) -> None:
    """Raises Refused for a picture that is too large to keep its light by kind."""
    groups = light_groups(inputs.lighting).kept
    if can_be_kept(inputs.width, inputs.height, groups, asked=True):
        return
    share = MOST_ASKED_FOR / groups / (inputs.width * inputs.height)
    width, height = (int(side * share**0.5) for side in (inputs.width, inputs.height))
    raise Refused(
        f"Layers by kind of light are kept up to {width} x {height} pixels in this lighting. Take a smaller still, or "
        "leave them out."
    )


@again_when_overtaken
def relight(store: Store, still_id: str, lighting: Lighting) -> str:
    """Queue a new version of a finished still under other levels of its lights; its id. Raises NotFound, Refused."""
    room.require(store)
    with store.begin() as session:
        still = require_still(session, still_id)
        require(session, still.review_id, lock=True)
        lender = still if still.light_kept else session.get(Still, still.relit_of or "")
        if lender is None or not lender.light_kept:
            raise Refused("The light of this still is not kept apart. Take it again to change its lights afterwards.")
        inputs = TraceInputs.model_validate_json(still.inputs).model_copy(update={"lighting": unnamed(lighting)})
        if light_key(inputs) != still.light_key:
            raise Refused("Only switches, levels and colours of the lights can be changed in a finished still.")
        copied = ("review_id", "shot_id", "name", "engine", "quality", "width", "height", "samples", "grain_asked",
                  "minutes_asked", "exposure", "white", "tone", "light_key", "scene", "look", "lighting", "finish",
                  "crop", "camera")  # fmt: skip
        made = Still(
            id=new_id(),
            inputs=inputs.model_dump_json(),
            fingerprint=inputs.fingerprint(),
            relit_of=lender.id,
            **{name: getattr(still, name) for name in copied},
        )
        session.add(made)
        touch_stills(session, still.review_id)
        return made.id


def lighting_of(store: Store, still_id: str) -> Lighting:
    """The lighting that a still was taken in, its lamps named as the review names them now. Raises NotFound."""
    with store.begin() as session:
        still = session.get(Still, still_id)
        if still is None:
            raise NotFound("This still does not exist.")
        lighting = TraceInputs.model_validate_json(still.inputs).lighting
        scene = scene_of(require(session, still.review_id))
    known = {id: lamp.name for one in scene.lightings.values() for id, lamp in one.lamps.items()}
    known |= {id: lamp.name for id, lamp in scene.lighting.lamps.items()}
    lamps = {
        id: lamp.model_copy(update={"name": known.get(id, lamp.kind.capitalize())})
        for id, lamp in lighting.lamps.items()
    }
    return lighting.model_copy(update={"lamps": lamps})


def leave_as_it_was(session: Session, still: Still) -> None:
    """Leave a still that was to be traced on as it was when it ended; its checkpoints are to be dropped after that."""
    samples = session.scalar(select(func.min(StillLight.samples)).where(StillLight.still_id == still.id))
    still.state, still.done, still.message, still.lease = "done", 1.0, None, None
    still.samples, still.grain_asked, still.minutes_asked = samples or still.samples, None, None
    still.attempt += 1
    touch_stills(session, still.review_id)


@again_when_overtaken
def go_on(store: Store, still_id: str, quality: Quality, grain: float | None = None) -> None:
    """Trace a finished still on, from where it ended, to a finer quality or less grain: the same samples as if it had
    been asked for that. Raises NotFound, Refused, or NoRoom on a nearly full disk."""
    room.require(store)
    with store.begin() as session:
        still = require_still(session, still_id)
        known = session.scalars(select(StillLight.samples).where(StillLight.still_id == still_id)).all()
        if still.state != "done" or not still.light_kept or not known or None in known:
            raise Refused("This still cannot be traced on. Take it again in a finer quality.")
        if still.engine != ENGINE_VERSION:
            raise Refused("This still was traced by an earlier version of the engine. Take it again.")
        finer = SAMPLES[quality] > still.samples if grain is None else still.grain is None or grain < still.grain
        if not finer:
            raise Refused("This still is as fine as that already.")
        still.done = still.samples / max(SAMPLES[quality], still.samples + 1)
        still.quality, still.grain_asked, still.minutes_asked, still.ends_now = quality, grain, None, False
        still.samples = max(SAMPLES[quality], still.samples + 1)
        still.state, still.message, still.lease = "queued", None, None
        touch_stills(session, still.review_id)


def require_still(session: Session, still_id: str) -> Still:
    still = session.get(Still, still_id, with_for_update=True)
    if still is None:
        raise NotFound("This still does not exist.")
    return still
