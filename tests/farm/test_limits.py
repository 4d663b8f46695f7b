"""What tracing may take: kept, checked, and obeyed by every thread of a process."""

import os
import threading

import pytest

from usual_lamp.farm import limits
from usual_lamp.farm.limits import CPUS, Limits, hold_to, resident
from usual_lamp.service import settings
from usual_lamp.service.errors import Refused
from usual_lamp.service.settings import Tracing


def test_settings_are_kept_and_checked(store) -> None:
    most = settings.machine()
    assert settings.tracing(store).cores == most.cores
    settings.set_tracing(store, Tracing(1, 2.0))
    assert settings.tracing(store) == Tracing(1, 2.0)
    for wrong in (Tracing(most.cores + 1, 2.0), Tracing(1, most.memory + 1)):
        with pytest.raises(Refused, match="here"):
            settings.set_tracing(store, wrong)


@pytest.mark.skipif(len(CPUS) < 2, reason="one core cannot be made fewer")
def test_limits_hold_for_threads_that_run_already(store, monkeypatch) -> None:
    ending = threading.Event()
    thread = threading.Thread(target=ending.wait)
    thread.start()
    monkeypatch.setattr(limits, "LOOK_AGAIN", 0.0)
    try:
        kept = Limits(store)
        settings.set_tracing(store, Tracing(1, 1.0))
        kept.apply()
        assert len(os.sched_getaffinity(thread.native_id)) == 1
        settings.set_tracing(store, Tracing(len(CPUS), 1.0))
        kept.apply()
        assert len(os.sched_getaffinity(thread.native_id)) == len(CPUS)
    finally:
        hold_to(len(CPUS))
        ending.set()
        thread.join()


def test_memory_is_measured(store) -> None:
    before = resident()
    block = bytearray(200 * 2**20)
    assert resident() - before == pytest.approx(200 / 1024, abs=0.03)
    kept = Limits(store)
    kept.allowed = Tracing(1, resident() / 2)
    assert kept.memory_is_short() and block
