"""Workers that are asked for a lot at once: a few at a time, again after a crash, and no more than that."""

from __future__ import annotations

import pytest
from distributed import KilledWorker

from usual_lamp.farm import asking
from usual_lamp.farm.asking import Asking, Lost, TracerCrashed
from usual_lamp.farm.finish_units import TilesGone


class Answer:
    """What a worker makes of one thing, or what it died of."""

    def __init__(self, found: object) -> None:
        self.found, self.cancelled = found, False

    def result(self) -> object:
        if isinstance(self.found, Exception):
            raise self.found
        return self.found

    def cancel(self, force: bool) -> None:
        self.cancelled = True


class Desk(Asking):
    """Asks workers that answer as they are told, one at each look, the oldest first."""

    def __init__(self, answers: dict[int, list[object]]) -> None:
        super().__init__(self, lambda: self.shut)
        self.answers, self.shut = answers, False
        self.asked: list[int] = []
        self.most, self.said, self.dropped = 0, [], []

    def submit(self, unit, what, **_) -> Answer:
        self.asked.append(what)
        told = self.answers.get(what, [])
        return Answer(told.pop(0) if told else unit(what))

    def cancel(self, futures, force: bool) -> None:
        self.dropped = list(futures)

    def finished(self, futures):
        self.most = max(self.most, len(futures))
        self.said.append(self.doing)
        return futures[:1]


@pytest.fixture(autouse=True)
def two_workers(monkeypatch):
    monkeypatch.setattr(asking, "tracers", lambda client: 2)


def crash() -> KilledWorker:
    return KilledWorker("a unit", None, 0)


def test_many_are_asked_a_few_at_a_time_and_it_is_said_how_many_are_done() -> None:
    desk = Desk({})
    desk.ask_each(lambda what: what, [(n,) for n in range(5)], "Cleaning")
    assert desk.asked == [0, 1, 2, 3, 4] and desk.most == 3
    assert desk.said == [f"Cleaning: {n * 20} %" for n in range(5)] and desk.doing is None
    desk.said.clear()
    desk.ask_each(lambda what: what, [(7,)], "Cleaning", before=3)
    assert desk.said == ["Cleaning: 75 %"]


def test_what_a_worker_died_of_is_asked_again_and_not_for_ever() -> None:
    desk = Desk({1: [crash(), crash()], 6: [crash()]})
    desk.ask_each(lambda what: what, [(n,) for n in range(7)], None)
    assert desk.asked.count(1) == 3 and desk.asked.count(6) == 2, "others were done in between"
    assert set(desk.said) == {None}
    for ask in (lambda d: d.ask(str, 7), lambda d: d.ask_each(str, [(7,)], None)):
        with pytest.raises(TracerCrashed):
            ask(Desk({7: [crash() for _ in range(asking.MOST_CRASHES)]}))
    assert Desk({7: [crash(), "done"]}).ask(str, 7) == "done"


def test_who_is_not_wanted_any_more_is_left_alone() -> None:
    """Tiles that are gone, and a program that ends: what is under way is dropped."""
    desk = Desk({2: [TilesGone()]})
    with pytest.raises(Lost):
        desk.ask_each(lambda what: what, [(n,) for n in range(9)], "Cleaning")
    assert len(desk.asked) < 9 and desk.dropped and desk.doing is None
    closing = Desk({})
    closing.shut = True
    with pytest.raises(Lost):
        closing.ask_each(lambda what: what, [(n,) for n in range(9)], None)
    assert len(closing.asked) == 3
