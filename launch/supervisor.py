"""A small supervisor: starts the processes of one home in order, restarts one that dies, stops them in reverse.

`python3 -m launch.supervisor` is started detached by `up`; it ends on SIGTERM. It holds the home's lock and the web's
listening socket, so a request that comes while the web is started again waits instead of being refused. Nothing that
its children do, and no full disk, ends it. Children get SIGTERM from the kernel should it be killed itself.
"""

from __future__ import annotations

import contextlib
import ctypes
import json
import os
import shutil
import signal
import socket
import subprocess
import sys
import time
from dataclasses import dataclass
from pathlib import Path
from typing import IO

from launch import database, processes
from launch.install import stamp_of
from launch.paths import PYTHON, ROOT, Home, Problem, say

SETTLED = 5.0
"""Seconds after which a process that died is started again at once."""
LONGEST_PAUSE = 4.0
POLL = 0.1
PR_SET_PDEATHSIG = 1
SPARE_DELAY = 20.0
LOADED, CALM = 15.0, 10.0
"""Seconds after which a spare has loaded; and those in which it has the machine to itself when it takes over, before
the one that died is loaded again."""
FARM_NICE, LAMP_NICE = 5, 3
"""Tracing stills gives way to the lamp, and both to the web, the database and the dispatcher: the desk stays quick, and
who takes over from another is not held up by the light."""
LARGEST_LOG = 32 * 2**20
LOOK_AT_LOGS = 60.0


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
    delay: float = 0.0
    """Seconds after the supervisor's start before it is started for the first time."""
    next_start: float = 0.0


def services(home: Home) -> list[Service]:
    python = [str(PYTHON), "-m"]
    gunicorn = [*python, "gunicorn", "--config", str(ROOT / "launch" / "gunicorn_conf.py"), "usual_lamp.web.server:app"]
    return [
        Service("mariadb", database.server_command(home), grace=30.0),
        Service("web", gunicorn),
        Service("dispatcher", [*python, "usual_lamp.farm.dispatcher"]),
        Service("lamp", [*python, "usual_lamp.farm.worker", "lamp"], nice=LAMP_NICE),
        Service("worker", [*python, "usual_lamp.farm.worker", "trace"], nice=FARM_NICE),
        # These two take over at once when the others die: loading a tracer takes longer than one likes to wait.
        Service("dispatcher-spare", [*python, "usual_lamp.farm.dispatcher"], delay=SPARE_DELAY),
        Service("lamp-spare", [*python, "usual_lamp.farm.worker", "lamp"], nice=LAMP_NICE, delay=SPARE_DELAY),
    ]


