"""A small supervisor: starts the processes of one home in order, restarts one that dies, stops them in reverse.

`python3 -m launch.supervisor` is started detached by `up`; it ends on SIGTERM. Children get SIGTERM from the
kernel should the supervisor itself be killed, so nothing is left behind.
"""

from __future__ import annotations

import ctypes
import json
import os
import signal
import subprocess
import time
from dataclasses import dataclass, field

from launch import database
from launch.install import stamp_of
from launch.paths import PYTHON, ROOT, Home, Problem, say

SETTLED = 10.0
PR_SET_PDEATHSIG = 1


FARM_NICE = 5
"""The farm gives way to the web and the database, so that the desk stays quick."""


def begin(nice: int) -> None:
    """In the child, before its program: end with the supervisor, and take no more than one's turn."""
    ctypes.CDLL(None).prctl(PR_SET_PDEATHSIG, signal.SIGTERM)
    os.nice(nice)


@dataclass
class Service:
    name: str
    command: list[str]
    grace: float = 8.0
    nice: int = 0
    process: subprocess.Popen[bytes] | None = None
    started: float = 0.0
    failures: int = 0
    next_start: float = field(default=0.0)


def services(home: Home) -> list[Service]:
    python = [str(PYTHON), "-m"]
    gunicorn = [
        *python,
        "gunicorn",
        "--config",
        str(ROOT / "launch" / "gunicorn_conf.py"),
        "usual_lamp.web.app:create_app()",
    ]
    return [
        Service("mariadb", database.server_command(home), grace=30.0),
        Service("web", gunicorn),
        Service("dispatcher", [*python, "usual_lamp.farm.dispatcher"], nice=FARM_NICE),
        Service("lamp", [*python, "usual_lamp.farm.worker", "lamp"]),
        Service("worker", [*python, "usual_lamp.farm.worker", "trace"], nice=FARM_NICE),
    ]


class Supervisor:
    def __init__(self, home: Home) -> None:
        self.home = home
        self.services = services(home)
        self.stopping = False

    def start(self, service: Service) -> None:
        log = (self.home.logs / f"{service.name}.log").open("ab")
        service.process = subprocess.Popen(
            service.command,
            stdout=log,
            stderr=subprocess.STDOUT,
            stdin=subprocess.DEVNULL,
            env=self.home.environment(),
            cwd=self.home.folder,
            preexec_fn=lambda: begin(service.nice),
        )
        log.close()
        service.started = time.monotonic()

    def write_state(self) -> None:
        state = {
            "pid": os.getpid(),
            "web": self.home.web,
            "children": {s.name: s.process.pid for s in self.services if s.process},
        }
        temporary = self.home.supervisor_file.with_suffix(".tmp")
        temporary.write_text(json.dumps(state))
        temporary.replace(self.home.supervisor_file)

    def watch(self) -> None:
        """Restart what has died: at once the first time, later with growing pauses up to 10 s."""
        changed = False
        for service in self.services:
            now = time.monotonic()
            if service.process is not None and service.process.poll() is not None:
                lived = now - service.started
                service.failures = 0 if lived > SETTLED else service.failures + 1
                service.next_start = now + min(10.0, 0.5 * 2**service.failures - 0.5)
                say(f"{service.name} ended with {service.process.returncode} after {lived:.1f} s")
                service.process = None
            if service.process is None and now >= service.next_start:
                self.start(service)
                changed = True
        if changed:
            self.write_state()

    def stop(self) -> None:
        for service in reversed(self.services):
            process = service.process
            if process is None or process.poll() is not None:
                continue
            process.terminate()
            try:
                process.wait(service.grace)
            except subprocess.TimeoutExpired:
                process.kill()
                process.wait()

    def migrate(self) -> None:
        """Bring the schema up to date; the files of a home know which migrations they have seen."""
        mark = self.home.data / "migrated.stamp"
        stamp = stamp_of((ROOT / "src/usual_lamp/store/migrations").rglob("*.py"))
        if mark.exists() and mark.read_text() == stamp:
            return
        command = [str(PYTHON), "-m", "usual_lamp.store.migrate"]
        subprocess.run(command, env=self.home.environment(), check=True, cwd=self.home.folder)
        mark.write_text(stamp)

    def run(self) -> None:
        def on_signal(*_: object) -> None:
            self.stopping = True

        signal.signal(signal.SIGTERM, on_signal)
        signal.signal(signal.SIGINT, on_signal)
        self.start(self.services[0])
        self.write_state()
        try:
            assert self.services[0].process is not None
            database.wait_until_ready(self.home, self.services[0].process)
            self.migrate()
            # A home that was deleted has nobody left who could stop it.
            while not self.stopping and self.home.data.exists():
                self.watch()
                time.sleep(0.3)
        except (Problem, subprocess.CalledProcessError) as error:
            (self.home.folder / "problem").write_text(str(error))
        finally:
            self.stop()
            self.home.supervisor_file.unlink(missing_ok=True)


if __name__ == "__main__":
    Supervisor(Home.from_environment()).run()
