"""The lamp over HTTP, against a stand-in for the sessions: frames, waiting, refusals, what is not valid."""

from __future__ import annotations

from functools import partial
from pathlib import Path
from urllib.parse import unquote

import pytest

from usual_lamp.core.trace.jobs.outlook import BEGINS, Probe
from usual_lamp.core.trace.plan import Region
from usual_lamp.farm.lamp_client import Lamp
from usual_lamp.farm.lamp_wish import Frame, Wish
from usual_lamp.service.errors import NotReady, Refused
from usual_lamp.web.app import create_app

DESK = "0123abcd-ef"


class Sessions:
    """Answers as a bench would; remembers what it was asked."""

    def __init__(self) -> None:
        self.answer: Frame | None = None
        self.png: bytes | None = None
        self.probed: tuple[Probe, int] | None = None
        self.asked: list[tuple[str, Wish, str]] = []
        self.ended: list[str] = []

    async def next_frame(self, desk: str, wish: Wish, have: str) -> Frame | None:
        self.asked.append((desk, wish, have))
        return self.answer

    async def probe(self, wish: Wish) -> tuple[Probe, int] | None:
        self.asked.append(("", wish, ""))
        if wish.shot == "gone":
            raise Refused("That shot is not in this review any more.")
        return self.probed

    def keep(self, desk: str, form: str) -> bytes | None:
        return self.png

    def off(self, desk: str) -> None:
        self.ended.append(desk)


@pytest.fixture
def sessions() -> Sessions:
    return Sessions()


@pytest.fixture
def client(store, tmp_path: Path, sessions: Sessions):
    app = create_app(store, tmp_path)
    app.extensions["lamp"] = sessions
    yield app.test_client()
    app.extensions["hub"].close()


def wish(**changes: object) -> dict:
    camera = {"position": [0, -100, 0], "target": [0, 0, 0], "focal_length": 85, "parallel": True}
    body = {"desk": DESK, "seq": 3, "shot": "shot-1", "camera": camera, "width": 64, "height": 48}
    return body | {"region": [0, 0, 0.5, 1], "have": "frame-1"} | changes


def test_a_frame_comes_as_jpeg_with_its_facts(client, sessions, review) -> None:
    asked = Wish(review, 3, "shot-1", None, 64, 48, Region(0, 0, 0.5, 1), False)  # type: ignore[arg-type]
    sessions.answer = Frame("frame-2", asked, b"jpeg", 12, 0.0345, remark="Very dark – no light.")
    reply = client.post(f"/api/reviews/{review}/lamp", json=wish())
    assert reply.status_code == 200 and reply.data == b"jpeg" and reply.mimetype == "image/jpeg"
    assert (reply.headers["X-Frame"], reply.headers["X-Samples"], reply.headers["X-Grain"]) == (
        "frame-2",
        "12",
        "0.03450",
    )
    assert unquote(reply.headers["X-Remark"]) == "Very dark – no light."
    ((desk, found, have),) = sessions.asked
    assert (desk, have, found.review) == (DESK, "frame-1", review)
    assert found.camera.parallel and found.region == Region(0, 0, 0.5, 1)


def test_nothing_new_is_no_content_and_a_hindrance_a_sentence(client, sessions, review) -> None:
    assert client.post(f"/api/reviews/{review}/lamp", json=wish()).status_code == 204
    sessions.answer = Frame("frame-3", None, b"", message="Nothing is shown.")  # type: ignore[arg-type]
    hindered = client.post(f"/api/reviews/{review}/lamp", json=wish())
    assert hindered.status_code == 409 and hindered.json["detail"] == "Nothing is shown."
    assert hindered.headers["X-Frame"] == "frame-3", "so that it is not told again and again"


@pytest.mark.parametrize(
    "change", [{"width": 5}, {"height": 9999}, {"desk": "../.."}, {"region": [0, 1]}, {"camera": {}}]
)
def test_what_is_not_valid_names_the_field(client, review, change: dict) -> None:
    reply = client.post(f"/api/reviews/{review}/lamp", json=wish(**change))
    assert reply.status_code == 422 and next(iter(change)) in reply.json["detail"]


