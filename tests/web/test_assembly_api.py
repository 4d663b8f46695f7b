"""The API of intakes, revisions, models, findings, colours and the filter, over HTTP."""

from __future__ import annotations

import pytest

from core.test_mesh_pictures import variants
from public_files import AS1, step_file
from usual_lamp.farm.dispatcher import Dispatcher
from usual_lamp.web.app import create_app


@pytest.fixture
def client(store, tmp_path):
    (tmp_path / "index.html").write_text("<p>page</p>")
    app = create_app(store, tmp_path)
    yield app.test_client()
    app.extensions["hub"].close()


@pytest.fixture
def work(store):
    return Dispatcher(store, client=None).one_intake  # type: ignore[arg-type]


def ok(reply, status: int = 200):
    assert reply.status_code == status, reply.get_data(as_text=True)
    return reply.get_json() if reply.data else None


def test_intake_screen_from_file_to_review(client, work) -> None:
    data = step_file(AS1).read_bytes()
    run = ok(client.post("/api/intakes?file_name=as1.stp&ask=true", data=data), 201)["id"]
    assert client.get(f"/api/intakes/{run}/found").status_code == 409, "not read yet"
    assert work()
    found = ok(client.get(f"/api/intakes/{run}/found"))
    assert found["line"]["state"] == "ready" and [round(v) for v in found["size"]] == [200, 150, 84]
    assert len([n for n in found["model"]["nodes"] if n["definition"]]) == 18 and found["triangles"] > 1000
    ok(
        client.post(f"/api/intakes/{run}/again", json={"quality": "coarse", "unit": "as written", "up": "as written"}),
        204,
    )
    assert work()
    review = ok(client.post(f"/api/intakes/{run}/accept", json={"name": "Test rig", "only": None}))["id"]
    opened = ok(client.get(f"/api/reviews/{review}"))
    assert opened["name"] == "Test rig" and opened["model"]["models"][0]["file_name"] == "as1.stp"
    assert client.get("/intakes/x").data == b"<p>page</p>"


def test_the_import_screen_knows_faces_in_colours_of_their_own(client, work) -> None:
    data = step_file("cax-if/s1_pe_214/head_front_prt.stp").read_bytes()
    run = ok(client.post("/api/intakes?file_name=head.stp&ask=true", data=data), 201)["id"]
    assert work()
    found = ok(client.get(f"/api/intakes/{run}/found"))
    (part,) = (node for node in found["model"]["nodes"] if node["definition"])
    review = ok(client.post(f"/api/intakes/{run}/accept", json={"name": "Head", "only": None}))["id"]
    worn = ok(client.get(f"/api/reviews/{review}/scene"))["worn"]
    assert found["face_colors"] == {part["uid"]: worn[part["uid"]]["faces"]} and worn[part["uid"]]["faces"]
    assert part["color"] not in found["face_colors"][part["uid"]].values()


def test_a_revision_over_http(client, review, work) -> None:
    query = f"file_name=b.stp&purpose=replace&review_id={review}&model=model-1"
    run = ok(client.post(f"/api/intakes?{query}", data=step_file(AS1).read_bytes()), 201)["id"]
    assert [line["id"] for line in ok(client.get(f"/api/reviews/{review}/intakes"))["intakes"]] == [run]
    assert work()
    report = ok(client.get(f"/api/intakes/{run}/report"))
    assert len(report["pairs"]) == 18 and {pair["kind"] for pair in report["pairs"]} == {"unchanged"}
    first = report["pairs"][0]
    split = ok(client.post(f"/api/intakes/{run}/join", json={"new": first["new"]["uid"], "old": None}))
    assert sorted({pair["kind"] for pair in split["pairs"]}) == ["gone", "new", "unchanged"]
    before = ok(client.get(f"/api/reviews/{review}/scene"))
    after = ok(client.post(f"/api/intakes/{run}/replace"))
    assert after["arrangement"] != before["arrangement"] and after["undoes"]["words"].startswith("Exchange as1")
    opened = ok(client.get(f"/api/reviews/{review}"))["model"]
    assert opened["arrangement"] == after["arrangement"] and opened["file_name"] == "b.stp"
    assert ok(client.post(f"/api/reviews/{review}/undo"))["arrangement"] == before["arrangement"]


