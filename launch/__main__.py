"""`./lamp up | down | test | still … | measure`."""

from __future__ import annotations

import json
import os
import signal
import subprocess
import sys
import time
import urllib.request
from pathlib import Path

from launch import database, install
from launch.paths import PYTHON, ROOT, Home, Problem, is_free, say

USAGE = """usage: ./lamp up              set up what is missing, start, print the address
       ./lamp down            stop what `up` started
       ./lamp test [ARGS]     set up, then lint, types, import contracts, pytest (ARGS go to pytest), end-to-end
       ./lamp still FILE …    a STEP file to a PNG on the command line (see ./lamp still --help)
       ./lamp measure [NAME]  the benchmarks, on a quiet machine"""


def running(home: Home) -> dict[str, object] | None:
    """State of the home's supervisor when it is alive."""
    try:
        state = json.loads(home.supervisor_file.read_text())
        command = Path(f"/proc/{state['pid']}/cmdline").read_bytes()
    except (OSError, ValueError, KeyError):
        return None
    return state if b"launch.supervisor" in command else None


def set_up(front_end: bool = True) -> None:
    install.debian_packages(install.RUN_PACKAGES)
    install.python_environment()
    if front_end:
        install.front_end()


def prove_tracer(home: Home) -> None:
    """The tracer's proof render, once for each set-up; also warms its kernel cache."""
    mark = home.folder / "tracer.stamp"
    sources = sorted((ROOT / "src/usual_lamp/core/trace").glob("*.py"))
    stamp = install.stamp_of([*sources, ROOT / "requirements/lock.txt"])
    if mark.exists() and mark.read_text() == stamp:
        return
    say("Proving the tracer")
    environment = home.environment()
    done = subprocess.run(
        [str(PYTHON), "-m", "usual_lamp.core.trace.warm"], env=environment, capture_output=True, check=False
    )
    if done.returncode != 0:
        raise Problem(done.stderr.decode(errors="replace").strip().splitlines()[-1])
    mark.write_text(stamp)


def demo_file(home: Home) -> Path:
    """The demo assembly's STEP file, modelled when its generator changed.

    It lies in a small simulated drawing office, the stand-in for a company's file server: the demo review follows
    it there, and the next revision waits in `next/` to be copied over it.
    """
    office = home.folder / "drawing-office"
    target, mark = office / "dosing-pump.step", home.folder / "demo.stamp"
    (office / "next").mkdir(parents=True, exist_ok=True)
    stamp = install.stamp_of(
        ROOT / "demo" / f"{name}.py" for name in ("build", "part_list", "pump_parts", "second_revision", "solids")
    )
    if not (target.exists() and mark.exists() and mark.read_text() == stamp):
        say("Modelling the demo assembly")
        for file, more in ((target, []), (office / "next" / target.name, ["--second"])):
            command = [str(PYTHON), "-m", "demo.build", str(file), *more]
            install.run(command, "Modelling the demo assembly", env=home.environment(), cwd=ROOT)
        mark.write_text(stamp)
    return target


def load_demo(home: Home, file: Path) -> None:
    """The demo through the ordinary intake, once for a home: what its user makes of it is theirs."""
    loaded = home.folder / "demo-loaded.stamp"
    if loaded.exists():
        return
    say("Loading the demo")
    install.run([str(PYTHON), "-m", "demo.load", str(file)], "Loading the demo", env=home.environment(), cwd=ROOT)
    loaded.touch()


def check_ports(home: Home) -> None:
    """Raises Problem, naming the first port that is taken."""
    for port, what in (
        (home.web, "the web"),
        (home.database, "the database"),
        (home.scheduler, "the scheduler"),
    ):
        if not is_free(port):
            raise Problem(f"Port {port} for {what} is taken. Set USUAL_LAMP_PORT to another number and start again.")


def start(home: Home) -> None:
    """Start the supervisor and wait until the web answers. Raises Problem when it does not."""
    problem = home.folder / "problem"
    problem.unlink(missing_ok=True)
    with (home.logs / "supervisor.log").open("ab") as log:
        process = subprocess.Popen(
            [sys.executable, "-m", "launch.supervisor"],
            stdout=log, stderr=log, stdin=subprocess.DEVNULL, start_new_session=True, cwd=ROOT,
            env=os.environ | {"PYTHONPATH": str(ROOT)} | home.names(),
        )  # fmt: skip
    deadline = time.monotonic() + 90
    while time.monotonic() < deadline:
        if answers(home):
            return
        if problem.exists():
            raise Problem(problem.read_text())
        if process.poll() is not None:
            raise Problem(f"The supervisor ended early; see {home.logs}")
        time.sleep(0.1)
    raise Problem(f"The web did not answer within 90 s; see {home.logs}")


def answers(home: Home) -> bool:
    try:
        with urllib.request.urlopen(home.url + "api/health", timeout=2) as reply:
            return bool(reply.status == 200)
    except OSError:
        return False


def up(home: Home) -> None:
    home.logs.mkdir(parents=True, exist_ok=True)
    is_running = running(home) is not None
    if not is_running:
        check_ports(home)
    set_up()
    if not is_running:
        database.prepare(home)
        prove_tracer(home)
        demo = demo_file(home)
        start(home)
        try:
            load_demo(home, demo)
        except Problem as problem:
            raise Problem(f"Usual Lamp runs at {home.url}, but without the demo. {problem}") from problem
    print(f"Usual Lamp is ready: {home.url}")


def down(home: Home) -> None:
    state = running(home)
    if state is None:
        say("Not running.")
        return
    pid = int(str(state["pid"]))
    os.kill(pid, signal.SIGTERM)
    deadline = time.monotonic() + 60
    while Path(f"/proc/{pid}").exists() and time.monotonic() < deadline:
        time.sleep(0.1)
    if Path(f"/proc/{pid}").exists():
        raise Problem(f"The supervisor (process {pid}) did not stop within 60 s; see {home.logs}")
    say("Stopped.")


def pass_on(module: str, arguments: list[str], home: Home) -> int:
    home.logs.mkdir(parents=True, exist_ok=True)
    if not home.secret_file.exists():
        database.prepare(home)
    return subprocess.call([str(PYTHON), "-m", module, *arguments], env=home.environment())


def main(arguments: list[str]) -> int:
    home = Home.from_environment()
    command, rest = (arguments[0], arguments[1:]) if arguments else ("", [])
    if command == "up":
        up(home)
    elif command == "down":
        down(home)
    elif command == "test":
        from launch import check

        return check.run_all(rest)
    elif command == "still":
        set_up(front_end=False)
        return pass_on("usual_lamp.cli", ["still", *rest], home)
    elif command == "measure":
        set_up(front_end=False)
        return pass_on("benchmarks", rest, home)
    else:
        print(USAGE)
        return 0 if command in ("help", "-h", "--help") else 2
    return 0


if __name__ == "__main__":
    if sys.version_info < (3, 11):  # noqa: UP036  (this file may be started by any Python)
        sys.exit("lamp: Python 3.11 or newer is needed.")
    try:
        sys.exit(main(sys.argv[1:]))
    except Problem as problem:
        say(f"lamp: {problem}")
        sys.exit(1)
    except KeyboardInterrupt:
        sys.exit(130)
