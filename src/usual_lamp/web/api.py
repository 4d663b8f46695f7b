"""The JSON API under /api."""

from __future__ import annotations

import gzip
from collections.abc import Callable
from pathlib import Path

from flask import Response, current_app, request, send_file
from flask_openapi3 import APIBlueprint

from usual_lamp.core.appearance import FAMILIES, SHELF, SYNONYMS, made_pictures
from usual_lamp.core.picture.read import png_of
from usual_lamp.core.scene import Shot, arrangement_key
from usual_lamp.core.scene.resolved import ResolvedScene
from usual_lamp.service import editing, intakes, meshes, reviews, settings, shelf
from usual_lamp.service.editing import Edited
from usual_lamp.service.errors import NotFound
from usual_lamp.service.resolving import Resolutions
from usual_lamp.store import Store, blobs
from usual_lamp.web import history_schemas as past
from usual_lamp.web import schemas, views
from usual_lamp.web.events import Hub
from usual_lamp.web.later import Stream

api = APIBlueprint(
    "api",
    __name__,
    url_prefix="/api",
    abp_responses={"404": schemas.Problem, "409": schemas.Problem, "422": schemas.Problem},
)
IMMUTABLE = "private, max-age=31536000, immutable"
PACKED_ABOVE = 32 * 1024


def store() -> Store:
    return current_app.extensions["store"]  # type: ignore[no-any-return]


def hub() -> Hub:
    return current_app.extensions["hub"]  # type: ignore[no-any-return]


def answer(model: object, status: int = 200) -> Response:
    text = model.model_dump_json()  # type: ignore[attr-defined]
    return Response(text, status, mimetype="application/json", headers={"Cache-Control": "no-store"})


def nothing() -> Response:
    return Response(status=204)


@api.get("/health", operation_id="health")
def health() -> Response:
    with store().begin() as session:
        session.connection()
    return Response("{}", mimetype="application/json")


# -- reviews ----------------------------------------------------------------------------------------------------


@api.get("/reviews", operation_id="listReviews", responses={"200": schemas.ReviewList})
def list_reviews() -> Response:
    lines = [schemas.ReviewLine(**vars(line)) for line in reviews.list_reviews(store())]
    runs = [schemas.IntakeLine(**vars(run)) for run in intakes.open_runs(store())]
    return answer(schemas.ReviewList(reviews=lines, intakes=runs))


@api.get("/reviews/<review_id>", operation_id="openReview", responses={"200": schemas.ReviewOpened})
def open_review(path: schemas.ReviewPath) -> Response:
    review = reviews.get_review(store(), path.review_id)
    scene = reviews.scene_of(review)
    with store().begin() as session:
        assembly = reviews.arranged_assembly(store(), session, scene)
        lines = [
            schemas.ModelLine(
                id=key, name=use.name, file_name=reviews.file_of(session, use.revision),
                pivot=reviews.middle_of(store(), session, use.revision),
            )
            for key, use in scene.models.items()
        ]  # fmt: skip
    model = views.model(assembly, lines, arrangement_key(scene))
    return answer(schemas.ReviewOpened(id=review.id, name=review.name, model=model))


@api.patch("/reviews/<review_id>", operation_id="renameReview", responses={"204": None})
def rename_review(path: schemas.ReviewPath, body: schemas.Rename) -> Response:
    reviews.rename(store(), path.review_id, body.name)
    hub().wake.set()
    return nothing()


@api.post("/reviews/<review_id>/copy", operation_id="copyReview", responses={"201": schemas.Id})
def copy_review(path: schemas.ReviewPath) -> Response:
    return answer(schemas.Id(id=reviews.copy(store(), path.review_id)), 201)


@api.delete("/reviews/<review_id>", operation_id="removeReview", responses={"204": None})
def remove_review(path: schemas.ReviewPath) -> Response:
    reviews.remove(store(), path.review_id)
    hub().wake.set()
    return nothing()


@api.post("/reviews/<review_id>/restore", operation_id="restoreReview", responses={"204": None})
def restore_review(path: schemas.ReviewPath) -> Response:
    reviews.restore(store(), path.review_id)
    return nothing()


@api.get("/events", doc_ui=False)
def events() -> Response:
    """What changes in any review, as it changes: one stream for all tabs of a browser."""
    return Stream(hub().stream, "text/event-stream", {"Cache-Control": "no-store"})


# -- the scene --------------------------------------------------------------------------------------------------


@api.get("/reviews/<review_id>/scene", operation_id="getScene", responses={"200": schemas.StandingAnswer})
def get_scene(path: schemas.ReviewPath, query: schemas.SceneQuery) -> Response:
    found = editing.look_at(store(), path.review_id)
    if query.look is not None and query.look not in found.scene.looks:
        raise NotFound("That look is not in this review any more.")
    if query.look is not None and query.look != found.scene.look:
        return answer(views.standing(found, ResolvedScene(found.assembly, found.scene, query.look)))
    return stands(path.review_id, found, query.known)


@api.post("/reviews/<review_id>/edits", operation_id="editScene", responses={"200": schemas.StandingAnswer})
def edit_scene(path: schemas.ReviewPath, query: schemas.KnownQuery, body: schemas.EditBody) -> Response:
    edited = editing.edit(store(), path.review_id, body.edit)
    hub().wake.set()
    return stands(path.review_id, edited, query.known)


