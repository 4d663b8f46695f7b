"""The API of giving appearances, over HTTP."""

from __future__ import annotations

import csv
import io

import numpy as np
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
    text = reply.get_data(as_text=True).removeprefix("\ufeff")
    plain = ok(client.post(f"/api/reviews/{review}/schedule", data=text.encode()))
    for odd in (text.replace("\r\n", "\r").encode(), text.replace("\r\n", "\n").encode(), text.encode("utf-16")):
        other = ok(client.post(f"/api/reviews/{review}/schedule", data=odd))
        assert other == plain, "whichever way its lines end, and with two bytes a letter"
    for strange in (text + "x" * 200_000 + ",", text + "a\0b,", '"' + "y" * 140_000):
        told = client.post(f"/api/reviews/{review}/schedule", data=strange.encode())
        assert told.status_code < 500 and "Error" not in told.get_data(as_text=True)


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
    assert [(one["name"], one["flake"]) for one in made if one["flake"]] == [
        ("made:flakes", pytest.approx(0.063, abs=1e-3))
    ]
    assert client.get("/api/pictures/flakes%2040").status_code == 200
    assert client.get("/api/pictures/flakes%20400").status_code == 404
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


def test_colours_by_cielab(client) -> None:
    """Against colour-science, under D65."""
    import colour

    reading = [52.0, 38.0, 21.0]
    found = ok(client.post("/api/color", json={"lab": reading}))
    white = colour.CCS_ILLUMINANTS["CIE 1931 2 Degree Standard Observer"]["D65"]
    expected = colour.XYZ_to_RGB(colour.Lab_to_XYZ(reading, white), "sRGB", white)
    assert found["linear"] == pytest.approx(list(expected), abs=2e-3) and found["shown"]
    back = ok(client.post("/api/color", json={"linear": found["linear"]}))
    assert back["lab"] == pytest.approx(reading, abs=0.01)
    outside = ok(client.post("/api/color", json={"lab": [60.0, -120.0, 60.0]}))
    assert not outside["shown"] and min(outside["linear"]) == 0.0
    assert client.post("/api/color", json={}).status_code == 409


def test_samples_are_kept_for_all_reviews(client, review) -> None:
    own = STEEL | {"name": "Steel, as we buy it"}
    made = ok(client.post("/api/shelf/kept", json={"appearance": own}), 201)["id"]
    first = ok(client.get("/api/shelf"))["samples"][0]
    assert first["kept"] and first["appearance"] == own | {"id": made}
    # A colleague may name it in a spreadsheet.
    uid = parts(client, review)["rod"][0]
    table = f'key,name,quantity,appearance,source\n{uid},rod,1,"{own["name"]}",\n'.encode()
    difference = ok(client.post(f"/api/reviews/{review}/schedule", data=table))
    assert difference["lines"][0]["then"] == own["name"] and difference["problems"] == []
    assert client.post("/api/shelf/kept", json={"appearance": own | {"name": "  "}}).status_code == 409
    assert client.delete(f"/api/shelf/kept/{made}").status_code == 204
    assert client.delete(f"/api/shelf/kept/{made}").status_code == 404
    assert not ok(client.get("/api/shelf"))["samples"][0]["kept"]


def test_open_exr_pictures_stay_linear(client) -> None:
    from usual_lamp.core.exr import exr_of
    from usual_lamp.core.picture.read import read_picture

    values = np.zeros((12, 20, 4), np.float32)
    values[..., 0], values[..., 1], values[..., 3] = np.linspace(0, 1, 20), 0.25, 1.0
    kept = ok(client.post("/api/pictures", data=exr_of(values)), 201)
    assert (kept["width"], kept["height"]) == (20, 12)
    block = client.get(f"/api/blobs/{kept['picture']}").data
    for color in (True, False):
        np.testing.assert_allclose(read_picture(block, color), values, atol=1e-3)
    # A browser is shown sRGB for colours (0.25 linear is 137 of 255) and the plain numbers for all else.
    for color, expected in ((True, 137), (False, 64)):
        shown = Image.open(io.BytesIO(client.get(f"/api/blobs/{kept['picture']}/shown?color={color}").data))
        assert abs(shown.getpixel((3, 3))[1] - expected) <= 1
    assert client.post("/api/pictures", data=exr_of(values)[:300]).status_code == 409


def test_plates_come_in_their_sizes(client) -> None:
    stream = io.BytesIO()
    Image.new("RGB", (288, 288), (90, 120, 30)).save(stream, "PNG")
    kept = ok(client.post("/api/pictures", data=stream.getvalue()), 201)["picture"]
    small = Image.open(io.BytesIO(client.get(f"/api/blobs/{kept}/plate?side=96").data))
    assert small.size == (96, 96) and small.getpixel((40, 40))[:3] == (90, 120, 30)
    assert client.get(f"/api/blobs/{kept}/plate?side=97").status_code == 409


def test_a_look_is_resolved_beside_the_one_that_is_shown(client, review) -> None:
    uid = parts(client, review)["rod"][0]
    shown = ok(client.get(f"/api/reviews/{review}/scene"))["scene"]["looks"]["standard"]
    looks = {"kind": "set_looks", "looks": {"other": shown | {"name": "Other"}}}
    ok(client.post(f"/api/reviews/{review}/edits", json={"edit": looks}))
    edit = assign({uid: BRASS["id"]})["edit"] | {"look": "other"}
    now = ok(client.post(f"/api/reviews/{review}/edits", json={"edit": edit}))
    beside = ok(client.get(f"/api/reviews/{review}/scene?look=other"))
    assert now["worn"][uid]["why"] != "part" and beside["worn"][uid]["appearance"] == BRASS["id"]
    assert client.get(f"/api/reviews/{review}/scene?look=none").status_code == 404


def test_meshes_are_laid_by_hand(client, review) -> None:
    by = parts(client, review)
    frame = [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0]
    laying = {"kind": "cylinder", "radius": 5, "parts": dict.fromkeys(by["rod"], frame)}
    edit = {"kind": "lay_pictures", "layings": {"a": laying}}
    worn = ok(client.post(f"/api/reviews/{review}/edits", json={"edit": edit}))["worn"]
    how = worn[by["rod"][0]]["laid"]
    assert how.startswith("cylinder,5,1,") and worn[by["nut"][0]]["laid"] is None
    model = ok(client.get(f"/api/reviews/{review}"))["model"]
    key = next(node["definition"] for node in model["nodes"] if node["uid"] == by["rod"][0])
    address = f"/api/blobs/{model['definitions'][key]['mesh']}/laid?how="
    assert Mesh.from_bytes(client.get(address + how).data).coordinates is not None
    for wrong in ("sphere,5,1", how + ",1", how.replace("5", "nan"), how.replace("5", "five")):
        assert client.get(address + wrong).status_code == 422
