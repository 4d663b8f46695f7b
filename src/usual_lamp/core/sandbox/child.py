"""The child's side: puts up the fences, does the job, and says what came of it, one JSON object a line.

{"progress": 0..1, "stage": words} on the way, and at the end {"done": result} or {"error": sentence}. A nursery is a
child that has its modules loaded already and makes a fresh child of itself for each job.
"""

from __future__ import annotations

import array
import ctypes
import gc
import importlib
import json
import os
import signal
import socket
import traceback
from collections.abc import Callable
from pathlib import Path
from typing import Any

from usual_lamp.core.sandbox.confinement import confine, limit
from usual_lamp.core.sandbox.unusable import Unusable

PR_SET_PDEATHSIG = 1
TOO_DEEP = "Its parts are nested deeper than can be followed. Flatten the model, then try again."
TOO_LARGE = "It needs more memory than this machine can give it. Split it, or import it with the coarse tessellation."
DAMAGED = "The file is damaged: it says things that contradict each other. Export it again."
NICE = 5
"""Reading files gives way to those who look at pictures."""
LEAST_ROOM = 32 * 2**20
"""Bytes: what fails with less free on the disk may have failed of that, by whatever name a library calls it."""
Say = Callable[..., None]


def work(job: str, request_file: str) -> int:
    """Do one job, named `module:function`; the exit code is 0 whenever something was said."""
    ctypes.CDLL(None).prctl(PR_SET_PDEATHSIG, signal.SIGKILL)
    # What libraries print must not come between our lines.
    lines = os.fdopen(os.dup(1), "w", buffering=1)
    os.dup2(2, 1)

    def say(**words: object) -> None:
        """Tell the parent process something, as one line of JSON."""
        lines.write(json.dumps(words) + "\n")

    gc.freeze()  # what is loaded stays: it need not be looked through for garbage again and again
    request: dict[str, Any] = json.loads(Path(request_file).read_text())
    folder = Path(request["folder"])
    os.environ["TMPDIR"] = str(folder)
    os.chdir(folder)
    os.nice(NICE)
    limit(request["memory"], request["seconds"])
    confine([folder], [Path(path) for path in request["readable"]])
    module, _, function = job.partition(":")
    try:
        say(done=getattr(importlib.import_module(module), function)(request, say))
    except Unusable as error:
        say(**({"full": True} if is_full(folder) else {"error": str(error)}))
    except RecursionError:
        say(error=TOO_DEEP)
    except MemoryError:
        say(error=TOO_LARGE)
    except Exception:
        traceback.print_exc()  # for the log; it says nothing to the person who gave the file
        say(**({"full": True} if is_full(folder) else {"error": DAMAGED}))
    lines.close()
    return 0


def is_full(folder: Path) -> bool:
    """Whether the disk has next to nothing free."""
    found = os.statvfs(folder)
    return found.f_bavail * found.f_frsize < LEAST_ROOM


def nursery(modules: list[str]) -> int:
    """Load modules, then fork a child for each request that comes in over the socket that is our standard input.

    A request brings three open files: where the child writes its lines, where its errors go, and a socket on which it
    is told its process id and at last its exit status. Ends when the socket closes.
    """
    ctypes.CDLL(None).prctl(PR_SET_PDEATHSIG, signal.SIGKILL)
    for module in modules:
        importlib.import_module(module)
    signal.signal(signal.SIGCHLD, signal.SIG_IGN)  # those who have minded their child to its end are forgotten
    asked = socket.socket(fileno=os.dup(0))
    with open(os.devnull) as nothing:
        os.dup2(nothing.fileno(), 0)  # children must not reach the line on which they are asked for
    while True:
        text, handles, _, _ = socket.recv_fds(asked, 1 << 16, 3)
        if not text:
            return 0
        job, request_file = json.loads(text)
        if os.fork() == 0:
            asked.close()
            os._exit(_mind(job, request_file, handles))
        for handle in handles:
            os.close(handle)


def _mind(job: str, request_file: str, handles: list[int]) -> int:
    """Make the child that works, wait for it and tell how it ended; one of these for each child."""
    signal.signal(signal.SIGCHLD, signal.SIG_DFL)
    ctypes.CDLL(None).prctl(PR_SET_PDEATHSIG, signal.SIGKILL)
    lines, errors, told = handles
    pid = os.fork()
    if pid == 0:
        os.setsid()
        os.dup2(lines, 1)
        os.dup2(errors, 2)
        for handle in handles:
            os.close(handle)
        try:
            os._exit(work(job, request_file))
        finally:
            os._exit(1)
    os.close(lines)
    with socket.socket(fileno=told) as line:
        watch = os.pidfd_open(pid)
        socket.send_fds(line, [array.array("i", [pid]).tobytes()], [watch])
        _, status = os.waitpid(pid, 0)
        line.sendall(array.array("i", [os.waitstatus_to_exitcode(status)]).tobytes())
    return 0
