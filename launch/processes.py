"""Processes told apart for certain: a process id alone is used again by other programs."""

from __future__ import annotations

import fcntl
import json
import os
import signal
import time
from pathlib import Path
from typing import IO

from launch.paths import Home, Problem, say


def began(pid: int) -> int | None:
    """When a process started, in clock ticks since boot (field 22 of proc(5)'s stat); None when there is none."""
    try:
        words = Path(f"/proc/{pid}/stat").read_bytes().rpartition(b")")[2].split()
    except OSError:
        return None
    return None if words[0] in (b"Z", b"X") else int(words[19])


def mark(pid: int) -> list[int]:
    """A process for the record: its id and when it started."""
    return [pid, began(pid) or 0]


def alive(marked: object) -> bool:
    """Whether a recorded process is still the one that runs."""
    if not (isinstance(marked, list) and len(marked) == 2 and all(isinstance(n, int) for n in marked)):
        return False
    pid, start = marked
    return start != 0 and began(pid) == start


def state_of(home: Home) -> dict[str, object]:
    """What the home's last supervisor wrote of itself; empty when there is nothing of this home."""
    try:
        state = json.loads(home.supervisor_file.read_text())
    except (OSError, ValueError):
        return {}
    if isinstance(state, dict) and "home" not in state:
        state = _earlier(home, state)
    return state if isinstance(state, dict) and state.get("home") == str(home.folder) else {}


def _earlier(home: Home, state: dict[str, object]) -> dict[str, object]:
    """The state as versions before this one wrote it, if its supervisor still runs and is this home's."""
    try:
        pid, own = int(str(state["pid"])), Path(f"/proc/{state['pid']}")
        variables = (own / "environ").read_bytes().split(b"\0")
        ours = b"launch.supervisor" in (own / "cmdline").read_bytes()
    except (OSError, KeyError, ValueError):
        return {}
    if not ours or f"USUAL_LAMP_HOME={home.folder}".encode() not in variables:
        return {}
    return {"home": str(home.folder), "supervisor": mark(pid)}


def running(home: Home) -> int | None:
    """Process id of the home's supervisor while it is alive."""
    marked = state_of(home).get("supervisor")
    return marked[0] if isinstance(marked, list) and alive(marked) else None


def end_left_over(home: Home, patience: float = 45.0) -> bool:
    """Wait for the processes of a supervisor that died to end; end by force what has not after `patience` seconds.

    They were told to when it died; the database may need a moment to write its pages. Returns whether one died.
    """
    children = state_of(home).get("children")
    waiting = list(children.values()) if isinstance(children, dict) and running(home) is None else []
    deadline, told = time.monotonic() + patience, False
    while any(alive(marked) for marked in waiting):
        if not told:
            say("Waiting for processes of an earlier start to end")
            told = True
        for marked in waiting:
            if alive(marked):
                number = signal.SIGTERM if time.monotonic() < deadline else signal.SIGKILL
                try:
                    os.kill(marked[0], number)
                except ProcessLookupError:
                    continue
        time.sleep(0.2)
    return bool(waiting)


def hold(path: Path, wait: bool) -> IO[str]:
    """Take the lock on a file, for as long as the answer stays open. Raises Problem when it is taken and not `wait`."""
    file = path.open("a")
    os.chmod(path, 0o600)
    try:
        fcntl.flock(file, fcntl.LOCK_EX | fcntl.LOCK_NB)
    except BlockingIOError:
        if not wait:
            file.close()
            raise Problem(f"Usual Lamp already runs in {path.parent}.") from None
        say("Another start is under way; waiting for it")
        fcntl.flock(file, fcntl.LOCK_EX)
    return file
