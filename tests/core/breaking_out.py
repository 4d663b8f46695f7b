"""Jobs that misbehave, for the tests of the sandbox: each tells what it got away with."""

from __future__ import annotations

import os
import signal
import socket
import subprocess
import time
from collections.abc import Callable
from pathlib import Path
from typing import Any


def attempts(request: dict[str, Any], say: Callable[..., None]) -> dict[str, str]:
    """What the child may do of all that it should not, and of what it should; by name, `done` or the error's name."""
    folder, other = Path(request["folder"]), Path(request["other"])
    tries: dict[str, Callable[[], object]] = {
        "write here": lambda: (folder / "mine").write_text("1"),
        "read what was given": lambda: Path(request["given"]).read_text(),
        "read elsewhere": lambda: (other / "secret").read_text(),
        "write elsewhere": lambda: (other / "mine").write_text("1"),
        "list elsewhere": lambda: os.listdir(other),
        "read accounts": lambda: Path("/etc/passwd").read_text(),
        "link out": lambda: (folder / "link").symlink_to(other / "secret"),
        "make a pipe": lambda: os.mkfifo(folder / "pipe"),
        "connect": lambda: socket.create_connection(("127.0.0.1", request["port"]), 1),
        "name a socket": lambda: socket.socket(socket.AF_UNIX),
        "run a program": lambda: subprocess.run(["/bin/true"], check=True),
        "signal the parent": lambda: os.kill(os.getppid(), 0),
        "look at the parent": lambda: Path(f"/proc/{os.getppid()}/environ").read_bytes(),
    }
    found = {}
    for name, attempt in tries.items():
        try:
            attempt()
            found[name] = "done"
        except OSError as error:
            found[name] = type(error).__name__
    return found | {"environment": " ".join(sorted(os.environ))}


def crash(request: dict[str, Any], say: Callable[..., None]) -> None:
    say(progress=0.1, stage="about to crash")
    os.kill(os.getpid(), signal.SIGSEGV)


def hang(request: dict[str, Any], say: Callable[..., None]) -> None:
    while True:
        pass


def sleep(request: dict[str, Any], say: Callable[..., None]) -> None:
    say(progress=0.1, stage="asleep")
    time.sleep(600)


def swell(request: dict[str, Any], say: Callable[..., None]) -> int:
    return len(bytearray(request["memory"] * 2))


def fill(request: dict[str, Any], say: Callable[..., None]) -> None:
    with (Path(request["folder"]) / "large").open("wb", buffering=0) as file:
        while True:
            file.write(bytes(2**20))


def blunder(request: dict[str, Any], say: Callable[..., None]) -> None:
    raise IndexError("list index out of range")


def talk(request: dict[str, Any], say: Callable[..., None]) -> str:
    print('{"done": "something that a library printed"}')
    return "the result"
