"""Every process is killed in turn while people work: what was acknowledged must be there, and work goes on soon.

Edits, imports, lamp frames and stills run all the time. Beside kills, the database is frozen for a while and, on a
small disk of its own, the disk is filled to the last byte. `USUAL_LAMP_KILLS` says how many rounds.
"""

from __future__ import annotations

import contextlib
import itertools
import json
import os
import shutil
import signal
import statistics
import subprocess
import tempfile
import threading
import time
import urllib.error
from collections import defaultdict
from collections.abc import Callable, Iterator
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

import psutil
from launch.paths import Home

from benchmarks.known_files import known_files
from benchmarks.started import lamp
from launch import api, database, processes

ROUNDS = 300
DISK = "2500m"
STILL = {"shot": "shot-1", "quality": "coarse", "width": 64, "height": 64}
FROZEN = 3.0
"""Seconds for which the database is stopped by a signal."""
PATIENCE = 60.0
MOST_SECONDS = 2400.0
KILLED = ("lamp", "web", "mariadb", "worker", "server", "lamp-spare", "dispatcher")
TARGETS = (*KILLED, "frozen", "full", *KILLED, *KILLED)
"""In turn."""
PAIRS = {"lamp": ("lamp",), "dispatcher": ("dispatcher", "lamp")}
"""Of which kinds the spare has to have loaded before a strike: what is measured is how a spare takes over, or how those
who work go on. Both of a pair gone is another case: then it takes as long as loading does."""
LOADING, YOUNG = 60.0, 10.0
"""Seconds that are waited for them at most; and those in which one that computes nothing has not begun to load."""
LIMITS = {"web": 3.0, "server": 3.0, "mariadb": 2.0, "lamp": 5.0, "dispatcher": 5.0}
"""Seconds after which edits are answered again, or the lamp's frames after `lamp` and `dispatcher`."""


@dataclass
class Work:
    """What was asked and acknowledged; all of it on one started product."""

    home: Home
    reviews: list[str]
    edits: list[tuple[str, int, float]] = field(default_factory=list)
    """Review, seq and the value that was set, of acknowledged edits."""
    stills: list[tuple[str, str]] = field(default_factory=list)
    imports: list[str] = field(default_factory=list)
    frames: int = 0
    faults: list[str] = field(default_factory=list)
    """Answers that are none of ours."""
    closing: threading.Event = field(default_factory=threading.Event)

    def ask(self, path: str, method: str = "GET", body: object = None) -> Any:
        """None when the product says that it cannot now, or breaks off."""
        try:
            return api.ask(self.home, path, method, body, timeout=PATIENCE)
        except urllib.error.HTTPError as error:
            if error.code not in (503, 507):
                self.faults.append(f"{method} {path}: {error.code} {error.read()[:200]!r}")
        except (OSError, EOFError, ValueError):
            pass  # the connection was cut: nothing was acknowledged
        except Exception as error:  # http.client's many names for the same
            if "http.client" not in type(error).__module__:
                raise
        return None

    def edit(self, review: str, turn: float) -> bool:
        lighting = {"surroundings": "panels", "turn": turn}
        done = self.ask(f"reviews/{review}/edits", "POST", {"edit": {"kind": "set_lighting", "lighting": lighting}})
        if done is not None:
            self.edits.append((review, done["seq"], turn))
        return done is not None

    def frame(self, desk: str = "beac0000-1") -> bool:
        scene = self.ask(f"reviews/{self.reviews[0]}/scene")
        if scene is None:
            return False
        wish = {"desk": desk, "seq": scene["seq"], "shot": "shot-1", "width": 64, "height": 48, "have": "",
                "camera": scene["scene"]["shots"]["shot-1"]["camera"]}  # fmt: skip
        found = self.ask(f"reviews/{self.reviews[0]}/lamp", "POST", wish)
        self.frames += bool(found)
        return bool(found)

    def start(self) -> list[threading.Thread]:
        """Begin to work, in threads, until `closing`."""
        turns = itertools.count(1)
        step = known_files()[0].data

        def edit() -> None:
            number = next(turns)
            self.edit(self.reviews[number % len(self.reviews)], (number % 35_000) / 100 - 175)

        def still() -> None:
            made = self.ask(f"reviews/{self.reviews[0]}/stills", "POST", STILL)
            if made:
                self.stills.append((self.reviews[0], made["id"]))
            self.closing.wait(8.0)

        def bring() -> None:
            name = f"intakes?file_name=f{next(turns)}.step"
            with contextlib.suppress(OSError, ValueError), api.send(self.home, name, "POST", step) as reply:
                self.imports.append(json.loads(reply.read())["id"])
            self.closing.wait(6.0)

        def again(work: Callable[[], object]) -> None:
            while not self.closing.is_set():
                work()
                self.closing.wait(0.05)

        threads = [
            threading.Thread(target=again, args=(work,), daemon=True) for work in (edit, still, bring, self.frame)
        ]
        for thread in threads:
            thread.start()
        return threads


