"""The running product as an administrator sees it: sockets, secrets, backups, full disks, and a database that goes."""

from __future__ import annotations

import contextlib
import os
import shutil
import signal
import socket
import ssl
import stat
import subprocess
import urllib.error
import urllib.request
from collections.abc import Callable
from pathlib import Path

import psutil
import pytest
from launch.paths import Home
from playwright.sync_api import Page, expect

from e2e.running import Product, lamp, lighting_of, open_review, until
from launch import api, database, processes

pytestmark = pytest.mark.e2e
ROOM = "900m"
"""Of the small disk: a home with the demo takes about 450 MB."""


def listening(product: Product) -> dict[int, str]:
    """Port to process name of every socket on which something of the product listens."""
    found = {}
    for process in product.family():
        for line in process.net_connections("inet"):
            if line.status == psutil.CONN_LISTEN:
                assert line.laddr.ip == "127.0.0.1", f"{process.cmdline()} listens on {line.laddr.ip}"
                found[line.laddr.port] = process.name()
    return found


def test_nothing_listens_beyond_loopback_and_no_port_answers_without_its_secret(product: Product) -> None:
    until("the spare lamp is there too", lambda: len(listening(product)) >= 6)
    ports = listening(product)
    home = product.home
    assert {home.web, home.database, home.scheduler} < ports.keys()
    for path in ("", "api/reviews", "api/health", "assets/x.js"):
        with pytest.raises(urllib.error.HTTPError, match="401"):
            urllib.request.urlopen(product.url + path)
    for user in ("root", "usual_lamp", "mariadb.sys", ""):
        for where in (["-h127.0.0.1", f"-P{home.database}"], [f"--socket={home.socket}"]):
            command = ["mariadb", "--no-defaults", *where, f"-u{user}", "-e", "SELECT 1"]
            assert subprocess.run(command, capture_output=True, check=False).returncode != 0, command
    for port in ports.keys() - {home.web, home.database}:
        assert b"HTTP" not in exchanged(port, None), "plain words are not understood"
        stranger = ssl.create_default_context()
        stranger.check_hostname, stranger.verify_mode = False, ssl.CERT_NONE
        assert exchanged(port, stranger) == b"", f"port {port} talks to someone without the home's certificate"


def exchanged(port: int, tls: ssl.SSLContext | None) -> bytes:
    """What a port answers to a request, over TLS or plainly."""
    with socket.create_connection(("127.0.0.1", port), 10) as line:
        try:
            talk = tls.wrap_socket(line) if tls else line
            talk.sendall(b"GET / HTTP/1.0\r\n\r\n")
            return talk.recv(1000)
        except (ssl.SSLError, ConnectionError):
            return b""


def test_secrets_stand_in_no_process_list_and_files_are_their_owners(product: Product) -> None:
    home = product.home
    secrets = [home.secret, home.token, home.tls.joinpath("key.pem").read_text().splitlines()[1]]
    assert all(len(secret) >= 32 for secret in secrets)
    for process in psutil.process_iter():
        try:
            line = " ".join(process.cmdline())
        except psutil.Error:
            continue
        assert not any(secret in line for secret in secrets), line
    modes = {path: stat.S_IMODE(path.stat().st_mode) for path in (home.folder, *home.folder.iterdir())}
    assert not [path for path, mode in modes.items() if mode & 0o077], modes
    asked = ["mariadb", f"--defaults-file={home.run / 'socket.cnf'}", "usual_lamp", "-N", "-e"]
    rights = subprocess.run([*asked, "SHOW GRANTS"], capture_output=True, text=True, check=True).stdout
    assert rights.count("GRANT") == 2 and "GRANT USAGE ON *.*" in rights and "`usual_lamp`.*" in rights


def test_database_gone_while_one_works(product: Product, review: str, page: Page) -> None:
    """Killed, stopped for a while, frozen: the page says so, edits wait, the lamp's session lives on."""
    open_review(page, review)
    scene = product.ask(f"reviews/{review}/scene")["scene"]
    lamps = [product.process(name) for name in ("lamp", "lamp-spare", "worker", "dispatcher", "web")]
    acknowledged = 0.0
    for turn in range(1, 4):
        os.kill(product.process("mariadb"), signal.SIGKILL)
        edit = {"kind": "set_lighting", "lighting": lighting_of(scene) | {"turn": float(turn)}}
        try:
            product.ask(f"reviews/{review}/edits", "POST", {"edit": edit})
            acknowledged = float(turn)
        except urllib.error.HTTPError as error:
            assert error.code == 503 and b"starting again" in error.read()
        until("edits are answered again", lambda: product.ask(f"reviews/{review}/scene"))
    frozen = product.process("mariadb")
    os.kill(frozen, signal.SIGSTOP)
    try:
        expect(page.get_by_role("status").filter(has_text="database is starting again")).to_be_visible(timeout=20_000)
    finally:
        os.kill(frozen, signal.SIGCONT)
    expect(page.get_by_role("status").filter(has_text="database is starting again")).to_be_hidden(timeout=60_000)
    assert lighting_of(product.ask(f"reviews/{review}/scene")["scene"])["turn"] >= acknowledged
    after = [product.process(name) for name in ("lamp", "lamp-spare", "worker", "dispatcher", "web")]
    assert after == lamps, "nobody else was taken along"
    # The stream to the page breaks with the process that served it, and is opened again.
    for process in psutil.Process(product.process("web")).children():
        process.kill()
    until("the web serves again", product.answers)
    product.ask(f"reviews/{review}", "PATCH", {"name": "Renamed meanwhile"})
    expect(page.get_by_text("Renamed meanwhile")).to_be_visible(timeout=60_000)


