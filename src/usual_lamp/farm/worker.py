"""A worker: `python -m usual_lamp.farm.worker trace` for stills, `… lamp` for the traced picture on the desk.

Stills are traced at low priority, so that the desk stays quick and the lamp goes first.
"""

from __future__ import annotations

import asyncio
import os
import sys
import tempfile

import dask
from distributed import Worker

# Units can wait for a lost worker; a worker that loses its scheduler ends and is started again.
dask.config.set({"distributed.comm.timeouts.connect": "10s", "distributed.worker.memory.terminate": False})
dask.config.set({"distributed.worker.memory.spill": False, "distributed.worker.memory.pause": False})
dask.config.set({"distributed.worker.memory.target": False, "distributed.worker.profile.enabled": False})


async def serve(address: str, kind: str) -> None:
    with tempfile.TemporaryDirectory(prefix="usual-lamp-worker-") as folder:
        worker = Worker(
            address, nthreads=1, resources={kind: 1}, local_directory=folder, dashboard=False, death_timeout=15
        )
        async with worker:
            if kind == "lamp":
                # The first picture should not wait for the tracer to be loaded.
                await asyncio.to_thread(load_tracer)
            await worker.finished()


def load_tracer() -> None:
    from usual_lamp.farm.lamp import the_bench

    the_bench()


def main() -> int:
    kind = sys.argv[1] if len(sys.argv) > 1 else "trace"
    if kind == "trace":
        os.nice(5)
    try:
        asyncio.run(serve(os.environ.get("USUAL_LAMP_SCHEDULER", "tcp://127.0.0.1:8302"), kind))
    except (TimeoutError, OSError) as error:
        print(f"no scheduler yet ({error})", file=sys.stderr)
        return 1
    except KeyboardInterrupt:
        return 0
    return 0


if __name__ == "__main__":
    sys.exit(main())
