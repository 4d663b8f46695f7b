"""A private MariaDB: own data directory, own port on 127.0.0.1, own socket. Other servers are never touched."""

from __future__ import annotations

import os
import shutil
import subprocess
import time

from launch.install import run
from launch.paths import Home, Problem
from launch.secret_files import secret, write_private

ACCOUNTS = """\
DELETE FROM mysql.global_priv WHERE User NOT IN ('mariadb.sys', 'PUBLIC');
DELETE FROM mysql.db;
DELETE FROM mysql.tables_priv WHERE User <> 'mariadb.sys';
DELETE FROM mysql.proxies_priv;
FLUSH PRIVILEGES;
CREATE DATABASE IF NOT EXISTS usual_lamp CHARACTER SET utf8mb4 COLLATE utf8mb4_bin;
CREATE USER usual_lamp@'127.0.0.1' IDENTIFIED BY '{secret}';
CREATE USER usual_lamp@localhost IDENTIFIED BY '{secret}';
GRANT ALL ON usual_lamp.* TO usual_lamp@'127.0.0.1';
GRANT ALL ON usual_lamp.* TO usual_lamp@localhost;
"""
"""Run by the server at each start, before it lets anybody in: the product's account is the only one. `mariadb.sys` owns
the server's own views; it is locked. One statement a line, as `--init-file` reads them."""


def server_command(home: Home) -> list[str]:
    command = [
        shutil.which("mariadbd") or "/usr/sbin/mariadbd",
        "--no-defaults",
        f"--datadir={home.data}",
        f"--socket={home.socket}",
        f"--pid-file={home.run / 'mariadb.pid'}",
        f"--init-file={home.run / 'accounts.sql'}",
        f"--secure-file-priv={home.run / 'no-files'}",
        f"--port={home.database}",
        "--bind-address=127.0.0.1",
        "--local-infile=0",
        "--skip-symbolic-links",
        "--skip-name-resolve",
        "--character-set-server=utf8mb4",
        "--collation-server=utf8mb4_bin",
        "--max-allowed-packet=64M",
        "--max-connections=200",
        "--innodb-log-file-size=128M",
        "--innodb-buffer-pool-size=256M",
        "--innodb-flush-log-at-trx-commit=1",
        # At the next start nobody waits for pages to be read that may not be asked for.
        "--innodb-buffer-pool-load-at-startup=OFF",
    ]
    return [*command, "--user=root"] if os.geteuid() == 0 else command


def prepare(home: Home) -> None:
    """Make the data directory, the password and the files that hold the logins. Raises Problem."""
    home.make_private()
    password = secret(home.secret_file)
    login = f"[client]\nuser=usual_lamp\npassword={password}\nloose-connect-timeout=5\ndefault-character-set=utf8mb4\n"
    try:
        (home.run / "no-files").mkdir(mode=0o700, exist_ok=True)
        _renew(home, "accounts.sql", ACCOUNTS.format(secret=password))
        _renew(home, "client.cnf", f"{login}host=127.0.0.1\nport={home.database}\n")
        _renew(home, "socket.cnf", f"{login}socket={home.socket}\n")
    except OSError as error:
        raise Problem(f"{home.run} cannot be written: {error.strerror or error}. Make room, then go on.") from error
    if not (home.data / "mysql" / "global_priv.frm").exists():
        _make_files(home)


def _renew(home: Home, name: str, text: str) -> None:
    file = home.run / name
    if not file.exists() or file.read_text() != text:
        write_private(file, text)


def _make_files(home: Home) -> None:
    """The server's own tables, complete or not at all: what a start that was cut off left behind goes first."""
    if (home.data / "usual_lamp").exists():
        raise Problem(
            f"{home.data} has reviews in it, but the server's own tables are missing. Keep a copy of that folder, then "
            "restore the last backup: ./lamp restore FILE --replace"
        )
    draft = home.data.with_name("mariadb.new")
    for left_over in (home.data, draft):
        shutil.rmtree(left_over, ignore_errors=True)
    command = [
        shutil.which("mariadb-install-db") or "/usr/bin/mariadb-install-db",
        "--no-defaults",
        f"--datadir={draft}",
        "--auth-root-authentication-method=socket",
        "--skip-test-db",
        "--skip-name-resolve",
    ]
    run([*command, "--user=root"] if os.geteuid() == 0 else command, "Making the database's files")
    draft.chmod(0o700)
    draft.replace(home.data)


def client(home: Home, program: str, *arguments: str, over: str = "client.cnf") -> list[str]:
    """Command line of one of MariaDB's clients; the login stands in a file, never in the process list."""
    return [program, f"--defaults-file={home.run / over}", *arguments]


def proven(home: Home) -> bool:
    """Whether the product's own login works; `ping` succeeds even when access is denied."""
    command = client(home, "mariadb", "usual_lamp", "-e", "SELECT 1")
    return subprocess.run(command, capture_output=True, check=False).returncode == 0


def wait_until_ready(home: Home, server: subprocess.Popen[bytes], seconds: float = 60.0) -> None:
    """Wait until the product's login works. Raises Problem with the server's last words when it ends or is too late."""
    deadline = time.monotonic() + seconds
    while time.monotonic() < deadline and server.poll() is None:
        if proven(home):
            return
        time.sleep(0.1)
    log = home.logs / "mariadb.log"
    words = log.read_text(errors="replace").strip().splitlines()[-8:] if log.exists() else ["no log"]
    raise Problem("MariaDB did not come up. Its last words:\n  " + "\n  ".join(words))


def damaged_tables(home: Home) -> list[str]:
    """Words on each table that cannot be read, by the server's own quick check; empty when all is well."""
    command = client(home, "mariadb-check", "--check", "--quick", "--silent", "usual_lamp")
    done = subprocess.run(command, capture_output=True, text=True, check=False)
    return [line.strip() for line in done.stdout.splitlines() if line.strip()]
