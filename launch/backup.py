"""Backup and restore: everything that reviews hold, in one file.

The file is a gzip of SQL, a dump of the schema in one transaction, so that work may go on meanwhile. Its first line
names the product and the state of the tables; the dump's own last line proves that it is whole.
"""

from __future__ import annotations

import contextlib
import gzip
import os
import shutil
import subprocess
import tempfile
from collections.abc import Iterator
from pathlib import Path
from typing import IO

from launch import database, processes
from launch.paths import ROOT, Home, Problem, say

FIRST = b"-- Usual Lamp backup, tables "
LAST = b"-- Dump completed"
CHUNK = 1 << 20


def newest_tables() -> str:
    """Name of the newest migration: the state of the tables that this version of the product keeps."""
    return max(file.stem for file in (ROOT / "src/usual_lamp/store/migrations/versions").glob("v*.py"))


@contextlib.contextmanager
def served(home: Home) -> Iterator[None]:
    """The home's database, running: as it is, or for the time being when nothing of the home runs. Raises Problem."""
    if processes.running(home) is not None:
        yield
        return
    processes.end_left_over(home)
    database.prepare(home)
    with processes.hold(home.run / "running.lock", wait=False), (home.logs / "mariadb.log").open("ab") as log:
        server = subprocess.Popen(
            database.server_command(home), stdout=log, stderr=log, stdin=subprocess.DEVNULL, start_new_session=True
        )
        try:
            database.wait_until_ready(home, server)
            yield
        finally:
            server.terminate()
            server.wait(60)


def back_up(home: Home, target: Path) -> None:
    """Write all reviews of a home into a file, in one step. Raises Problem, and leaves an older file as it was then."""
    target = target.resolve()
    if not home.data.exists():
        raise Problem(f"There is nothing to back up in {home.folder}.")
    if not target.parent.is_dir():
        raise Problem(f"There is no folder {target.parent}.")
    dump = database.client(
        home, "mariadb-dump", "--single-transaction", "--quick", "--hex-blob", "--skip-lock-tables", "--no-tablespaces",
        "--max-allowed-packet=64M", "usual_lamp",
    )  # fmt: skip
    handle, draft = tempfile.mkstemp(dir=target.parent, prefix=f".{target.name}-")
    try:
        with served(home), os.fdopen(handle, "wb") as file, gzip.GzipFile("", "wb", 3, file, mtime=0) as packed:
            packed.write(FIRST + newest_tables().encode() + b"\n")
            with subprocess.Popen(dump, stdout=subprocess.PIPE, stderr=subprocess.PIPE) as process:
                assert process.stdout is not None and process.stderr is not None
                shutil.copyfileobj(process.stdout, packed, CHUNK)
                words = process.stderr.read().decode(errors="replace").strip()
            if process.returncode != 0:
                raise Problem(f"The database could not be read: {words}")
        tables = check(Path(draft))
        os.replace(draft, target)
    except OSError as error:
        raise Problem(f"{target} could not be written: {error.strerror or error}.") from error
    finally:
        Path(draft).unlink(missing_ok=True)
    say(f"Backed up to {target}: {target.stat().st_size / 1e6:.1f} MB, {tables} tables.")


def check(file: Path) -> int:
    """Number of tables in a backup, read from its first to its last byte. Raises Problem when it is not whole."""
    tables, last = 0, b""
    try:
        with gzip.open(file, "rb") as lines:
            first = lines.readline(200)
            if not first.startswith(FIRST):
                raise Problem(f"{file} is no backup of Usual Lamp.")
            if first[len(FIRST) :].strip().decode() > newest_tables():
                raise Problem(f"{file} comes from a newer version of Usual Lamp. Update, then restore it.")
            for line in lines:
                tables += line.startswith(b"CREATE TABLE")
                last = line if line.strip() else last
    except (OSError, EOFError, UnicodeDecodeError) as error:
        raise Problem(f"{file} cannot be read, or is no whole backup: {error}.") from error
    if not last.startswith(LAST):
        raise Problem(f"{file} is cut off: its last line is missing. Use another backup.")
    return tables


def restore(home: Home, source: Path, replace: bool) -> None:
    """Put a backup into a home that does not run; what is there already is only replaced when asked. Raises Problem."""
    check(source)
    if processes.running(home) is not None:
        raise Problem("Stop Usual Lamp first: ./lamp down")
    home.make_private()
    if replace and home.data.exists():
        kept = home.data.with_name("mariadb.before-restore")
        shutil.rmtree(kept, ignore_errors=True)
        home.data.replace(kept)
        say(f"What was there before is kept in {kept}.")
    with served(home):
        if not replace and _holds_reviews(home):
            raise Problem(f"{home.folder} holds reviews already. To put the backup in their place, add --replace.")
        with gzip.open(source, "rb") as lines:
            load = database.client(home, "mariadb", "--max-allowed-packet=64M", "usual_lamp")
            with subprocess.Popen(load, stdin=subprocess.PIPE, stderr=subprocess.PIPE) as process:
                words = _feed(process, lines)
        if process.returncode != 0:
            raise Problem(f"The backup could not be put back: {words}")
    (home.data / "migrated.stamp").unlink(missing_ok=True)
    (home.folder / "demo-loaded.stamp").touch()
    say(f"Restored into {home.folder}. Start with ./lamp up")


def _feed(process: subprocess.Popen[bytes], lines: IO[bytes]) -> str:
    assert process.stdin is not None and process.stderr is not None
    with contextlib.suppress(BrokenPipeError):  # it has ended; its own words say why
        shutil.copyfileobj(lines, process.stdin, CHUNK)
        process.stdin.close()
    return process.stderr.read().decode(errors="replace").strip()


def _holds_reviews(home: Home) -> bool:
    asked = database.client(home, "mariadb", "usual_lamp", "-N", "-e", "SELECT COUNT(*) FROM review")
    found = subprocess.run(asked, capture_output=True, text=True, check=False)
    return found.returncode == 0 and found.stdout.strip() != "0"
