"""The API of giving appearances: what an edit would change, rules, and the schedule as a spreadsheet."""

from __future__ import annotations

import codecs
from urllib.parse import quote

import numpy as np
from flask import Response, request
from flask_openapi3 import APIBlueprint
from pydantic import BaseModel, Field

from usual_lamp.core.appearance import Appearance, OpenPBR
from usual_lamp.core.appearance.black_body import COLDEST, HOTTEST, black_body
from usual_lamp.core.appearance.color_difference import lab_to_linear, linear_to_lab
from usual_lamp.core.appearance.made_pictures import COVER, MADE, PREFIX
from usual_lamp.core.appearance.materialx import UnreadableMaterials, from_materialx, to_materialx
from usual_lamp.core.appearance.shaded import Shaded, shaded
from usual_lamp.core.picture.read import shown_png, smaller_png
from usual_lamp.core.scene import Edit, EditRefused, SetLooks
from usual_lamp.core.scene.consequence import Consequence, consequence
from usual_lamp.core.scene.filter_words import FilterProblem
from usual_lamp.core.scene.part_facts import matching
from usual_lamp.core.scene.schedule_csv import UnreadableSchedule, from_csv, to_csv
from usual_lamp.service import editing, pictures, reviews, shelf
from usual_lamp.service.errors import Refused
from usual_lamp.web import schemas
from usual_lamp.web.api import answer, made_from, nothing, resolved_now, store

MOST_TEXT = 20 * 2**20
appearance_api = APIBlueprint(
    "appearance",
    __name__,
    url_prefix="/api",
    abp_responses={"404": schemas.Problem, "409": schemas.Problem, "422": schemas.Problem},
)


class MadeLine(BaseModel):
    """A picture made by rule, at its real size."""

    name: str = Field(description="as a texture names it")
    label: str
    width: float = Field(description="of one repeat, mm")
    height: float
    flake: float | None = Field(description="mm, if made of flakes; those of `NAME 40` cover 40 percent")
    cover: int = Field(description="percent that flakes cover where the name says nothing")


class MadeLines(BaseModel):
    pictures: list[MadeLine]


class KelvinQuery(BaseModel):
    kelvin: float = Field(ge=COLDEST, le=HOTTEST)


class GlowColor(BaseModel):
    color: tuple[float, float, float] = Field(description="linear Rec. 709, brightest channel 1")


class EnteredColor(BaseModel):
    """One of both."""

    lab: tuple[float, float, float] | None = Field(None, description="CIELAB under D65, 2° observer")
    linear: tuple[float, float, float] | None = Field(None, description="linear Rec. 709")


class ColorInAll(BaseModel):
    """A colour in the ways that it can be entered."""

    lab: tuple[float, float, float]
    linear: tuple[float, float, float] = Field(description="linear Rec. 709, held within 0..1")
    shown: bool = Field(description="whether sRGB can show it; else `linear` is what comes next, channel by channel")


class ToShade(BaseModel):
    """Parameters of appearances as they would be."""

    params: list[OpenPBR] = Field(max_length=100)


class ShadedLines(BaseModel):
    """In the order that was asked."""

    shaded: list[Shaded]


class KeepSample(BaseModel):
    appearance: Appearance


class KeptPath(BaseModel):
    sample_id: str


class ShownQuery(BaseModel):
    color: bool = True


class PlateQuery(BaseModel):
    side: int = Field(description="pixels")


class PictureKept(BaseModel):
    picture: str = Field(description="content hash")
    width: int = Field(description="pixels")
    height: int
    pages: int = Field(1, description="of the file that it came from")


class PageQuery(BaseModel):
    page: int = Field(1, ge=1, le=100_000, description="of a PDF")


class Wish(BaseModel):
    edit: Edit


class RuleLine(BaseModel):
    """A rule of the shown look and what it does."""

    id: str
    passes: int = Field(description="parts that pass its filter")
    wearing: list[str] = Field(description="parts that show it, as a whole or on faces, by uid")
    problem: str | None = Field(description="why its filter cannot be understood")


class RuleLines(BaseModel):
    rules: list[RuleLine]


