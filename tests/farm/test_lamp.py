"""The lamp bench: a wish in, frames out; edits, refusals, passed wishes, sleeping sessions."""

from __future__ import annotations

import asyncio
import io
import threading
import time
from collections.abc import Coroutine
from dataclasses import replace
from typing import Any

import numpy as np
import pytest
from PIL import Image

from usual_lamp.core.appearance import SHELF
from usual_lamp.core.camera import Camera
from usual_lamp.core.light.lamps import PointLamp
from usual_lamp.core.scene import Assign, SetLamps, SetLighting, SetShot, SetStates
from usual_lamp.core.scene.resolution import DEFAULT_SHOT
from usual_lamp.core.trace.plan import WHOLE, Region
from usual_lamp.farm import rehearsal
from usual_lamp.farm.lamp import AWAKE, LampBench
from usual_lamp.farm.lamp_wish import Frame, Wish
from usual_lamp.farm.others_use import PATIENCE, OthersUse
from usual_lamp.farm.rehearsal import Rehearsal
from usual_lamp.service import editing
from usual_lamp.service.resolving import Resolutions
from usual_lamp.store import Store


@pytest.fixture
def bench(store, monkeypatch):
    monkeypatch.setattr(Store, "from_environment", staticmethod(lambda: store))
    made = LampBench()
    yield made
    made.close()


@pytest.fixture
def wish(store, review) -> Wish:
    camera = editing.look_at(store, review).scene.shots[DEFAULT_SHOT].camera
    return Wish(review, 0, DEFAULT_SHOT, camera, 96, 72, WHOLE, False)


LOOP = asyncio.new_event_loop()
threading.Thread(target=LOOP.run_forever, daemon=True).start()


def run(question: Coroutine[Any, Any, Any]) -> Any:
    """Ask on an event loop of another thread, as a worker does."""
    return asyncio.run_coroutine_threadsafe(question, LOOP).result(60)


def look(bench: LampBench, wish: Wish, have: str = "", desk: str = "desk") -> Frame | None:
    return run(bench.frame(desk, wish, have))


def pixels(frame: Frame | None) -> np.ndarray:
    assert frame is not None and frame.message is None
    return np.asarray(Image.open(io.BytesIO(frame.jpeg)).convert("RGB"), float)


def test_frames_get_finer_and_follow_edits(store, bench, wish) -> None:
    first = look(bench, wish)
    second = look(bench, wish, first.token)
    assert second.samples > first.samples and second.grain is not None
    assert pixels(first).shape == (72, 96, 3)
    uids = [part.uid for part in editing.look_at(store, wish.review).assembly.parts()]
    sample = SHELF["rubber-black"]
    edit = Assign(assignments=dict.fromkeys(uids, sample.id), define={sample.id: sample})
    seq = editing.edit(store, wish.review, edit).seq
    after = look(bench, replace(wish, seq=seq))
    assert after.samples < second.samples
    assert pixels(after).mean() < pixels(second).mean() - 10, "everything went black"


def test_paused_keeps_the_frame_it_has(bench, wish) -> None:
    first = look(bench, wish)
    held = look(bench, replace(wish, paused=True), first.token)
    assert held.samples >= first.samples
    assert look_briefly(bench, replace(wish, paused=True), held.token) is None
    moved = wish.camera.model_copy(update={"focal_length": 50.0})
    assert pixels(look(bench, replace(wish, paused=True, camera=moved))).shape == (36, 48, 3), (
        "a sketch of the new view"
    )


def look_briefly(bench: LampBench, wish: Wish, have: str) -> Frame | None:
    async def ask() -> Frame | None:
        try:
            return await asyncio.wait_for(bench.frame("desk", wish, have), 1.0)
        except TimeoutError:
            return None

    return run(ask())


