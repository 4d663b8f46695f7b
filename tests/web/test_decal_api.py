"""The API of decals, over HTTP."""

from __future__ import annotations

import io

import numpy as np
import pytest
from PIL import Image

from usual_lamp.core.assembly import Mesh
from usual_lamp.core.decals.fonts import SHIPPED
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
    (line,) = ok(client.get(f"/api/reviews/{review}/decals/a/sharpness"))["shots"]
    assert line["pixels"] > 0 and line["soft"] == (line["pixels"] > 1.2)
    assert client.get(f"/api/reviews/{review}/decals/gone/sharpness").status_code == 404
    snaps = ok(client.get(f"/api/reviews/{review}/decals/a/snaps?face=0"))
    assert {line["what"] for line in snaps["across"]} >= {"middle of the face", "edge of the face"}
    assert client.get(f"/api/reviews/{review}/decals/a/snaps?face=9999").status_code == 404
    unknown = edit | {"decals": {"a": decal | {"picture": "d" * 64}}}
    assert client.post(f"/api/reviews/{review}/edits", json={"edit": unknown}).status_code == 409
    for change, status in (({"part": "gone"}, 404), ({"face": 9999}, 409)):
        reply = client.post(f"/api/reviews/{review}/decals/place", json=wish | {"spot": spot | change})
        assert reply.status_code == status
    nothing = client.post(f"/api/reviews/{review}/decals/place", json=wish | {"picture": None})
    assert nothing.status_code == 409 and "Select a picture" in nothing.json["detail"]
    ok(client.post(f"/api/reviews/{review}/undo"))
    assert ok(client.get(f"/api/reviews/{review}/scene"))["scene"]["decals"] == {}


def test_the_face_beneath_and_the_far_side_of_its_wall_are_found(client, review) -> None:
    model = ok(client.get(f"/api/reviews/{review}"))["model"]
    node = next(node for node in model["nodes"] if node["definition"] and node["name"] == "plate")
    definition = model["definitions"][node["definition"]]
    mesh = Mesh.from_bytes(client.get(f"/api/blobs/{definition['mesh']}").data)
    # On the largest of its triangles that look up, in its own frame.
    corners = mesh.positions[mesh.triangles]
    areas = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])[:, 2]
    triangle = int(areas.argmax())
    face = int(np.searchsorted(mesh.face_ranges[:, 0], triangle, side="right")) - 1
    drawn = ok(client.post("/api/drawings", json={"drawing": {"kind": "text", "text": "OIL"}}))
    lies = {"center": corners[triangle].mean(axis=0).tolist(), "right": [1, 0, 0], "up": [0, 1, 0], "width": 9.0}
    decal = lies | {"name": "Oil", "picture": drawn["picture"], "part": node["uid"], "height": 3.0}
    edit = {"kind": "set_decals", "decals": {"a": decal}}
    ok(client.post(f"/api/reviews/{review}/edits", json={"edit": edit}))
    assert ok(client.get(f"/api/reviews/{review}/decals/a/face"))["face"] == definition["faces"][face]
    behind = ok(client.get(f"/api/reviews/{review}/decals/a/far-side"))["decal"]
    assert behind["center"][:2] == pytest.approx(lies["center"][:2], abs=1e-4) and behind["mirrored"]
    assert lies["center"][2] - behind["center"][2] == pytest.approx(20.0, abs=0.01), "the plate is 20 mm thick"
    along = ok(client.get(f"/api/reviews/{review}/decals/a/along-face"))["decal"]
    assert along["sheet"]["face"] == definition["faces"][face] and along["sheet"]["stretch"] == pytest.approx([1, 1])
    for what in ("face", "far-side", "along-face"):
        assert client.get(f"/api/reviews/{review}/decals/gone/{what}").status_code == 404
    spot = {"part": node["uid"], "face": face, "point": lies["center"], "normal": [0, 0, 1]}
    kept = decal | {"faces": ["another"], "also": [node["uid"], "gone"]}
    wish = {"spot": spot, "camera": CAMERA, "decal": kept}
    put = ok(client.post(f"/api/reviews/{review}/decals/place", json=wish))["decal"]
    assert put["faces"] == [definition["faces"][face]], "one that is kept to a face is kept to the one it is put on"
    assert put["also"] == ["gone"] and put["sheet"] is None
    put = ok(client.post(f"/api/reviews/{review}/decals/place", json=wish | {"decal": along}))["decal"]
    assert put["sheet"] == along["sheet"], "one that follows its face follows the one it is put on"
    away = edit | {"decals": {"a": decal | {"center": [0, 0, 500]}}}
    ok(client.post(f"/api/reviews/{review}/edits", json={"edit": away}))
    reply = client.get(f"/api/reviews/{review}/decals/a/face")
    assert reply.status_code == 409 and "Move it onto one" in reply.json["detail"]


