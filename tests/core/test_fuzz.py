"""A small run of the fuzzing benchmark: mutated files of every format, each whole, noted or refused in a sentence."""

from __future__ import annotations

from benchmarks import fuzz

FILES = 84
"""Six of each format."""


def test_mutated_files_do_no_harm(monkeypatch) -> None:
    monkeypatch.setattr(fuzz.logging, "disable", lambda: None)
    monkeypatch.setattr(fuzz.sandbox, "SILENCE", fuzz.sandbox.SILENCE)
    tally = fuzz.run(FILES, seed=7)
    assert sum(tally.outcomes.values()) == FILES and tally.faults == 0, tally
    assert tally.outcomes["refused"] and tally.outcomes["noted"], "it was not too kind"
