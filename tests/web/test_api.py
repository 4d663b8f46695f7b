"""The HTTP API: documents, problems, guards."""

import json
from pathlib import Path

import pytest

from public_files import ROOT
from usual_lamp.core.appearance import SHELF
from usual_lamp.web.app import create_app
from usual_lamp.web.openapi import description


@pytest.fixture
def client(store, tmp_path: Path):
    (tmp_path / "index.html").write_text("<!doctype html><title>front end</title>")
    app = create_app(store, tmp_path)
    yield app.test_client()
    app.extensions["hub"].close()


def test_description_is_current() -> None:
    """The committed API description, from which the front end's types are made."""
    assert (ROOT / "frontend/openapi.json").read_text() == description()


def test_open_edit_undo(client, review) -> None:
    opened = client.get(f"/api/reviews/{review}").json
    parts = [node for node in opened["model"]["nodes"] if node["definition"]]
    assert len(parts) == 18 and len(parts[0]["world"]) == 16
    url = f"/api/reviews/{review}"
    brass = SHELF["brass-turned"].model_dump(mode="json")
    edit = {"kind": "assign", "assignments": {parts[0]["uid"]: brass["id"]}, "define": {brass["id"]: brass}}
    standing = client.post(f"{url}/edits", json={"edit": edit}, headers={"Usual-Lamp-Tab": "tab-1"}).json
    worn = standing["worn"][parts[0]["uid"]]
    assert (worn["appearance"], worn["why"], worn["faces"]) == (brass["id"], "part", {})
    assert [layer["why"] for layer in worn["layers"]] == ["part", "from CAD"]
    assert standing["seq"] == 1 and standing["redoes"] is None
    assert standing["undoes"] == {"words": f"Give {brass['name']} to 1 part", "tab": "tab-1"}
    back = client.post(f"{url}/undo").json
    assert back["worn"][parts[0]["uid"]]["why"] == "from CAD"
    assert back["undoes"] is None and back["redoes"] == standing["undoes"]
    again = client.post(f"{url}/undo")
    assert again.status_code == 409 and again.json["detail"] == "There is nothing to undo."


def test_problems_are_sentences(client, review) -> None:
    missing = client.get("/api/reviews/none")
    assert missing.status_code == 404 and missing.mimetype == "application/problem+json"
    invalid = client.post(f"/api/reviews/{review}/edits", json={"edit": {"kind": "explode"}})
    assert invalid.status_code == 422 and "kind" in invalid.json["detail"]
    inner = client.post(f"/api/reviews/{review}/edits", json={"edit": {"kind": "set_lighting", "lighting": 5}})
    assert inner.status_code == 422 and "lighting" in inner.json["detail"]
    huge = client.post(
        f"/api/reviews/{review}/stills", json={"shot": "shot-1", "quality": "fair", "width": 9, "height": 9}
    )
    assert huge.status_code == 422 and "width" in huge.json["detail"]
    wrong = client.post("/api/intakes?file_name=a.exe", data=b"x")
    assert wrong.status_code == 409 and "STEP" in wrong.json["detail"]
    assert client.get("/api/blobs/" + "0" * 64).status_code == 404


def test_foreign_hosts_and_origins_are_refused(client, review) -> None:
    assert client.get("/api/reviews", headers={"Host": "evil.example"}).status_code == 403
    origin = {"Origin": "http://evil.example"}
    assert client.delete(f"/api/reviews/{review}", headers=origin).status_code == 403
    assert client.get("/api/reviews", headers={"Origin": "http://localhost"}).status_code == 200


def test_meshes_are_immutable_and_pages_are_not(client, review) -> None:
    mesh = next(iter(client.get(f"/api/reviews/{review}").json["model"]["definitions"].values()))["mesh"]
    reply = client.get(f"/api/blobs/{mesh}")
    assert reply.data[:4] == b"ULM1" and "immutable" in reply.headers["Cache-Control"]
    assert client.get(f"/reviews/{review}").headers["Cache-Control"] == "no-cache"


def test_event_stream_tells_of_edits(client, review) -> None:
    stream = client.get("/api/events").response

    def next_pulse() -> dict:
        for line in stream:
            if not line.startswith(b"event:"):
                continue
            kind, data = (part.partition(": ")[2] for part in line.decode().strip().split("\n"))
            told = {id: seq for id, seq, *_ in json.loads(data)} if kind == "pulses" else {}
            if review in told:
                return told
        raise AssertionError("the stream ended")

    assert next_pulse() == {review: 0}
    uid = next(n["uid"] for n in client.get(f"/api/reviews/{review}").json["model"]["nodes"] if n["definition"])
    client.post(f"/api/reviews/{review}/edits", json={"edit": {"kind": "set_states", "states": {uid: "hidden"}}})
    assert next_pulse() == {review: 1}
