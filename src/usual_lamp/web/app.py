"""The Flask application."""

from __future__ import annotations

import errno
import gzip
import mimetypes
import os
import re
from pathlib import Path

from flask import Response, current_app, redirect, request, send_from_directory
from flask.json.provider import DefaultJSONProvider
from flask_openapi3 import Info, OpenAPI
from pydantic import ValidationError
from pydantic_core import from_json
from werkzeug.exceptions import HTTPException
from werkzeug.wrappers import Response as BaseResponse

from usual_lamp import __version__
from usual_lamp.farm.lamp_client import Lamp
from usual_lamp.service import editing
from usual_lamp.service.errors import NotFound, NotReady, Refused
from usual_lamp.service.resolving import Resolutions
from usual_lamp.store import DatabaseAway, NoRoom, Store
from usual_lamp.store.blobs import BlobMissing
from usual_lamp.web import lamp
from usual_lamp.web.api import api
from usual_lamp.web.appearance_api import appearance_api
from usual_lamp.web.assembly_api import assembly_api
from usual_lamp.web.bridge import LARGEST
from usual_lamp.web.decal_api import decal_api
from usual_lamp.web.events import Hub
from usual_lamp.web.guard import HEADERS, SIGN_IN, Guard, cookie_name
from usual_lamp.web.lighting_api import lighting_api
from usual_lamp.web.problems import problem
from usual_lamp.web.schemas import Problem
from usual_lamp.web.section_api import section_api
from usual_lamp.web.shot_api import shot_api
from usual_lamp.web.still_api import still_api

COOKIE_DAYS = 365
PACKED_ABOVE, PACKING = 2048, 3
"""Bytes above which an answer is compressed, and how hard: most of the gain for a tenth of the time of the best."""
PACKED = ("application/json", "application/octet-stream")
"""What is compressed: words and numbers. Files are streamed, and lie packed where that gains."""
TAB = "usual-lamp-tab"
"""Header in which a browser tab calls itself by a name of its own."""


def create_app(store: Store | None = None, static: Path | None = None, guard: Guard | None = None) -> OpenAPI:
    """The application over a store; all three default to what the environment names."""
    app = OpenAPI(
        __name__,
        info=Info(title="Usual Lamp", version=__version__),
        static_folder=None,
        doc_ui=False,
        validation_error_callback=invalid,
        validation_error_model=Problem,
    )
    app.json = StrictJSON(app)
    app.config["MAX_CONTENT_LENGTH"] = max(LARGEST.values())
    app.extensions["store"] = store or Store.from_environment()
    app.extensions["resolutions"] = Resolutions()
    app.extensions["hub"] = Hub(app.extensions["store"])
    app.extensions["guard"] = guard or Guard.from_environment()
    app.before_request(let_in)
    app.after_request(close_off)
    app.after_request(pack)
    app.extensions["lamp"] = Lamp()
    app.register_api(api)
    app.register_api(assembly_api)
    app.register_api(appearance_api)
    app.register_api(lighting_api)
    app.register_api(decal_api)
    app.register_api(section_api)
    app.register_api(shot_api)
    app.register_api(still_api)
    app.register_api(lamp.api)
    register_errors(app)
    register_front_end(app, static or Path(os.environ.get("USUAL_LAMP_STATIC", "frontend/dist")))
    return app


class StrictJSON(DefaultJSONProvider):
    """Takes what RFC 8259 calls JSON and no more: no NaN, and no half of a surrogate pair, which is no text that could
    be stored."""

    def loads(self, s: str | bytes, **kwargs: object) -> object:
        return from_json(s, allow_inf_nan=False)


def invalid(error: ValidationError) -> Response:
    first = error.errors()[0]
    if first["type"] == "model_type" and not first["loc"]:
        return problem(422, "The request holds no JSON document that can be read.")
    place = ".".join(str(part) for part in first["loc"])
    return problem(422, f"{place or 'The request'} {in_words(first['type'], first['msg'])}.")


def in_words(kind: str, message: str) -> str:
    """What the validation says, as the rest of a sentence that begins with the place."""
    known = {"missing": "is missing", "extra_forbidden": "is not known here"}
    plain = message.removeprefix("Value error, ").rstrip(".")
    return known.get(kind) or plain.replace("Input should", "should", 1).replace("Input ", "", 1)


def let_in() -> Response | None:
    """The guard once more, for servers that do not ask it themselves."""
    guard: Guard = current_app.extensions["guard"]
    headers = {name.lower(): value for name, value in request.headers.items()}
    refusal = guard.refusal(request.method, request.path, headers)
    tab = headers.get(TAB, "")
    editing.made_in.set(tab if re.fullmatch(r"[0-9a-z-]{1,40}", tab) else None)
    return problem(refusal.status, refusal.words) if refusal else None


