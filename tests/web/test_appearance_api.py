"""The API of giving appearances, over HTTP."""

from __future__ import annotations

import csv
import io

import pytest
from PIL import Image

from usual_lamp.core.appearance import SHELF
from usual_lamp.core.appearance.made_pictures import MADE
from usual_lamp.core.assembly import Mesh
from web.test_assembly_api import client, ok

__all__ = ["client"]
STEEL, BRASS = (SHELF[name].model_dump(mode="json") for name in ("steel-machined", "brass-turned"))


def parts(client, review: str) -> dict[str, list[str]]:
    """Uids by name."""
    found: dict[str, list[str]] = {}
    for node in ok(client.get(f"/api/reviews/{review}"))["model"]["nodes"]:
        if node["definition"]:
            found.setdefault(node["name"], []).append(node["uid"])
    return found


def assign(keys: dict[str, str | None]) -> dict:
    return {"edit": {"kind": "assign", "assignments": keys, "define": {STEEL["id"]: STEEL, BRASS["id"]: BRASS}}}


def test_what_would_change_is_told_and_not_done(client, review) -> None:
    by = parts(client, review)
    before = ok(client.get(f"/api/reviews/{review}/scene"))
    ok(client.post(f"/api/reviews/{review}/edits", json=assign({by["rod"][0]: BRASS["id"]})))
    would = ok(client.post(f"/api/reviews/{review}/would", json=assign({"model-1": STEEL["id"]})))
    assert would["meant"] == 18 and len(would["changing"]) == 17 and would["keeping"] == by["rod"]
    same = ok(client.post(f"/api/reviews/{review}/would", json=assign({f"={by['nut'][0]}": STEEL["id"]})))
    assert sorted(same["changing"]) == sorted(by["nut"]) and same["meant"] == len(by["nut"])
    again = ok(client.post(f"/api/reviews/{review}/would", json=assign({by["rod"][0]: BRASS["id"]})))
    assert again["changing"] == [] and again["keeping"] == []
    assert client.post(f"/api/reviews/{review}/would", json=assign({"nobody": STEEL["id"]})).status_code == 409
    assert client.post(f"/api/reviews/{review}/would", json={"edit": {"kind": "assign"}}).status_code == 422
    assert ok(client.get(f"/api/reviews/{review}/scene"))["seq"] == before["seq"] + 1


def test_rules_tell_what_they_do(client, review) -> None:
    by = parts(client, review)
    rules = [
        {"id": "a", "filter": "name:nut", "appearance": STEEL["id"]},
        {"id": "b", "filter": "nothing:like it", "appearance": BRASS["id"]},
        {"id": "c", "filter": "name:plate", "appearance": BRASS["id"], "surface": "cylinder"},
    ]
    define = {STEEL["id"]: STEEL, BRASS["id"]: BRASS}
    edit = {"kind": "set_rules", "rules": rules, "define": define}
    ok(client.post(f"/api/reviews/{review}/edits", json={"edit": edit}))
    ok(client.post(f"/api/reviews/{review}/edits", json=assign({by["nut"][0]: BRASS["id"]})))
    lines = ok(client.get(f"/api/reviews/{review}/rules"))["rules"]
    assert lines[0]["passes"] == len(by["nut"]) and sorted(lines[0]["wearing"]) == sorted(by["nut"][1:])
    assert "No part has a field" in lines[1]["problem"] and lines[2]["wearing"] == by["plate"]