class Supervisor:
    def __init__(self, home: Home) -> None:
        self.home = home
        self.services = services(home)
        for service in self.services:
            service.next_start = time.monotonic() + service.delay
        self.stopping = False
        self.looked_at_logs = 0.0
        self.unwritten = False
        """Whether the file does not know yet who runs, the disk having been full."""
        self.listening: socket.socket | None = None

    def listen(self) -> None:
        """Take the web's port for as long as the supervisor lives. Raises Problem."""
        self.listening = socket.socket()
        self.listening.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            self.listening.bind(("127.0.0.1", self.home.web))
        except OSError as error:
            raise Problem(f"Port {self.home.web} for the web is taken. Set USUAL_LAMP_PORT to another.") from error
        self.listening.listen(1024)

    def start(self, service: Service) -> None:
        """Start a service. Raises OSError when the machine has no room for another process."""
        with self._log(service.name) as log:
            web = self.listening.fileno() if service.name == "web" and self.listening else None
            environment = self.home.environment()
            if web is not None:
                environment["USUAL_LAMP_WEB_SOCKET"] = str(web)
            service.process = subprocess.Popen(
                service.command,
                stdout=log,
                stderr=subprocess.STDOUT,
                stdin=subprocess.DEVNULL,
                env=environment,
                cwd=self.home.folder,
                pass_fds=() if web is None else (web,),
                preexec_fn=lambda: begin(service.nice),
                umask=0o077,
            )
        service.started = time.monotonic()

    def _log(self, name: str) -> IO[bytes]:
        try:
            return (self.home.logs / f"{name}.log").open("ab")
        except OSError:
            return open(os.devnull, "ab")

    def write_state(self) -> None:
        """Who runs, for `up` and `down`. On a full disk the old state stays for now."""
        state = {
            "home": str(self.home.folder),
            "web": self.home.web,
            "supervisor": processes.mark(os.getpid()),
            "children": {s.name: processes.mark(s.process.pid) for s in self.services if s.process},
        }
        temporary = self.home.supervisor_file.with_suffix(".tmp")
        self.unwritten = True
        with contextlib.suppress(OSError):
            temporary.write_text(json.dumps(state))
            temporary.replace(self.home.supervisor_file)
            self.unwritten = False

    def watch(self) -> None:
        """Restart what has died: at once the first time, later with growing pauses."""
        changed = self.unwritten
        for service in self.services:
            now = time.monotonic()
            if service.process is not None and service.process.poll() is not None:
                lived = now - service.started
                service.failures = 0 if lived > SETTLED else service.failures + 1
                pause = min(LONGEST_PAUSE, 0.5 * 2**service.failures - 0.5)
                service.next_start = now + (CALM if self._has_spare(service, now) else pause)
                say(f"{service.name} ended with {service.process.returncode} after {lived:.1f} s")
                service.process = None
            if service.process is None and now >= service.next_start:
                try:
                    self.start(service)
                except OSError as error:
                    say(f"{service.name} could not be started: {error}")
                    service.next_start = now + LONGEST_PAUSE
                changed = True
        if changed:
            self.write_state()

    def _has_spare(self, service: Service, now: float) -> bool:
        """Whether another one of its kind stands by, or is at work already."""
        kind = service.name.removesuffix("-spare")
        others = (s for s in self.services if s is not service and s.name.removesuffix("-spare") == kind)
        return any(s.process and s.process.poll() is None and now - s.started > LOADED for s in others)

    def keep_logs_short(self) -> None:
        """Move what a long log holds into a second file. The services go on writing at the end of theirs."""
        if time.monotonic() - self.looked_at_logs < LOOK_AT_LOGS:
            return
        self.looked_at_logs = time.monotonic()
        for file in self.home.logs.glob("*.log"):
            if file.stat().st_size > LARGEST_LOG:
                shutil.copyfile(file, file.with_suffix(".log.1"))
                os.truncate(file, 0)

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
        """Bring the schema up to date; the files of a home know which migrations they have seen. Raises Problem."""
        mark = self.home.data / "migrated.stamp"
        stamp = stamp_of((ROOT / "src/usual_lamp/store/migrations").rglob("*.py"))
        if mark.exists() and mark.read_text() == stamp:
            return
        done = subprocess.run(
            [str(PYTHON), "-m", "usual_lamp.store.migrate"],
            env=self.home.environment(), check=False, cwd=self.home.folder, stderr=subprocess.PIPE, text=True,
        )  # fmt: skip
        if done.returncode != 0:
            words = done.stderr.strip().splitlines()[-3:] or ["no words"]
            raise Problem("The database could not be brought up to date:\n  " + "\n  ".join(words))
        mark.write_text(stamp)

    def begin_work(self) -> None:
        """Database first, then its schema; what stands in the way is told to `up`. Raises Problem."""
        self.listen()
        self.start(self.services[0])
        self.write_state()
        assert self.services[0].process is not None
        database.wait_until_ready(self.home, self.services[0].process)
        self.migrate()
        if damaged := database.damaged_tables(self.home):
            raise Problem(
                "The database is damaged:\n  " + "\n  ".join(damaged[:8]) + "\nKeep a copy of "
                f"{self.home.data}, then restore the last backup: ./lamp restore FILE --replace"
            )

    def run(self) -> None:
        def on_signal(*_: object) -> None:
            self.stopping = True

        signal.signal(signal.SIGTERM, on_signal)
        signal.signal(signal.SIGINT, on_signal)
        try:
            self.begin_work()
            # A home that was deleted has nobody left who could stop it.
            while not self.stopping and self.home.data.exists():
                try:
                    self.watch()
                    self.keep_logs_short()
                except Exception as error:  # whatever it is, those who still run must not be left alone
                    say(f"supervisor: {type(error).__name__}: {error}")
                time.sleep(POLL)
        except (Problem, OSError) as error:
            with contextlib.suppress(OSError):
                (self.home.run / "problem").write_text(str(error))
        finally:
            self.stop()
            self.home.supervisor_file.unlink(missing_ok=True)


def main() -> int:
    os.umask(0o077)
    home = Home.from_environment()
    try:
        lock = processes.hold(home.run / "running.lock", wait=False)
    except (Problem, OSError) as error:
        Path(home.run / "problem").write_text(str(error))
        return 1
    with lock:
        Supervisor(home).run()
    return 0


if __name__ == "__main__":
    sys.exit(main())
