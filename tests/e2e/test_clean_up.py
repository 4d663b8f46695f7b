"""Intake, clean-up and a new revision, in the browser, as somebody with a review on Thursday does it."""

from __future__ import annotations

import re
import shutil
from pathlib import Path

import pytest
import trimesh
from demo.files import demo_files
from playwright.sync_api import Page, expect

from e2e.running import Product, until


@pytest.fixture(scope="module")
def revisions(tmp_path_factory: pytest.TempPathFactory) -> tuple[Path, Path]:
    """The demo assembly and its second revision, as STEP files."""
    folder = tmp_path_factory.mktemp("pump")
    first, second = (
        Path(shutil.copy(file, folder / name))
        for file, name in zip(demo_files(), ("pump-a.step", "pump-b.step"), strict=True)
    )
    return first, second


def take_in(page: Page, file: Path, name: str) -> str:
    page.goto("/")
    page.get_by_label("CAD file").set_input_files(file)
    page.wait_for_url(re.compile("/intakes/"), timeout=180_000)
    page.get_by_label("Name of the review").fill(name)
    expect(page.get_by_label("Unit of the file")).to_be_visible()
    page.get_by_role("button", name="Import", exact=True).click()
    page.wait_for_url(re.compile("/reviews/"))
    page.locator("canvas[data-ready=true]").wait_for(timeout=60_000)
    return page.url.rpartition("/")[2]


def saved(page: Page) -> None:
    expect(page.get_by_text("all changes saved")).to_be_visible()


def undo_all(page: Page, product: Product, review: str) -> None:
    """Take every edit back, step by step."""
    while page.get_by_role("button", name="Undo").is_enabled():
        seq = product.ask(f"reviews/{review}/scene")["seq"]
        page.get_by_role("button", name="Undo").click()
        page.wait_for_function(
            "([id, seq]) => fetch(`/api/reviews/${id}/scene`).then((r) => r.json()).then((s) => s.seq > seq)",
            arg=[review, seq],
        )
        saved(page)


def test_from_the_file_to_the_second_revision_and_back(page: Page, product: Product, revisions) -> None:
    review = take_in(page, revisions[0], "Pump for Thursday")
    start = product.ask(f"reviews/{review}/scene")["scene"]

    # Accept what was found: out go the parts that no one can see.
    finding = page.locator("[data-finding='never visible']")
    expect(finding).to_be_visible(timeout=60_000)
    unseen = int(finding.locator(".figures").inner_text())
    finding.get_by_role("button", name="Show which").click()
    expect(page.get_by_label("Drawer").get_by_text(re.compile(f"^{unseen} parts? selected"))).to_be_visible()
    page.keyboard.press("Escape")
    finding.get_by_role("button", name="Suppress").click()
    expect(page.get_by_text(f"{60 - unseen} of 63")).to_be_visible()

    # Cut the colours down.
    page.get_by_role("button", name="CAD colours").click()
    page.get_by_role("button", name="Open the table").click()
    page.get_by_role("button", name=re.compile("Merge [1-9]")).click()
    expect(page.get_by_role("button", name="Merge 0 similar")).to_be_disabled()
    page.get_by_role("button", name=re.compile("Take all [1-9]")).click()
    expect(page.get_by_role("button", name="Take all 0 suggestions")).to_be_disabled()
    page.keyboard.press("Escape")
    expect(page.get_by_role("row", name=re.compile("Hose barb")).get_by_text("Brass, turned")).to_be_visible()

    # Lay it on the face one clicks at, and stand it up again.
    page.get_by_role("button", name="Orientation").click()
    page.get_by_role("button", name="Set face down").click()
    picture = page.locator("canvas")
    box = picture.bounding_box()
    assert box
    expect(page.get_by_text("Click the face that shall point down")).to_be_visible()
    picture.click(position={"x": box["width"] * 0.4, "y": box["height"] * 0.26})
    expect(page.get_by_text("184 x 185 x 143 mm")).to_be_visible()
    expect(page.get_by_text("Click the face that shall point down")).to_be_hidden()
    page.keyboard.press("Control+z")
    expect(page.get_by_text("184 x 143 x 185 mm")).to_be_visible()
    page.get_by_role("button", name="90° x").click()
    expect(page.get_by_text("184 x 185 x 143 mm")).to_be_visible()
    page.keyboard.press("Control+z")
    expect(page.get_by_text("184 x 143 x 185 mm")).to_be_visible()

    # A label round the skirt of the knob, whose next revision is wider: 17.0 mm in place of 15.2.
    nodes = product.ask(f"reviews/{review}")["model"]["nodes"]
    knob = next(node["uid"] for node in nodes if node["name"] == "Knob body")
    drawn = product.ask("drawings", "POST", {"drawing": {"kind": "text", "text": "MIN MAX"}})
    lies = {"center": [-15.2, 0, 1.2], "right": [0, -1, 0], "up": [0, 0, 1], "width": 12, "height": 2, "depth": 0.5}
    label = lies | {"name": "Limits", "picture": drawn["picture"], "part": knob, "wrap": {"radius": 15.2}}
    wrapped = {"edit": {"kind": "set_decals", "decals": {"limits": label}}}
    product.ask(f"reviews/{review}/edits", "POST", wrapped)
    page.get_by_role("region", name="All decals").get_by_role("button", name="Show", exact=True).click()
    expect(page.get_by_text("wrapped, radius 15.2 mm")).to_be_visible()
    page.get_by_label("Faces that the decal is kept to").select_option("its face")
    until(
        "it is kept to the skirt", lambda: product.ask(f"reviews/{review}/scene")["scene"]["decals"]["limits"]["faces"]
    )
    page.locator("body").press("Escape")
    page.locator("body").press("Escape")
    expect(page.get_by_text("Nothing selected")).to_be_visible()

    # The second revision: read the report, replace, and take all of it back.
    before = product.ask(f"reviews/{review}/scene")
    page.get_by_role("button", name="Update model").click()
    page.get_by_label("Newer file").set_input_files(revisions[1])
    dialog = page.get_by_role("dialog", name=re.compile("New revision"))
    expect(dialog.get_by_role("tab", name=re.compile("unchanged"))).to_be_visible(timeout=180_000)
    counts = {kind: dialog.get_by_role("tab", name=re.compile(f"^{kind}")).inner_text().split()[-1]
              for kind in ("uncertain", "gone", "new", "changed shape", "moved", "unchanged")}  # fmt: skip
    assert counts == {"uncertain": "0", "gone": "1", "new": "2", "changed shape": "5", "moved": "0", "unchanged": "57"}
    expect(dialog.get_by_text("Motor bracket")).to_be_visible()
    dialog.get_by_role("tab", name=re.compile("^new")).click()
    dialog.get_by_label("What Screw M3 x 8 was before").first.select_option(label="was Motor bracket")
    fate = dialog.get_by_role("region", name="Decals on parts with another shape")
    expect(fate.get_by_text("Limits on Knob body moves 1.8 mm with its face")).to_be_visible()
    expect(fate.get_by_role("img", name=re.compile("^Limits on Knob body, (before|now)$"))).to_have_count(2)
    changed = dialog.get_by_role("tab", name=re.compile("^changed shape"))
    expect(changed).to_contain_text("6")
    changed.click()
    by_hand = dialog.locator("[data-pair]").filter(has_text="said by hand")
    expect(by_hand).to_contain_text("was called Motor bracket")
    by_hand.get_by_role("button", name="Split").click()
    expect(dialog.locator("[data-pair]")).to_have_count(5)
    dialog.get_by_role("button", name="Replace the model").click()
    expect(page.get_by_text(f"{61 - unseen} of 64")).to_be_visible(timeout=30_000)
    after = product.ask(f"reviews/{review}/scene")["scene"]
    assert after["states"] == before["scene"]["states"] and after["imported"] == before["scene"]["imported"]
    assert after["decals"]["limits"]["wrap"]["radius"] == pytest.approx(17.0, abs=0.05)
    assert after["decals"]["limits"]["faces"] != before["scene"]["decals"]["limits"]["faces"]
    undo_all(page, product, review)
    assert product.ask(f"reviews/{review}/scene")["scene"] == start
    expect(page.get_by_text("60 of 63")).to_be_visible()
    product.ask(f"reviews/{review}", "DELETE")


