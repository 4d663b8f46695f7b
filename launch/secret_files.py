"""Secrets as files: readable by their owner alone, written whole or not at all, and never empty."""

from __future__ import annotations

import os
import secrets
import shutil
import subprocess
import tempfile
from pathlib import Path

from launch.paths import Problem

YEARS = 20


def write_private(path: Path, text: str) -> None:
    """Write a file of mode 0600 in one step: readers see the old content or the new, never half of it.

    Raises OSError, and leaves nothing behind then.
    """
    handle, draft = tempfile.mkstemp(dir=path.parent, prefix=f".{path.name}-")  # O_EXCL, 0600
    try:
        with os.fdopen(handle, "w") as file:
            file.write(text)
            file.flush()
            os.fsync(file.fileno())
        os.replace(draft, path)
    except BaseException:
        Path(draft).unlink(missing_ok=True)
        raise


def secret(path: Path) -> str:
    """The secret kept in a file, made at first use.

    Raises Problem when there is none and it cannot be written. An empty or cut-off file counts as none.
    """
    try:
        known = path.read_text().strip()
    except FileNotFoundError:
        known = ""
    if len(known) >= 32:
        path.chmod(0o600)
        return known
    made = secrets.token_hex(24)
    try:
        write_private(path, made)
    except OSError as error:
        words = f"No secret could be written to {path}: {error.strerror or error}. Make room, then start again."
        raise Problem(words) from error
    return made


def certificate(folder: Path) -> None:
    """Make the home's own certificate and key for the connections between its processes, once.

    The certificate is its own authority: a process is let in when it holds this very pair. Raises Problem.
    """
    if all((folder / name).is_file() for name in ("cert.pem", "key.pem")):
        (folder / "key.pem").chmod(0o600)
        return
    draft = Path(tempfile.mkdtemp(dir=folder.parent, prefix=f".{folder.name}-"))  # 0700
    command = ["openssl", "req", "-x509", "-newkey", "ec", "-pkeyopt", "ec_paramgen_curve:prime256v1", "-nodes"]
    command += ["-keyout", str(draft / "key.pem"), "-out", str(draft / "cert.pem"), "-days", str(365 * YEARS)]
    command += ["-subj", "/CN=usual-lamp", "-addext", "subjectAltName=IP:127.0.0.1,DNS:localhost"]
    try:
        done = subprocess.run(command, capture_output=True, text=True, check=False, umask=0o077)
        if done.returncode != 0:
            raise Problem(f"The certificate could not be made: {done.stderr.strip() or done.returncode}")
        shutil.rmtree(folder, ignore_errors=True)  # only ever half of a pair
        os.replace(draft, folder)
    except OSError as error:
        raise Problem(f"The certificate could not be made: {error}. Is openssl installed?") from error
    finally:
        shutil.rmtree(draft, ignore_errors=True)