@pytest.fixture
def home_disk(small_disk: Callable[[str], Path]) -> Path:
    return small_disk(ROOM)


def test_a_backup_made_while_it_runs_comes_back_elsewhere_and_lives_through_a_full_disk(
    product: Product, review: str, home_disk: Path, tmp_path: Path
) -> None:
    file = tmp_path / "backup.gz"
    tidied = lamp(product.home, "tidy")
    assert tidied.returncode == 0 and "remove" in tidied.stdout, tidied.stderr
    done = lamp(product.home, "backup", str(file))
    assert done.returncode == 0, done.stderr
    assert stat.S_IMODE(file.stat().st_mode) == 0o600
    home = Home.on_free_ports(home_disk / "home")
    reserve = {"USUAL_LAMP_RESERVE": "60"}
    refused = lamp(home, "restore", str(tmp_path / "no.gz"))
    assert refused.returncode == 1 and "cannot be read" in refused.stderr
    restored = lamp(home, "restore", str(file))
    assert restored.returncode == 0, restored.stderr
    again = lamp(home, "restore", str(file))
    assert again.returncode == 1 and "--replace" in again.stderr
    try:
        assert lamp(home, "up", **reserve).returncode == 0
        other = Product(home)
        for path in (f"reviews/{review}", f"reviews/{review}/scene"):
            assert other.ask(path) == product.ask(path)
        meshes = {d["mesh"] for d in other.ask(f"reviews/{review}")["model"]["definitions"].values()}
        for mesh in list(meshes)[:5]:
            assert other.ask(f"blobs/{mesh}") == product.ask(f"blobs/{mesh}")
        fill_and_recover(other, review, home_disk)
        supervisor_killed(other, review)
        damaged(other, review, file)
    finally:
        lamp(home, "down")


def fill_and_recover(product: Product, review: str, disk: Path) -> None:
    """Nearly full, then full to the last byte with a database that dies of it, then with room again."""
    supervisor = processes.running(product.home)
    ballast = disk / "ballast"
    fill(ballast, leave=40)
    still = {"width": 64, "height": 64, "quality": "coarse", "shot": "shot-1"}
    for path, body in ((f"reviews/{review}/stills", still), ("intakes?file_name=a.stl", "x")):
        with pytest.raises(urllib.error.HTTPError) as told:
            product.ask(path, "POST", body)
        assert told.value.code == 507 and b"Make room" in told.value.read()
    fill(ballast, leave=0)
    os.kill(product.process("mariadb"), signal.SIGKILL)
    until("the supervisor has tried to start it again", lambda: not database.proven(product.home))
    ballast.unlink()
    turn = {"kind": "set_lighting", "lighting": {"surroundings": "panels", "turn": 33.0}}
    until("edits are answered", lambda: product.ask(f"reviews/{review}/edits", "POST", {"edit": turn}), 10)
    assert processes.running(product.home) == supervisor, "it lived through all of it"
    assert lighting_of(product.ask(f"reviews/{review}/scene")["scene"])["turn"] == 33.0


def fill(ballast: Path, leave: int) -> None:
    """Take all but so many MB of a disk."""
    with ballast.open("ab", buffering=0) as file:
        while shutil.disk_usage(ballast.parent).free > (leave + 1) * 2**20:
            file.write(bytes(2**20))
        with contextlib.suppress(OSError):
            while leave == 0:
                file.write(bytes(4096))


def supervisor_killed(product: Product, review: str) -> None:
    """Nothing is left behind, and the next start neither stumbles over it nor stops anybody else."""
    family = product.family()
    os.kill(family[0].pid, signal.SIGKILL)
    assert lamp(product.home, "up", USUAL_LAMP_RESERVE="60").returncode == 0
    assert lighting_of(product.ask(f"reviews/{review}/scene")["scene"])["turn"] == 33.0
    left = [process.cmdline() for process in family if process.is_running() and process.status() != "zombie"]
    assert left == []


def damaged(product: Product, review: str, backup: Path) -> None:
    """A table that cannot be read is found at the start, and the way back works."""
    home = product.home
    assert lamp(home, "down").returncode == 0
    table = home.data / "usual_lamp" / "setting.ibd"
    table.write_bytes(os.urandom(table.stat().st_size))
    told = lamp(home, "up")
    assert told.returncode == 1 and "./lamp restore" in told.stderr, told.stderr
    shutil.rmtree(home.data.with_name("mariadb.before-restore"), ignore_errors=True)
    assert lamp(home, "restore", str(backup), "--replace").returncode == 0
    assert (home.folder / "mariadb.before-restore").exists(), "what was there is kept"
    assert lamp(home, "up", USUAL_LAMP_RESERVE="20").returncode == 0
    assert lighting_of(api.ask(home, f"reviews/{review}/scene")["scene"])["turn"] != 33.0, "as it was backed up"
