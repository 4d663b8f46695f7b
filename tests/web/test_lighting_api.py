"""The API of light, over HTTP."""

from __future__ import annotations

import gzip

import numpy as np
import pytest

from usual_lamp.core.exr import exr_of
from usual_lamp.service import reviews
from web.test_assembly_api import client, ok

__all__ = ["client"]
CAMERA = {"position": [300.0, -900.0, 500.0], "target": [0.0, 0.0, 50.0]}


def shown(client, review: str) -> dict:
    scene = ok(client.get(f"/api/reviews/{review}/scene"))["scene"]
    return scene["lightings"][scene["lit_by"]]


def halves(reply) -> np.ndarray:
    return np.frombuffer(reply.data, "<f2").reshape(256, 512, 4).astype(np.float32)


def test_lamps_are_made_and_kept(client, review) -> None:
    lamp = ok(client.post(f"/api/reviews/{review}/lamps/new", json={"kind": "spot", "camera": CAMERA}))["lamp"]
    assert lamp["name"] == "Spot" and len(shown(client, review)["lamps"]) == 4, "nothing is changed by asking"
    ok(client.post(f"/api/reviews/{review}/edits", json={"edit": {"kind": "set_lamps", "lamps": {"a": lamp}}}))
    again = ok(client.post(f"/api/reviews/{review}/lamps/new", json={"kind": "spot", "camera": CAMERA}))["lamp"]
    assert again["name"] == "Spot 2" and shown(client, review)["lamps"]["a"] == lamp
    found = ok(client.post(f"/api/reviews/{review}/lamps/set", json={"set": "two strips", "camera": CAMERA}))
    assert len(found["lamps"]) == 3 and found["brightness"] < 1
    wish = {"lamp": lamp, "how": "highlight", "point": [0, 0, 60], "normal": [0, -0.6, 0.8], "camera": CAMERA}
    moved = ok(client.post(f"/api/reviews/{review}/lamps/pointed", json=wish))["lamp"]
    assert moved["position"] != lamp["position"] and moved["target"] == [0, 0, 60]
    away = client.post(f"/api/reviews/{review}/lamps/pointed", json=wish | {"normal": [0, 1, 0]})
    assert away.status_code == 409 and "edge-on" in away.json["detail"]
    wrong = {"edit": {"kind": "set_lamps", "lamps": {"a": lamp | {"candela": -1}}}}
    assert client.post(f"/api/reviews/{review}/edits", json=wrong).status_code == 422


def test_the_light_as_one_map(client, review) -> None:
    lighting = shown(client, review) | {"lamps": {}, "brightness": 1.0}
    wish = {"lighting": lighting, "center": [0, 0, 50]}
    plain = halves(client.post("/api/lighting-map", json=wish))
    assert plain[..., :3].max() > 1 and (plain[..., 3] == 1).all()
    packed = client.post("/api/lighting-map", json=wish, headers={"Accept-Encoding": "gzip"})
    assert packed.headers["Content-Encoding"] == "gzip" and len(packed.data) < plain.size * 2 / 3
    assert gzip.decompress(packed.data) == client.post("/api/lighting-map", json=wish).data
    dim = halves(client.post("/api/lighting-map", json=wish | {"lighting": lighting | {"brightness": 0.5}}))
    np.testing.assert_allclose(dim[..., :3], plain[..., :3] / 2, rtol=2e-3, atol=1e-4)
    lamp = ok(client.post(f"/api/reviews/{review}/lamps/new", json={"kind": "panel", "camera": CAMERA}))["lamp"]
    lit = lighting | {"on": False, "lamps": {"a": lamp}}
    alone = halves(client.post("/api/lighting-map", json=wish | {"lighting": lit}))[..., :3].sum(axis=2)
    assert 0 < (alone > 0).mean() < 0.2 and np.median(alone) == 0
    behind = halves(client.post("/api/backdrop-map", json=wish | {"lighting": lighting | {"surroundings": "field"}}))
    assert behind[200:, :, :3].min() > 0


