"""What is kept and what is not: tidying up, pictures that are bombs, names that are paths, room on the disk."""

from __future__ import annotations

import io
import os
import struct
import time
import zlib
from concurrent.futures import ThreadPoolExecutor
from datetime import timedelta
from functools import partial
from pathlib import Path
from threading import Barrier

import pytest
from PIL import Image
from sqlalchemy import delete, text

from usual_lamp.core.appearance import SHELF, Appearance
from usual_lamp.core.appearance.texture import Texture
from usual_lamp.core.decals import TextDrawing
from usual_lamp.core.decals.fonts import SHIPPED
from usual_lamp.core.scene import Assign, Decal, SetDecals, SetLighting
from usual_lamp.core.scene.resolution import DEFAULT_SHOT
from usual_lamp.service import (
    checkpoints,
    clean_up,
    decals,
    editing,
    pictures,
    reviews,
    room,
    shelf,
    still_light,
    stills,
    tidying,
)
from usual_lamp.service.checkpoints import AT_ONCE
from usual_lamp.service.errors import Refused
from usual_lamp.store import DatabaseAway, NoRoom, Store, blobs
from usual_lamp.store.tables import (
    Blob,
    ModelRevision,
    Review,
    SceneVersion,
    Still,
    StillBlock,
    StillLight,
    StillTile,
    utc_now,
)

NOW = timedelta(0)


def textured(picture: str) -> Appearance:
    return SHELF["brass-turned"].model_copy(update={"id": "own", "textures": (Texture(picture=picture),)})


def part(store, review: str) -> str:
    return next(p.uid for p in editing.look_at(store, review).assembly.parts())


def png(color: str) -> bytes:
    data = io.BytesIO()
    Image.new("RGB", (8, 4), color).save(data, "PNG")
    return data.getvalue()


def names(store) -> set[str]:
    with store.begin() as session:
        return {row.sha256 for row in session.query(Blob)}


def test_tidying_gives_the_disk_back_what_tables_have_left_empty(store, review, monkeypatch) -> None:
    """Checkpoints of a large still take gigabytes, and a table keeps them when its rows are gone."""
    id = stills.take(store, review, DEFAULT_SHOT, "coarse", (64, 64))
    for tile in range(12):
        with store.begin() as session:
            session.add(StillTile(still_id=id, tile=tile, samples=1, sums=bytes(3 * 2**20)))
    with store.begin() as session:
        session.execute(delete(StillTile))
    monkeypatch.setattr(tidying, "LEAST_EMPTY", 10**6)

    def empty() -> int:
        with store.begin() as session:
            session.execute(text("ANALYZE TABLE still_tile"))
            tables = "information_schema.tables WHERE table_name = 'still_tile' AND table_schema = DATABASE()"
            return int(session.scalar(text(f"SELECT data_free FROM {tables}")))

    kept, deadline = empty(), time.monotonic() + 60
    while kept < 20 * 2**20 and time.monotonic() < deadline:
        kept = empty()  # the server frees what was deleted a little later
    done = tidying.tidy(store)
    assert done.table_bytes >= 20 * 2**20 and "files" in done.in_words()
    assert empty() < kept / 4


def test_checkpoints_go_some_at_a_time(store, review) -> None:
    """Those of one still, however many, and nobody else's."""
    ids = [stills.take(store, review, DEFAULT_SHOT, "coarse", (64, side)) for side in (64, 80)]
    with store.begin() as session:
        for id in ids:
            session.add_all(StillTile(still_id=id, tile=tile, samples=1, sums=b"x") for tile in range(2 * AT_ONCE + 3))
            session.add(StillBlock(still_id=id, kind="light", number=0, samples=1, data=b"x"))
    assert checkpoints.kept_for(store) == set(ids)
    checkpoints.drop(store, ids[0])
    assert checkpoints.kept_for(store) == {ids[1]}
    with store.begin() as session:
        session.get(Still, ids[1]).state = "done"
        session.add_all(StillLight(still_id=ids[0], tile=tile, means=b"x", samples=1) for tile in range(AT_ONCE + 1))
        session.get(Still, ids[0]).removed = utc_now() - 2 * tidying.REMOVED_FOR
    tidying.tidy(store)
    assert checkpoints.kept_for(store) == set()
    with store.begin() as session:
        assert session.get(Still, ids[0]) is None and session.query(StillLight).count() == 0


