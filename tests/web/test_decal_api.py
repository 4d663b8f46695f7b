"""The API of decals, over HTTP."""

from __future__ import annotations

import io

from PIL import Image

from web.test_assembly_api import client, ok

__all__ = ["client"]
CAMERA = {"position": [300.0, -900.0, 500.0], "target": [0.0, 0.0, 50.0]}


def test_a_decal_is_placed_kept_moved_and_taken_back(client, review) -> None:
    data = io.BytesIO()
    Image.new("RGBA", (200, 100), (200, 0, 0, 128)).save(data, "PNG")
    picture = ok(client.post("/api/pictures", data=data.getvalue()), 201)
    part = next(
        node["uid"] for node in ok(client.get(f"/api/reviews/{review}"))["model"]["nodes"] if node["definition"]
    )
    spot = {"part": part, "face": 0, "point": [0, 0, 10], "normal": [0, 0, 1]}
    wish = {"spot": spot, "camera": CAMERA, "name": "Label", "picture": picture["picture"], "aspect": 2.0}
    decal = ok(client.post(f"/api/reviews/{review}/decals/place", json=wish))["decal"]
    assert decal["part"] == part and abs(decal["width"] / decal["height"] - 2) < 0.1
    edit = {"kind": "set_decals", "decals": {"a": decal}}
    ok(client.post(f"/api/reviews/{review}/edits", json={"edit": edit}))
    moved = ok(
        client.post(
            f"/api/reviews/{review}/decals/place",
            json=wish | {"decal": decal | {"width": 7.0, "height": 3.5}, "spot": spot | {"point": [5, 0, 10]}},
        )
    )["decal"]
    assert moved["width"] == 7.0 and moved["center"] != decal["center"] and moved["name"] == "Label"
    assert ok(client.get(f"/api/reviews/{review}/scene"))["scene"]["decals"]["a"] == decal
    unknown = edit | {"decals": {"a": decal | {"picture": "d" * 64}}}
    assert client.post(f"/api/reviews/{review}/edits", json={"edit": unknown}).status_code == 409
    for change, status in (({"part": "gone"}, 404), ({"face": 9999}, 409)):
        reply = client.post(f"/api/reviews/{review}/decals/place", json=wish | {"spot": spot | change})
        assert reply.status_code == status
    ok(client.post(f"/api/reviews/{review}/undo"))
    assert ok(client.get(f"/api/reviews/{review}/scene"))["scene"]["decals"] == {}
