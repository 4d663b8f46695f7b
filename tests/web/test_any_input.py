"""Whatever is sent, the answer is a sentence: never a fault of ours, and the review can be opened as before."""

from __future__ import annotations

import json
import random
from collections.abc import Iterator

import pytest

from core.test_document_numbers import EDITS
from usual_lamp.core.appearance import SHELF
from usual_lamp.core.scene import Assign, Rule, SetImported, SetLooks, SetRules, SetStates
from usual_lamp.core.scene.edits import SetFilters
from web.test_assembly_api import client, ok

__all__ = ["client"]
BRASS = SHELF["brass-turned"]
ODD = [
    None, True, -1, 0, 1e308, float("nan"), 10**40, "", "x", "\x00", "\ud800", "a" * 100_000, "=#", "../..", "'\"\\%",
    [], [[]], {}, {"a": 1}, {"": None},
]  # fmt: skip
EACH = 80


def bodies(uids: list[str]) -> dict[str, dict]:
    """A body that is valid, by the address after the review's."""
    give = Assign(assignments={uids[0]: BRASS.id, f"={uids[1]}": BRASS.id}, define={BRASS.id: BRASS})
    rules = SetRules(rules=(Rule(id="a", filter="name:nut size>3", appearance=BRASS.id),), define={BRASS.id: BRASS})
    edits = [
        give, rules, SetStates(states={uids[2]: "hidden"}), SetLooks(show="standard"), SetImported(imported={}),
        SetFilters(filters={"mine": "name:nut"}), *EDITS,
    ]  # fmt: skip
    found = {f"edits {edit.kind}": {"edit": edit.model_dump(mode="json")} for edit in edits}
    found["would"] = {"edit": give.model_dump(mode="json")}
    found["stills"] = {"shot": "shot-1", "quality": "fair", "width": 64, "height": 64, "grain": 0.1}
    found["models/model-1/place"] = {"axis": "x", "degrees": 90, "rest": None, "face": {"uid": uids[0], "face": 0}}
    found["pieces"] = {"piece": {"kind": "wall", "size": [100, 20, 80]}, "model": None}
    found["tessellation"] = {"uids": uids[:2], "quality": None, "chord": 0.1, "angle": 20}
    found["shots/shot-1/section"] = {
        "section": {"normal": [0, 1, 0], "offset": 3, "color": "#B04030", "whole": uids[:1]}
    }
    found["lamp"] = {
        "desk": "0123abcd-ef", "seq": 0, "shot": "shot-1", "width": 64, "height": 48, "region": [0, 0, 1, 1],
        "camera": {"position": [0, -100, 0], "target": [0, 0, 0]}, "look": None, "have": "",
    }  # fmt: skip
    return found


def leaves(value: object, path: tuple = ()) -> Iterator[tuple]:
    """Every place in a JSON document, containers and what they hold."""
    if path:
        yield path
    if isinstance(value, dict | list):
        for key, inner in value.items() if isinstance(value, dict) else enumerate(value):
            yield from leaves(inner, (*path, key))


def spoilt(body: dict, chance: random.Random) -> dict:
    """The body with one thing exchanged, left out, added or named otherwise."""
    changed = json.loads(json.dumps(body))
    path = chance.choice(list(leaves(changed)))
    place = changed
    for key in path[:-1]:
        place = place[key]
    odd, way = chance.choice(ODD), chance.random()
    if way < 0.1 and isinstance(place, dict):
        del place[path[-1]]
    elif way < 0.3 and isinstance(place, dict):
        place[str(chance.choice(["", "\x00", "nobody", "=", "a" * 5000, "standard"]))] = place.pop(path[-1])
    else:
        place[path[-1]] = odd
    return changed


def test_whatever_is_sent_is_answered_with_a_sentence(client, review) -> None:
    before = ok(client.get(f"/api/reviews/{review}"))
    uids = [node["uid"] for node in before["model"]["nodes"] if node["definition"]]
    client.application.extensions["lamp"] = NoLamp()
    for name, body in bodies(uids).items():
        chance = random.Random(name)
        for _ in range(EACH):
            sent = spoilt(body, chance)
            text = json.dumps(sent)
            reply = client.post(f"/api/reviews/{review}/{name.split()[0]}", data=text, content_type="application/json")
            assert reply.status_code < 500, (name, text[:500], reply.get_data(as_text=True))
            if reply.status_code >= 400:
                assert len(reply.get_json()["detail"]) > 5, (name, text[:500])
        scene = client.get(f"/api/reviews/{review}/scene")
        assert scene.status_code == 200, (name, scene.get_data(as_text=True)[:500])
    assert ok(client.get(f"/api/reviews/{review}"))["id"] == review
    while client.post(f"/api/reviews/{review}/undo").status_code == 200:
        pass
    assert ok(client.get(f"/api/reviews/{review}"))["model"] == before["model"]


class NoLamp:
    async def next_frame(self, desk: str, wish: object, have: str) -> None:
        return None


@pytest.mark.parametrize(
    "data",
    [b"", b"{", b"null", b"[]", b'"x"', b"\xff\xfe", b"{}" * 1000, b'{"edit": 1e999}', b'{"edit": {"kind": NaN}}',
     b'{"edit": {"kind": "set_filters", "filters": {"\\ud800": "half of a pair"}}}'],
)  # fmt: skip
def test_what_is_no_document_is_said(client, review, data: bytes) -> None:
    for place in ("edits", "stills", "lamp", "pieces"):
        reply = client.post(f"/api/reviews/{review}/{place}", data=data, content_type="application/json")
        assert 400 <= reply.status_code < 500 and reply.get_json()["detail"], (place, data)


@pytest.mark.parametrize("text", ["%00", "a" * 3000, "..%2f..", "%F0%9F%92%A1", "%ED%A0%80", "' OR 1=1 --"])
def test_addresses_of_nothing_are_not_found(client, text: str) -> None:
    for place in (f"reviews/{text}", f"reviews/{text}/scene", f"stills/{text}/picture", f"intakes/{text}"):
        assert client.get(f"/api/{place}").status_code in (400, 404, 422), (place, text)
    assert client.get(f"/api/reviews/x/filter?text={text}").status_code in (404, 422)