def test_a_passed_wish_is_let_go_at_once(bench, wish) -> None:
    async def ask() -> tuple[Frame | None, Frame | None]:
        old = asyncio.create_task(bench.frame("desk", wish, "none such"))
        first = await bench.frame("desk", wish, "")
        waiting = asyncio.create_task(bench.frame("desk", replace(wish, paused=True), first.token))
        await asyncio.sleep(0)
        newer = await bench.frame("desk", replace(wish, width=48, height=36), "")
        await waiting
        return await old, newer

    old, newer = run(ask())
    assert old is None or old.wish == wish
    assert pixels(newer).shape == (36, 48, 3)


def test_somebody_who_drags_keeps_nobody_else_waiting(bench, wish) -> None:
    bench.close()  # its own thread is not to answer
    waits = bench._session("another desk", wish)
    turns = []
    for seq in range(1, 4):
        bench._session("desk", replace(wish, seq=seq))  # wishes something new, and was asked last, every time
        turns.append(bench._next())
        bench._serve(turns[-1], turns[-1].wish)
    assert turns[0] is waits or turns[1] is waits


def test_region_and_picture_to_keep(bench, wish) -> None:
    part = look(bench, replace(wish, region=Region(0.5, 0.5, 1.0, 1.0)))
    assert pixels(part).shape == (36, 48, 3)
    for form in ("png", "jpeg"):
        kept = Image.open(io.BytesIO(run(bench.keep("desk", form))))
        assert kept.size == (48, 36) and kept.format == form.upper()
    assert run(bench.keep("another desk", "png")) is None


def product(frame) -> np.ndarray:
    """The middle of the picture, where no backdrop is seen that keeps its colour."""
    found = pixels(frame)
    height, width = found.shape[:2]
    return found[int(0.45 * height) : int(0.6 * height), int(0.45 * width) : int(0.6 * width)]


def test_finish_changes_trace_nothing_anew(store, bench, wish) -> None:
    first = look(bench, replace(wish, width=64, height=48))
    before = bench.sessions["desk"].picture.world
    shot = editing.look_at(store, wish.review).scene.shots[DEFAULT_SHOT]
    warm = shot.model_copy(update={"white": 3200.0, "tone": "filmic"})
    seq = editing.edit(store, wish.review, SetShot(id=DEFAULT_SHOT, shot=warm)).seq
    after = look(bench, replace(wish, width=64, height=48, seq=seq), first.token)
    assert after.samples >= first.samples and bench.sessions["desk"].picture.world is before
    blue = lambda frame: product(frame)[..., 2].mean() / product(frame)[..., 0].mean()  # noqa: E731
    assert blue(after) > 1.3 * blue(first), "what was white is bluish where warm light is held to be white"


def test_darkness_and_a_camera_inside_a_part_are_said(store, bench, wish) -> None:
    found = editing.look_at(store, wish.review)
    assert look(bench, wish).remark is None
    dark = found.scene.lighting.model_copy(update={"brightness": 0.0, "lamps": {}})
    seq = editing.edit(store, wish.review, SetLighting(lighting=dark)).seq
    black = look(bench, replace(wish, seq=seq))
    assert "There is no light" in black.remark and np.median(product(black)) < 3
    seq = editing.undo(store, wish.review).seq
    part = max(found.assembly.parts(), key=lambda p: found.assembly.definition_of(p).volume)
    middle = found.assembly.corners(part).mean(axis=0)
    within = Camera(position=tuple(middle + 0.1), target=tuple(middle))
    assert f"inside {part.name}" in look(bench, replace(wish, seq=seq, camera=within)).remark
    buried = PointLamp(name="Glim", position=tuple(middle + 0.1), diameter=1.0)
    seq = editing.edit(store, wish.review, SetLamps(lamps={"a": buried})).seq
    assert look(bench, replace(wish, seq=seq)).remark.startswith(f"The lamp Glim is inside {part.name}")


def test_what_cannot_be_traced_is_said(store, bench, wish) -> None:
    uids = [part.uid for part in editing.look_at(store, wish.review).assembly.parts()]
    editing.edit(store, wish.review, SetStates(states=dict.fromkeys(uids, "hidden")))
    assert "bring at least one part back" in look(bench, wish).message
    editing.undo(store, wish.review)
    assert look(bench, replace(wish, seq=2)).samples >= 1
    assert "does not exist" in look(bench, replace(wish, review="gone")).message
    assert "inside the picture" in look(bench, replace(wish, region=Region(0.5, 0.5, 0.2, 0.7))).message


