"""The demo's STEP files, first and second revision, modelled once for a checkout.

`python -m demo.files OFFICE` lays them out as a drawing office does: the revision that is in use, and `next/` to it.
"""

from __future__ import annotations

import fcntl
import hashlib
import shutil
import subprocess
import sys
import tempfile
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

ROOT = Path(__file__).resolve().parent.parent
FOLDER = ROOT / ".demo"
GENERATOR = ("build", "part_list", "pump_parts", "second_revision", "solids")
NAMES = ("dosing-pump.step", "next.step")


def demo_files() -> tuple[Path, Path]:
    """The files of the generator as it is now. Two who ask at once make them once.

    Raises subprocess.CalledProcessError, with the words of the one that failed.
    """
    digest = hashlib.sha256(sys.version.encode())
    for name in GENERATOR:
        digest.update((ROOT / "demo" / f"{name}.py").read_bytes())
    made = FOLDER / digest.hexdigest()[:16]
    FOLDER.mkdir(exist_ok=True)
    with (FOLDER / "lock").open("w") as lock:
        fcntl.flock(lock, fcntl.LOCK_EX)
        if not made.exists():
            _make(made)
    return made / NAMES[0], made / NAMES[1]


def _make(folder: Path) -> None:
    """Model both at once, each in a process of its own; what other versions of the generator made is removed."""
    for old in FOLDER.iterdir():
        if old.is_dir():
            shutil.rmtree(old)
    with tempfile.TemporaryDirectory(dir=FOLDER) as name:
        half_made = Path(name, "made")
        half_made.mkdir()
        commands = [
            [sys.executable, "-m", "demo.build", str(half_made / file), *more]
            for file, more in zip(NAMES, ([], ["--second"]), strict=True)
        ]
        with ThreadPoolExecutor(2) as pool:
            for done in pool.map(lambda c: subprocess.run(c, cwd=ROOT, capture_output=True, check=False), commands):
                if done.returncode:
                    sys.stderr.buffer.write(done.stderr)
                done.check_returncode()
        half_made.rename(folder)


def lay_out(office: Path) -> None:
    """Copy both files into an office, where each is replaced at once."""
    for file, folder in zip(demo_files(), (office, office / "next"), strict=True):
        folder.mkdir(parents=True, exist_ok=True)
        coming = folder / ".coming"
        shutil.copyfile(file, coming)
        coming.replace(folder / NAMES[0])


if __name__ == "__main__":
    lay_out(Path(sys.argv[1]))