def pair(home: Home, kind: str) -> list[int]:
    """Process ids of the two of a kind, the one at work first: it is the older one, as one that died is the spare when
    it is started again. Raises KeyError or psutil.Error while one of them is missing."""
    return sorted(
        (api.child(home, name) for name in (kind, f"{kind}-spare")), key=lambda p: psutil.Process(p).create_time()
    )


def wait_for_loading(home: Home, kinds: tuple[str, ...]) -> None:
    """Until the spares of these kinds compute no more."""
    deadline = time.monotonic() + LOADING
    while kinds and time.monotonic() < deadline:
        with contextlib.suppress(KeyError, psutil.Error):  # not started yet, or just being started again
            loading = [psutil.Process(pair(home, kind)[1]) for kind in kinds]
            before = [sum(process.cpu_times()[:2]) for process in loading]
            time.sleep(0.5)
            spent = [sum(process.cpu_times()[:2]) - cpu for process, cpu in zip(loading, before, strict=True)]
            grown = all(time.time() - process.create_time() > YOUNG for process in loading)
            if grown and all(cpu < 0.15 for cpu in spent):
                return
        time.sleep(0.2)


def strike(home: Home, target: str, ballast: Path | None) -> None:
    """Do a process harm, or the disk."""
    if target == "frozen":
        pid = api.child(home, "mariadb")
        os.kill(pid, signal.SIGSTOP)
        time.sleep(FROZEN)
        os.kill(pid, signal.SIGCONT)
    elif target == "full":
        assert ballast is not None
        with ballast.open("ab", buffering=0) as file, contextlib.suppress(OSError):
            while True:
                file.write(bytes(2**16))
        time.sleep(FROZEN)
        ballast.unlink()
    elif target == "server":
        below = psutil.Process(api.child(home, "web")).children()
        if below:
            below[0].kill()
    elif target in PAIRS:
        os.kill(pair(home, target)[0], signal.SIGKILL)
    else:
        os.kill(api.child(home, target), signal.SIGKILL)


def recovered(work: Work, target: str) -> float:
    """Seconds until work is answered again."""
    began, turn = time.monotonic(), itertools.count(1)
    asks_lamp = target in ("lamp", "dispatcher")
    while time.monotonic() - began < PATIENCE:
        if work.frame("beac0000-2") if asks_lamp else work.edit(work.reviews[-1], next(turn) / 100):
            return time.monotonic() - began
        time.sleep(0.02)
    work.faults.append(f"not back within {PATIENCE:.0f} s after {target}")
    return PATIENCE


def run(home: Home, reviews: list[str], rounds: int, ballast: Path | None = None) -> dict[str, Any]:
    """Strike so many times while work goes on; what was lost, what was left over, and how soon all was well again."""
    work = Work(home, reviews)
    if not (work.frame() and work.edit(reviews[0], 0.5)):
        raise RuntimeError(f"the product does not work: {work.faults}")
    targets = [target for target in TARGETS if target != "full" or ballast is not None]
    threads, times = work.start(), defaultdict[str, list[float]](list)
    deadline = time.monotonic() + MOST_SECONDS
    try:
        for number in range(rounds):
            target = targets[number % len(targets)]
            wait_for_loading(home, PAIRS.get(target, ()))
            with contextlib.suppress(KeyError, ProcessLookupError, psutil.NoSuchProcess):  # it is down already
                strike(home, target, ballast)
                times[target].append(recovered(work, target))
            if time.monotonic() > deadline:
                break
    finally:
        work.closing.set()
    for thread in threads:
        thread.join(2 * PATIENCE)
    lost = lost_edits(work)
    unfinished = settle(work)
    return {
        "rounds": sum(map(len, times.values())), "edits": len(work.edits), "stills": len(work.stills),
        "imports": len(work.imports), "frames": work.frames, "lost edits": len(lost),
        "lost stills and imports": len(unfinished), "orphans": len(orphans(home)), "faults": work.faults + unfinished,
        "times": dict(times),
    }  # fmt: skip


