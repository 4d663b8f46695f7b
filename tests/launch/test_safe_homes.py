"""Secrets, locks, half-made homes and backups, as far as they need no running product."""

from __future__ import annotations

import gzip
import os
import socket
import stat
import subprocess
import sys
import threading
from pathlib import Path

import pytest
from launch.paths import Home, Problem, is_free
from launch.secret_files import certificate, secret, write_private

from launch import __main__ as launcher
from launch import backup, database, processes, secret_files, supervisor


@pytest.fixture
def home(tmp_path: Path) -> Home:
    made = Home.on_free_ports(tmp_path / "home")
    made.make_private()
    return made


def mode(path: Path) -> int:
    return stat.S_IMODE(path.stat().st_mode)


def test_a_secret_is_whole_private_and_kept(tmp_path: Path) -> None:
    file = tmp_path / "secret"
    made = secret(file)
    assert len(made) >= 32 and secret(file) == made and mode(file) == 0o600
    assert secret(tmp_path / "other") != made
    for damaged in ("", "\n", made[:7]):
        file.write_text(damaged)
        assert len(secret(file)) >= 32, "an empty or cut-off secret is none"
    assert os.listdir(tmp_path) in (["secret", "other"], ["other", "secret"])


def test_a_full_disk_leaves_no_half_of_a_secret(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    def full(_: int) -> None:
        raise OSError(28, "No space left on device")

    monkeypatch.setattr(secret_files.os, "fsync", full)
    with pytest.raises(Problem, match="Make room"):
        secret(tmp_path / "secret")
    assert os.listdir(tmp_path) == []
    (tmp_path / "kept").write_text("as it was")
    with pytest.raises(OSError):
        write_private(tmp_path / "kept", "half")
    assert (tmp_path / "kept").read_text() == "as it was"


def test_the_certificate_is_made_once_and_is_its_owners(tmp_path: Path) -> None:
    certificate(tmp_path / "tls")
    before = (tmp_path / "tls" / "cert.pem").read_bytes()
    certificate(tmp_path / "tls")
    assert (tmp_path / "tls" / "cert.pem").read_bytes() == before
    assert mode(tmp_path / "tls") == 0o700 and mode(tmp_path / "tls" / "key.pem") == 0o600
    (tmp_path / "tls" / "key.pem").unlink()
    certificate(tmp_path / "tls")
    assert (tmp_path / "tls" / "cert.pem").read_bytes() != before, "half of a pair is none"


def test_a_home_and_all_in_it_is_its_owners(home: Home) -> None:
    (home.folder / "of-before").write_text("readable by all")
    (home.folder / "of-before").chmod(0o644)
    home.folder.chmod(0o755)
    home.make_private()
    assert [mode(path) & 0o077 for path in (home.folder, *home.folder.iterdir())] == [0] * 5


def test_logins_stand_in_files_and_only_one_account_is_made(home: Home, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(database, "_make_files", lambda _: None)
    database.prepare(home)
    password = home.secret
    assert all(mode(home.run / name) == 0o600 for name in ("accounts.sql", "client.cnf", "socket.cnf"))
    lines = [database.server_command(home), database.client(home, "mariadb", "-e", "SELECT 1")]
    assert not any(password in word for line in lines for word in line)
    assert (home.run / "accounts.sql").read_text().count("CREATE USER usual_lamp@") == 2


def test_a_data_directory_cut_off_in_the_making_is_made_anew(home: Home, monkeypatch: pytest.MonkeyPatch) -> None:
    asked: list[list[str]] = []

    def made(command: list[str], what: str) -> None:
        asked.append(command)
        Path(next(w for w in command if w.startswith("--datadir=")).partition("=")[2], "mysql").mkdir(parents=True)

    monkeypatch.setattr(database, "run", made)
    (home.data / "mysql").mkdir(parents=True)
    (home.data / "mysql" / "half").touch()
    database.prepare(home)
    assert len(asked) == 1 and not (home.data / "mysql" / "half").exists()
    (home.data / "usual_lamp").mkdir()
    with pytest.raises(Problem, match="restore"):
        database.prepare(home)
    assert (home.data / "usual_lamp").exists(), "reviews are never thrown away"


def test_one_lock_for_one_home(home: Home) -> None:
    lock = home.run / "running.lock"
    with processes.hold(lock, wait=False), pytest.raises(Problem, match="already runs"):
        processes.hold(lock, wait=False)
    with processes.hold(lock, wait=False):
        pass


def test_what_a_dead_supervisor_left_behind_is_waited_for_and_ended(home: Home) -> None:
    import json

    stubborn = "import signal, time; signal.signal(signal.SIGTERM, signal.SIG_IGN); print(flush=True); time.sleep(600)"
    left = subprocess.Popen([sys.executable, "-c", stubborn], stdout=subprocess.PIPE)
    assert left.stdout is not None
    left.stdout.readline()
    state = {"home": str(home.folder), "supervisor": [os.getpid(), 1], "children": {"web": processes.mark(left.pid)}}
    home.supervisor_file.write_text(json.dumps(state))
    assert processes.end_left_over(home, patience=0.5)
    assert left.wait(10) == -9
    # A process that has the number now but began at another time is somebody else's.
    bystander = subprocess.Popen([sys.executable, "-c", "import time; time.sleep(600)"])
    state["children"] = {"web": [bystander.pid, 1]}
    home.supervisor_file.write_text(json.dumps(state))
    processes.end_left_over(home, patience=0.1)
    assert bystander.poll() is None
    bystander.kill()
    bystander.wait()


def test_the_supervisor_lives_through_errors_of_its_own(home: Home, monkeypatch: pytest.MonkeyPatch) -> None:
    made = supervisor.Supervisor(home)
    monkeypatch.setattr(
        supervisor.subprocess, "Popen", lambda *_, **__: (_ for _ in ()).throw(OSError(12, "no memory"))
    )
    made.watch()
    assert all(service.process is None and service.next_start > 0 for service in made.services)
    home.logs.rename(home.folder / "no-logs")
    assert made._log("web").name == os.devnull
    home.supervisor_file.with_suffix(".tmp").mkdir()
    made.write_state()  # cannot be written, and is no reason to end
    home.supervisor_file.with_suffix(".tmp").rmdir()
    made.watch()
    assert home.supervisor_file.exists(), "it is written as soon as that works again"


def test_long_logs_are_cut(home: Home, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(supervisor, "LARGEST_LOG", 10)
    (home.logs / "web.log").write_text("many words of a log\n")
    supervisor.Supervisor(home).keep_logs_short()
    assert (home.logs / "web.log").read_text() == "" and "many words" in (home.logs / "web.log.1").read_text()


@pytest.mark.parametrize(
    ("content", "words"),
    [
        (b"no backup at all", "cannot be read"),
        (gzip.compress(b"-- something else\n"), "no backup of Usual Lamp"),
        (gzip.compress(backup.FIRST + b"v9999_future\n" + backup.LAST), "newer version"),
        (gzip.compress(backup.FIRST + b"v0001_first_tables\nCREATE TABLE `a`;\n"), "cut off"),
        (gzip.compress(backup.FIRST + b"v0001_first_tables\n" + backup.LAST)[:-9], "no whole backup"),
    ],
    # Named: what gzip packs holds the second, and two processes must find the same tests.
    ids=["no backup", "another file", "newer", "cut off", "packed badly"],
)
def test_what_is_no_whole_backup_is_not_restored(content: bytes, words: str, home: Home, tmp_path: Path) -> None:
    file = tmp_path / "backup.gz"
    file.write_bytes(content)
    with pytest.raises(Problem, match=words):
        backup.restore(home, file, replace=True)
    with pytest.raises(Problem, match="nothing to back up"):
        backup.back_up(home, tmp_path / "new.gz")


@pytest.mark.parametrize("port", ["0", "http", "99999", ""])
def test_a_wrong_port_is_said(port: str, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setenv("USUAL_LAMP_PORT", port)
    with pytest.raises(Problem, match="USUAL_LAMP_PORT"):
        Home.from_environment()


def test_a_home_that_cannot_be_written_is_said(tmp_path: Path) -> None:
    (tmp_path / "file").touch()
    with pytest.raises(Problem, match="cannot be written"):
        launcher.up(Home.on_free_ports(tmp_path / "file" / "home"))


def test_ports_of_a_home_that_crashed_are_waited_for(home: Home) -> None:
    """A process that was not written down may hold one for a moment longer."""
    other = Home.on_free_ports(home.folder)
    held = socket.socket()
    held.bind(("127.0.0.1", other.scheduler))
    held.listen()
    with pytest.raises(Problem, match="scheduler is taken"):
        launcher.check_ports(other)
    waited = threading.Timer(0.5, held.close)
    waited.start()
    launcher.check_ports(other, patience=20.0)
    waited.join()
    assert is_free(other.scheduler)