def test_sessions_are_capped_and_wake_again(bench, wish) -> None:
    for number in range(AWAKE + 2):
        assert look(bench, wish, desk=f"desk {number}").samples >= 1
    assert len(bench.sessions) == AWAKE and "desk 0" not in bench.sessions
    assert look(bench, wish, desk="desk 0").samples >= 1
    run(bench.off("desk 0"))
    assert "desk 0" not in bench.sessions


def noted(bench: LampBench) -> list[str]:
    """Names of the meshes that are read from now on, as they are."""
    read: list[str] = []
    read_on = bench.kept.mesh_of
    bench.kept.mesh_of = lambda name: read.append(name) or read_on(name)
    return read


def test_a_picture_too_large_for_its_memory_is_said(bench, wish, monkeypatch) -> None:
    assert look(bench, wish, desk="another").samples >= 1
    monkeypatch.setattr(bench.limits, "memory_is_short", lambda: True)
    assert "more than the" in look(bench, replace(wish, width=64), desk="large").message
    assert list(bench.sessions) == ["large"], "the other one sleeps"
    monkeypatch.setattr(bench.limits, "memory_is_short", lambda: False)
    read = noted(bench)
    assert look(bench, wish, desk="third").samples >= 1 and read, "what was kept has made way"
    read.clear()
    assert look(bench, wish, desk="fourth").samples >= 1 and not read, "and is kept again"


def test_a_lamp_that_rehearses_has_the_scene_ready(store, review, wish, monkeypatch) -> None:
    monkeypatch.setattr(Store, "from_environment", staticmethod(lambda: store))
    monkeypatch.setattr(rehearsal, "SHELF", {})
    made = LampBench(rehearses=True)
    try:
        assert made.warm.wait(120)
        assert made.resolutions.resolved(review, editing.look_at(store, review)).traced and not made.sessions
        read = noted(made)
        assert pixels(look(made, wish)).shape == (72, 96, 3)
        assert not read, "its triangles are there"
    finally:
        made.close()


def test_kernels_that_may_be_needed_are_compiled_once(store, review, bench, monkeypatch) -> None:
    few = {name: SHELF[name] for name in ("abs-graphite", "polycarbonate-clear", "water-clear")}
    monkeypatch.setattr(rehearsal, "SHELF", few)
    one, other = (Rehearsal(store, Resolutions(), bench._new_picture) for _ in range(2))
    assert one.follow() and not one.follow(), "nothing changed meanwhile"
    assert [sample.id for sample, _ in one.left] == ["polycarbonate-clear"], "one for all clear ones, none for plain"
    one.others.share = 0.5
    one.compiled = time.monotonic()
    assert not one.step(), "whoever works goes first"
    one.others.share = other.others.share = 0.1
    assert one.step() and not one.step()
    assert other.follow() and not other.step(), "it is there already"


def test_an_edit_is_rehearsed_when_others_leave_room(store, review, bench, monkeypatch) -> None:
    monkeypatch.setattr(rehearsal, "SHELF", {})
    share = 0.1
    monkeypatch.setattr(OthersUse, "look", lambda others: setattr(others, "share", share))
    one = Rehearsal(store, Resolutions(), bench._new_picture)

    parts = list(editing.look_at(store, review).assembly.parts())

    def hide(number: int) -> None:
        editing.edit(store, review, SetStates(states={parts[number].uid: "hidden"}))

    def looks_again() -> bool:
        one.looked = 0.0
        return one.step()

    assert one.follow() and not looks_again(), "it was edited since the last look, and may be again"
    share = 0.9
    hide(0)
    assert not looks_again() and not looks_again() and one.due, "others work"
    share = 0.1
    assert looks_again() and not looks_again(), "now it is, once"
    share = 0.9
    hide(1)
    one.followed -= PATIENCE
    assert not looks_again() and looks_again(), "and after a while all the same"
