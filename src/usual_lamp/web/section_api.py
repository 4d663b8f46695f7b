"""Sections under /api: what a plane does to the parts of a shot, and the meshes that it cuts."""

from __future__ import annotations

import numpy as np
from flask import Response
from flask_openapi3 import APIBlueprint
from pydantic import BaseModel, Field

from usual_lamp.core.appearance import Appearance
from usual_lamp.core.appearance.shaded import Shaded, shaded
from usual_lamp.core.assembly import Mesh
from usual_lamp.core.assembly.cutting import MARK
from usual_lamp.core.scene.resolution import shown_in
from usual_lamp.core.scene.section import Section, reach, sectioned, through_face, usually_whole
from usual_lamp.service import attitude, meshes
from usual_lamp.service.errors import Refused
from usual_lamp.web import schemas
from usual_lamp.web.api import IMMUTABLE, answer, shot_now, store
from usual_lamp.web.schemas import ShotPath

section_api = APIBlueprint(
    "sections", __name__, url_prefix="/api", abp_responses={"404": schemas.Problem, "422": schemas.Problem}
)


class CutPath(BaseModel):
    sha256: str = Field(pattern="^[0-9a-f]{64}$")
    plane: str = Field(pattern=r"^(-?\d[\d.e+-]{0,15},){3}-?\d[\d.e+-]{0,15}$", description="see `cutting.cut_name`")

    @property
    def name(self) -> str:
        """Of the cut mesh."""
        return f"{self.sha256}{MARK}{self.plane}"


class SectionWish(BaseModel):
    section: Section


class FaceNamed(BaseModel):
    uid: str
    face: int = Field(ge=0)


class FaceWish(BaseModel):
    face: FaceNamed


class SectionMade(BaseModel):
    section: Section


class CutPart(BaseModel):
    mesh: str = Field(description="name of its cut mesh, below /api/blobs")
    face: int = Field(description="number of the face that closes it")


class SectionShown(BaseModel):
    """What a section does to a shot."""

    gone: list[str] = Field(description="parts that lie before it, by uid")
    cut: dict[str, CutPart] = Field(description="parts that it crosses, by uid")
    cap: Appearance | None = Field(description="what all cut faces wear; null: each part its own")
    shaded: Shaded | None = Field(description="the same for the shaded picture")
    reach: tuple[float, float] = Field(description="how far the shot's parts reach along its normal, mm")
    fasteners: list[str] = Field(description="of the parts that it crosses: screws, nuts, washers, pins, balls, shafts")


@section_api.post(
    "/reviews/<review_id>/shots/<shot_id>/section", operation_id="showSection", responses={"200": SectionShown}
)
def show_section(path: ShotPath, body: SectionWish) -> Response:
    """What a section would do to a shot. Nothing is changed."""
    resolved, shot = shot_now(path)
    assembly, section = resolved.assembly, body.section
    parts = shown_in(resolved, shot.model_copy(update={"section": None}))
    found = sectioned(assembly, parts, section)
    faces = {uid: len(assembly.definition_of(assembly.by_uid[uid]).faces) for uid in found.cut}
    cap = section.cap
    return answer(
        SectionShown(
            gone=sorted(found.gone),
            cut={uid: CutPart(mesh=name, face=faces[uid]) for uid, name in found.cut.items()},
            cap=cap,
            shaded=shaded(cap.params) if cap else None,
            reach=reach(assembly, parts, section),
            fasteners=usually_whole(assembly, found.cut),
        )
    )


@section_api.post(
    "/reviews/<review_id>/shots/<shot_id>/section/face",
    operation_id="sectionThroughFace",
    responses={"200": SectionMade, "409": schemas.Problem},
)
def section_through_face(path: ShotPath, body: FaceWish) -> Response:
    """The section along a flat face, or through the axis of a round one, that opens a shot. Nothing is changed."""
    resolved, shot = shot_now(path)
    face = attitude.FaceOf(body.face.uid, body.face.face)
    local = attitude.corners_of_face(store(), resolved.assembly, face)
    matrix = resolved.assembly.world[face.uid]
    try:
        found = through_face(local @ matrix[:3, :3].T + matrix[:3, 3], np.array(shot.camera.position))
    except ValueError as error:
        raise Refused(str(error)) from error
    kept = shot.section or found
    return answer(SectionMade(section=found.model_copy(update={"color": kept.color, "whole": kept.whole})))


@section_api.get("/blobs/<sha256>~<plane>", doc_ui=False)
def get_cut(path: CutPath) -> Response:
    """A mesh cut by a plane. It is made whenever it is asked for: a plane that is dragged is soon another one."""
    return _mesh(meshes.read(store(), path.name))


@section_api.get("/blobs/<sha256>~<plane>/unrolled", doc_ui=False)
def get_cut_unrolled(path: CutPath) -> Response:
    """A cut mesh with coordinates in mm for pictures."""
    return _mesh(meshes.read_mapped(store(), path.name, None))


@section_api.get("/blobs/<sha256>~<plane>/laid", doc_ui=False)
def get_cut_laid(path: CutPath, query: schemas.LaidQuery) -> Response:
    """A cut mesh with coordinates in mm as they were laid by hand."""
    return _mesh(meshes.read_mapped(store(), path.name, query.laid))


def _mesh(mesh: Mesh) -> Response:
    reply = Response(mesh.to_bytes(), mimetype="application/octet-stream")
    reply.headers["Cache-Control"] = IMMUTABLE
    return reply