def test_a_panorama_comes_in_and_lights(client, review) -> None:
    names = {line["name"] for line in ok(client.get("/api/surroundings"))["surroundings"]}
    assert len(names) >= 22 and "panels" in names
    image = np.full((32, 64, 3), 0.5, np.float32)
    image[4:8, 10:20] = 60.0
    kept = ok(client.post("/api/panoramas", data=exr_of(image)), 201)
    assert (kept["width"], kept["height"], kept["notes"]) == (64, 32, ["40 pixels are equally bright at the top: the "
        "highlights were clipped, so that the light is softer than in the place itself."])  # fmt: skip
    used = shown(client, review) | {"surroundings": f"map:{kept['panorama']}"}
    ok(client.post(f"/api/reviews/{review}/edits", json={"edit": {"kind": "set_lighting", "lighting": used}}))
    found = halves(client.post("/api/lighting-map", json={"lighting": used, "center": [0, 0, 0]}))
    assert found[:128, :, :3].max() > 50 * np.median(found[:128, :, :3])
    gone = used | {"surroundings": f"map:{'0' * 64}"}
    refused = client.post(f"/api/reviews/{review}/edits", json={"edit": {"kind": "set_lighting", "lighting": gone}})
    assert refused.status_code == 409
    for data, words in ((b"nothing", "no panorama"), (exr_of(image[:, :40]), "twice as wide")):
        reply = client.post("/api/panoramas", data=data)
        assert reply.status_code == 409 and words in reply.json["detail"]


IES = "TILT=NONE\n1 -1 1 3 1 1 2 0 0 0 1 1 9\n0 30 90\n0\n900 500 0\n"


def test_photometric_files_cards_and_the_sky(client, review) -> None:
    wish = {"text": IES, "camera": CAMERA}
    lamp = ok(client.post(f"/api/reviews/{review}/lamps/photometric", json=wish))["lamp"]
    assert lamp["candela"] == [900, 500, 0] and lamp["target"] != lamp["position"]
    broken = client.post(f"/api/reviews/{review}/lamps/photometric", json=wish | {"text": "no light"})
    assert broken.status_code == 409 and "TILT" in broken.json["detail"]
    for kind in ("card", "field"):
        made = ok(client.post(f"/api/reviews/{review}/lamps/new", json={"kind": kind, "camera": CAMERA}))["lamp"]
        edit = {"kind": "set_lamps", "lamps": {kind: made}}
        ok(client.post(f"/api/reviews/{review}/edits", json={"edit": edit}))
    lighting = shown(client, review)
    bright, dark = (
        halves(client.post("/api/lighting-map", json={"lighting": lighting | change, "center": [0, 0, 50]}))
        for change in ({}, {"lamps": lighting["lamps"] | {"card": lighting["lamps"]["card"] | {"surface": "black"}}})
    )
    assert dark[..., :3].sum() < bright[..., :3].sum()
    sky = lighting | {"surroundings": "daylight", "lamps": {}, "below": "#FF0000"}
    map = halves(client.post("/api/lighting-map", json={"lighting": sky, "center": [0, 0, 50]}))
    assert map[:100, :, 2].mean() > map[:100, :, 0].mean() and map[-1, 0, 0] > 0 and map[-1, 0, 1:3].max() == 0


def test_lightings_are_kept_carried_and_start_new_reviews(client, review, store, as1) -> None:
    lighting = shown(client, review) | {"name": "Ours", "surroundings": "dusk"}
    edit = {"kind": "set_lighting", "lighting": lighting}
    ok(client.post(f"/api/reviews/{review}/edits", json={"edit": edit}))
    id = ok(client.get(f"/api/reviews/{review}/scene"))["scene"]["lit_by"]
    keep = {"lighting": id, "camera": CAMERA}
    kept = ok(client.post(f"/api/reviews/{review}/lightings/keep", json=keep), 201)["id"]
    assert ok(client.get("/api/lightings/kept"))["lightings"] == [{"id": kept, "name": "Ours", "is_start": False}]
    fit = ok(client.post(f"/api/reviews/{review}/lightings/fit", json={"kept": kept, "camera": CAMERA}))
    place = fit["lighting"]["lamps"]["key"]["position"]
    np.testing.assert_allclose(place, lighting["lamps"]["key"]["position"], atol=0.2)
    assert client.put("/api/lightings/start", json={"kept": kept}).status_code == 204
    with store.begin() as session:
        other = reviews.make_review(session, "next", "rev", as1.assembly).id
    found = shown(client, other)
    assert (found["name"], found["surroundings"]) == ("Ours", "dusk") and found["lamps"].keys() == lighting[
        "lamps"
    ].keys()
    client.put("/api/lightings/start", json={"kept": None})
    with store.begin() as session:
        third = reviews.make_review(session, "third", "rev", as1.assembly).id
    assert shown(client, third)["name"] == "Table top"
    assert client.delete(f"/api/lightings/kept/{kept}").status_code == 204
    assert client.post(f"/api/reviews/{review}/lightings/fit", json={"kept": kept, "camera": CAMERA}).status_code == 404
    assert client.put("/api/lightings/start", json={"kept": kept}).status_code == 404


