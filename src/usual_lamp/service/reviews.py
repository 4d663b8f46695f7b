"""Reviews: list, open, make from an intake, rename, copy, remove and bring back."""

from __future__ import annotations

import secrets
import threading
from dataclasses import dataclass
from datetime import datetime

import numpy as np
from sqlalchemy import select, update
from sqlalchemy.orm import Session

from usual_lamp.core.assembly import Assembly
from usual_lamp.core.scene import Scene, arranged, arrangement_key, first_scene
from usual_lamp.core.scene.first_picture import with_outline
from usual_lamp.service.errors import NotFound, Refused
from usual_lamp.service.first_lighting import first_lighting
from usual_lamp.service.first_shot import first_shot
from usual_lamp.store import Store, again_when_overtaken, blobs
from usual_lamp.store.tables import ModelRevision, Review, Still, utc_now

_manifests: dict[str, Assembly] = {}
_arrangements: dict[str, Assembly] = {}
_arrangements_lock = threading.Lock()


@dataclass(frozen=True)
class ReviewLine:
    """One line of the list of reviews."""

    id: str
    name: str
    file_name: str
    updated: datetime
    cover: str | None
    stills: int


def new_id() -> str:
    return secrets.token_hex(6)


def clean_name(name: str) -> str:
    """A name without surrounding space, at most 120 characters. Raises Refused when nothing is left."""
    cleaned = " ".join(name.split())[:120]
    if not cleaned:
        raise Refused("A review needs a name.")
    return cleaned


def require(session: Session, review_id: str, lock: bool = False) -> Review:
    """The review, unless it does not exist or was removed. Raises NotFound."""
    review = session.get(Review, review_id, with_for_update=True if lock else None)
    if review is None or review.removed is not None:
        raise NotFound("This review does not exist or was removed.")
    return review


def touch(session: Session, review_id: str) -> None:
    """Tell watching browsers that something of the review changed that is not about its stills alone."""
    session.execute(update(Review).where(Review.id == review_id).values(pulse=Review.pulse + 1))


def touch_stills(session: Session, review_id: str) -> None:
    """Tell watching browsers that something about the review's stills changed, and nothing else."""
    session.execute(update(Review).where(Review.id == review_id).values(still_pulse=Review.still_pulse + 1))


def list_reviews(store: Store) -> list[ReviewLine]:
    with store.begin() as session:
        rows = session.execute(
            select(Review, ModelRevision.file_name)
            .join(ModelRevision, ModelRevision.id == Review.revision)
            .where(Review.removed.is_(None))
            .order_by(Review.updated.desc())
        ).all()
        kept = session.scalars(
            select(Still.review_id).where(Still.removed.is_(None), Still.is_cover.is_(False), Still.state == "done")
        ).all()
        return [ReviewLine(r.id, r.name, file_name, r.updated, r.cover, kept.count(r.id)) for r, file_name in rows]


def get_review(store: Store, review_id: str) -> Review:
    with store.begin() as session:
        return require(session, review_id)


def make_review(session: Session, name: str, revision: str, assembly: Assembly) -> Review:
    scene = first_scene(
        assembly, revision, start=lambda stand: first_lighting(session, stand), habits=first_shot(session)
    )
    scene = with_outline(assembly, scene)
    review = Review(id=new_id(), name=clean_name(name), revision=revision, scene=scene.model_dump_json())
    session.add(review)
    session.flush()
    return review


@again_when_overtaken
def rename(store: Store, review_id: str, name: str) -> None:
    with store.begin() as session:
        review = require(session, review_id, lock=True)
        review.name = clean_name(name)
        review.pulse += 1


@again_when_overtaken
def copy(store: Store, review_id: str) -> str:
    """A copy with the same scene; its history starts anew. Returns its id."""
    with store.begin() as session:
        source = require(session, review_id)
        twin = Review(
            id=new_id(),
            name=clean_name(f"{source.name[:110]}, copy"),
            revision=source.revision,
            scene=source.scene,
            cover=source.cover,
        )
        session.add(twin)
        return twin.id


@again_when_overtaken
def remove(store: Store, review_id: str) -> None:
    """Take a review off the list; `restore` brings it back whole."""
    with store.begin() as session:
        require(session, review_id, lock=True).removed = utc_now()


@again_when_overtaken
def restore(store: Store, review_id: str) -> None:
    with store.begin() as session:
        review = session.get(Review, review_id, with_for_update=True)
        if review is None:
            raise NotFound("This review does not exist.")
        review.removed = None


MOST_MANIFESTS = 24


def remember(manifest: str, assembly: Assembly) -> None:
    """Keep an assembly in memory, as a manifest that is just being stored cannot be read back before its commit."""
    with _arrangements_lock:
        _manifests[manifest] = assembly
        while len(_manifests) > MOST_MANIFESTS:
            _manifests.pop(next(iter(_manifests)))


def _assembly(store: Store, manifest: str) -> Assembly:
    with _arrangements_lock:
        known = _manifests.get(manifest)
    if known is None:
        known = Assembly.model_validate_json(blobs.read(store, manifest))
        remember(manifest, known)
    return known


def assembly_of(store: Store, session: Session, revision: str) -> Assembly:
    """The assembly of a model revision; manifests are immutable, so the latest few stay in memory."""
    manifest = session.scalar(select(ModelRevision.manifest).where(ModelRevision.id == revision))
    if manifest is None:
        raise NotFound("A model of this review is missing.")
    return _assembly(store, manifest)


def arranged_assembly(store: Store, session: Session, scene: Scene) -> Assembly:
    """All models of a scene, where it puts them; the latest few arrangements stay in memory."""
    key = arrangement_key(scene)
    with _arrangements_lock:
        known = _arrangements.get(key)
    if known is None:
        own = {model: assembly_of(store, session, use.revision) for model, use in scene.models.items()}
        known = arranged(scene, own)
        with _arrangements_lock:
            _arrangements[key] = known
            while len(_arrangements) > 16:
                _arrangements.pop(next(iter(_arrangements)))
    return known


def file_of(session: Session, revision: str) -> str:
    return session.scalar(select(ModelRevision.file_name).where(ModelRevision.id == revision)) or ""


def middle_of(store: Store, session: Session, revision: str) -> tuple[float, float, float]:
    """Middle of a model's box in its own frame, mm."""
    own = assembly_of(store, session, revision)
    corners = np.concatenate([own.corners(part) for part in own.parts()])
    x, y, z = (round(float(value), 3) for value in (corners.min(axis=0) + corners.max(axis=0)) / 2)
    return x, y, z


def scene_of(review: Review) -> Scene:
    return Scene.model_validate_json(review.scene)