def test_tidying_keeps_what_reviews_and_their_undo_need(store, review) -> None:
    before = names(store)
    used, undone, unused = (pictures.receive(store, io.BytesIO(png(c))).name for c in ("red", "green", "blue"))
    uid = part(store, review)
    for picture in (used, undone):
        wear = textured(picture).model_copy(update={"id": picture[:8]})
        editing.edit(store, review, Assign(assignments={uid: wear.id}, define={wear.id: wear}))
    editing.undo(store, review)
    assert tidying.tidy(store).in_words() == "nothing to remove", "all of it is of today"
    done = tidying.tidy(store, NOW)
    assert names(store) == before | {used, undone} and (done.blobs, unused in names(store)) == (1, False)
    editing.redo(store, review)
    assert blobs.read(store, undone), "what undo and redo need is there"
    definitions = editing.look_at(store, review).assembly.definitions.values()
    assert all(blobs.read(store, d.mesh) and blobs.read(store, d.shape) for d in definitions)


def test_a_removed_review_goes_after_a_while_with_all_that_was_its_own(store, review) -> None:
    still = stills.take(store, review, DEFAULT_SHOT, "coarse", (64, 64))
    with store.begin() as session:
        session.add(StillTile(still_id=still, tile=0, samples=1, sums=b"x"))
    reviews.remove(store, review)
    tidying.tidy(store, NOW)
    reviews.restore(store, review)
    reviews.remove(store, review)
    done = tidying.tidy(store, NOW, removed_for=NOW)
    assert done.reviews == 1 and done.revisions == 1
    with store.begin() as session:
        for table in (Review, Still, StillTile, SceneVersion, ModelRevision):
            assert session.query(table).count() == 0, table
    assert names(store) == set()


def test_left_over_files_go_and_copies_of_what_is_there_stay(store, review) -> None:
    mesh = next(iter(editing.look_at(store, review).assembly.definitions.values())).mesh
    copy = blobs.local(store, mesh)
    left = [
        store.cache / "upload-1",
        store.cache / "usual-lamp-intake-2",
        copy.with_name("0" * 64),
        copy.with_name("tmpx"),
    ]
    for path in left:
        path.mkdir() if "intake" in path.name else path.write_bytes(b"x")
    assert tidying.tidy(store).files == 0
    for path in (*left, copy):
        os.utime(path, (1, 1))
    assert tidying.tidy(store).files == 4 and copy.exists() and not any(path.exists() for path in left)


def test_content_that_is_stored_again_is_not_collected(store) -> None:
    with store.begin() as session:
        name = blobs.put_bytes(session, b"something", "text/plain")
        session.get(Blob, name).created -= timedelta(days=9)
    with store.begin() as session:
        blobs.put_bytes(session, b"something", "text/plain")
    tidying.tidy(store)
    assert name in names(store)


