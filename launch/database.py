"""A private MariaDB: own data directory, own port on 127.0.0.1, own socket. Other servers are never touched."""

from __future__ import annotations

import os
import secrets
import shutil
import subprocess
import time

from launch.install import run
from launch.paths import Home, Problem


def server_command(home: Home) -> list[str]:
    command = [
        shutil.which("mariadbd") or "/usr/sbin/mariadbd",
        "--no-defaults",
        f"--datadir={home.data}",
        f"--socket={home.socket}",
        f"--pid-file={home.folder / 'mariadb.pid'}",
        "--bind-address=127.0.0.1",
        f"--port={home.database}",
        "--skip-name-resolve",
        "--character-set-server=utf8mb4",
        "--collation-server=utf8mb4_bin",
        "--max-allowed-packet=64M",
        "--innodb-log-file-size=128M",
        "--innodb-buffer-pool-size=256M",
        "--innodb-flush-log-at-trx-commit=1",
    ]
    return [*command, "--user=root"] if os.geteuid() == 0 else command


def prepare(home: Home) -> None:
    """Make the data directory and the password once."""
    if not home.secret_file.exists():
        home.secret_file.touch(mode=0o600)
        home.secret_file.write_text(secrets.token_hex(16))
    if (home.data / "mysql").exists():
        return
    command = [
        shutil.which("mariadb-install-db") or "/usr/bin/mariadb-install-db",
        "--no-defaults",
        f"--datadir={home.data}",
        "--auth-root-authentication-method=normal",
        "--skip-test-db",
        "--skip-name-resolve",
    ]
    run([*command, "--user=root"] if os.geteuid() == 0 else command, "Making the database's files")


def _client(home: Home, *arguments: str) -> subprocess.CompletedProcess[bytes]:
    command = ["mariadb", "--no-defaults", "--connect-timeout=5", *arguments]
    return subprocess.run(command, capture_output=True, check=False)


def proven(home: Home) -> bool:
    """Whether the product's own login works; `ping` succeeds even when access is denied."""
    login = ("-h127.0.0.1", f"-P{home.database}", "-uusual_lamp", f"-p{home.secret}", "usual_lamp")
    return _client(home, *login, "-e", "SELECT 1").returncode == 0


def wait_until_ready(home: Home, server: subprocess.Popen[bytes], seconds: float = 60.0) -> None:
    """Wait for the server, make database and user at the first start, and prove the login.

    Raises Problem with the server's own last words when it ends or does not come up in time.
    """
    make = (
        "CREATE DATABASE IF NOT EXISTS usual_lamp CHARACTER SET utf8mb4 COLLATE utf8mb4_bin;"
        f"CREATE USER IF NOT EXISTS usual_lamp@'127.0.0.1' IDENTIFIED BY '{home.secret}';"
        "GRANT ALL ON usual_lamp.* TO usual_lamp@'127.0.0.1';"
        f"ALTER USER root@localhost IDENTIFIED BY '{home.secret}';"
    )
    deadline = time.monotonic() + seconds
    while time.monotonic() < deadline and server.poll() is None:
        if proven(home):
            return
        if home.socket.exists():
            _client(home, f"--socket={home.socket}", "-uroot", "-e", make)
        time.sleep(0.25)
    log = home.logs / "mariadb.log"
    words = log.read_text(errors="replace").strip().splitlines()[-8:] if log.exists() else ["no log"]
    raise Problem("MariaDB did not come up. Its last words:\n  " + "\n  ".join(words))
