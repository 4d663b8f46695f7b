"""The sandbox: what reads foreign files can reach nothing, and whatever becomes of it is one clear error."""

from __future__ import annotations

import json
import os
import socket
import time
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import Any

import psutil
import pytest

from usual_lamp.core.sandbox import Crashed, Nursery, OutOfRoom, Stopped, Unusable, jobs, run_job
from usual_lamp.core.sandbox.confinement import landlock_version

HERE = Path(__file__).parent
PROPER = {"write here", "read what was given"}
Run = Callable[..., Any]


@pytest.fixture(scope="module")
def nursery() -> Iterator[Nursery]:
    paths = json.loads(jobs._paths())
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(jobs, "_paths", lambda: json.dumps([*paths, str(HERE)]))
        made = Nursery("json", "breaking_out")
        yield made
        made.close()


@pytest.fixture(params=["fresh", "warm"])
def run(request: pytest.FixtureRequest, tmp_path: Path, nursery: Nursery) -> Run:
    """Runs one of the misbehaving jobs, in a fresh child or in one of a nursery."""
    warm = nursery if request.param == "warm" else None

    def go(job: str, asked: dict[str, Any] | None = None, readable: tuple[Path, ...] = (), **options: Any) -> Any:
        may_read = [HERE, *readable]
        return run_job(
            f"breaking_out:{job}", tmp_path / "work", asked or {}, readable=may_read, nursery=warm, **options
        )

    return go


@pytest.mark.skipif(landlock_version() < 6, reason="this kernel cannot fence files, ports and signals")
def test_a_child_reaches_its_folder_and_nothing_else(run: Run, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setenv("USUAL_LAMP_DATABASE", "with a password")
    other, given = tmp_path / "other", tmp_path / "given"
    other.mkdir()
    (other / "secret").write_text("secret")
    given.write_text("a file to read")
    with socket.create_server(("127.0.0.1", 0)) as server:
        asked = {"other": str(other), "given": str(given), "port": server.getsockname()[1]}
        found = run("attempts", asked, (given,))
    assert found.pop("environment") == "LC_CTYPE OPENBLAS_NUM_THREADS TMPDIR"
    assert {name for name, outcome in found.items() if outcome == "done"} == PROPER, found
    assert os.listdir(other) == ["secret"]


@pytest.mark.parametrize(
    ("job", "error", "words", "options"),
    [
        ("crash", Crashed, "crashed", {}),
        ("hang", Crashed, "came to nothing", {"silence": 0.5}),
        ("sleep", Crashed, "came to nothing", {"seconds": 1.0}),
        ("swell", Unusable, "more memory", {"memory": 2**30}),
        ("blunder", Unusable, "contradict", {}),
    ],
)
def test_every_end_is_a_sentence(run: Run, job: str, error: type, words: str, options: dict[str, float]) -> None:
    with pytest.raises(error, match=words) as told:
        run(job, **options)
    assert "list index" not in str(told.value) and "Traceback" not in str(told.value)


def test_a_full_disk_is_no_fault_of_the_file(small_disk: Callable[[str], Path], nursery: Nursery) -> None:
    folder = small_disk("64m")
    with pytest.raises(OutOfRoom, match="Make room"):
        run_job("breaking_out:fill", folder, {}, readable=[HERE], nursery=nursery)


def test_what_libraries_print_is_no_word_of_ours(run: Run) -> None:
    assert run("talk") == "the result"


def test_stopping_works_at_once_and_leaves_nothing(run: Run) -> None:
    asleep: list[str] = []
    began = time.monotonic()
    with pytest.raises(Stopped):
        run("sleep", progress=lambda _, stage: asleep.append(stage), cancelled=lambda: bool(asleep))
    assert time.monotonic() - began < 30, "it would sleep for ten minutes"
    assert not [child for child in psutil.Process().children(recursive=True) if "breaking_out:sleep" in child.cmdline()]


def test_a_nursery_that_died_is_made_anew(nursery: Nursery, tmp_path: Path) -> None:
    ask = lambda: run_job("breaking_out:talk", tmp_path / "work", {}, readable=[HERE], nursery=nursery)  # noqa: E731
    assert ask() == "the result"
    assert nursery.process is not None
    nursery.process.kill()
    nursery.process.wait()
    assert ask() == "the result"
