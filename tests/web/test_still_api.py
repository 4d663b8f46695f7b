"""Stills over HTTP: a matrix of them, marks, files that are refused, and how new reviews start."""

from __future__ import annotations

import io

import numpy as np
from PIL import Image

from usual_lamp.core.picture import to_jpeg, to_png
from web.test_assembly_api import client, ok

__all__ = ["client"]


def test_a_matrix_of_stills_is_queued_and_marked(client, review) -> None:
    scene = ok(client.get(f"/api/reviews/{review}/scene"))["scene"]
    small = {"shot-1": scene["shots"]["shot-1"] | {"width": 96, "height": 64}}
    more = small | {"shot-2": small["shot-1"] | {"name": "Side"}}
    ok(client.post(f"/api/reviews/{review}/edits", json={"edit": {"kind": "set_shots", "shots": more}}))
    wish = {"shots": ["shot-1", "shot-2"], "looks": ["standard"], "quality": "coarse"}
    ids = ok(client.post(f"/api/reviews/{review}/stills/many", json=wish), 201)["ids"]
    lines = {line["id"]: line for line in ok(client.get(f"/api/reviews/{review}/stills"))["stills"]}
    assert [(lines[id]["name"], lines[id]["width"], lines[id]["look"]) for id in ids] == [
        ("Front, three-quarter", 96, "standard"),
        ("Side", 96, "standard"),
    ]
    assert client.post(f"/api/reviews/{review}/stills/many", json=wish | {"shots": ["gone"]}).status_code == 404
    many = wish | {"shots": ["shot-1"] * 60, "looks": ["standard"] * 4}
    reply = client.post(f"/api/reviews/{review}/stills/many", json=many)
    assert reply.status_code == 409 and "240 stills" in reply.json["detail"]
    assert client.patch(f"/api/stills/{ids[0]}", json={"starred": True, "note": "talk"}).status_code == 204
    assert client.patch(f"/api/stills/{ids[0]}", json={"note": "x" * 501}).status_code == 422
    assert client.post(f"/api/stills/{ids[1]}/first").status_code == 204
    line = next(one for one in ok(client.get(f"/api/reviews/{review}/stills"))["stills"] if one["id"] == ids[0])
    assert (line["starred"], line["note"], line["can_go_on"], line["developable"]) == (True, "talk", False, False)
    assert ok(client.get(f"/api/stills/{ids[0]}/changes"))["changes"] == []
    for path in (f"/api/stills/{ids[0]}/picture?form=tiff", f"/api/reviews/{review}/stills.zip?ids={ids[0]}"):
        assert client.get(path).status_code == 404, "it is not finished"
    assert client.get(f"/api/stills/{ids[0]}/picture?form=bmp").status_code == 422
    unknown = client.get(f"/api/stills/{ids[0]}/picture?form=exr&layers=raw,smoke")
    assert unknown.status_code == 422 and "smoke" in unknown.text
    assert client.post(f"/api/stills/{ids[0]}/on", json={"quality": "fine"}).status_code == 409


def test_lists_get_small_pictures_of_stills(client, store, review) -> None:
    from usual_lamp.store.tables import StillPreview

    wish = {"shot": "shot-1", "quality": "coarse", "width": 96, "height": 64}
    still = ok(client.post(f"/api/reviews/{review}/stills", json=wish), 201)["id"]
    assert client.get(f"/api/stills/{still}/preview").status_code == 404
    picture = to_jpeg(np.full((1200, 1600, 3), (90, 140, 60), np.uint8), 92)
    with store.begin() as session:
        session.add(StillPreview(still_id=still, jpeg=picture))
    assert client.get(f"/api/stills/{still}/preview").data == picture
    reply = client.get(f"/api/stills/{still}/preview?v=1&small=true")
    small = Image.open(io.BytesIO(reply.data))
    assert small.size == (480, 360) and "max-age" in reply.headers["Cache-Control"]
    np.testing.assert_allclose(small.getpixel((240, 180)), (90, 140, 60), atol=3)


def test_a_picture_without_a_scene_opens_nothing(client) -> None:
    reply = client.post("/api/scenes", data=to_png(np.zeros((4, 4, 3), np.uint8)))
    assert reply.status_code == 409 and "holds no scene" in reply.json["detail"]


def test_new_reviews_start_like_a_shot(client, review) -> None:
    assert ok(client.get("/api/settings/first-shot"))["habits"] is None
    assert client.put("/api/settings/first-shot", json={"review": review, "shot": "gone"}).status_code == 404
    assert client.put("/api/settings/first-shot", json={"review": review, "shot": "shot-1"}).status_code == 204
    assert ok(client.get("/api/settings/first-shot"))["habits"]["width"] == 1280
    assert client.delete("/api/settings/first-shot").status_code == 204
    assert ok(client.get("/api/settings/first-shot"))["habits"] is None


def test_a_first_coat_is_proposed_and_changes_nothing(client, review) -> None:
    before = ok(client.get(f"/api/reviews/{review}/scene"))
    coats = ok(client.get(f"/api/reviews/{review}/first-coat"))["coats"]
    assert {coat["appearance"]["id"] for coat in coats} >= {"zinc-plated", "steel-turned"}
    assert all(coat["why"] and 0 < coat["sure"] < 1 and coat["keys"] and coat["names"] for coat in coats)
    assert ok(client.get(f"/api/reviews/{review}/scene")) == before
