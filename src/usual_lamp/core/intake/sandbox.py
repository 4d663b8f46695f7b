"""Runs an intake in a child process with limits on memory and time, so that no file can take the program down."""

from __future__ import annotations

import json
import os
import selectors
import signal
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path

from usual_lamp.core.assembly import Assembly
from usual_lamp.core.assembly.mesh import content_hash
from usual_lamp.core.intake.formats import SUFFIXES, Unit, Up, in_words
from usual_lamp.core.intake.tessellation import Quality

Progress = Callable[[float, str], None]


class IntakeError(Exception):
    """The file cannot be taken in; the message is a sentence for the person who gave it."""


@dataclass(frozen=True)
class IntakeResult:
    assembly: Assembly
    blobs: dict[str, Path]
    """Mesh blocks and exact shapes by sha256; they live as long as the working folder."""


def take_in(
    source: Path,
    folder: Path,
    *,
    quality: Quality = "fair",
    name: str | None = None,
    unit: Unit = "as written",
    up: Up = "as written",
    chord: float | None = None,
    angle: float | None = None,
    variant: str | None = None,
    progress: Progress | None = None,
    cancelled: Callable[[], bool] = lambda: False,
    seconds: float = 900.0,
    memory: int = 12 * 2**30,
) -> IntakeResult:
    """Read a file into an assembly, with its blobs as files in `folder`.

    `unit` is heeded for formats that have none and for mesh files, `up` (the file's axis) for mesh files; `chord` in mm
    and `angle` in radians take the place of the quality's for exact surfaces; `variant` is one that a glTF file names.

    Raises IntakeError when the file is unreadable, the kernel crashes or hangs, or the caller cancels.
    """
    if source.suffix.lower() not in SUFFIXES:
        raise IntakeError(f"{source.suffix or 'This'} is not a format that can be taken in. Bring {in_words()}.")
    folder.mkdir(parents=True, exist_ok=True)
    request = folder / "request.json"
    request.write_text(
        json.dumps(
            {
                "source": str(source.resolve()),
                "folder": str(folder),
                "quality": quality,
                "name": name or source.stem,
                "unit": unit,
                "up": up,
                "chord": chord,
                "angle": angle,
                "variant": variant,
                "memory": memory,
            }
        )
    )
    run_child(request, progress or (lambda share, stage: None), cancelled, seconds)
    assembly = Assembly.model_validate_json((folder / "assembly.json").read_text())
    return IntakeResult(assembly, collect_blobs(assembly, folder))


def tessellate_again(
    assembly: Assembly,
    exact: dict[str, Path],
    wanted: dict[str, tuple[float, float, float]],
    folder: Path,
    *,
    progress: Progress | None = None,
    cancelled: Callable[[], bool] = lambda: False,
    seconds: float = 900.0,
    memory: int = 12 * 2**30,
) -> IntakeResult:
    """The assembly with new meshes for the definitions in `wanted` (chord in mm, angle in radians and the
    largest deviation that is accepted in mm, or 0 for any; by key).

    `exact` holds the exact shape of each as a file. Blobs of the result are the new meshes only. Raises IntakeError.
    """
    folder.mkdir(parents=True, exist_ok=True)
    manifest, request = folder / "before.json", folder / "request.json"
    manifest.write_text(assembly.model_dump_json())
    words = {"assembly": str(manifest), "folder": str(folder), "wanted": wanted, "memory": memory}
    request.write_text(json.dumps(words | {"shapes": {key: str(exact[key].resolve()) for key in wanted}}))
    run_child(request, progress or (lambda share, stage: None), cancelled, seconds)
    made = Assembly.model_validate_json((folder / "assembly.json").read_text())
    fresh = made.model_copy(update={"definitions": {key: made.definitions[key] for key in wanted}})
    return IntakeResult(made, collect_blobs(fresh, folder, exact_too=False))


def collect_blobs(assembly: Assembly, folder: Path, exact_too: bool = True) -> dict[str, Path]:
    blobs = {}
    for definition in assembly.definitions.values():
        pictures = definition.pictures.values() if exact_too else ()
        for name in filter(None, (definition.mesh, definition.shape if exact_too else None, *pictures)):
            path = folder / name
            if not path.is_file() or content_hash(path.read_bytes()) != name:
                raise IntakeError("The intake did not finish cleanly. Try again.")
            blobs[name] = path
    return blobs


def run_child(request: Path, progress: Progress, cancelled: Callable[[], bool], seconds: float) -> None:
    """Start the child, relay its progress, and turn every way it can end into success or IntakeError."""
    deadline = time.monotonic() + seconds
    with tempfile.TemporaryFile() as errors:
        child = subprocess.Popen(
            [sys.executable, "-m", "usual_lamp.core.intake.child", str(request)],
            stdout=subprocess.PIPE,
            stderr=errors,
            stdin=subprocess.DEVNULL,
            start_new_session=True,
            # Its matrices are small: threads of the algebra library would only wait for each other, at full load.
            env=os.environ | {"PYTHONPATH": os.pathsep.join(sys.path), "OPENBLAS_NUM_THREADS": "1"},
        )
        try:
            last = relay(child, progress, cancelled, deadline)
        finally:
            if child.poll() is None:
                os.killpg(child.pid, signal.SIGKILL)
            code = child.wait()
            assert child.stdout is not None
            child.stdout.close()
            errors.seek(0)
            trace = errors.read().decode(errors="replace").strip()
    if "error" in last:
        raise IntakeError(str(last["error"]))
    if last.get("done") and code == 0:
        return
    if last.get("cancelled"):
        raise IntakeError("Stopped.")
    if last.get("late"):
        raise IntakeError(f"Reading took longer than {seconds:.0f} seconds and was stopped.")
    if code < 0:
        raise IntakeError("The CAD kernel crashed on this file: it is damaged. Export it from CAD again.")
    raise IntakeError(f"The file could not be taken in ({trace.splitlines()[-1] if trace else code}).")


def relay(
    child: subprocess.Popen[bytes], progress: Progress, cancelled: Callable[[], bool], deadline: float
) -> dict[str, object]:
    """Pass progress lines on until the child ends; returns its last word, or why it was cut short."""
    assert child.stdout is not None
    selector = selectors.DefaultSelector()
    selector.register(child.stdout, selectors.EVENT_READ)
    last: dict[str, object] = {}
    pending = b""
    while True:
        if cancelled():
            return {"cancelled": True}
        if time.monotonic() > deadline:
            return {"late": True}
        if not selector.select(timeout=0.2):
            continue
        chunk = os.read(child.stdout.fileno(), 65536)
        if not chunk:
            child.wait()
            return last
        *lines, pending = (pending + chunk).split(b"\n")
        for line in lines:
            if not line.startswith(b"{"):
                continue
            last = json.loads(line)
            if "progress" in last:
                progress(float(str(last["progress"])), str(last["stage"]))