def bomb(width: int, height: int) -> bytes:
    """A PNG of few bytes and many pixels."""

    def chunk(kind: bytes, data: bytes) -> bytes:
        return struct.pack(">I", len(data)) + kind + data + struct.pack(">I", zlib.crc32(kind + data))

    head = struct.pack(">IIBBBBB", width, height, 1, 0, 0, 0, 0)
    rows = zlib.compress(bytes((width // 8 + 1) * height), 9)
    return b"\x89PNG\r\n\x1a\n" + chunk(b"IHDR", head) + chunk(b"IDAT", rows) + chunk(b"IEND", b"")


def test_pictures_are_decoded_elsewhere_and_bombs_refused(store) -> None:
    kept = pictures.receive(store, io.BytesIO(png("red")))
    assert (kept.width, kept.height) == (8, 4) and blobs.read(store, kept.name)[:4] == b"\x89PNG"
    with pytest.raises(Refused, match="12200 x 12200 pixels, and at most 40 million"):
        pictures.receive(store, io.BytesIO(bomb(12_200, 12_200)))
    with pytest.raises(Refused, match="could not be read"):
        pictures.receive(store, io.BytesIO(b"\x89PNG\r\n\x1a\n and then nothing"))
    assert not [path for path in store.cache.iterdir() if path.name != "blobs"], "nothing is left lying about"


def test_an_exr_with_many_channels_is_refused(store, tmp_path: Path) -> None:
    import numpy as np
    import OpenEXR

    plane = np.zeros((4, 4), np.float16)
    file = tmp_path / "many.exr"
    header = {"compression": OpenEXR.ZIP_COMPRESSION, "type": OpenEXR.scanlineimage}
    with OpenEXR.File(header, {f"c{k}": plane for k in range(40)}) as made:
        made.write(str(file))
    with pytest.raises(Refused, match="40 channels"):
        pictures.receive(store, io.BytesIO(file.read_bytes()))


@pytest.mark.parametrize("name", ["/etc/passwd", "../../secret", "0" * 63, "0" * 64 + "/x", "", "A" * 64])
def test_a_picture_is_no_path(store, name: str) -> None:
    with pytest.raises(ValueError, match="content hash"):
        Texture(picture=name)
    with pytest.raises(blobs.BlobMissing):
        blobs.local(store, name)


def test_a_picture_that_is_not_here_is_refused_at_the_edit(store, review) -> None:
    wear = textured("0" * 64)
    with pytest.raises(Refused, match="not here"):
        editing.edit(store, review, Assign(assignments={part(store, review): "own"}, define={"own": wear}))
    with pytest.raises(Refused, match="not here"):
        shelf.keep(store, wear)
    assert editing.look_at(store, review).seq == 0


def test_below_the_reserve_nothing_large_is_taken(store, review, monkeypatch) -> None:
    monkeypatch.setenv("USUAL_LAMP_RESERVE", str(10**9))
    with pytest.raises(NoRoom, match="nearly full"):
        stills.take(store, review, DEFAULT_SHOT, "coarse", (64, 64))
    with pytest.raises(NoRoom, match="nearly full"):
        pictures.receive(store, io.BytesIO(png("red")))
    monkeypatch.setenv("USUAL_LAMP_RESERVE", "nonsense")
    assert room.reserve() == room.DEFAULT_RESERVE


def test_a_database_that_is_away_is_said(tmp_path: Path, monkeypatch) -> None:
    monkeypatch.setattr("usual_lamp.store.database.PATIENCE", 0.2)
    nowhere = Store("mariadb+mariadbconnector://nobody@127.0.0.1:1/none", tmp_path)
    with pytest.raises(DatabaseAway, match="starting again"), nowhere.begin():
        pytest.fail("there is nothing to begin with")


def test_names_longer_than_a_still_can_have_are_refused_at_the_edit(store, review) -> None:
    from usual_lamp.core.scene import SetShot

    shot = editing.look_at(store, review).scene.shots[DEFAULT_SHOT]
    with pytest.raises(Refused, match="120 letters"):
        editing.edit(store, review, SetShot(id=DEFAULT_SHOT, shot=shot.model_copy(update={"name": "n" * 121})))
    editing.edit(store, review, SetShot(id=DEFAULT_SHOT, shot=shot.model_copy(update={"name": "n" * 120})))
    assert stills.take(store, review, DEFAULT_SHOT, "coarse", (64, 64))


def test_many_who_ask_the_same_for_the_first_time_are_all_answered(store, review) -> None:
    """The first of them writes the question down; the others must not fail because it is there then."""
    at_once = Barrier(12)

    def ask(_: int) -> bool:
        at_once.wait()
        return clean_up.find(store, review).looking

    with ThreadPoolExecutor(12) as pool:
        assert all(pool.map(ask, range(12)))


def finished(store, review: str, number: int, by_kind: bool = False) -> str:
    """A still that is done and keeps its light, so many minutes younger than the first."""
    id = stills.take(store, review, DEFAULT_SHOT, "coarse", (64, 64), by_kind=by_kind)
    with store.begin() as session:
        still = session.get(Still, id)
        still.state, still.light_kept, still.created = "done", True, still.created + timedelta(minutes=number)
        session.add(StillLight(still_id=id, tile=0, means=b"x"))
    return id


def test_the_newest_stills_keep_their_light(store, review) -> None:
    made = [finished(store, review, number) for number in range(tidying.LIGHT_KEPT + 2)]
    asked = finished(store, review, -1, by_kind=True)
    stills.set_removed(store, made[-1], True)
    busy = stills.take(store, review, DEFAULT_SHOT, "coarse", (64, 64))
    with store.begin() as session:
        session.add(StillLight(still_id=busy, tile=0, means=b"x"))
    tidying.tidy(store)
    with store.begin() as session:
        kept = {light.still_id for light in session.query(StillLight)}
        told = {still.id for still in session.query(Still).filter(Still.light_kept.is_(True))}
    assert kept == {*made[1:-1], busy, asked}, "the oldest let go, and the removed one; what is traced keeps all"
    assert told == {*made[1:-1], asked}, "and layers that somebody asked for stay"
    assert {line.id: line.light_kept for line in stills.list_stills(store, review)}[made[0]] is False
    with pytest.raises(Refused, match="not kept"):
        still_light.relight(store, made[0], still_light.lighting_of(store, made[0]))


def test_a_still_is_taken_from_light_that_is_fine_enough(store, review) -> None:
    """Only one that has as many samples, of the same shot and size, and nothing but levels changed since."""
    first = finished(store, review, 0)

    def source(quality: str = "coarse", size: tuple[int, int] = (64, 64), grain: float | None = None) -> str | None:
        return source_of(stills.take(store, review, DEFAULT_SHOT, quality, size, grain=grain))

    def source_of(id: str) -> str | None:
        with store.begin() as session:
            return session.get(Still, id).relit_of

    def light(**change) -> None:
        lighting = editing.look_at(store, review).scene.lighting
        editing.edit(store, review, SetLighting(lighting=lighting.model_copy(update=change)))

    assert source() == first and source("fair") is None and source(size=(80, 64)) is None
    assert source(grain=0.05) is None, "its grain is not known"
    light(brightness=1.7, glow=-2.0, place=3, name="Brighter")
    assert source() == first
    kinds = partial(stills.take, store, review, DEFAULT_SHOT, "coarse", by_kind=True)
    assert source_of(kinds((64, 64))) is None, "light by kind is not made of other levels, nor of light that lacks it"
    with pytest.raises(Refused, match="up to 6666 x 5000 pixels"):
        kinds((8000, 6000))
    light(turn=20.0)
    assert source() is None
    light(turn=0.0)
    stills.set_removed(store, first, True)
    assert source() is None


def test_where_a_lighting_stands_in_its_list_is_not_part_of_the_picture(store, review) -> None:
    still = finished(store, review, 0)
    lighting = editing.look_at(store, review).scene.lighting
    editing.edit(store, review, SetLighting(lighting=lighting.model_copy(update={"place": 7, "name": "Second"})))
    (line,) = stills.list_stills(store, review)
    assert line.id == still and line.current


def test_fonts_and_pictures_of_decals_stay_with_the_decals(store, review) -> None:
    font, _ = decals.keep_font(store, io.BytesIO(SHIPPED["mono"][1].read_bytes()))
    drawing = TextDrawing(font=font)
    made = decals.drawn(store, drawing)
    other = decals.drawn(store, TextDrawing(text="NOBODY WEARS THIS"))
    lies = dict(center=(0, 0, 0), right=(1, 0, 0), up=(0, 1, 0), width=made.width, height=made.height)
    label = Decal.model_validate(
        {"name": "Label", "picture": made.picture, "part": part(store, review), "drawing": drawing} | lies
    )
    editing.edit(store, review, SetDecals(decals={"a": label}))
    editing.edit(store, review, SetDecals(decals={"a": None}))
    tidying.tidy(store, NOW)
    left = names(store)
    assert made.picture in left and font.removeprefix("font:") in left and other.picture not in left
    assert decals.drawn(store, drawing) == made, "after undo it is drawn as before"