class TakenAppearances(BaseModel):
    """What a document of materials holds; `edit` keeps it in the review."""

    edit: Edit | None
    names: list[str]
    notes: list[str]


class ScheduleLine(BaseModel):
    key: str
    part: str
    now: str
    then: str


class ScheduleDifference(BaseModel):
    """What a schedule that comes in would change; `edit` does it."""

    edit: Edit | None
    lines: list[ScheduleLine]
    problems: list[str]


@appearance_api.get("/made-pictures", operation_id="listMadePictures", responses={"200": MadeLines})
def list_made_pictures() -> Response:
    lines = [
        MadeLine(
            name=PREFIX + name, label=made.label, width=made.width, height=made.height, flake=made.flake, cover=COVER
        )
        for name, made in MADE.items()
    ]
    return answer(MadeLines(pictures=lines))


@appearance_api.get("/black-body", operation_id="getBlackBody", responses={"200": GlowColor})
def get_black_body(query: KelvinQuery) -> Response:
    """The colour of light of a temperature."""
    return answer(GlowColor(color=black_body(query.kelvin)))


@appearance_api.post("/shaded", operation_id="shade", responses={"200": ShadedLines})
def shade(body: ToShade) -> Response:
    """What the shaded picture shows of appearances while somebody tries values."""
    return answer(ShadedLines(shaded=[shaded(params) for params in body.params]))


@appearance_api.post("/color", operation_id="convertColor", responses={"200": ColorInAll})
def convert_color(body: EnteredColor) -> Response:
    """A colour in the ways that it can be entered, from either of them."""
    if (body.lab is None) == (body.linear is None):
        raise Refused("Give the colour as CIELAB or as linear Rec. 709, not both.")
    asked = lab_to_linear(np.array([body.lab])) if body.lab else np.array([body.linear])
    held = np.clip(asked, 0.0, 1.0)
    shown = bool(np.abs(asked - held).max() < 1e-3)
    return answer(ColorInAll(lab=linear_to_lab(held)[0].tolist(), linear=held[0].tolist(), shown=shown))


@appearance_api.post("/shelf/kept", operation_id="keepSample", responses={"201": schemas.Id})
def keep_sample(body: KeepSample) -> Response:
    """Keep an appearance as a sample for all reviews."""
    if not body.appearance.name.strip():
        raise Refused("Give the sample a name.")
    made = shelf.keep(store(), body.appearance)
    return answer(schemas.Id(id=made.id), 201)


@appearance_api.delete("/shelf/kept/<sample_id>", operation_id="removeKeptSample", responses={"204": None})
def remove_kept_sample(path: KeptPath) -> Response:
    shelf.no_longer_keep(store(), path.sample_id)
    return nothing()


@appearance_api.get("/blobs/<sha256>/plate", doc_ui=False)
def get_plate(path: schemas.BlobPath, query: PlateQuery) -> Response:
    """A finish plate in one of its sizes."""
    if query.side not in shelf.PLATE_SIDES:
        raise Refused(f"Finish plates come in {', '.join(map(str, shelf.PLATE_SIDES))} pixels.")
    return made_from(path.sha256, f"{query.side}.png", lambda data: smaller_png(data, query.side))


@appearance_api.get("/blobs/<sha256>/shown", doc_ui=False)
def get_shown(path: schemas.BlobPath, query: ShownQuery) -> Response:
    """A kept picture as a browser can show it."""
    return made_from(path.sha256, f"shown{query.color:d}.png", lambda data: shown_png(data, query.color))


@appearance_api.post("/pictures", operation_id="keepPicture", responses={"201": PictureKept})
def keep_picture(query: PageQuery) -> Response:
    """Keep a picture (PNG, JPEG, TIFF, WebP, OpenEXR, SVG or PDF as the request's body) for textures and decals."""
    kept = pictures.receive(store(), request.stream, query.page)  # type: ignore[arg-type]
    return answer(PictureKept(picture=kept.name, width=kept.width, height=kept.height, pages=kept.pages), 201)


