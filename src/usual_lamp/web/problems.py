"""Answers to what cannot be done, as RFC 9457 problem details."""

from __future__ import annotations

from flask import Response

from usual_lamp.web.schemas import Problem

TITLES = {
    400: "Not understood",
    401: "Not signed in",
    403: "Not allowed",
    404: "Not found",
    408: "Too slow",
    409: "Not possible now",
    413: "Too large",
    422: "Not valid",
    500: "Our fault",
    503: "Not ready",
    507: "No room",
}


def problem(status: int, detail: str, headers: dict[str, str] | None = None) -> Response:
    body = Problem(title=TITLES.get(status, "Not possible"), status=status, detail=detail)
    return Response(body.model_dump_json(), status, mimetype="application/problem+json", headers=headers)
