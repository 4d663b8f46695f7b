"""`./lamp test`: sets up, then every check in turn. All run, whatever fails; the exit code tells the sum."""

from __future__ import annotations

import os
import subprocess
import tempfile
import time
from collections.abc import Iterator
from contextlib import ExitStack, contextmanager
from pathlib import Path

from launch import database, install
from launch.paths import FRONTEND, ONE_THREAD, PYTHON, ROOT, Home, Problem, say

TEST_DATA = ROOT / "tests" / "data"
BIN = PYTHON.parent
BARE = ["tests/core", "tests/demo"]
"""Tests that need neither database nor servers. Much of what they wait for is the compiling of kernels, which keeps one
core busy: one process for each core shares them, file by file."""
BEHIND = ["tests/cli", "tests/farm", "tests/launch", "tests/service", "tests/store", "tests/web"]
"""Tests of what stands behind the page, shared in the same way, with a database for each process."""


def set_up() -> None:
    install.debian_packages(install.RUN_PACKAGES + install.TEST_PACKAGES)
    install.python_environment(to_test=True)
    install.front_end()
    install.node_packages(TEST_DATA)


@contextmanager
def test_database(folder: Path) -> Iterator[str]:
    """A MariaDB for the tests alone; its address."""
    home = Home.on_free_ports(folder)
    home.logs.mkdir(parents=True)
    database.prepare(home)
    with (home.logs / "mariadb.log").open("wb") as log:
        server = subprocess.Popen(
            database.server_command(home), stdout=log, stderr=log, stdin=subprocess.DEVNULL, start_new_session=True
        )
    try:
        database.wait_until_ready(home, server)
        yield home.database_url
    finally:
        server.terminate()
        server.wait(30)


def python_checks() -> dict[str, list[str]]:
    return {
        "ruff": [str(BIN / "ruff"), "check", "--no-cache", "."],
        "format": [str(BIN / "ruff"), "format", "--check", "--no-cache", "."],
        "mypy": [str(BIN / "mypy")],
        "import contracts": [str(BIN / "lint-imports"), "--no-cache"],
    }


def api_description_is_current(environment: dict[str, str]) -> bool:
    """The committed API description and its generated types are what the code says."""
    with tempfile.TemporaryDirectory() as folder:
        made, types, facts = (Path(folder, name) for name in ("openapi.json", "schema.d.ts", "facts.ts"))
        command = [str(PYTHON), "-m", "usual_lamp.web.openapi", str(made), str(facts)]
        subprocess.run(command, env=environment, check=True)
        generate = install.node(
            str(FRONTEND / "node_modules/openapi-typescript/bin/cli.js"), str(made), "-o", str(types)
        )
        subprocess.run(generate, cwd=FRONTEND, env=install.node_environment(), check=True, capture_output=True)
        same_api = made.read_text() == (FRONTEND / "openapi.json").read_text()
        generated = FRONTEND / "src/api/generated"
        same_types = all(file.read_text() == (generated / file.name).read_text() for file in (types, facts))
    if not (same_api and same_types):
        say(
            "The API changed. Run: python -m usual_lamp.web.openapi frontend/openapi.json "
            "frontend/src/api/generated/facts.ts; npm run types (in frontend/)"
        )
    return same_api and same_types


class Report:
    """What was checked, how long it took and whether it passed."""

    def __init__(self) -> None:
        self.lines: list[tuple[str, bool, float]] = []

    @contextmanager
    def check(self, name: str) -> Iterator[list[bool]]:
        say(f"\n== {name}")
        outcome: list[bool] = []
        start = time.monotonic()
        try:
            yield outcome
        except (Problem, OSError, subprocess.CalledProcessError) as error:
            say(str(error))
            outcome.append(False)
        self.lines.append((name, bool(outcome) and all(outcome), time.monotonic() - start))

    def close(self) -> int:
        say("")
        for name, passed, seconds in self.lines:
            say(f"{'ok  ' if passed else 'FAIL'} {name} ({seconds:.0f} s)")
        return 0 if all(passed for _, passed, _ in self.lines) else 1


def call(command: list[str], environment: dict[str, str], cwd: Path = ROOT) -> bool:
    return subprocess.call(command, env=environment, cwd=cwd) == 0


def shared(processes: int) -> list[str]:
    """How pytest shares tests among processes."""
    return ["-n", str(processes), "--dist", "loadfile"]


def pytest_passes(arguments: list[str], environment: dict[str, str], databases: int = 1) -> bool:
    with tempfile.TemporaryDirectory(prefix="usual-lamp-") as folder, ExitStack() as open_ones:
        urls = [open_ones.enter_context(test_database(Path(folder, f"database-{n}"))) for n in range(databases)]
        testing = environment | {"USUAL_LAMP_TEST_DATABASE": " ".join(urls)}
        return call([str(PYTHON), "-m", "pytest", *arguments], testing)


def run_all(arguments: list[str]) -> int:
    """Set up and check everything; `arguments` go to pytest, and with any only pytest runs. Exit code."""
    set_up()
    report = Report()
    environment = os.environ | ONE_THREAD | {"PYTHONPATH": os.pathsep.join([str(ROOT / "src"), str(ROOT)])}
    if not arguments:
        for name, command in python_checks().items():
            with report.check(name) as outcome:
                outcome.append(call(command, environment))
        for script in ("check", "test"):
            with report.check(f"front end: {script}") as outcome:
                outcome.append(call(install.node("npm", "run", script), install.node_environment(), FRONTEND))
        with report.check("API description") as outcome:
            outcome.append(api_description_is_current(environment))
        cores = os.cpu_count() or 1
        with report.check("pytest: core and demo") as outcome:
            outcome.append(call([str(PYTHON), "-m", "pytest", *shared(cores), *BARE], environment))
        with report.check("pytest: behind the page") as outcome:
            outcome.append(pytest_passes([*shared(cores), *BEHIND], environment, databases=cores))
        arguments = [f"--ignore={folder}" for folder in (*BARE, *BEHIND)]
    with report.check("pytest") as outcome:
        outcome.append(pytest_passes(arguments, environment))
    return report.close()
