"""Stills and the scenes that they were taken of: what has changed since, opened again, marked, put first, in files."""

from __future__ import annotations

import io
import zipfile
from collections import namedtuple

import cv2
import numpy as np
import OpenEXR
import pytest
from PIL import Image

from usual_lamp.core.appearance import SHELF
from usual_lamp.core.numbers_in_words import NUMBER
from usual_lamp.core.picture import Clean, finish, scene_text, to_png
from usual_lamp.core.picture.area import Area
from usual_lamp.core.picture.negative import write_negative
from usual_lamp.core.picture.png_file import write_png
from usual_lamp.core.scene import (
    Assign,
    Look,
    SetLamps,
    SetLightings,
    SetLooks,
    SetShot,
    SetShots,
    SetStates,
)
from usual_lamp.core.scene.resolution import DEFAULT_SHOT
from usual_lamp.farm.dispatcher import next_still
from usual_lamp.service import editing, room, still_files, still_scenes, stills
from usual_lamp.service.errors import NotFound, Refused
from usual_lamp.service.still_detail import detail
from usual_lamp.store import NoRoom, blobs
from usual_lamp.store.tables import Still

BRASS, STEEL = SHELF["brass-turned"], SHELF["steel-brushed"]
SIZE = (64, 48)


def take(store, review, **wish) -> str:
    return stills.take(store, review, DEFAULT_SHOT, "coarse", SIZE, **wish)


def done(store, id: str) -> Clean:
    """Let a still be finished, with a made-up picture."""
    light = np.linspace(0, 900, 48 * 64 * 3, dtype=np.float32).reshape(48, 64, 3)
    clean = Clean(light, np.full((48, 64, 3), 0.1, np.float32))
    with store.begin() as session:
        still = session.get(Still, id)
        words = still_scenes.words_of(still, "as1", 4)
        still.picture = blobs.put_bytes(session, to_png(finish(clean, stills.finish_of(still)), words), "image/png")
        write_negative(path := store.cache / "negative.exr", clean)
        still.negative = blobs.put_file(session, path, "image/x-exr")
        still.state = "done"
    return clean


def test_what_has_changed_since_a_still_is_said_in_words(store, review) -> None:
    found = editing.look_at(store, review)
    nuts = [part.uid for part in found.assembly.parts() if part.name == "nut"]
    bolt = next(part for part in found.assembly.parts() if part.name == "bolt")
    give = {uid: BRASS.id for uid in nuts}
    editing.edit(store, review, Assign(assignments=give, define={BRASS.id: BRASS}))
    still = take(store, review)
    assert still_scenes.changes(store, still) == []
    scene = editing.look_at(store, review).scene
    editing.edit(store, review, Assign(assignments=dict.fromkeys(nuts, STEEL.id), define={STEEL.id: STEEL}))
    editing.edit(store, review, SetStates(states={bolt.uid: "hidden"}))
    key, lamp = next((id, lamp) for id, lamp in scene.lighting.lamps.items() if lamp.name == "Key")
    editing.edit(store, review, SetLamps(lamps={key: lamp.model_copy(update={"level": lamp.level + 0.5})}))
    shot = scene.shots[DEFAULT_SHOT]
    camera = shot.camera.model_copy(update={"focal_length": 50.0})
    editing.edit(
        store, review, SetShot(id=DEFAULT_SHOT, shot=shot.model_copy(update={"camera": camera, "exposure": 9.0}))
    )
    assert still_scenes.changes(store, still) == [
        "bolt: hidden",
        f"nut ({len(nuts)}): {BRASS.name} → {STEEL.name}",
        f"Key: {NUMBER}+0.5 EV",
        "Lens: 85 → 50 mm",
        f"Exposure: {NUMBER}9.3 → 9 EV",
    ]
    for _ in range(4):
        editing.undo(store, review)
    assert still_scenes.changes(store, still) == [] and stills.list_stills(store, review)[0].current


def test_a_still_is_current_in_its_own_look_and_lighting(store, review) -> None:
    """Whichever is shown: another look on the desk makes no still out of date."""
    scene = editing.look_at(store, review).scene
    dressed = Look(name="Brass", assignments=dict.fromkeys(list(scene.models), BRASS.id))
    editing.edit(store, review, SetLooks(looks={"brass": dressed}, define={BRASS.id: BRASS}))
    dusk = scene.lighting.model_copy(update={"name": "Dusk", "surroundings": "dusk"})
    editing.edit(store, review, SetLightings(lightings={"dusk": dusk}))
    plain, brass = take(store, review), take(store, review, look="brass", lighting="dusk")
    lines = {line.id: line for line in stills.list_stills(store, review)}
    assert lines[plain].current and lines[brass].current
    assert (lines[brass].look, lines[brass].lighting) == ("brass", "dusk")
    editing.edit(store, review, SetLightings(show="dusk"))
    lines = {line.id: line for line in stills.list_stills(store, review)}
    assert lines[brass].current and not lines[plain].current
    with pytest.raises(NotFound, match="look"):
        take(store, review, look="gone")
    with pytest.raises(NotFound, match="lighting"):
        take(store, review, lighting="gone")