def test_filter_findings_and_colours(client, review) -> None:
    where = f"/api/reviews/{review}"
    assert len(ok(client.get(f"{where}/filter?text=bolt%20size%3C100"))["uids"]) > 0
    odd = ok(client.get(f"{where}/filter?text=colr:red"))
    assert odd["uids"] == [] and "colr" in odd["problem"]
    assert {"name", "size", "color"} <= {field["name"] for field in ok(client.get(f"{where}/fields"))["fields"]}
    assert ok(client.get(f"{where}/findings"))["looking"]
    colors = ok(client.get(f"{where}/imported?threshold=40"))
    assert len(colors["colors"]) == 5 and colors["alike"]
    edit = {"kind": "set_imported", "imported": {colors["colors"][0]["id"]: None}, "stripped": [], "define": {}}
    after = ok(client.post(f"{where}/edits", json={"edit": edit}))
    assert sum(worn["why"] == "nothing yet" for worn in after["worn"].values()) == 8
    kept = {"kind": "set_filters", "filters": {"Fasteners": "nut bolt"}}
    assert ok(client.post(f"{where}/edits", json={"edit": kept}))["scene"]["filters"] == {"Fasteners": "nut bolt"}


def test_places_pieces_and_tessellation(client, review, work) -> None:
    where = f"/api/reviews/{review}"
    start = ok(client.get(f"{where}/scene"))
    turned = ok(client.post(f"{where}/models/model-1/place", json={"axis": "x"}))
    assert [round(v) for v in turned["size"]] == [200, 84, 150] and turned["floor"] == pytest.approx(start["floor"])
    rests = ok(client.get(f"{where}/models/model-1/rests"))["rests"]
    assert 0 < rests[0]["share"] < 1
    piece = ok(client.post(f"{where}/pieces", json={"piece": {"kind": "wall", "size": [500, 20, 400]}}))
    assert len(piece["worn"]) == 19
    assert client.post(f"{where}/pieces", json={"piece": {"kind": "wall", "size": [0, 20, 4]}}).status_code == 422
    assert client.post(f"{where}/models/model-9/place", json={"floor": True}).status_code == 404
    runs = ok(client.post(f"{where}/tessellation", json={"quality": "coarse"}), 202)["ids"]
    assert len(runs) == 1 and work()
    model = ok(client.get(where))["model"]
    assert max(d["deviation"] or 0 for d in model["definitions"].values()) > 0.05
    assert client.post(f"{where}/tessellation", json={"flip": True}).status_code == 409, "nothing came as triangles"
    assert client.post(f"{where}/tessellation", json={"chord": 0.1}).status_code == 409, "half a wish"
    assert client.put(f"{where}/models/model-1/follow", json={"path": "relative.step"}).status_code == 409
    assert ok(client.get(f"{where}/followed"))["followed"] == []
    removed = {"kind": "set_models", "models": {"model-1": None}, "states": {}, "moves": {}}
    assert client.post(f"{where}/edits", json={"edit": removed}).status_code == 409
    unknown = {"kind": "set_models", "models": {"model-1": {"name": "x", "revision": "nowhere"}}}
    assert client.post(f"{where}/edits", json={"edit": unknown}).status_code == 404
    assert ok(client.get(f"{where}/scene"))["scene"]["models"].keys() > {"model-1"}


def test_variants_odd_edges_and_what_is_refused(client, work, tmp_path) -> None:
    data = variants(tmp_path).read_bytes()
    run = ok(client.post("/api/intakes?file_name=panel.glb&ask=true", data=data), 201)["id"]
    assert work()
    found = ok(client.get(f"/api/intakes/{run}/found"))
    assert found["variants"] == ["Sea", "Rust"] and found["variant"] is None
    asked = {"quality": "fair", "unit": "as written", "up": "as written"}
    for wrong in ({"chord": -1}, {"angle": 200}, {"chord": "much"}):
        assert client.post(f"/api/intakes/{run}/again", json=asked | wrong).status_code == 422
    ok(client.post(f"/api/intakes/{run}/again", json=asked | {"variant": "Rust"}), 204)
    assert work()
    found = ok(client.get(f"/api/intakes/{run}/found"))
    assert found["variant"] == "Rust"
    (node,) = [n for n in found["model"]["nodes"] if n["definition"]]
    assert node["color"].startswith("cad-e61a1a"), "0.9, 0.1, 0.1"
    mesh = found["model"]["definitions"][node["definition"]]["mesh"]
    edges = ok(client.get(f"/api/meshes/{mesh}/odd-edges"))
    assert len(edges["open"]) == 4 * 6 and edges["crowded"] == []
    assert client.get(f"/api/meshes/{'0' * 64}/odd-edges").status_code == 404


def test_a_hopeless_file_is_told_by_its_beginning(client) -> None:
    said = ok(client.post("/api/intakes/look?file_name=words.step", data=b"a shopping list"))
    assert said["problem"] == "This is not a STEP file: it does not begin with ISO-10303-21."
    assert ok(client.post("/api/intakes/look?file_name=a.stp", data=b"ISO-10303-21;\nHEADER;"))["problem"] is None
