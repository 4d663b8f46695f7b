"""The API of what is brought in and cleaned up: intakes, revisions, models, findings, colours, the filter."""

from __future__ import annotations

import math

import numpy as np
from flask import Response, request
from flask_openapi3 import APIBlueprint

from usual_lamp.core.assembly.odd_edges import odd_edges
from usual_lamp.core.intake.first_look import HEAD, hopeless
from usual_lamp.core.intake.formats import doubt_of_unit
from usual_lamp.core.intake.reading import Reading
from usual_lamp.core.scene.first_coat import FirstCoat, first_coat
from usual_lamp.core.scene.imported_colors import imported_colors, nearly_alike
from usual_lamp.core.scene.part_filter import FilterProblem, facts_of, fields_of, filtered
from usual_lamp.core.scene.resolution import DEFAULT_SHOT
from usual_lamp.core.scene.resolved import ResolvedScene
from usual_lamp.service import (
    attitude,
    clean_up,
    following,
    intakes,
    meshes,
    models,
    preflight,
    revisions,
    stills,
    tessellating,
)
from usual_lamp.service.editing import Edited
from usual_lamp.web import intake_schemas as found_in
from usual_lamp.web import preflight_schemas as checking
from usual_lamp.web import schemas, views
from usual_lamp.web.api import answer, hub, nothing, resolved_now, stands, store

assembly_api = APIBlueprint(
    "assembly",
    __name__,
    url_prefix="/api",
    abp_responses={"404": schemas.Problem, "409": schemas.Problem, "422": schemas.Problem},
)


MODEL = "/reviews/<review_id>/models/<model>"


def edited(review_id: str, found: Edited) -> Response:
    """How a review stands after an edit that brings another arrangement of models."""
    hub().wake.set()
    return stands(review_id, found)


# -- intakes ----------------------------------------------------------------------------------------------------


@assembly_api.post("/intakes", operation_id="takeIn", responses={"201": schemas.Id})
def take_in(query: found_in.IntakeQuery) -> Response:
    """The file is the request's body, as it is."""
    asked = (query.name, query.quality, query.unit, query.up)
    target = intakes.For(query.purpose, query.review_id, query.model, query.ask)
    run = intakes.receive(store(), request.stream, query.file_name, *asked, target=target)  # type: ignore[arg-type]
    return answer(schemas.Id(id=run), 201)


@assembly_api.post("/intakes/look", operation_id="lookAtHead", responses={"200": found_in.FirstLook})
def look_at_head(query: found_in.HeadQuery) -> Response:
    """Whether a file that begins with the request's body can be read at all; asked before the whole of it is sent."""
    return answer(found_in.FirstLook(problem=hopeless(query.file_name, request.stream.read(HEAD))))


@assembly_api.get("/intakes/<intake_id>", operation_id="getIntake", responses={"200": schemas.IntakeLine})
def get_intake(path: schemas.IntakePath) -> Response:
    return answer(schemas.IntakeLine(**vars(intakes.get(store(), path.intake_id))))


@assembly_api.post("/intakes/<intake_id>/stop", operation_id="stopIntake", responses={"204": None})
def stop_intake(path: schemas.IntakePath) -> Response:
    intakes.stop(store(), path.intake_id)
    hub().wake.set()
    return nothing()


@assembly_api.get("/intakes/<intake_id>/found", operation_id="getFound", responses={"200": found_in.IntakeFound})
def get_found(path: schemas.IntakePath) -> Response:
    found = intakes.found(store(), path.intake_id)
    assembly = found.assembly
    lines = [schemas.ModelLine(id="model-1", name=assembly.name, file_name=found.line.file_name, pivot=(0, 0, 0))]
    hidden = set(assembly.hidden_in_cad())
    parts = [part for part in assembly.parts() if part.uid not in hidden] or list(assembly.parts())
    corners = np.concatenate([assembly.corners(part) for part in parts])
    x, y, z = (float(value) for value in np.ptp(corners, axis=0))
    return answer(
        found_in.IntakeFound(
            line=schemas.IntakeLine(**vars(found.line)),
            quality=found.quality, unit=found.unit, up=found.up,  # type: ignore[arg-type]
            size=(x, y, z),
            doubt=doubt_of_unit((x, y, z)),
            triangles=sum(assembly.definition_of(part).triangles for part in assembly.parts()),
            reading=found.reading,
            chord=assembly.chord, angle=math.degrees(assembly.angle),
            variants=assembly.variants, variant=assembly.variant,
            model=views.model(assembly, lines, path.intake_id),
            face_colors=views.face_colors(assembly),
        )
    )  # fmt: skip