@api.post("/reviews/<review_id>/undo", operation_id="undo", responses={"200": schemas.StandingAnswer})
def undo(path: schemas.ReviewPath, query: past.StepQuery) -> Response:
    edited = editing.undo(store(), path.review_id, query.to)
    hub().wake.set()
    return stands(path.review_id, edited, query.known)


@api.post("/reviews/<review_id>/redo", operation_id="redo", responses={"200": schemas.StandingAnswer})
def redo(path: schemas.ReviewPath, query: past.StepQuery) -> Response:
    edited = editing.redo(store(), path.review_id, query.to)
    hub().wake.set()
    return stands(path.review_id, edited, query.known)


@api.get("/reviews/<review_id>/history", operation_id="getHistory", responses={"200": past.History})
def get_history(path: schemas.ReviewPath) -> Response:
    """The last edits, to go back or forth by several at once."""
    edits = [past.PastEdit(**vars(edit)) for edit in editing.history(store(), path.review_id)]
    return answer(past.History(edits=edits))


def resolved_now(review_id: str) -> ResolvedScene:
    """A review as it stands, in the look that is shown."""
    resolutions: Resolutions = current_app.extensions["resolutions"]
    return resolutions.resolved(review_id, editing.look_at(store(), review_id))


def shot_now(path: schemas.ShotPath) -> tuple[ResolvedScene, Shot]:
    """The same, and a shot of it. Raises NotFound."""
    resolved = resolved_now(path.review_id)
    shot = resolved.scene.shots.get(path.shot_id)
    if shot is None:
        raise NotFound("That shot is not in this review any more.")
    return resolved, shot


def stands(review_id: str, edited: Edited, known: int | None = None) -> Response:
    """Where a review stands: what changed since a step that the asker has, or the whole."""
    resolutions: Resolutions = current_app.extensions["resolutions"]
    if known is not None:
        found = resolutions.since(review_id, edited, known)
        if found is not None:
            return answer(views.change(edited, known, found))
    return answer(views.standing(edited, resolutions.resolved(review_id, edited)))


# -- shelf and light --------------------------------------------------------------------------------------------


@api.get("/shelf", operation_id="getShelf", responses={"200": schemas.Shelf})
def get_shelf() -> Response:
    on_it = shelf.samples(store())
    plates = shelf.plates(store(), on_it)
    samples = [
        schemas.Sample(
            appearance=sample, plate=plates[name], words=SYNONYMS.get(name, "own kept"), kept=name not in SHELF
        )
        for name, sample in on_it.items()
    ]
    return answer(schemas.Shelf(families=list(FAMILIES), samples=samples))


# -- settings ---------------------------------------------------------------------------------------------------


@api.get("/settings/tracing", operation_id="getTracing", responses={"200": schemas.TracingSettings})
def get_tracing() -> Response:
    found, most = settings.tracing(store()), settings.machine()
    pair = (schemas.Tracing(**vars(value)) for value in (found, most))
    return answer(schemas.TracingSettings(tracing=next(pair), machine=next(pair)))


@api.put("/settings/tracing", operation_id="setTracing", responses={"204": None})
def set_tracing(body: schemas.Tracing) -> Response:
    settings.set_tracing(store(), settings.Tracing(body.cores, body.memory))
    return nothing()


@api.get("/blobs/<sha256>", doc_ui=False)
def get_blob(path: schemas.BlobPath) -> Response:
    """Meshes and plates: immutable, so browsers keep them."""
    return _immutable(blobs.local(store(), path.sha256))


@api.get("/blobs/<sha256>/coarse", doc_ui=False)
def get_coarse(path: schemas.BlobPath) -> Response:
    """A mesh's coarse stand-in."""
    return _immutable(meshes.coarse_file(store(), path.sha256))


@api.get("/blobs/<sha256>/laid", doc_ui=False)
def get_laid(path: schemas.BlobPath, query: schemas.LaidQuery) -> Response:
    """A mesh with coordinates in mm as they were laid by hand."""
    return _immutable(meshes.mapped_file(store(), path.sha256, query.laid))


@api.get("/blobs/<sha256>/unrolled", doc_ui=False)
def get_unrolled(path: schemas.BlobPath) -> Response:
    """A mesh with coordinates in mm for pictures."""
    return _immutable(meshes.mapped_file(store(), path.sha256, None))


def made_from(sha256: str, ending: str, make: Callable[[bytes], bytes]) -> Response:
    """What is made of a blob when it is first asked for, and kept beside it."""
    return _immutable(blobs.made_from(store(), sha256, ending, make))


@api.get("/pictures/<name>", doc_ui=False)
def get_made_picture(path: schemas.MadePath) -> Response:
    """A picture that is made by rule."""
    if not made_pictures.is_made(path.name):
        raise NotFound("There is no such picture.")
    reply = Response(png_of(made_pictures.picture(path.name)), mimetype="image/png")
    reply.headers["Cache-Control"] = "private, max-age=86400"
    return reply


def _immutable(file: Path) -> Response:
    """A file that never changes, packed for those who can unpack it."""
    if request.accept_encodings["gzip"] and file.stat().st_size > PACKED_ABOVE:
        packed = file.with_name(f"{file.name}.gz")
        if not packed.exists():
            blobs.write_whole(packed, gzip.compress(file.read_bytes(), 1))
        reply = send_file(packed, mimetype="application/octet-stream")
        reply.headers["Content-Encoding"] = "gzip"
    else:
        reply = send_file(file, mimetype="application/octet-stream")
    reply.headers["Cache-Control"] = IMMUTABLE
    reply.headers["Vary"] = "Accept-Encoding"
    return reply
