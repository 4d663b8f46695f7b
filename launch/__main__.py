"""`./lamp up | down | backup | restore | tidy | test | still … | measure`."""

from __future__ import annotations

import os
import signal
import subprocess
import sys
import time
import webbrowser
from pathlib import Path

from demo.files import GENERATOR

from launch import api, backup, database, install, processes, secret_files
from launch.paths import PYTHON, ROOT, Home, Problem, is_free, say

LEFT_OVER = 30.0
"""Seconds that ports may stay taken after a supervisor died: it may have started what it could not write down."""
USAGE = """usage: ./lamp up [--open]     set up what is missing, start, print the address (and open it in the browser)
       ./lamp down            stop what `up` started
       ./lamp backup FILE     all reviews into one file, while it runs or not
       ./lamp restore FILE    a backup into this home; --replace puts it in the place of what is there
       ./lamp tidy            remove what no review needs any more, and say what that was
       ./lamp test [ARGS]     set up, then lint, types, import contracts, pytest (ARGS go to pytest), end-to-end
       ./lamp still FILE …    a STEP file to a PNG on the command line (see ./lamp still --help)
       ./lamp measure [NAME]  the benchmarks, on a quiet machine"""


def set_up(front_end: bool = True, to_test: bool = False) -> None:
    install.debian_packages(install.RUN_PACKAGES)
    install.python_environment(to_test)
    if front_end:
        install.front_end()


def prove_tracer(home: Home) -> None:
    """The tracer's proof render, once for each set-up; also warms its kernel cache."""
    mark = home.folder / "tracer.stamp"
    sources = sorted((ROOT / "src/usual_lamp/core/trace").rglob("*.py"))
    stamp = install.stamp_of([*sources, ROOT / "requirements/run.txt"])
    if mark.exists() and mark.read_text() == stamp:
        return
    say("Proving the tracer")
    environment = home.environment()
    done = subprocess.run(
        [str(PYTHON), "-m", "usual_lamp.core.trace.jobs.warm"], env=environment, capture_output=True, check=False
    )
    if done.returncode != 0:
        raise Problem(done.stderr.decode(errors="replace").strip().splitlines()[-1])
    mark.write_text(stamp)


def demo_file(home: Home) -> Path:
    """The demo assembly's STEP file, laid out when its generator changed.

    It lies in a small simulated drawing office, the stand-in for a company's file server: the demo review follows
    it there, and the next revision waits in `next/` to be copied over it.
    """
    target, mark = home.office / "dosing-pump.step", home.folder / "demo.stamp"
    stamp = install.stamp_of(ROOT / "demo" / f"{name}.py" for name in ("files", *GENERATOR))
    if not (target.exists() and mark.exists() and mark.read_text() == stamp):
        say("Modelling the demo assembly")
        command = [str(PYTHON), "-m", "demo.files", str(home.office)]
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


def check_ports(home: Home, patience: float = 0.0) -> None:
    """Raises Problem, naming the first port that is taken still after `patience` seconds."""
    deadline = time.monotonic() + patience
    for port, what in (
        (home.web, "the web"),
        (home.database, "the database"),
        (home.scheduler, "the scheduler"),
    ):
        while not is_free(port) and time.monotonic() < deadline:
            time.sleep(0.2)
        if not is_free(port):
            raise Problem(f"Port {port} for {what} is taken. Set USUAL_LAMP_PORT to another number and start again.")


def start(home: Home) -> None:
    """Start the supervisor and wait until the web answers. Raises Problem when it does not."""
    problem = home.run / "problem"
    problem.unlink(missing_ok=True)
    with (home.logs / "supervisor.log").open("ab") as log:
        process = subprocess.Popen(
            [sys.executable, "-m", "launch.supervisor"],
            stdout=log, stderr=log, stdin=subprocess.DEVNULL, start_new_session=True, cwd=ROOT,
            env=os.environ | {"PYTHONPATH": str(ROOT)} | home.names(),
        )  # fmt: skip
    deadline = time.monotonic() + 90
    while time.monotonic() < deadline:
        if problem.exists():
            process.wait(60)
            raise Problem(problem.read_text())
        if answers(home):
            return
        if process.poll() is not None:
            raise Problem(f"The supervisor ended early; see {home.logs}")
        time.sleep(0.1)
    raise Problem(f"The web did not answer within 90 s; see {home.logs}")