def test_a_drawing_becomes_a_decal_of_its_own_size(client, review) -> None:
    drawing = {"kind": "text", "text": "OIL", "cap_height": 4.0}
    made = ok(client.post("/api/drawings", json={"drawing": drawing}))
    assert made["height"] == pytest.approx(4.0, abs=0.2) and made["width"] > made["height"]
    assert client.get(f"/api/blobs/{made['picture']}").data.startswith(b"\x89PNG")
    reply = client.post("/api/drawings", json={"drawing": drawing | {"text": "\u65e5"}})
    assert reply.status_code == 409 and "has no" in reply.json["detail"]
    assert client.post("/api/drawings", json={"drawing": drawing | {"cap_height": 0}}).status_code == 422
    plate = next(
        node["uid"]
        for node in ok(client.get(f"/api/reviews/{review}"))["model"]["nodes"]
        if node["definition"] and node["name"] == "plate"
    )
    spot = {"part": plate, "face": 0, "point": [90, 75, 20], "normal": [0, 0, 1]}
    wish = {"spot": spot, "camera": CAMERA, "name": "Text", "drawing": drawing}
    decal = ok(client.post(f"/api/reviews/{review}/decals/place", json=wish))["decal"]
    assert decal["drawing"]["text"] == "OIL" and decal["drawing"]["cap_height"] != 4.0, "it fits the face"
    again = ok(client.post("/api/drawings", json={"drawing": decal["drawing"]}))
    assert (again["picture"], again["width"]) == (decal["picture"], decal["width"])


def test_a_font_of_ones_own_sets_text(client) -> None:
    font = ok(client.post("/api/fonts", data=SHIPPED["mono"][1].read_bytes()), 201)
    assert font["family"].startswith("Spline Sans Mono")
    own, ours = (
        ok(client.post("/api/drawings", json={"drawing": {"kind": "text", "text": "AB", "font": name}}))
        for name in (font["font"], "mono")
    )
    assert own == ours
    reply = client.post("/api/fonts", data=b"no font at all")
    assert reply.status_code == 409 and "TTF or OTF" in reply.json["detail"]


def test_svg_and_pdf_come_in_as_pictures(client) -> None:
    svg = b'<svg xmlns="http://www.w3.org/2000/svg" width="20" height="10"><rect width="9" height="9"/></svg>'
    kept = ok(client.post("/api/pictures", data=svg), 201)
    assert (kept["width"], kept["height"]) == (2048, 1024)
    sheets = [Image.new("RGB", size, (255, 255, 255)) for size in ((100, 50), (50, 100))]
    sheets[0].save(pdf := io.BytesIO(), "PDF", save_all=True, append_images=sheets[1:])
    first, second = (ok(client.post(f"/api/pictures?page={k}", data=pdf.getvalue()), 201) for k in (1, 2))
    assert first["pages"] == second["pages"] == 2
    assert first["width"] == 2 * first["height"] and second["height"] == 2 * second["width"]
    assert "it has 2" in client.post("/api/pictures?page=3", data=pdf.getvalue()).json["detail"]
    for bad, words in ((b"<svg", "damaged"), (b"%PDF-1.4 nothing", "damaged")):
        reply = client.post("/api/pictures", data=bad)
        assert reply.status_code == 409 and words in reply.json["detail"]


def test_a_plain_background_is_made_clear(client) -> None:
    image = Image.new("RGB", (40, 20), (255, 255, 255))
    image.paste((200, 0, 0), (10, 5, 30, 15))
    data = io.BytesIO()
    image.save(data, "PNG")
    source = ok(client.post("/api/pictures", data=data.getvalue()), 201)["picture"]
    wish = {"source": source, "tolerance": 8.0}
    made = ok(client.post("/api/pictures/cleared", json={"clearing": wish}))["picture"]
    found = Image.open(io.BytesIO(client.get(f"/api/blobs/{made}").data))
    assert found.getpixel((2, 2))[3] == 0 and found.getpixel((20, 10)) == (200, 0, 0, 255)
    assert client.post("/api/pictures/cleared", json={"clearing": wish | {"source": "d" * 64}}).status_code == 409
