"""A scheduler and a worker at other addresses than the main machine's, over TLS with the home's certificate."""

from __future__ import annotations

import os
import subprocess
import sys
from pathlib import Path

import pytest
from distributed import Client

from launch import secret_files
from usual_lamp.farm.links import security


def test_a_worker_elsewhere_works_for_a_scheduler_elsewhere(tmp_path: Path, monkeypatch) -> None:
    secret_files.certificate(tmp_path / "tls")
    here = {
        "USUAL_LAMP_SCHEDULER": "tls://127.0.0.2:31986", "USUAL_LAMP_TLS": str(tmp_path / "tls"),
        "USUAL_LAMP_CACHE": str(tmp_path), "USUAL_LAMP_WORKER_HOST": "127.0.0.3",
    }  # fmt: skip
    for name, value in here.items():
        monkeypatch.setenv(name, value)
    source = Path(__file__).parents[2] / "src"
    environment = os.environ | {"PYTHONPATH": str(source)}

    def start(*module: str) -> subprocess.Popen[bytes]:
        return subprocess.Popen([sys.executable, "-m", *module], env=environment, cwd=tmp_path)

    running = [start("usual_lamp.farm.scheduler"), start("usual_lamp.farm.worker", "trace")]
    try:
        with Client(here["USUAL_LAMP_SCHEDULER"], security=security(), timeout=60) as client:
            client.wait_for_workers(1, timeout=60)
            assert client.submit(os.getpid, resources={"trace": 1}, pure=False).result(60) == running[1].pid
            (address,) = client.scheduler_info(n_workers=-1)["workers"]
            assert address.startswith("tls://127.0.0.3:")
        # Who has no such certificate is not let in.
        secret_files.certificate(tmp_path / "another")
        monkeypatch.setenv("USUAL_LAMP_TLS", str(tmp_path / "another"))
        with pytest.raises(OSError):
            Client(here["USUAL_LAMP_SCHEDULER"], security=security(), timeout=3)
    finally:
        for process in reversed(running):
            process.terminate()
            process.wait(30)