def answers(home: Home) -> bool:
    """Whether web and database of this very home are up: another one's does not know its token."""
    try:
        api.ask(home, "health", timeout=5)
    except OSError:
        return False
    return True


def up(home: Home, show: bool = False) -> None:
    home.make_private()
    # Two starts at once take turns; the second finds everything done.
    with processes.hold(home.run / "start.lock", wait=True):
        with processes.hold(ROOT / ".setup.lock", wait=True):
            set_up()
        if processes.running(home) is None:
            left = processes.end_left_over(home)
            check_ports(home, LEFT_OVER if left else 0.0)
            database.prepare(home)
            secret_files.secret(home.token_file)
            secret_files.certificate(home.tls)
            prove_tracer(home)
            demo = demo_file(home)
            start(home)
            try:
                load_demo(home, demo)
            except Problem as problem:
                raise Problem(f"Usual Lamp runs at {home.sign_in}, but without the demo. {problem}") from problem
    for words in unfenced(home):
        say(f"Note: {words}")
    print(f"Usual Lamp is ready: {home.sign_in}")
    if show:
        open_in_browser(home)


def unfenced(home: Home) -> list[str]:
    """Words on what this kernel lacks to shut imports in."""
    code = "from usual_lamp.core.sandbox.confinement import what_is_missing; print(*what_is_missing(), sep=chr(10))"
    done = subprocess.run(
        [str(PYTHON), "-c", code], env=home.environment(), capture_output=True, text=True, check=False
    )
    return [line for line in done.stdout.splitlines() if line]


def open_in_browser(home: Home) -> None:
    """Open the sign-in address by way of a page that only its owner can read: the token stands in no process list."""
    page = home.run / "open.html"
    secret_files.write_private(page, f'<!doctype html><meta http-equiv="refresh" content="0;url={home.sign_in}">')
    if not webbrowser.open(page.as_uri()):
        say("No browser was found here: open the address above.")


def down(home: Home) -> None:
    pid = processes.running(home)
    if pid is None:
        processes.end_left_over(home)
        say("Not running.")
        return
    marked = processes.mark(pid)
    os.kill(pid, signal.SIGTERM)
    deadline = time.monotonic() + 60
    while processes.alive(marked) and time.monotonic() < deadline:
        time.sleep(0.1)
    if processes.alive(marked):
        raise Problem(f"The supervisor (process {pid}) did not stop within 60 s; see {home.logs}")
    say("Stopped.")


def pass_on(module: str, arguments: list[str], home: Home) -> int:
    database.prepare(home)
    return subprocess.call([str(PYTHON), "-m", module, *arguments], env=home.environment())


def main(arguments: list[str]) -> int:
    os.umask(0o077)
    home = Home.from_environment()
    command, rest = (arguments[0], arguments[1:]) if arguments else ("", [])
    if command == "up" and set(rest) <= {"--open"}:
        up(home, "--open" in rest)
    elif command == "backup" and len(rest) == 1:
        backup.back_up(home, Path(rest[0]))
    elif command == "restore" and rest and set(rest[1:]) <= {"--replace"}:
        set_up(front_end=False)
        backup.restore(home, Path(rest[0]), "--replace" in rest)
    elif command == "tidy" and not rest:
        if processes.running(home) is None:
            raise Problem("Start Usual Lamp first: ./lamp up")
        return pass_on("usual_lamp.service.tidying", [], home)
    elif command == "down":
        down(home)
    elif command == "test":
        from launch import check

        return check.run_all(rest)
    elif command == "still":
        set_up(front_end=False)
        return pass_on("usual_lamp.cli", ["still", *rest], home)
    elif command == "measure":
        set_up(front_end=False, to_test=True)
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
    except OSError as error:
        say(f"lamp: {error.filename or 'The machine'}: {error.strerror or error}")
        sys.exit(1)
    except KeyboardInterrupt:
        sys.exit(130)
