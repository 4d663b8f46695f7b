"""Probes between the frames of desks: one for all who ask, known ones at once, and what stands in the way is told."""

from __future__ import annotations

from types import SimpleNamespace

import pytest

from core.test_layers import still_life
from usual_lamp.core.camera import Camera
from usual_lamp.core.trace.plan import WHOLE
from usual_lamp.farm.lamp_probes import KEPT, Probes
from usual_lamp.farm.lamp_wish import Wish


def wish(shot: str = "front", seq: int = 1) -> Wish:
    camera = Camera(position=(0, -70, 35), target=(0, 0, 10))
    return Wish("review", seq, shot, camera, 24, 18, WHOLE, True)


@pytest.fixture
def built() -> list[str]:
    """Names of what a world was built for."""
    return []


@pytest.fixture
def probes(built: list[str]) -> Probes:
    world = still_life()

    def inputs_of(asked: Wish) -> SimpleNamespace:
        if asked.shot == "gone":
            raise ValueError("That shot is not in this review any more.")
        return SimpleNamespace(fingerprint=lambda: asked.shot, lighting=world.inputs.lighting)

    def world_of(inputs: SimpleNamespace):
        built.append(inputs.fingerprint())
        return world

    return Probes(inputs_of, world_of)  # type: ignore[arg-type]


def test_who_asks_again_gets_the_same_probe_and_nothing_is_traced_twice(probes: Probes, built: list[str]) -> None:
    assert not probes.step(), "nothing waits"
    first = probes.ask(wish())
    assert probes.step() and not first.done(), "one pass at a time"
    assert probes.ask(wish()) is first
    while probes.step():
        pass
    found = first.result(0)
    assert found.seconds > 0 and set(found.readings) == {4, 8, 16, 32}
    later = probes.ask(wish(seq=2))
    assert later is not first, "the scene is another now, for all that is known"
    assert probes.step() and later.result(0) is found and not probes.step(), "but it gives the same picture"
    assert built == ["front"]


def test_what_cannot_be_traced_is_told_and_the_next_goes_on(probes: Probes, built: list[str]) -> None:
    broken, sound = probes.ask(wish("gone")), probes.ask(wish("side"))
    while probes.step():
        pass
    with pytest.raises(ValueError, match="not in this review"):
        broken.result(0)
    assert sound.result(0).seconds > 0 and built == ["side"]
    for number in range(KEPT + 1):
        probes.known[str(number)] = sound.result(0)
    probes.ask(wish("top"))
    while probes.step():
        pass
    assert "side" not in probes.known and "top" in probes.known, "the oldest are let go"
