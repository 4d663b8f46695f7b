"""Imports in the sandbox: files to assemblies, kept shapes to new meshes, meshes to smoother ones."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from pydantic import ValidationError

from usual_lamp.core.assembly import Assembly
from usual_lamp.core.assembly.mesh import content_hash
from usual_lamp.core.intake.formats import SUFFIXES, Unit, Up, in_words
from usual_lamp.core.intake.tessellation import Quality
from usual_lamp.core.sandbox import Crashed, Nursery, Stopped, Unusable, run_job
from usual_lamp.core.sandbox.jobs import Progress

SILENCE, SILENCE_A_MEGABYTE = 30.0, 20.0
"""CPU seconds without progress after which a reader counts as hung, and more for each megabyte of its file."""
PRELOADED = ("usual_lamp.core.intake.exact_files", "usual_lamp.core.intake.mesh_files", "usual_lamp.core.intake.again")
"""What a warm child has loaded: the CAD kernel and the mesh readers."""
UNCLEAN = "The import did not finish cleanly. Try again."


class IntakeError(Exception):
    """The file cannot be taken in; the message is a sentence for the person who gave it."""


@dataclass(frozen=True)
class IntakeResult:
    """An assembly and the files that it names."""

    assembly: Assembly
    blobs: dict[str, Path]
    """Mesh blocks and exact shapes by sha256; they live as long as the working folder."""


@dataclass(frozen=True)
class Watch:
    """Who watches over a job, and what it may take."""

    progress: Progress = lambda share, stage: None
    cancelled: Callable[[], bool] = lambda: False
    nursery: Nursery | None = None
    seconds: float = 1800.0
    memory: int | None = None
    """Bytes; by what is free on the machine if None."""


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
    watch: Watch = Watch(),
) -> IntakeResult:
    """Read a file into an assembly, with its blobs as files in `folder`.

    `unit` is what the file was drawn in, whatever it says; `up` (the file's axis) is heeded for mesh files; `chord` in
    mm and `angle` in radians take the place of the quality's for exact surfaces; `variant` is one that a glTF file
    names. Files that it refers to are looked for in its own folder and below, nowhere else.

    Raises IntakeError when the file is unreadable, the kernel crashes or hangs, or the caller cancels.
    """
    if source.suffix.lower() not in SUFFIXES:
        raise IntakeError(f"{source.suffix or 'This'} is not a format that can be imported. Use {in_words()}.")
    asked = {
        "source": str(source.resolve()), "quality": quality, "name": name or source.stem, "unit": unit, "up": up,
        "chord": chord, "angle": angle, "variant": variant,
    }  # fmt: skip
    silence = SILENCE + SILENCE_A_MEGABYTE * source.stat().st_size / 1e6
    _run("read", folder, asked, watch, silence, [source.resolve().parent])
    assembly = _assembly(folder)
    return IntakeResult(assembly, collect_blobs(assembly, folder))


def tessellate_again(
    assembly: Assembly,
    exact: dict[str, Path],
    wanted: dict[str, tuple[float, float, float]],
    folder: Path,
    watch: Watch = Watch(),
) -> IntakeResult:
    """The assembly with new meshes for the definitions in `wanted` (chord in mm, angle in radians and the
    largest deviation that is accepted in mm, or 0 for any; by key).

    `exact` holds the exact shape of each as a file. Blobs of the result are the new meshes only. Raises IntakeError.
    """
    folder.mkdir(parents=True, exist_ok=True)
    manifest = folder / "before.json"
    manifest.write_text(assembly.model_dump_json())
    shapes = {key: str(exact[key].resolve()) for key in wanted}
    megabytes = sum(exact[key].stat().st_size for key in wanted) / 1e6
    asked = {"assembly": str(manifest.resolve()), "wanted": wanted, "shapes": shapes}
    silence = 4 * (SILENCE + SILENCE_A_MEGABYTE * megabytes)
    _run("tessellate", folder, asked, watch, silence, [Path(path) for path in shapes.values()])
    made = _assembly(folder)
    fresh = made.model_copy(update={"definitions": {key: made.definitions[key] for key in wanted}})
    return IntakeResult(made, collect_blobs(fresh, folder, exact_too=False))


def smooth_again(
    assembly: Assembly,
    meshes: dict[str, Path],
    crease: float | None,
    flip: bool,
    folder: Path,
    watch: Watch = Watch(),
) -> IntakeResult:
    """The assembly with new normals for the meshes of some definitions (files by key), by a crease angle in degrees, or
    turned inside out. Blobs of the result are the new meshes only. Raises IntakeError.
    """
    folder.mkdir(parents=True, exist_ok=True)
    manifest = folder / "before.json"
    manifest.write_text(assembly.model_dump_json())
    files = {key: str(path.resolve()) for key, path in meshes.items()}
    asked = {"assembly": str(manifest.resolve()), "meshes": files, "crease": crease, "flip": flip}
    _run("smooth", folder, asked, watch, 10 * SILENCE, [Path(path) for path in files.values()])
    made = _assembly(folder)
    fresh = made.model_copy(update={"definitions": {key: made.definitions[key] for key in meshes}})
    return IntakeResult(made, collect_blobs(fresh, folder, exact_too=False))


def _run(job: str, folder: Path, asked: dict[str, Any], watch: Watch, silence: float, readable: list[Path]) -> None:
    try:
        run_job(
            f"usual_lamp.core.intake.child:{job}", folder, asked, readable=readable, nursery=watch.nursery,
            progress=watch.progress, cancelled=watch.cancelled, seconds=watch.seconds, silence=silence,
            memory=watch.memory,
        )  # fmt: skip
    except (Unusable, Crashed, Stopped) as error:
        raise IntakeError(str(error)) from error


def _assembly(folder: Path) -> Assembly:
    try:
        return Assembly.model_validate_json((folder / "assembly.json").read_bytes())
    except ValidationError as error:
        raise IntakeError("The file holds numbers that are out of range: it is damaged. Export it again.") from error
    except OSError as error:
        raise IntakeError(UNCLEAN) from error


def collect_blobs(assembly: Assembly, folder: Path, exact_too: bool = True) -> dict[str, Path]:
    """Files that the assembly names, each checked against its name. Raises IntakeError."""
    blobs = {}
    for definition in assembly.definitions.values():
        pictures = definition.pictures.values() if exact_too else ()
        for name in filter(None, (definition.mesh, definition.shape if exact_too else None, *pictures)):
            path = folder / name
            if not name.isalnum() or path.is_symlink() or not path.is_file():
                raise IntakeError(UNCLEAN)
            if content_hash(path.read_bytes()) != name:
                raise IntakeError(UNCLEAN)
            blobs[name] = path
    return blobs