@assembly_api.post("/intakes/<intake_id>/accept", operation_id="acceptIntake", responses={"200": schemas.Id})
def accept_intake(path: schemas.IntakePath, body: found_in.IntakeAccept) -> Response:
    review = intakes.accept(store(), path.intake_id, body.name, body.only)
    stills.take(store(), review, DEFAULT_SHOT, "coarse", (480, 360), cover=True)
    return answer(schemas.Id(id=review))


@assembly_api.post("/intakes/<intake_id>/again", operation_id="readAgain", responses={"204": None})
def read_again(path: schemas.IntakePath, body: found_in.IntakeAgain) -> Response:
    reading = Reading(chord=body.chord, angle=body.angle, variant=body.variant)
    intakes.read_again(store(), path.intake_id, body.quality, body.unit, body.up, reading)
    return nothing()


@assembly_api.get("/reviews/<review_id>/intakes", operation_id="listIntakes", responses={"200": found_in.IntakeLines})
def list_intakes(path: schemas.ReviewPath) -> Response:
    lines = [schemas.IntakeLine(**vars(line)) for line in intakes.open_runs(store(), path.review_id)]
    return answer(found_in.IntakeLines(intakes=lines))


# -- revisions --------------------------------------------------------------------------------------------------


@assembly_api.get("/intakes/<intake_id>/report", operation_id="getReport", responses={"200": schemas.RevisionReport})
def get_report(path: schemas.IntakePath) -> Response:
    return answer(views.report(revisions.proposal(store(), path.intake_id)))


@assembly_api.post("/intakes/<intake_id>/join", operation_id="joinParts", responses={"200": schemas.RevisionReport})
def join_parts(path: schemas.IntakePath, body: schemas.Join) -> Response:
    revisions.join(store(), path.intake_id, body.new, body.old)
    return answer(views.report(revisions.proposal(store(), path.intake_id)))


@assembly_api.post("/intakes/<intake_id>/replace", operation_id="replaceModel", responses={"200": schemas.Standing})
def replace_model(path: schemas.IntakePath) -> Response:
    found = revisions.accept(store(), path.intake_id)
    hub().wake.set()
    return answer(views.standing(found, ResolvedScene(found.assembly, found.scene)))


@assembly_api.get("/reviews/<review_id>/followed", operation_id="listFollowed", responses={"200": schemas.Follows})
def list_followed(path: schemas.ReviewPath) -> Response:
    lines = [schemas.FollowLine(**vars(line)) for line in following.followed(store(), path.review_id)]
    return answer(schemas.Follows(followed=lines))


@assembly_api.put(f"{MODEL}/follow", operation_id="follow", responses={"204": None})
def follow(path: schemas.ModelPath, body: schemas.FollowBody) -> Response:
    following.follow(store(), path.review_id, path.model, body.path)
    hub().wake.set()
    return nothing()


@assembly_api.delete(f"{MODEL}/follow", operation_id="unfollow", responses={"204": None})
def unfollow(path: schemas.ModelPath) -> Response:
    following.unfollow(store(), path.review_id, path.model)
    hub().wake.set()
    return nothing()


@assembly_api.post(f"{MODEL}/newer", operation_id="takeNewer", responses={"201": schemas.Id})
def take_newer(path: schemas.ModelPath) -> Response:
    return answer(schemas.Id(id=following.take_newer(store(), path.review_id, path.model)), 201)


# -- models and their places ------------------------------------------------------------------------------------


@assembly_api.post(f"{MODEL}/place", operation_id="placeModel", responses={"200": schemas.Standing})
def place_model(path: schemas.ModelPath, body: schemas.PlaceStep) -> Response:
    def face(ref: schemas.FaceRef | None) -> attitude.FaceOf | None:
        return attitude.FaceOf(ref.uid, ref.face) if ref else None

    step = attitude.AttitudeChange(
        axis="xyz".index(body.axis) if body.axis else None,
        degrees=body.degrees,
        rest=body.rest,
        face=face(body.face),
        against=face(body.against),
        floor=body.floor,
        reset=body.reset,
    )
    return edited(path.review_id, attitude.place(store(), path.review_id, path.model, step))


