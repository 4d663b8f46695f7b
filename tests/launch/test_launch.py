"""The launcher: messages for what can go wrong, and a supervisor that keeps its processes running."""

from __future__ import annotations

import json
import os
import re
import signal
import socket
import subprocess
import sys
import threading
import time
import tomllib
from pathlib import Path

import pytest
from launch.paths import Home, Problem

from launch import __main__ as launcher
from launch import database, install, processes, supervisor
from public_files import ROOT


@pytest.fixture
def home(tmp_path: Path) -> Home:
    made = Home.on_free_ports(tmp_path)
    made.logs.mkdir()
    made.data.mkdir()
    made.secret_file.write_text("not a secret")
    return made


def test_a_taken_port_is_named(home: Home) -> None:
    launcher.check_ports(home)
    with socket.socket() as taken:
        taken.bind(("127.0.0.1", home.database))
        taken.listen()
        with pytest.raises(Problem, match=rf"Port {home.database} for the database is taken.*USUAL_LAMP_PORT"):
            launcher.check_ports(home)


def test_a_failed_step_shows_its_last_words() -> None:
    with pytest.raises(Problem, match=r"(?s)Doing it failed.*no such luck"):
        install.run([sys.executable, "-c", "print('no such luck'); raise SystemExit(3)"], "Doing it")


def test_missing_packages_are_found() -> None:
    assert install.missing_packages(["dpkg", "no-such-package-at-all"]) == ["no-such-package-at-all"]


def test_stamps_change_with_content_and_name() -> None:
    file = ROOT / "requirements" / "uv.in"
    one = install.stamp_of([file])
    assert one == install.stamp_of([file]) != install.stamp_of([file, ROOT / "pyproject.toml"])


def test_everything_asked_for_is_pinned() -> None:
    """A fresh machine gets its packages from the locks alone, Node among them; one that only runs the product gets
    none that only tests need, and both get the same versions."""
    asked = tomllib.loads((ROOT / "pyproject.toml").read_text())
    lines = (ROOT / "requirements" / "node.in").read_text().split()

    def names(wanted: list[str]) -> set[str]:
        return {re.split(r"[<>=]", line)[0].lower().replace("_", "-") for line in wanted}

    def pinned(lock: str) -> dict[str, str]:
        return dict(re.findall(r"^([\w.-]+)==(\S+)", (ROOT / "requirements" / lock).read_text(), re.M))

    run, everything = pinned("run.txt"), pinned("all.txt")
    to_run, to_test = names([*asked["project"]["dependencies"], *lines]), names(asked["dependency-groups"]["dev"])
    assert len(to_run) > 20 and not to_run - run.keys() and not to_test - everything.keys(), "Run requirements/compile"
    assert run.items() <= everything.items() and not {"pytest", "playwright", "mypy"} & run.keys()


def test_a_database_that_does_not_come_up_is_quoted(home: Home) -> None:
    (home.logs / "mariadb.log").write_text("InnoDB: the disk is made of cheese\n")
    server = subprocess.Popen([sys.executable, "-c", "import time; time.sleep(600)"])
    with pytest.raises(Problem, match=r"(?s)did not come up.*made of cheese"):
        database.wait_until_ready(home, server, seconds=0.5)
    # One that has ended is not waited for.
    server.kill()
    server.wait()
    with pytest.raises(Problem, match="did not come up"):
        database.wait_until_ready(home, server, seconds=3600)


def test_nothing_runs_without_a_supervisor(home: Home) -> None:
    assert processes.running(home) is None
    pid, began = processes.mark(os.getpid())
    state = {"home": str(home.folder), "supervisor": [pid, began]}
    home.supervisor_file.write_text(json.dumps(state))
    assert processes.running(home) == pid
    # A number that now belongs to another program is not ours, nor is another home's supervisor.
    for other in (state | {"supervisor": [pid, began - 1]}, state | {"home": "/elsewhere"}, {"pid": pid}):
        home.supervisor_file.write_text(json.dumps(other))
        assert processes.running(home) is None


def test_an_unknown_word_shows_how_it_is_used() -> None:
    for words, code in ((["dance"], 2), (["help"], 0)):
        environment = os.environ | {"PYTHONPATH": str(ROOT)}
        command = [sys.executable, "-m", "launch", *words]
        done = subprocess.run(command, env=environment, capture_output=True, text=True, check=False)
        assert done.returncode == code and "./lamp up" in done.stdout


def until(happened, seconds: float = 20.0) -> bool:
    deadline = time.monotonic() + seconds
    while time.monotonic() < deadline:
        if happened():
            return True
        time.sleep(0.05)
    return False


@pytest.fixture
def watched(home: Home, monkeypatch: pytest.MonkeyPatch):
    """A supervisor of two stand-in processes, in a thread."""
    sleep = [sys.executable, "-c", "import time; time.sleep(600)"]
    monkeypatch.setattr(supervisor, "services", lambda _: [supervisor.Service(n, sleep) for n in ("mariadb", "web")])
    monkeypatch.setattr(database, "wait_until_ready", lambda *_: None)
    monkeypatch.setattr(supervisor.Supervisor, "migrate", lambda self: None)
    monkeypatch.setattr(signal, "signal", lambda *_: None)
    made = supervisor.Supervisor(home)
    thread = threading.Thread(target=made.run)
    thread.start()
    yield made
    made.stopping = True
    thread.join(20)
    assert not thread.is_alive()


def test_a_process_that_dies_is_started_again_and_all_end_with_the_supervisor(watched, home: Home) -> None:
    web = watched.services[1]
    assert until(lambda: web.process is not None)
    first = web.process
    first.kill()
    assert until(lambda: web.process not in (None, first))
    assert until(lambda: str(web.process.pid) in home.supervisor_file.read_text())
    processes = [service.process for service in watched.services]
    watched.stopping = True
    assert until(lambda: not home.supervisor_file.exists())
    assert all(process.poll() is not None for process in processes)


def test_a_process_that_always_dies_is_tried_less_and_less_often(watched) -> None:
    web = watched.services[1]
    web.command[:] = [sys.executable, "-c", ""]
    assert until(lambda: web.process is not None)
    web.process.kill()
    assert until(lambda: web.failures >= 3)
    assert web.next_start - time.monotonic() > 1.0


def test_a_home_that_is_deleted_ends_its_supervisor(watched, home: Home) -> None:
    assert until(home.supervisor_file.exists)
    home.data.rmdir()
    assert until(lambda: not home.supervisor_file.exists())