def test_a_glb_comes_in_and_is_filtered_moved_and_put_on_a_table(page: Page, product: Product, tmp_path: Path) -> None:
    scene = trimesh.Scene()
    for number in range(4):
        matrix = trimesh.transformations.translation_matrix((0.05 * number, 0, 0))
        scene.add_geometry(trimesh.creation.box((0.02, 0.03, 0.01 * (number + 1))), node_name=f"block {number}",
                           geom_name=f"block {number}", transform=matrix)  # fmt: skip
    scene.export(tmp_path / "blocks.glb")
    review = take_in(page, tmp_path / "blocks.glb", "Blocks")
    expect(page.get_by_text("170 x 40 x 30 mm")).to_be_visible()
    field = page.get_by_label("Filter parts")
    field.fill("siz")
    page.get_by_role("button", name="size<").dispatch_event("pointerdown")
    expect(field).to_have_value("size<")
    field.fill("size<42")
    expect(page.get_by_role("row")).to_have_count(2)
    field.press("Enter")
    expect(page.get_by_label("Drawer").get_by_text("2 parts selected", exact=True)).to_be_visible()
    page.get_by_role("button", name="Build a filter").click()
    page.get_by_label("Name for this filter").fill("small ones")
    page.get_by_role("button", name="Keep", exact=True).click()
    expect(page.get_by_role("button", name=re.compile("^small ones"))).to_be_visible()
    page.keyboard.press("Escape")
    field.fill("colr:red")
    expect(page.get_by_text("No part has a field called colr.")).to_be_visible()
    field.fill("")
    page.get_by_role("row", name=re.compile("block 0")).click()
    page.get_by_role("button", name="Place of block 0").click()
    up = page.get_by_label("Shift along z")
    up.fill("25")
    up.press("Enter")

    def moves() -> list[list[float]]:
        return [move["shift"] for move in product.ask(f"reviews/{review}/scene")["scene"]["moves"].values()]

    assert until("the move is kept", moves) == [[0, 0, 25]]
    page.keyboard.press("Escape")
    page.get_by_role("button", name="Moved parts").click()
    page.get_by_role("button", name="Put it back").click()
    expect(page.get_by_role("button", name="Moved parts")).to_be_hidden()
    page.get_by_role("button", name="Add to the scene").click()
    page.get_by_role("button", name="Tabletop").click()
    expect(page.get_by_role("row", name=re.compile("Tabletop"))).to_be_visible()
    page.get_by_role("button", name="Columns").click()
    page.get_by_label("Size", exact=True).check()
    page.keyboard.press("Escape")
    expect(page.get_by_role("row", name=re.compile("block 3")).get_by_text("20.0 x 30.0 x 40.0")).to_be_visible()
    product.ask(f"reviews/{review}", "DELETE")