def test_keeping_and_switching_off(client, sessions) -> None:
    assert "switch the lamp on" in client.get(f"/api/lamp/{DESK}/picture").json["detail"].lower()
    sessions.png = b"\x89PNG"
    kept = client.get(f"/api/lamp/{DESK}/picture")
    assert kept.data == b"\x89PNG" and kept.mimetype == "image/png"
    assert client.get(f"/api/lamp/{DESK}/picture?form=jpeg").mimetype == "image/jpeg"
    assert client.get(f"/api/lamp/{DESK}/picture?form=gif").status_code == 422
    assert client.delete(f"/api/lamp/{DESK}").status_code == 204 and sessions.ended == [DESK]


def test_without_a_scheduler_the_lamp_says_so(monkeypatch) -> None:
    monkeypatch.setattr("usual_lamp.farm.lamp_client.CONNECT", 0.3)
    lamp = Lamp("tls://127.0.0.1:9")
    with pytest.raises(NotReady, match="not ready yet"):
        lamp.keep(DESK)
    lamp.off(DESK)
    lamp.close()


def test_a_lamp_that_is_not_ready_is_no_refusal(client, review, monkeypatch) -> None:
    """The desk keeps an older picture while it waits, but not beside a refusal."""
    monkeypatch.setattr("usual_lamp.farm.lamp_client.CONNECT", 0.3)
    client.application.extensions["lamp"] = Lamp("tls://127.0.0.1:9")
    reply = client.post(f"/api/reviews/{review}/lamp", json=wish())
    assert reply.status_code == 503 and "in a moment" in reply.json["detail"]


def test_tracing_settings(client) -> None:
    found = client.get("/api/settings/tracing").json
    assert found["tracing"]["cores"] == found["machine"]["cores"] >= 1
    assert client.put("/api/settings/tracing", json={"cores": 1, "memory": 1.5}).status_code == 204
    assert client.get("/api/settings/tracing").json["tracing"] == {"cores": 1, "memory": 1.5}
    refused = client.put("/api/settings/tracing", json={"cores": 5000, "memory": 1.5})
    assert refused.status_code == 409 and "cores here" in refused.json["detail"]
    assert client.put("/api/settings/tracing", json={"cores": 0, "memory": 1.5}).status_code == 422


def test_a_still_can_be_asked_for_by_its_grain(client, review) -> None:
    order = {"shot": "shot-1", "quality": "fair", "width": 64, "height": 64}
    client.post(f"/api/reviews/{review}/stills", json=order | {"grain": 0.04})
    (still,) = client.get(f"/api/reviews/{review}/stills").json["stills"]
    assert still["grain_asked"] == 0.04 and still["grain"] is None
    assert client.post(f"/api/reviews/{review}/stills", json=order | {"grain": 0.0001}).status_code == 422


def test_what_a_still_would_take_is_told_from_a_probe(client, sessions, review) -> None:
    """Independent samples: four times as many halve the grain, whatever is asked for."""
    asked = {
        "seq": 0,
        "shot": "shot-1",
        "camera": wish()["camera"],
        "width": 640,
        "height": 480,
        "grain": 0.05,
        "minutes": 2,
    }
    path = f"/api/reviews/{review}/forecast"
    assert client.post(path, json=asked).status_code == 204, "there is none yet"
    sessions.probed = Probe(2e-6, {n: 0.16 / n for n in (2, 4, 8, 16, 32, 64)}), 2
    found = client.post(path, json=asked).json
    (_, shown, _) = sessions.asked[-1]
    assert (shown.review, shown.shot, shown.width, shown.height) == (review, "shot-1", 640, 480)
    fair, fine = found["qualities"]["fair"], found["qualities"]["fine"]
    near = partial(pytest.approx, rel=0.1)
    assert fair["samples"] == 64 and fair["seconds"] == pytest.approx(BEGINS + 64 * 640 * 480 * 2e-6 / 2)
    assert fair["grain"] == near(0.05) and fine["grain"] / fair["grain"] == near(0.5)
    assert found["at_grain"]["samples"] == pytest.approx(64, rel=0.2)
    assert found["in_time"]["seconds"] == 120 and found["in_time"]["samples"] == pytest.approx(379, abs=1)
    assert "not in this review any more" in client.post(path, json=asked | {"shot": "gone"}).json["detail"]
    assert client.post(path, json=asked | {"width": 20_000}).status_code == 422