def test_the_schedule_goes_out_and_comes_back(client, review) -> None:
    by = parts(client, review)
    reply = client.get(f"/api/reviews/{review}/schedule.csv")
    assert reply.mimetype == "text/csv" and "attachment" in reply.headers["Content-Disposition"]
    rows = list(csv.reader(io.StringIO(reply.get_data(as_text=True).removeprefix("\ufeff"))))
    assert rows[0] == ["key", "name", "quantity", "appearance", "source"] and len(rows) == 19
    assert {row[2] for row in rows if row[1] == "bolt"} == {"6"}

    def sent(lines: list[list[str]], mark: str = ",") -> dict:
        text = "\n".join(mark.join(line) for line in lines)
        return ok(client.post(f"/api/reviews/{review}/schedule", data=text.encode("utf-8-sig")))

    assert sent(rows)["edit"] is None and sent(rows)["lines"] == []
    filled = [[*row[:3], "brass-turned" if row[1] == "rod" else row[3], row[4]] for row in rows]
    for mark in (",", ";"):
        found = sent(filled, mark)
        assert [line["part"] for line in found["lines"]] == ["rod"] and found["problems"] == []
    ok(client.post(f"/api/reviews/{review}/edits", json={"edit": found["edit"]}))
    worn = ok(client.get(f"/api/reviews/{review}/scene"))["worn"]
    assert worn[by["rod"][0]]["appearance"] == "brass-turned"
    emptied = sent(
        [rows[0], [by["rod"][0], "rod", "1", "", ""], ["x", "", "", "Gold", ""], [by["nut"][0], "", "", "Soap", ""]]
    )
    assert emptied["edit"]["assignments"] == {by["rod"][0]: None} and len(emptied["problems"]) == 2
    assert client.post(f"/api/reviews/{review}/schedule", data=b"a,b\n1,2").status_code == 409


def test_materials_go_out_and_come_back(client, review) -> None:
    by = parts(client, review)
    ok(client.post(f"/api/reviews/{review}/edits", json=assign({by["rod"][0]: BRASS["id"]})))
    text = client.get(f"/api/reviews/{review}/appearances.mtlx").get_data(as_text=True)
    assert text.count("<open_pbr_surface ") == 2
    found = ok(client.post(f"/api/reviews/{review}/appearances", data=text.encode()))
    assert sorted(found["names"]) == ["Brass, turned", "Steel, machined"] and found["notes"] == []
    ok(client.post(f"/api/reviews/{review}/edits", json={"edit": found["edit"]}))
    assert len(ok(client.get(f"/api/reviews/{review}/scene"))["scene"]["appearances"]) == 4
    assert ok(client.post(f"/api/reviews/{review}/appearances", data=text.encode()))["edit"] is None
    assert client.post(f"/api/reviews/{review}/appearances", data=b"<svg/>").status_code == 409


def test_pictures_are_kept_made_and_laid_on_unrolled_meshes(client, review) -> None:
    stream = io.BytesIO()
    Image.new("RGB", (30, 20), (200, 30, 30)).save(stream, "JPEG")
    kept = ok(client.post("/api/pictures", data=stream.getvalue()), 201)
    assert (kept["width"], kept["height"]) == (30, 20)
    assert Image.open(io.BytesIO(client.get(f"/api/blobs/{kept['picture']}").data)).mode == "RGBA"
    assert client.post("/api/pictures", data=b"not a picture").status_code == 409
    made = ok(client.get("/api/made-pictures"))["pictures"]
    assert len(made) == len(MADE) and all(one["width"] > 0 for one in made)
    assert client.get("/api/pictures/oak").data[:4] == b"\x89PNG" and client.get("/api/pictures/ink").status_code == 404
    model = ok(client.get(f"/api/reviews/{review}"))["model"]
    mesh = next(iter(model["definitions"].values()))["mesh"]
    unrolled = Mesh.from_bytes(client.get(f"/api/blobs/{mesh}/unrolled").data)
    assert unrolled.coordinates is not None and len(unrolled.coordinates) == len(unrolled.positions)
    assert client.get(f"/api/blobs/{kept['picture']}/unrolled").status_code == 404


@pytest.mark.parametrize(("kelvin", "status"), [(2700, 200), (100, 422), ("warm", 422)])
def test_colour_by_temperature(client, kelvin, status: int) -> None:
    reply = client.get(f"/api/black-body?kelvin={kelvin}")
    assert reply.status_code == status
    if status == 200:
        red, green, blue = reply.get_json()["color"]
        assert red == 1.0 > green > blue > 0
