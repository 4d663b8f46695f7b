"""Work that nobody waits for is done while the machine has room, or a piece of it once in three minutes."""

from __future__ import annotations

import os
import time
from pathlib import Path

import pytest

from usual_lamp.farm.others_use import MOST_USED, PATIENCE, OthersUse

Looked = list[tuple[str, float]]


@pytest.fixture
def looks(monkeypatch: pytest.MonkeyPatch) -> Looked:
    """What the next looks at the machine find: its ticks, a hundredth of a second each, and our own seconds."""
    found: Looked = [("0 0 0 0 0 0 0 0", 0.0)]
    own = [0.0]

    def read(file: Path) -> str:
        assert file == Path("/proc/stat")
        ticks, own[0] = found.pop(0)
        return f"cpu  {ticks} 90 90\ncpu0 {ticks} 90 90\n"

    monkeypatch.setattr(Path, "read_text", read)
    monkeypatch.setattr(os, "sysconf", lambda _: 100)
    monkeypatch.setattr(time, "process_time", lambda: own[0])
    return found


def test_what_others_use_is_measured_from_look_to_look(looks: Looked) -> None:
    others = OthersUse()
    looks += [("300 40 50 400 200 1 2 7", 2.0), ("300 40 50 900 200 1 2 7", 2.0), ("300 40 50 900 200 1 2 7", 2.0)]
    others.look()
    assert others.share == pytest.approx(0.2), "4 s of 10 were work, 2 of them ours; waiting for a disk is none"
    others.look()
    assert others.share == 0.0, "nobody did anything"
    others.look()
    assert others.share == 0.0, "no time has passed"


def test_our_own_work_keeps_nothing_waiting(looks: Looked) -> None:
    others = OthersUse()
    looks.append(("1000 0 0 1000 0 0 0 0", 9.0))
    others.look()
    assert others.share == pytest.approx(0.05) and not others.keep_waiting(time.monotonic())


def test_time_that_the_host_took_is_used(looks: Looked) -> None:
    others = OthersUse()
    looks.append(("0 0 0 500 0 0 0 500", 0.0))
    others.look()
    assert others.share == 0.5 and others.keep_waiting(time.monotonic())


def test_before_the_first_look_the_machine_counts_as_busy(looks: Looked) -> None:
    others = OthersUse()
    assert others.keep_waiting(time.monotonic())


def test_a_piece_is_done_after_three_minutes_all_the_same(looks: Looked, monkeypatch: pytest.MonkeyPatch) -> None:
    others, now = OthersUse(), 1000.0
    monkeypatch.setattr(time, "monotonic", lambda: now)
    others.share = MOST_USED + 0.01
    assert others.keep_waiting(now - PATIENCE + 1)
    assert not others.keep_waiting(now - PATIENCE)
    others.share = MOST_USED
    assert not others.keep_waiting(now), "there is room"
