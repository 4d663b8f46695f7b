"""The API of sections, over HTTP."""

from __future__ import annotations

import numpy as np
import pytest

from usual_lamp.core.assembly import Mesh
from web.test_assembly_api import client, ok

__all__ = ["client"]


def test_a_section_tells_what_it_does_and_its_meshes_are_fetched(client, review) -> None:
    at = f"/api/reviews/{review}/shots/shot-1/section"
    low, high = ok(client.post(at, json={"section": {"normal": [0, 1, 0], "offset": 0}}))["reach"]
    section = {"normal": [0, 1, 0], "offset": (low + high) / 2, "color": "#B04030"}
    found = ok(client.post(at, json={"section": section}))
    assert found["gone"] and found["cut"] and found["cap"]["name"] == "Cut" and found["shaded"]
    assert set(found["fasteners"]) < {*found["cut"]}
    uid, cut = next(iter(found["cut"].items()))
    for form in ("", "/unrolled"):
        mesh = Mesh.from_bytes(client.get(f"/api/blobs/{cut['mesh']}{form}").data)
        assert len(mesh.face_ranges) == cut["face"] + 1 and mesh.face_ranges[-1, 1] > 0
        assert (mesh.coordinates is not None) == bool(form)
    whole = Mesh.from_bytes(client.get(f"/api/blobs/{cut['mesh'].split('~')[0]}").data)
    assert mesh.volume() < whole.volume()
    # A part that is to stay whole is neither cut nor taken away.
    section["whole"] = [uid, found["gone"][0]]
    spared = ok(client.post(at, json={"section": section}))
    assert uid not in spared["cut"] and found["gone"][0] not in spared["gone"]


def test_a_section_goes_through_a_face(client, review) -> None:
    at = f"/api/reviews/{review}/shots/shot-1/section/face"
    model = ok(client.get(f"/api/reviews/{review}"))["model"]
    node = next(one for one in model["nodes"] if one["name"] == "nut")
    through = 0
    for face in range(len(model["definitions"][node["definition"]]["faces"])):
        found = ok(client.post(at, json={"face": {"uid": node["uid"], "face": face}}))["section"]
        assert np.linalg.norm(found["normal"]) == pytest.approx(1, abs=1e-4) and found["whole"] == []
        through += node["uid"] in ok(client.post(at.removesuffix("/face"), json={"section": found}))["cut"]
    assert through == 2, "the axis of its bore, of two halves, lies within it, its flat faces do not"
    assert client.post(at, json={"face": {"uid": node["uid"], "face": 999}}).status_code == 404
    assert client.post(at, json={"face": {"uid": "nobody", "face": 0}}).status_code == 404


def test_what_is_no_section_or_plane_is_refused(client, review) -> None:
    at = f"/api/reviews/{review}/shots/shot-1/section"
    for wrong in ({"normal": [0, 0, 0], "offset": 0}, {"normal": [0, 1, 0]}, {"normal": [0, 1, 0], "offset": 1e9}):
        assert client.post(at, json={"section": wrong}).status_code == 422
    gone = client.post(at.replace("shot-1", "shot-9"), json={"section": {"normal": [0, 1, 0], "offset": 0}})
    assert gone.status_code == 404
    sha = "0" * 64
    for name, status in ((f"{sha}~0,0,1,5", 404), (f"{sha}~0,0,0,5", 404), (f"{sha}~a,b,c,d", 422), (f"{sha}~1", 422)):
        assert client.get(f"/api/blobs/{name}").status_code == status, name


def test_a_shot_keeps_its_section_and_its_undo(client, review) -> None:
    shot = ok(client.get(f"/api/reviews/{review}/scene"))["scene"]["shots"]["shot-1"]
    cut = shot | {"section": {"normal": [1, 0, 0], "offset": 3.5, "color": None, "whole": []}}
    ok(client.post(f"/api/reviews/{review}/edits", json={"edit": {"kind": "set_shot", "id": "shot-1", "shot": cut}}))
    after = ok(client.get(f"/api/reviews/{review}/scene"))["scene"]["shots"]["shot-1"]
    assert after["section"] == cut["section"]
    history = ok(client.get(f"/api/reviews/{review}/history"))
    assert "Cut the shot" in str(history)
    ok(client.post(f"/api/reviews/{review}/undo"))
    assert ok(client.get(f"/api/reviews/{review}/scene"))["scene"]["shots"]["shot-1"] == shot
