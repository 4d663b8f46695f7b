"""Answers to what cannot be done, as RFC 9457 problem details."""

from __future__ import annotations

from flask import Response

from usual_lamp.web.models import Problem

TITLES = {
    400: "Not understood",
    403: "Not allowed",
    404: "Not found",
    409: "Not possible now",
    422: "Not valid",
    500: "Our fault",
    503: "Not ready",
}


def problem(status: int, detail: str, headers: dict[str, str] | None = None) -> Response:
    body = Problem(title=TITLES.get(status, "Not possible"), status=status, detail=detail)
    return Response(body.model_dump_json(), status, mimetype="application/problem+json", headers=headers)