def test_stills_of_a_shot_that_is_gone_stay_and_say_so(store, review) -> None:
    shot = editing.look_at(store, review).scene.shots[DEFAULT_SHOT]
    still = take(store, review)
    editing.edit(store, review, SetShots(shots={"b": shot, DEFAULT_SHOT: None}))
    (line,) = stills.list_stills(store, review)
    assert line.id == still and not line.current
    assert still_scenes.changes(store, still) == ["The shot was removed."]


def test_a_still_and_its_file_open_as_the_scene_they_were_made_of(store, review) -> None:
    before = editing.look_at(store, review).scene
    still = take(store, review)
    done(store, still)
    editing.edit(
        store,
        review,
        SetStates(states=dict.fromkeys(list(editing.look_at(store, review).assembly.by_uid)[:1], "hidden")),
    )
    opened = still_scenes.open_still(store, still)
    assert editing.look_at(store, opened).scene == before
    png = still_files.file_of(store, still).opened().read()
    again = still_scenes.open_picture(store, io.BytesIO(png))
    assert editing.look_at(store, again).scene == before
    head = io.BytesIO()
    noise = np.random.default_rng(1).integers(0, 255, (300, 400, 3), dtype=np.uint8)
    write_png(head, (400, 300), (noise[k : k + 10] for k in range(0, 300, 10)), Image.open(io.BytesIO(png)).text)
    cut_off = io.BytesIO(head.getvalue()[:-90_000])
    assert editing.look_at(store, still_scenes.open_picture(store, cut_off)).scene == before
    for bad in (
        to_png(np.zeros((4, 4, 3), np.uint8)),
        b"no picture",
        to_png(np.zeros((4, 4, 3), np.uint8), {"Scene": "e"}),
    ):
        with pytest.raises(Refused, match="holds no scene"):
            still_scenes.open_picture(store, io.BytesIO(bad))
    stranger = before.model_copy(
        update={"models": {id: use.model_copy(update={"revision": "elsewhere"}) for id, use in before.models.items()}}
    )
    words = {scene_text.SCENE: scene_text.packed(stranger.model_dump_json())}
    with pytest.raises(Refused, match="models of this scene are not here"):
        still_scenes.open_picture(store, io.BytesIO(to_png(np.zeros((4, 4, 3), np.uint8), words)))


def test_stills_are_starred_noted_and_put_first(store, review) -> None:
    first, second, third = (take(store, review, grain=grain) for grain in (None, 0.1, 0.2))
    stills.mark(store, second, starred=True)
    stills.mark(store, second, note="  for the talk ")
    line = next(line for line in stills.list_stills(store, review) if line.id == second)
    assert line.starred and line.note == "for the talk"
    stills.put_first(store, third)
    assert [next_still(store).id for _ in range(3)] == [third, first, second]
    stills.move(store, first, "stop")
    with pytest.raises(Refused, match="stopped does not wait"):
        stills.put_first(store, first)


@pytest.mark.parametrize(
    ("state", "done", "then"),
    [("queued", 0.3, "queued"), ("running", 0.3, "running"), ("paused", 0.3, "queued"), ("stopped", 0.3, "queued"),
     ("running", 0.0, "Nothing"), ("done", 1.0, "done"), ("failed", 0.3, "failed")],
)  # fmt: skip
def test_what_is_traced_in_part_can_be_finished_now(store, review, state, done, then) -> None:
    id = take(store, review)
    with store.begin() as session:
        still = session.get(Still, id)
        still.state, still.done = state, done
    if then in ("Nothing", "done", "failed"):
        with pytest.raises(Refused, match=then):
            stills.end_now(store, id)
    else:
        stills.end_now(store, id)
    with store.begin() as session:
        still = session.get(Still, id)
        told = then in ("queued", "running")
        assert still.ends_now == told and still.state == (then if told else state)


@pytest.mark.parametrize("form", ["png16", "tiff", "webp", "jpeg", "exr"])
def test_finished_stills_come_in_every_form(store, review, form) -> None:
    """Read back by OpenCV, Pillow and OpenEXR: as the PNG shows it."""
    still = take(store, review)
    clean = done(store, still)
    shown = np.asarray(Image.open(io.BytesIO(still_files.file_of(store, still).opened().read())).convert("RGB"), int)
    found = still_files.file_of(store, still, form)
    name, media, data = found.name, found.media_type, found.opened().read()
    assert not found.path.exists(), "made for this download, and gone after it"
    assert name == f"as1 Front three-quarter Standard 64x48.{still_files.ENDINGS[form][0]}".replace("Front", "Front,")
    if form == "exr":
        path = store.cache / "still.exr"
        path.write_bytes(data)
        with OpenEXR.File(str(path), separate_channels=True) as file:
            read = np.stack([file.channels()[name].pixels for name in "RGB"], axis=-1)
            light = file.channels()["light.R"].pixels
        assert light == pytest.approx(clean.color[..., 0], rel=2e-3, abs=0.5)
        # Linear and at the shot's exposure: the darkest part of the tone curve is a straight line with a slight toe.
        assert read[0, 0] == pytest.approx(0.1, abs=0.02) and read.max() > 0.4
        return
    read = cv2.imdecode(np.frombuffer(data, np.uint8), cv2.IMREAD_UNCHANGED)[..., ::-1]
    value = read / 257 if read.dtype == np.uint16 else read
    assert np.abs(value - shown).mean() < (0.6 if form in ("png16", "tiff") else 6)
    assert media.startswith("image/")