def close_off(reply: Response) -> Response:
    """What tells a browser to run nothing but our own scripts and to show the page in no frame."""
    for name, value in HEADERS.items():
        reply.headers.setdefault(name, value)
    return reply


def pack(reply: Response) -> Response:
    """Compress what is long enough to gain by it, for those who take it."""
    if (
        reply.mimetype in PACKED
        and not reply.is_streamed
        and "Content-Encoding" not in reply.headers
        and request.accept_encodings["gzip"] > 0
        and len(reply.get_data()) > PACKED_ABOVE
    ):
        reply.set_data(gzip.compress(reply.get_data(), PACKING))
        reply.headers["Content-Encoding"] = "gzip"
        reply.headers.add("Vary", "Accept-Encoding")
    return reply


def register_errors(app: OpenAPI) -> None:
    @app.errorhandler(NotFound)
    def not_found(error: NotFound) -> Response:
        return problem(404, str(error))

    @app.errorhandler(BlobMissing)
    def blob_missing(error: BlobMissing) -> Response:
        return problem(404, "This data is not here.")

    @app.errorhandler(NotReady)
    def not_ready(error: NotReady) -> Response:
        return problem(503, str(error))

    @app.errorhandler(DatabaseAway)
    def away(error: DatabaseAway) -> Response:
        return problem(503, str(error), {"Retry-After": "1"})

    @app.errorhandler(NoRoom)
    def no_room(error: NoRoom) -> Response:
        return problem(507, str(error))

    @app.errorhandler(OSError)
    def system(error: OSError) -> Response:
        if error.errno in (errno.ENOSPC, errno.EDQUOT):
            return problem(507, "The disk is full. Make room, then try again; nothing that was saved is lost.")
        return unexpected(error)

    @app.errorhandler(Refused)
    def refused(error: Refused) -> Response:
        return problem(409, str(error))

    @app.errorhandler(HTTPException)
    def http(error: HTTPException) -> Response:
        return problem(error.code or 500, error.description or error.name)

    @app.errorhandler(Exception)
    def unexpected(error: Exception) -> Response:
        app.logger.exception("unexpected error")
        return problem(500, f"Something went wrong here ({type(error).__name__}). Try again; the log has the details.")


def register_front_end(app: OpenAPI, static: Path) -> None:
    folder = static.resolve()

    @app.route("/sign-in")
    def sign_in() -> BaseResponse:
        """Keep the token in a cookie, and go on to an address without it."""
        guard: Guard = app.extensions["guard"]
        shown = request.args.get("token", "")
        if not guard.is_token(shown):
            return problem(401, SIGN_IN)
        reply = redirect("/", 303)
        reply.set_cookie(
            cookie_name(request.host), shown, max_age=COOKIE_DAYS * 86_400, httponly=True, samesite="Lax", path="/"
        )
        reply.headers["Cache-Control"] = "no-store"
        return reply

    @app.route("/")
    @app.route("/reviews/<path:_>")
    @app.route("/intakes/<path:_>")
    def page(_: str = "") -> Response:
        reply = send_from_directory(folder, "index.html")
        reply.headers["Cache-Control"] = "no-cache"
        return reply

    @app.errorhandler(404)
    def nothing_here(error: HTTPException) -> Response:
        """The page says that there is nothing, to those who came by an address; the API does so in JSON."""
        of_the_page = request.method == "GET" and not request.path.startswith(("/api/", "/assets/"))
        if not of_the_page or not (folder / "index.html").is_file():
            return problem(404, error.description or error.name)
        reply = page()
        reply.status_code = 404
        return reply

    @app.route("/assets/<path:name>")
    def asset(name: str) -> Response:
        packed = {"br": f"{name}.br", "gzip": f"{name}.gz"}
        taken = (way for way in packed if request.accept_encodings[way] > 0)
        coding = next((way for way in taken if (folder / "assets" / packed[way]).is_file()), None)
        reply = send_from_directory(
            folder / "assets", packed[coding] if coding else name, mimetype=mimetypes.guess_type(name)[0]
        )
        if coding:
            reply.headers["Content-Encoding"] = coding
        reply.headers.add("Vary", "Accept-Encoding")
        reply.headers["Cache-Control"] = "public, max-age=31536000, immutable"
        return reply

    @app.route("/favicon.svg")
    def icon() -> Response:
        return send_from_directory(folder, "favicon.svg")
