"""The parent's side: starts a job in a child, relays its progress, and turns every way it can end into words."""

from __future__ import annotations

import array
import json
import logging
import os
import selectors
import signal
import socket
import subprocess
import sys
import tempfile
import threading
import time
from collections.abc import Callable
from contextlib import suppress
from pathlib import Path
from typing import IO, Any, Protocol

from usual_lamp.core.sandbox.unusable import Unusable

__all__ = ["Crashed", "Nursery", "OutOfRoom", "Progress", "Stopped", "Unusable", "run_job"]

Progress = Callable[[float, str], None]
START = Path(__file__).with_name("start.py")
POLL = 0.1
LEAST_MEMORY, SHARE = 2 * 2**30, 0.5
"""Bytes that a child may have in any case, and the share of what is free beyond that."""
log = logging.getLogger("usual_lamp.sandbox")


class Stopped(Exception):
    """The caller did not want it any more."""


class Crashed(Exception):
    """The child died or hung; the message says so in a sentence."""


class OutOfRoom(Exception):
    """The disk was full; with room again it may be tried anew."""


class Child(Protocol):
    """A running child."""

    pid: int
    lines: int
    """Open file from which its lines are read."""

    def kill(self) -> None:
        """End the child at once; nothing happens if it has ended."""

    def wait(self) -> int:
        """Wait for the end and return the exit status, negative for a signal."""


class FreshChild:
    """A child started from nothing."""

    def __init__(self, job: str, request: Path, errors: IO[bytes]) -> None:
        self.process = subprocess.Popen(
            [sys.executable, "-I", str(START), _paths(), job, str(request)],
            stdout=subprocess.PIPE, stderr=errors, stdin=subprocess.DEVNULL, start_new_session=True, env={},
        )  # fmt: skip
        assert self.process.stdout is not None
        self.pid, self.lines = self.process.pid, self.process.stdout.fileno()

    def kill(self) -> None:
        """End the child at once; nothing happens if it has ended."""
        if self.process.poll() is None:
            with suppress(ProcessLookupError):
                os.killpg(self.pid, signal.SIGKILL)

    def wait(self) -> int:
        """Wait for the end and return the exit status, negative for a signal."""
        code = self.process.wait()
        assert self.process.stdout is not None
        self.process.stdout.close()
        return code


class WarmChild:
    """A child of a nursery."""

    def __init__(self, nursery: socket.socket, job: str, request: Path, errors: IO[bytes]) -> None:
        self.lines, lines = os.pipe()
        self.told, told = socket.socketpair()
        self.told.settimeout(30.0)
        try:
            handles = [lines, errors.fileno(), told.fileno()]
            socket.send_fds(nursery, [json.dumps([job, str(request)]).encode()], handles)
            os.close(lines)
            told.close()
            data, handles, _, _ = socket.recv_fds(self.told, 4, 1)
            if not handles:
                raise OSError("the nursery has ended")
        except OSError:
            os.close(self.lines)
            self.told.close()
            raise
        self.pid, self.watch = array.array("i", data)[0], handles[0]

    def kill(self) -> None:
        """End the child at once."""
        with suppress(OSError):
            signal.pidfd_send_signal(self.watch, signal.SIGKILL)

    def wait(self) -> int:
        """Wait for the end and return the exit status, negative for a signal."""
        try:
            data = self.told.recv(4)
            return int(array.array("i", data)[0]) if len(data) == 4 else -signal.SIGKILL
        finally:
            os.close(self.watch)
            os.close(self.lines)
            self.told.close()


class Nursery:
    """Children with their modules loaded before they are asked for: one starts in milliseconds instead of seconds.

    It reads no foreign file itself. Should it be gone, the next child starts from nothing and it is made anew.
    """

    def __init__(self, *modules: str) -> None:
        self.modules, self.lock = modules, threading.Lock()
        self.process: subprocess.Popen[bytes] | None = None
        self.line: socket.socket | None = None

    def child(self, job: str, request: Path, errors: IO[bytes]) -> Child:
        """Start a child for a job, warm if that works and fresh if not. Raises OSError."""
        with self.lock:
            if self.process is None or self.process.poll() is not None:
                self._open()
            assert self.line is not None
            try:
                return WarmChild(self.line, job, request, errors)
            except OSError:
                self._shut()
        return FreshChild(job, request, errors)

    def _open(self) -> None:
        self._shut()
        self.line, theirs = socket.socketpair()
        with theirs:
            self.process = subprocess.Popen(
                [sys.executable, "-I", str(START), _paths(), "nursery", *self.modules],
                stdin=theirs.fileno(), stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL, env={},
            )  # fmt: skip

    def _shut(self) -> None:
        if self.line is not None:
            self.line.close()
        if self.process is not None:
            self.process.kill()
            self.process.wait()
        self.line = self.process = None

    def close(self) -> None:
        """End the nursery; children that work go on."""
        with self.lock:
            self._shut()