def lost_edits(work: Work) -> list[tuple[str, int, float]]:
    """Acknowledged edits that are not in the history as they were made."""
    asked = "SELECT review_id, seq, JSON_VALUE(edit, '$.lighting.turn') FROM scene_version WHERE kind = 'edit'"
    for _ in range(int(PATIENCE)):
        command = database.client(work.home, "mariadb", "usual_lamp", "-N", "-e", asked)
        done = subprocess.run(command, capture_output=True, text=True, check=False)
        if done.returncode == 0:
            break
        time.sleep(1.0)
    rows = [line.split("\t") for line in done.stdout.splitlines()]
    kept = {(review, int(seq)): float(turn) for review, seq, turn in rows if turn != "NULL"}
    return [edit for edit in work.edits if abs(kept.get(edit[:2], 1e9) - edit[2]) > 1e-6]


def settle(work: Work, seconds: float = 300.0) -> list[str]:
    """Wait for stills and imports; those that do not end well, in words."""
    deadline = time.monotonic() + seconds
    while True:
        stills = work.ask(f"reviews/{work.reviews[0]}/stills") or {"stills": []}
        listed = {still["id"]: still["state"] for still in stills["stills"]}
        states = [(f"still {still}", listed.get(still, "gone")) for _, still in work.stills]
        for run_id in work.imports:
            found = work.ask(f"intakes/{run_id}")
            states.append((f"import {run_id}", found["state"] if found else "gone"))
        waiting = [f"{name}: {state}" for name, state in states if state != "done"]
        if not waiting or time.monotonic() > deadline:
            return waiting
        time.sleep(1.0)


def orphans(home: Home) -> list[psutil.Process]:
    """Processes of this home that no supervisor of it knows."""
    head = psutil.Process(processes.running(home))
    family = {head.pid, *(child.pid for child in head.children(recursive=True))}
    found = []
    for process in psutil.process_iter():
        with contextlib.suppress(psutil.Error):
            ours = process.environ().get("USUAL_LAMP_CACHE") == str(home.folder / "cache")
            if ours and process.pid not in family and process.status() != psutil.STATUS_ZOMBIE:
                found.append(process)
    return found


@contextlib.contextmanager
def small_disk() -> Iterator[Path | None]:
    """A disk in memory for root, None for others."""
    if os.geteuid() != 0 or shutil.which("mount") is None:
        yield None
        return
    folder = Path(tempfile.mkdtemp(prefix="usual-lamp-disk-"))
    command = ["mount", "-t", "tmpfs", "-o", f"size={DISK},mode=700", "tmpfs", str(folder)]
    if subprocess.run(command, check=False).returncode != 0:
        folder.rmdir()
        yield None
        return
    try:
        yield folder
    finally:
        subprocess.run(["umount", "-l", str(folder)], check=True)
        folder.rmdir()


def report(found: dict[str, Any]) -> None:
    print(f"kills while edits, imports, lamp and stills run: {found['rounds']} rounds")
    counts = ("edits", "stills", "imports", "frames", "lost edits", "lost stills and imports", "orphans")
    print("  " + ", ".join(f"{name} {found[name]}" for name in counts))
    for target, times in found["times"].items():
        limit = f", asked {LIMITS[target]:.0f}" if target in LIMITS else ""
        middle, most = statistics.median(times), max(times)
        print(f"  after {target}: median {middle:.2f} s, longest {most:.2f} s{limit} ({len(times)})")
    for fault in found["faults"][:20]:
        print(f"  FAULT {fault}")


def main() -> None:
    rounds = int(os.environ.get("USUAL_LAMP_KILLS", ROUNDS))
    os.environ["USUAL_LAMP_RESERVE"] = "100"
    with tempfile.TemporaryDirectory(prefix="usual-lamp-kills-") as plain, small_disk() as disk:
        home = Home.on_free_ports((disk or Path(plain)) / "home")
        lamp(home, "up")
        try:
            demo = api.ask(home, "reviews")["reviews"][0]["id"]
            reviews = [api.ask(home, f"reviews/{demo}/copy", "POST")["id"] for _ in range(3)]
            report(run(home, reviews, rounds, disk / "ballast" if disk else None))
        finally:
            lamp(home, "down")


if __name__ == "__main__":
    main()