@appearance_api.post("/reviews/<review_id>/would", operation_id="wouldChange", responses={"200": Consequence})
def would_change(path: schemas.ReviewPath, body: Wish) -> Response:
    """What an edit would change, without making it."""
    try:
        return answer(consequence(resolved_now(path.review_id), body.edit))
    except EditRefused as error:
        raise Refused(str(error)) from error


@appearance_api.get("/reviews/<review_id>/rules", operation_id="listRules", responses={"200": RuleLines})
def list_rules(path: schemas.ReviewPath) -> Response:
    resolved, wearing = resolved_now(path.review_id), dict[str, list[str]]()
    for uid, found in resolved.worn.items():
        shown = {layer.key for _, layer in found.own_faces if layer.why == "rule"}
        if found.why == "rule":
            shown.add(found.layers[0].key)
        for key in shown:
            wearing.setdefault(key, []).append(uid)
    lines = []
    for rule in resolved.scene.looks[resolved.look].rules:
        try:
            passes, problem = len(matching(resolved.assembly, rule.filter)), None
        except FilterProblem as error:
            passes, problem = 0, str(error)
        lines.append(RuleLine(id=rule.id, passes=passes, wearing=wearing.get(rule.id, []), problem=problem))
    return answer(RuleLines(rules=lines))


@appearance_api.get("/reviews/<review_id>/appearances.mtlx", doc_ui=False)
def appearances_out(path: schemas.ReviewPath) -> Response:
    """The review's own appearances as a MaterialX document."""
    now = editing.look_at(store(), path.review_id)
    text = to_materialx(list(now.scene.appearances.values()))
    return _download(path.review_id, text, "mtlx", "application/xml")


def _download(review_id: str, text: str, ending: str, media: str) -> Response:
    """A file named after the review."""
    name = reviews.get_review(store(), review_id).name
    reply = Response(text, mimetype=media)
    reply.headers["Content-Disposition"] = f"attachment; filename*=UTF-8''{quote(name)}.{ending}"
    return reply


def _upload() -> str:
    """The request's body as text. Raises Refused."""
    if (request.content_length or 0) > MOST_TEXT:
        raise Refused("The file is too large for a list of parts or materials.")
    data = request.get_data()
    marked = data[:2] in (codecs.BOM_UTF16_LE, codecs.BOM_UTF16_BE)
    return data.decode("utf-16" if marked else "utf-8", "replace")


@appearance_api.post(
    "/reviews/<review_id>/appearances", operation_id="readAppearances", responses={"200": TakenAppearances}
)
def appearances_in(path: schemas.ReviewPath) -> Response:
    """Appearances of a MaterialX document (the request's body), and the edit that keeps them in the review."""
    text = _upload()
    now = editing.look_at(store(), path.review_id)
    try:
        found = from_materialx(text)
    except UnreadableMaterials as error:
        raise Refused(str(error)) from error
    new = {a.id: a for a in found.appearances if a.id not in now.scene.appearances}
    edit = SetLooks(define=dict(new)) if new else None
    return answer(TakenAppearances(edit=edit, names=[a.name for a in new.values()], notes=found.notes))


@appearance_api.get("/reviews/<review_id>/schedule.csv", doc_ui=False)
def schedule_out(path: schemas.ReviewPath) -> Response:
    # The mark at the start tells spreadsheets that this is UTF-8.
    return _download(path.review_id, "\ufeff" + to_csv(resolved_now(path.review_id)), "csv", "text/csv")


@appearance_api.post(
    "/reviews/<review_id>/schedule", operation_id="readSchedule", responses={"200": ScheduleDifference}
)
def schedule_in(path: schemas.ReviewPath) -> Response:
    """The difference that a CSV schedule (the request's body) would make."""
    text = _upload()
    try:
        found = from_csv(text, resolved_now(path.review_id), shelf.samples(store()).values())
    except UnreadableSchedule as error:
        raise Refused(str(error)) from error
    lines = [ScheduleLine(key=key, part=part, now=before, then=then) for key, part, before, then in found.lines]
    return answer(ScheduleDifference(edit=found.edit, lines=lines, problems=found.problems))
