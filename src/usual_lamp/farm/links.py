"""How the processes of the farm reach each other: over TLS, with one certificate that all of them hold, on loopback.

Who does not hold the certificate's key is turned away at the handshake, before a byte of a message is read. None of
them serves HTTP: there is no page that shows what runs, and no port that only looks closed.
"""

from __future__ import annotations

import os
from pathlib import Path
from typing import Any

import dask
from distributed import Client, Scheduler, Worker
from distributed.security import Security

DEFAULT_SCHEDULER = "tls://127.0.0.1:8302"

dask.config.set(
    {
        # One try takes a fifth of it at most: a scheduler that has just begun may not answer the first.
        "distributed.comm.timeouts.connect": "5s",
        # How often each process looks at itself: at Dask's 20 and 500 ms, four of them keep a resting machine busy.
        "distributed.admin.tick.interval": "1s",
        "distributed.admin.tick.limit": "60s",
        "distributed.admin.system-monitor.interval": "10s",
        # There is one worker to a kind of work, so nothing is shared out anew.
        "distributed.scheduler.work-stealing": False,
        "distributed.scheduler.active-memory-manager.start": False,
    }
)


def scheduler_address() -> str:
    """From USUAL_LAMP_SCHEDULER. Raises ValueError for an address without TLS."""
    address = os.environ.get("USUAL_LAMP_SCHEDULER", DEFAULT_SCHEDULER)
    if not address.startswith("tls://"):
        raise ValueError(f"USUAL_LAMP_SCHEDULER is {address}: only tls:// addresses are used.")
    return address


def security() -> Security:
    """Certificate and key from the folder that USUAL_LAMP_TLS names. Raises ValueError when they are not there."""
    folder = Path(os.environ.get("USUAL_LAMP_TLS", "tls"))
    cert, key = folder / "cert.pem", folder / "key.pem"
    if not (cert.is_file() and key.is_file()):
        raise ValueError(f"There is no certificate in {folder.resolve()}: start with ./lamp up")
    names = {f"tls_{role}_{kind}": str(file) for role in ("scheduler", "worker", "client")
             for kind, file in (("cert", cert), ("key", key))}  # fmt: skip
    return Security(require_encryption=True, tls_ca_file=str(cert), **names)


class QuietScheduler(Scheduler):
    """A scheduler without an HTTP server."""

    def start_http_server(self, *_: Any, **__: Any) -> None:
        """Serve nothing."""


class QuietWorker(Worker):
    """A worker without an HTTP server."""

    def start_http_server(self, *_: Any, **__: Any) -> None:
        """Serve nothing."""


def tracers(client: Client) -> int:
    """How many workers trace stills."""
    workers = client.scheduler_info(n_workers=-1)["workers"].values()
    return sum("trace" in worker.get("resources", {}) for worker in workers)
