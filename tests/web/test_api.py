"""The HTTP API: documents, problems, guards."""

import json
from pathlib import Path
from typing import Any

import pytest

from public_files import ROOT
from usual_lamp.core.appearance import SHELF
from usual_lamp.web.app import create_app
from usual_lamp.web.openapi import description
from web.test_assembly_api import ok


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


def test_the_history_is_told_with_tabs_and_walked_by_numbers(client, review) -> None:
    url = f"/api/reviews/{review}"
    assert client.get(f"{url}/history").json == {"edits": []}
    uids = [node["uid"] for node in client.get(url).json["model"]["nodes"] if node["definition"]][:3]
    for number, uid in enumerate(uids):
        edit = {"kind": "set_states", "states": {uid: "hidden"}}
        client.post(f"{url}/edits", json={"edit": edit}, headers={"Usual-Lamp-Tab": f"tab-{number % 2}"})
    edits = client.get(f"{url}/history").json["edits"]
    assert [(one["words"], one["tab"], one["undone"]) for one in edits] == [
        ("Hide 1 part", "tab-0", False), ("Hide 1 part", "tab-1", False), ("Hide 1 part", "tab-0", False)
    ]  # fmt: skip
    newest, middle, _ = (one["seq"] for one in edits)
    back = client.post(f"{url}/undo?to={middle}").json
    assert list(back["scene"]["states"]) == uids[:1]
    assert [one["undone"] for one in client.get(f"{url}/history").json["edits"]] == [True, True, False]
    gone = client.post(f"{url}/undo?to={newest}")
    assert gone.status_code == 409 and "changed meanwhile" in gone.json["detail"]
    assert client.post(f"{url}/redo?to={newest}").json["scene"]["states"].keys() == set(uids)
    assert client.post(f"{url}/undo?to=0").status_code == 422
    assert client.post(f"{url}/undo?to=999").status_code == 409
    assert client.get("/api/reviews/none/history").status_code == 404


def test_checks_before_a_still_name_parts_and_fixes_that_apply(client, review) -> None:
    url = f"/api/reviews/{review}"
    ask = f"{url}/shots/shot-1/preflight"

    def kinds(query: str = "") -> dict[str, Any]:
        return {check["kind"]: check for check in client.get(ask + query).json["checks"]}

    first = kinds()
    assert len(first["untouched"]["uids"]) == 18 and first["untouched"]["fix"]["action"] == "first coat"
    assert "exposure" not in first, "nothing was metered yet"
    dark = kinds("?metered=4")["exposure"]
    assert dark["title"] == "Too dark" and "4.0 EV" in dark["fix"]["words"]
    mended = client.post(f"{url}/edits", json={"edit": dark["fix"]["edit"]})
    assert mended.status_code == 200 and mended.json["scene"]["shots"]["shot-1"]["exposure"] == 4.0
    assert "exposure" not in kinds("?metered=4")
    quiet = {"kind": "silence_checks", "checks": {"untouched": True}}
    assert client.post(f"{url}/edits", json={"edit": quiet}).json["scene"]["silenced"] == ["untouched"]
    assert kinds()["untouched"]["silenced"]
    assert client.get(f"{url}/shots/none/preflight").status_code == 404
    assert client.get(ask + "?metered=900").status_code == 422


def test_definitions_say_what_they_are_by_shape(client, review) -> None:
    model = client.get(f"/api/reviews/{review}").json["model"]
    by_name = {one["name"]: one for one in model["definitions"].values()}
    assert by_name["rod"]["kind"] == "pin" and by_name["plate"]["kind"] is None
    assert all(one["same_shape"] == key for key, one in model["definitions"].items()), "all five differ"
    found = client.get(f"/api/reviews/{review}/filter?text=kind:pin").json
    assert found["problem"] is None and len(found["uids"]) == 1


def test_rounded_edges_are_set_within_limits(client, review) -> None:
    url = f"/api/reviews/{review}"
    assert client.get(f"{url}/scene").json["scene"]["rounding"] == 0.2
    none = {"kind": "set_rounding", "rounding": 0}
    answer = client.post(f"{url}/edits", json={"edit": none}).json
    assert answer["scene"]["rounding"] == 0 and answer["undoes"]["words"] == "Leave edges sharp"
    for wrong in (-0.1, 4, "wide"):
        edit = {"kind": "set_rounding", "rounding": wrong}
        assert client.post(f"{url}/edits", json={"edit": edit}).status_code == 422


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


def test_event_stream_tells_of_edits_and_of_stills_apart(client, review) -> None:
    stream = client.get("/api/events").response

    def next_pulse() -> list:
        """seq, pulse and that of stills."""
        for line in stream:
            if not line.startswith(b"event:"):
                continue
            kind, data = (part.partition(": ")[2] for part in line.decode().strip().split("\n"))
            told = {id: pulse for id, *pulse, _ in json.loads(data)} if kind == "pulses" else {}
            if review in told:
                return told[review]
        raise AssertionError("the stream ended")

    seq, pulse, stills = next_pulse()
    assert seq == 0
    uid = next(n["uid"] for n in client.get(f"/api/reviews/{review}").json["model"]["nodes"] if n["definition"])
    client.post(f"/api/reviews/{review}/edits", json={"edit": {"kind": "set_states", "states": {uid: "hidden"}}})
    assert next_pulse() == [1, pulse + 1, stills]
    wish = {"shot": "shot-1", "quality": "coarse", "width": 64, "height": 64}
    ok(client.post(f"/api/reviews/{review}/stills", json=wish), 201)
    assert next_pulse() == [1, pulse + 1, stills + 1], "nothing else is to be fetched while stills are traced"


def test_a_shot_is_cropped_and_balanced_before_an_edit_keeps_it(client) -> None:
    camera = {"position": [300.0, -900.0, 500.0], "target": [0.0, 0.0, 50.0]}
    wish = {"camera": camera, "region": [0.5, 0.0, 0.75, 1.0], "width": 1600, "height": 900}
    made = ok(client.post("/api/shots/cropped", json=wish))
    assert (made["width"], made["height"]) == (711, 1600) and made["camera"]["focal_length"] == 340.0
    none = client.post("/api/shots/cropped", json=wish | {"region": [0.5, 0.0, 0.5, 1.0]})
    assert none.status_code == 409 and "Drag a frame" in none.json["detail"]
    warm = ok(client.post("/api/shots/white", json={"color": "#C8B08A", "white": 6504}))
    assert warm["white"] < 5500
    black = client.post("/api/shots/white", json={"color": "#000000", "white": 6504})
    assert black.status_code == 409 and "too dark" in black.json["detail"]
