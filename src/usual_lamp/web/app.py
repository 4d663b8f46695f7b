"""The Flask application."""

from __future__ import annotations

import atexit
import os
from pathlib import Path
from urllib.parse import urlsplit

from flask import Response, request, send_from_directory
from flask.json.provider import DefaultJSONProvider
from flask_openapi3 import Info, OpenAPI
from pydantic import ValidationError
from pydantic_core import from_json
from werkzeug.exceptions import HTTPException

from usual_lamp import __version__
from usual_lamp.farm.lamp_client import Lamp
from usual_lamp.service.errors import NotFound, NotReady, Refused
from usual_lamp.store import Store
from usual_lamp.store.blobs import BlobMissing
from usual_lamp.web import lamp
from usual_lamp.web.api import api
from usual_lamp.web.appearance_api import appearance_api
from usual_lamp.web.assembly_api import assembly_api
from usual_lamp.web.events import Hub
from usual_lamp.web.models import Problem
from usual_lamp.web.problems import problem

LOCAL_HOSTS = {"127.0.0.1", "localhost", "[::1]"}


def create_app(store: Store | None = None, static: Path | None = None) -> OpenAPI:
    """The application over a store; both default to what the environment names."""
    app = OpenAPI(
        __name__,
        info=Info(title="Usual Lamp", version=__version__),
        static_folder=None,
        doc_ui=False,
        validation_error_callback=invalid,
        validation_error_model=Problem,
    )
    app.json = StrictJSON(app)
    app.extensions["store"] = store or Store.from_environment()
    app.extensions["hub"] = Hub(app.extensions["store"])
    atexit.register(app.extensions["hub"].close)
    app.before_request(only_from_here)
    app.extensions["lamp"] = Lamp()
    app.register_api(api)
    app.register_api(assembly_api)
    app.register_api(appearance_api)
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
    return problem(422, f"{place}: {first['msg']}" if place else str(first["msg"]))


def only_from_here() -> Response | None:
    """Refuse requests that another site could send: a foreign Host (DNS rebinding) or a foreign Origin."""
    if urlsplit(f"//{request.host}").hostname not in {host.strip("[]") for host in LOCAL_HOSTS}:
        return problem(403, "This address only answers to the machine it runs on.")
    origin = request.headers.get("Origin")
    if origin and urlsplit(origin).netloc != request.host:
        return problem(403, "Requests from other sites are refused.")
    return None


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

    @app.route("/")
    @app.route("/reviews/<path:_>")
    @app.route("/intakes/<path:_>")
    def page(_: str = "") -> Response:
        reply = send_from_directory(folder, "index.html")
        reply.headers["Cache-Control"] = "no-cache"
        return reply

    @app.route("/assets/<path:name>")
    def asset(name: str) -> Response:
        reply = send_from_directory(folder / "assets", name)
        reply.headers["Cache-Control"] = "public, max-age=31536000, immutable"
        return reply

    @app.route("/favicon.svg")
    def icon() -> Response:
        return send_from_directory(folder, "favicon.svg")
