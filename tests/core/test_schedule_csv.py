"""The schedule as a colleague's spreadsheet sees it: RFC 4180, safe cells, and back with a difference first."""

from __future__ import annotations

import csv
import io

import pytest

from core.test_scene_history import UIDS, assembly
from usual_lamp.core.appearance import SHELF
from usual_lamp.core.assembly import Assembly
from usual_lamp.core.scene import Assign, Scene, apply_edit, first_scene
from usual_lamp.core.scene.resolved import ResolvedScene
from usual_lamp.core.scene.schedule_csv import LARGEST, UnreadableSchedule, from_csv, to_csv

BRASS = SHELF["brass-turned"]
BLOCKS = assembly("mesh-a", UIDS)
FIRST = first_scene(BLOCKS, "a")
GIVEN = apply_edit(FIRST, Assign(assignments={"p1": BRASS.id}, define={BRASS.id: BRASS}), UIDS)[0]


def table(made: Assembly, scene: Scene) -> list[dict[str, str]]:
    return list(csv.DictReader(io.StringIO(to_csv(ResolvedScene(made, scene)), newline="")))


def test_a_row_for_each_part_with_what_it_wears_and_why() -> None:
    rows = table(BLOCKS, GIVEN)
    assert [row["key"] for row in rows] == UIDS and {row["quantity"] for row in rows} == {"5"}
    assert (rows[1]["appearance"], rows[1]["source"]) == ("Brass, turned", "part"), "a comma is quoted"
    assert rows[0]["source"] == "from CAD"
    assert to_csv(ResolvedScene(BLOCKS, GIVEN)).count("\r\n") == 6, "lines end as RFC 4180 has them"


def test_what_went_out_comes_back_as_no_change() -> None:
    for scene in (FIRST, GIVEN):
        found = from_csv(to_csv(ResolvedScene(BLOCKS, scene)), ResolvedScene(BLOCKS, scene))
        assert found.edit is None and found.lines == [] and found.problems == []


@pytest.mark.parametrize("form", ["comma", "semicolon", "mark", "old mac"])
def test_what_was_filled_in_is_one_edit(form: str) -> None:
    text = "key,appearance\np0,Brass, turned\n".replace("Brass, turned", '"Brass, turned"') + "p2,steel-machined\n"
    text = {"semicolon": text.replace(",", ";").replace("Brass;", "Brass,"), "mark": "\ufeff" + text,
            "old mac": text.replace("\n", "\r")}.get(form, text)  # fmt: skip
    found = from_csv(text, ResolvedScene(BLOCKS, FIRST))
    assert found.problems == [] and found.edit is not None
    assert [(key, then) for key, _, _, then in found.lines] == [("p0", "Brass, turned"), ("p2", "Steel, machined")]
    after, back = apply_edit(FIRST, found.edit, UIDS)
    worn = ResolvedScene(BLOCKS, after).worn
    assert worn["p0"].appearance.id == BRASS.id and worn["p2"].appearance.id == "steel-machined"
    assert apply_edit(after, back, UIDS)[0] == FIRST


def test_an_empty_cell_takes_away_what_was_given_by_hand_only() -> None:
    found = from_csv("key,appearance\np1,\np3,\n", ResolvedScene(BLOCKS, GIVEN))
    assert found.lines == [("p1", "p1", "Brass, turned", "")], "p3 has its colour from CAD, which nobody gave"
    assert found.edit is not None and apply_edit(GIVEN, found.edit, UIDS)[0].looks == FIRST.looks


def test_rows_that_fit_nothing_are_told_and_the_rest_is_taken() -> None:
    found = from_csv(
        "key,appearance\ngone,Brass\n\np0,Unobtainium\np4,brass-turned\np9\n", ResolvedScene(BLOCKS, FIRST)
    )
    assert found.problems == [
        "Row 2: no part has the key “gone”.",
        "Row 4: there is no appearance called “Unobtainium”.",
        "Row 6: no part has the key “p9”.",
    ]
    assert [key for key, *_ in found.lines] == ["p4"]


@pytest.mark.parametrize("text", ["", "name,appearance\nx,y\n", "key;name\np0;x\n", "\0\1\2"])
def test_what_is_no_schedule_says_which_columns_are_missing(text: str) -> None:
    with pytest.raises(UnreadableSchedule, match=r"columns key and appearance|no list"):
        from_csv(text, ResolvedScene(BLOCKS, FIRST))


def test_a_file_beyond_all_sizes_is_refused_before_it_is_read() -> None:
    with pytest.raises(UnreadableSchedule, match="too large"):
        from_csv("x" * (LARGEST + 1), ResolvedScene(BLOCKS, FIRST))


@pytest.mark.parametrize("name", ["=HYPERLINK(1)", "+49", "-12", "@cmd", "\ttab"])
def test_no_cell_is_run_by_a_spreadsheet(name: str) -> None:
    """Names come from foreign files; a cell that begins so would be a formula (OWASP, CSV injection, from memory)."""
    made = assembly("mesh-a", UIDS)
    made.occurrences[0].name = name
    assert table(made, FIRST)[0]["name"] == f"'{name}"
    assert from_csv(to_csv(ResolvedScene(made, FIRST)), ResolvedScene(made, FIRST)).edit is None