@assembly_api.get(f"{MODEL}/rests", operation_id="listRests", responses={"200": schemas.Rests})
def list_rests(path: schemas.ModelPath) -> Response:
    found = attitude.rests(store(), path.review_id, path.model)
    return answer(schemas.Rests(rests=[schemas.RestLine(**vars(rest)) for rest in found]))


@assembly_api.post("/reviews/<review_id>/pieces", operation_id="putPiece", responses={"200": schemas.Standing})
def put_piece(path: schemas.ReviewPath, body: schemas.PieceBody) -> Response:
    return edited(path.review_id, models.put_piece(store(), path.review_id, body.piece, body.model))


@assembly_api.post("/reviews/<review_id>/tessellation", operation_id="tessellate", responses={"202": schemas.Ids})
def tessellate(path: schemas.ReviewPath, body: schemas.TessellationBody) -> Response:
    if body.crease is not None or body.flip:
        runs = tessellating.ask_smoothing(store(), path.review_id, body.uids, body.crease, body.flip)
    else:
        asked = (body.uids, body.quality, body.chord, body.angle, body.shot)
        runs = tessellating.ask(store(), path.review_id, *asked)
    hub().wake.set()
    return answer(schemas.Ids(ids=runs), 202)


# -- clean-up ---------------------------------------------------------------------------------------------------


@assembly_api.get("/reviews/<review_id>/findings", operation_id="getFindings", responses={"200": found_in.Findings})
def get_findings(path: schemas.ReviewPath) -> Response:
    found = clean_up.find(store(), path.review_id)
    return answer(found_in.Findings(findings=found.findings, looking=found.looking))


@assembly_api.get(
    "/reviews/<review_id>/imported", operation_id="getImported", responses={"200": schemas.ImportedColors}
)
def get_imported(path: schemas.ReviewPath, query: schemas.ImportedQuery) -> Response:
    rows = imported_colors(resolved_now(path.review_id))
    return answer(schemas.ImportedColors(colors=rows, alike=nearly_alike(rows, query.threshold)))


@assembly_api.get("/reviews/<review_id>/first-coat", operation_id="getFirstCoat", responses={"200": FirstCoat})
def get_first_coat(path: schemas.ReviewPath) -> Response:
    """Appearances proposed for parts that were given none, with reasons; nothing is changed."""
    return answer(first_coat(resolved_now(path.review_id)))


@assembly_api.get(
    "/reviews/<review_id>/shots/<shot_id>/preflight",
    operation_id="getPreflight",
    responses={"200": checking.Checks},
)
def get_preflight(path: schemas.ShotPath, query: checking.PreflightQuery) -> Response:
    """What one may want to mend in a shot before a still is taken."""
    resolved = resolved_now(path.review_id)
    return answer(
        checking.Checks(checks=preflight.checks(store(), path.review_id, resolved, path.shot_id, query.metered))
    )


@assembly_api.get("/reviews/<review_id>/filter", operation_id="filterParts", responses={"200": found_in.Filtered})
def filter_parts(path: schemas.ReviewPath, query: found_in.FilterQuery) -> Response:
    facts = facts_of(resolved_now(path.review_id))
    try:
        return answer(found_in.Filtered(uids=filtered(facts, query.text), problem=None))
    except FilterProblem as problem:
        return answer(found_in.Filtered(uids=[], problem=str(problem)))


@assembly_api.get("/reviews/<review_id>/fields", operation_id="getFields", responses={"200": found_in.FilterFields})
def get_fields(path: schemas.ReviewPath) -> Response:
    fields = [found_in.FilterField(**vars(field)) for field in fields_of(resolved_now(path.review_id))]
    return answer(found_in.FilterFields(fields=fields))


@assembly_api.get("/meshes/<sha256>/odd-edges", operation_id="getOddEdges", responses={"200": found_in.OddEdges})
def get_odd_edges(path: schemas.BlobPath) -> Response:
    """Where a mesh is not a closed surface."""
    found = odd_edges(meshes.read(store(), path.sha256))
    kinds = {name: np.round(edges, 4).ravel().tolist() for name, edges in vars(found).items()}
    return answer(found_in.OddEdges(**kinds))
