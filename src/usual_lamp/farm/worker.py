"""A worker: `python -m usual_lamp.farm.worker trace` for stills, `… lamp` for the traced picture on the desk.

Stills are traced at low priority, so that the desk stays quick and the lamp goes first.
"""

from __future__ import annotations

import asyncio
import contextlib
import os
import shutil
import sys
import tempfile
import time
from pathlib import Path

import dask
from distributed.core import Status

from usual_lamp.farm.links import QuietWorker, scheduler_address, security

# Units can wait for a lost worker; a worker that loses its scheduler ends and is started again.
dask.config.set({"distributed.worker.memory.terminate": False})
dask.config.set({"distributed.worker.memory.spill": False, "distributed.worker.memory.pause": False})
dask.config.set({"distributed.worker.memory.target": False, "distributed.worker.profile.enabled": False})


BEGAN = time.time()
"""Of this process; in its workers' names, by which the lamp that has worked longest is found."""
LOOK_AGAIN = 0.05
"""Seconds between looks whether the scheduler is still there."""
LEFT: set[asyncio.Task[None]] = set()
"""Workers that are being closed: a task that nobody holds may vanish."""


def scratch() -> Path:
    """Where workers keep what lives as long as they do; what killed ones have left is removed."""
    folder = Path(os.environ.get("USUAL_LAMP_CACHE", tempfile.gettempdir())) / "workers"
    folder.mkdir(parents=True, exist_ok=True)
    for old in folder.iterdir():
        owner = old.name.split("-")[1]
        if not Path(f"/proc/{owner}").exists():
            shutil.rmtree(old, ignore_errors=True)
    return folder


async def serve(address: str, kind: str) -> None:
    """Work for the scheduler until it is lost; the worker listens on USUAL_LAMP_WORKER_HOST, loopback by default."""
    folder = tempfile.TemporaryDirectory(prefix=f"{kind}-{os.getpid()}-", dir=scratch())
    worker = QuietWorker(
        address, name=f"{kind}-{BEGAN:.3f}-{os.getpid()}", nthreads=1, resources={kind: 1}, death_timeout=15,
        local_directory=folder.name, dashboard=False,
        security=security(), host=os.environ.get("USUAL_LAMP_WORKER_HOST", "127.0.0.1"),
    )  # fmt: skip
    try:
        await worker
        while worker.status in (Status.init, Status.running):
            await asyncio.sleep(LOOK_AGAIN)
    finally:
        # Closing waits for questions under way, which are of nobody any more: the next scheduler need not wait for it.
        closing = asyncio.create_task(put_away(worker, folder))
        LEFT.add(closing)
        closing.add_done_callback(LEFT.discard)


async def put_away(worker: QuietWorker, folder: tempfile.TemporaryDirectory[str]) -> None:
    """Close a worker whose scheduler is lost, however long that takes."""
    with contextlib.suppress(Exception):
        await worker.close(timeout=2, executor_wait=False, nanny=False)
    folder.cleanup()


async def serve_on(kind: str) -> None:
    """Work for one scheduler after the other: what this process has built and traced lives through the loss of one."""
    if kind == "lamp":
        # Before it can be asked: a lamp that has its tracer loaded already goes first.
        await asyncio.to_thread(load_tracer)
    while True:
        try:
            await serve(scheduler_address(), kind)
        except (TimeoutError, OSError) as error:
            print(f"no scheduler yet ({error})", file=sys.stderr)
        await asyncio.sleep(0.2)


def load_tracer() -> None:
    from usual_lamp.farm.lamp import the_bench

    the_bench().warm.wait()


def main() -> int:
    kind = sys.argv[1] if len(sys.argv) > 1 else "trace"
    if kind == "trace":
        os.nice(5)
    try:
        asyncio.run(serve_on(kind))
    except ValueError as error:
        print(error, file=sys.stderr)
        return 1
    except KeyboardInterrupt:
        return 0
    return 0


if __name__ == "__main__":
    sys.exit(main())