def _paths() -> str:
    return json.dumps([str(Path(__file__).parents[3]), *(path for path in sys.path if "site-packages" in path)])


def memory_for_a_child() -> int:
    """Bytes of address space for a child: half of what the machine has free now (`MemAvailable`, proc(5))."""
    free = 0
    with suppress(OSError, ValueError), open("/proc/meminfo") as file:
        free = next(int(line.split()[1]) * 1024 for line in file if line.startswith("MemAvailable:"))
    return max(LEAST_MEMORY, int(SHARE * free))


def run_job(
    job: str,
    folder: Path,
    asked: dict[str, Any],
    *,
    readable: list[Path] | None = None,
    nursery: Nursery | None = None,
    progress: Progress = lambda share, stage: None,
    cancelled: Callable[[], bool] = lambda: False,
    seconds: float = 1800.0,
    silence: float = 120.0,
    memory: int | None = None,
) -> Any:
    """Do `job` (`module:function`) in a child that may write in `folder` and read below `readable`; its result.

    `seconds` is the longest it may take by the clock, `silence` the longest of its own CPU time without progress.
    Raises Unusable in the job's own words, Crashed when it dies or hangs, Stopped when `cancelled` says so, and
    OutOfRoom when the disk is full.
    """
    folder.mkdir(parents=True, exist_ok=True, mode=0o700)
    request = folder / "request.json"
    limits = {"memory": memory or memory_for_a_child(), "seconds": 10 + int(4 * seconds)}
    paths = {"folder": str(folder.resolve()), "readable": [str(path.resolve()) for path in readable or []]}
    request.write_text(json.dumps(asked | limits | paths))
    with tempfile.TemporaryFile() as errors:
        child = nursery.child(job, request, errors) if nursery else FreshChild(job, request, errors)
        try:
            last = _relay(child, progress, cancelled, time.monotonic() + seconds, silence)
        finally:
            child.kill()
            code = child.wait()
        errors.seek(0)
        trace = errors.read()[-4000:].decode(errors="replace").strip()
    if trace and ("error" in last or "done" not in last):
        log.warning("%s ended with %s:\n%s", job, code, trace)
    return _outcome(last, code)


def _outcome(last: dict[str, Any], code: int) -> Any:
    if "done" in last:
        return last["done"]
    if "full" in last:
        raise OutOfRoom("The disk is full. Make room, then try again.")
    if "error" in last:
        raise Unusable(str(last["error"]))
    if "stopped" in last:
        raise Stopped("Stopped.")
    if "late" in last:
        raise Crashed("Reading came to nothing within its time and was stopped. It is damaged, or far too complex.")
    if code == -signal.SIGXCPU:
        raise Crashed("Reading took too long and was stopped. The file is damaged, or far too complex.")
    raise Crashed("Reading it crashed: the file is damaged. Export it again.")


def _relay(
    child: Child, progress: Progress, cancelled: Callable[[], bool], deadline: float, silence: float
) -> dict[str, Any]:
    """Pass progress on until the child ends; its last word, or why it is cut short."""
    last: dict[str, Any] = {}
    pending, heard = b"", 0.0
    with selectors.DefaultSelector() as selector:
        selector.register(child.lines, selectors.EVENT_READ)
        while True:
            if cancelled():
                return {"stopped": True}
            if time.monotonic() > deadline or _cpu_seconds(child.pid) - heard > silence:
                return {"late": True}
            if not selector.select(timeout=POLL):
                continue
            chunk = os.read(child.lines, 1 << 16)
            if not chunk:
                return last
            *lines, pending = (pending + chunk).split(b"\n")
            for line in lines:
                last = json.loads(line)
                if "progress" in last:
                    heard = _cpu_seconds(child.pid)
                    progress(float(last["progress"]), str(last["stage"]))


def _cpu_seconds(pid: int) -> float:
    """CPU time that a process has used (fields 14 and 15 of proc(5)'s stat); 0 when it has ended."""
    try:
        words = Path(f"/proc/{pid}/stat").read_bytes().rpartition(b")")[2].split()
    except OSError:
        return 0.0
    return (int(words[11]) + int(words[12])) / os.sysconf("SC_CLK_TCK")