def test_the_brightest_directions_are_told(client, review) -> None:
    lighting = shown(client, review) | {"surroundings": "field"}
    found = ok(client.post("/api/brightest", json={"lighting": lighting}))["directions"]
    assert 1 <= len(found) <= 5 and found[0]["share"] > 0.1
    assert all(0 < one["elevation"] <= 90 and -180 <= one["azimuth"] <= 180 for one in found)
    even = ok(client.post("/api/brightest", json={"lighting": lighting | {"surroundings": "even"}}))
    assert even["directions"] == []
    turned = ok(client.post("/api/brightest", json={"lighting": lighting | {"turn": 90}}))["directions"]
    assert turned == found, "as they are before they are rotated"


def test_balance_heeds_the_backdrop(client, review) -> None:
    lighting = shown(client, review)
    shares = {"environment": 0.2, **dict.fromkeys(lighting["lamps"], 0.8 / len(lighting["lamps"]))}
    key = next(iter(lighting["lamps"]))
    wish = {"lighting": lighting, "shares": shares, "key": key, "ratio": 1.0}
    plain, darker = (
        ok(client.post("/api/balance", json=wish | {"backdrop": change}))["lighting"] for change in (0.0, 2.0)
    )
    assert darker["lamps"][key]["level"] == pytest.approx(plain["lamps"][key]["level"] - 2.0, abs=0.02)
    assert darker["backdrop"] == plain["backdrop"]
    assert client.post("/api/balance", json=wish | {"backdrop": 99}).status_code == 422


def test_a_still_tells_its_lighting_and_takes_levels_only(client, review) -> None:
    asked = {"shot": "shot-1", "quality": "coarse", "width": 64, "height": 64}
    still = ok(client.post(f"/api/reviews/{review}/stills", json=asked), 201)["id"]
    lighting = ok(client.get(f"/api/stills/{still}/lighting"))["lighting"]
    named = {lamp["name"] for lamp in shown(client, review)["lamps"].values()}
    assert {lamp["name"] for lamp in lighting["lamps"].values()} == named and "Key" in named
    (line,) = ok(client.get(f"/api/reviews/{review}/stills"))["stills"]
    assert (line["light_kept"], line["relit"]) == (False, False)
    reply = client.post(f"/api/stills/{still}/relight", json={"lighting": lighting})
    assert reply.status_code == 409 and "not kept" in reply.json["detail"]
    assert client.get("/api/stills/none/lighting").status_code == 404


def test_a_floor_that_is_not_plain_is_shown_where_it_is_traced(client, review) -> None:
    def ground(**floor) -> dict | None:
        lighting = shown(client, review)
        changed = lighting | {"floor": True, "floor_finish": lighting["floor_finish"] | floor}
        edit = {"kind": "set_lighting", "lighting": changed}
        ok(client.post(f"/api/reviews/{review}/edits", json={"edit": edit}))
        return ok(client.get(f"/api/reviews/{review}/shots/shot-1/ground"))["ground"]

    assert ground(kind="plain") is None
    oak = ground(kind="appearance", appearance="oak", lift=-3.0)
    assert oak["appearance"]["id"] == "oak" and oak["shaded"]["roughness"] > 0
    lowest = ok(client.get(f"/api/reviews/{review}/scene"))["floor"]
    assert {round(z, 1) for _, _, z in oak["mesh"]["positions"]} == {round(lowest - 3.0, 1)}
    sweep = ground(kind="sweep", appearance=None, turn=20.0)
    assert max(z for _, _, z in sweep["mesh"]["positions"]) > lowest + 10, "it is curved up behind"
    plain = shown(client, review) | {"name": "Plain", "floor_finish": {"kind": "plain"}}
    ok(client.post(f"/api/reviews/{review}/edits", json={"edit": {"kind": "set_lightings", "lightings": {"b": plain}}}))
    beside = ok(client.get(f"/api/reviews/{review}/shots/shot-1/ground?lighting=b"))
    assert beside["ground"] is None, "in another lighting its own floor"
    for where in ("shots/gone/ground", "shots/shot-1/ground?lighting=gone"):
        assert client.get(f"/api/reviews/{review}/{where}").status_code == 404