def test_a_part_of_a_still_is_looked_at_at_its_full_size(store, review) -> None:
    still = take(store, review)
    with pytest.raises(NotFound):
        detail(store, still, Area(0, 0, 8, 8))
    done(store, still)
    whole = np.asarray(Image.open(io.BytesIO(still_files.file_of(store, still).opened().read())), int)
    part = np.asarray(Image.open(io.BytesIO(detail(store, still, Area(30, 8, 1000, 40)))), int)
    assert part.shape == (32, 34, 3) and np.abs(part - whole[8:40, 30:64]).mean() < 3
    with pytest.raises(Refused, match="part of the picture"):
        detail(store, still, Area(64, 0, 80, 8))


def test_what_a_kind_of_file_or_the_disk_cannot_hold_is_refused_in_words(store, review, monkeypatch) -> None:
    large = stills.take(store, review, DEFAULT_SHOT, "coarse", (16384, 4096))
    with store.begin() as session:
        session.get(Still, large).picture = blobs.put_bytes(session, b"picture", "image/png")
    with pytest.raises(Refused, match=r"too many for WebP.*TIFF"):
        still_files.file_of(store, large, "webp")
    free = namedtuple("usage", "free")((room.reserve() + 10_000) * 2**20)
    monkeypatch.setattr(room.shutil, "disk_usage", lambda _: free)
    assert take(store, review)
    for size, by_kind in (((16384, 16384), False), ((7680, 4320), True)):
        with pytest.raises(NoRoom, match="take a smaller still"):
            stills.take(store, review, DEFAULT_SHOT, "coarse", size, by_kind=by_kind)


def test_a_still_says_no_time_left_while_it_waits_or_is_finished(store, review) -> None:
    still = take(store, review)
    with store.begin() as session:
        row = session.get(Still, still)
        row.state, row.done, row.seconds = "running", 0.5, 30.0
    assert stills.list_stills(store, review)[0].seconds_left == pytest.approx(30.0)
    with store.begin() as session:
        session.get(Still, still).message = "Removing the grain: 3 %"
    assert stills.list_stills(store, review)[0].seconds_left is None


def test_many_stills_come_as_one_zip_named_by_a_pattern(store, review) -> None:
    ids = [take(store, review), take(store, review, grain=0.1)]
    for id in ids:
        done(store, id)
    with zipfile.ZipFile(still_files.zip_of(store, review, ids, "jpeg", "{number} {shot}")) as packed:
        assert packed.namelist() == ["01 Front, three-quarter.jpg", "02 Front, three-quarter.jpg"]
        assert Image.open(io.BytesIO(packed.read(packed.namelist()[0]))).size == SIZE
    with zipfile.ZipFile(still_files.zip_of(store, review, ids, "png", "../{shot}")) as packed:
        assert packed.namelist() == ["Front, three-quarter.png", "Front, three-quarter 2.png"]
    for pattern in ("{nobody}", "{shot", "{shot.__class__}"):
        with pytest.raises(Refused, match=r"\{review\}"):
            still_files.zip_of(store, review, ids, "png", pattern)
    with pytest.raises(NotFound):
        still_files.zip_of(store, review, ["gone"], "png", "{shot}")


def test_a_still_of_another_view_follows_the_scene_and_not_its_shots_camera(store, review) -> None:
    scene = editing.look_at(store, review).scene
    shot = scene.shots[DEFAULT_SHOT]
    view = shot.camera.model_copy(update={"position": (300.0, -500.0, 400.0)})
    still = take(store, review, camera=view)
    done(store, still)
    (line,) = stills.list_stills(store, review)
    assert line.current and line.camera == view and line.name.endswith(", other view")
    nearer = shot.model_copy(update={"camera": shot.camera.model_copy(update={"focal_length": 50.0})})
    editing.edit(store, review, SetShot(id=DEFAULT_SHOT, shot=nearer))
    assert stills.list_stills(store, review)[0].current and still_scenes.changes(store, still) == []
    editing.edit(
        store, review, SetShot(id=DEFAULT_SHOT, shot=nearer.model_copy(update={"exposure": shot.exposure + 1}))
    )
    assert not stills.list_stills(store, review)[0].current
    assert [words.split(":")[0] for words in still_scenes.changes(store, still)] == ["Exposure"]
    opened = still_scenes.open_still(store, still)
    assert editing.look_at(store, opened).scene.shots[DEFAULT_SHOT].camera == view
