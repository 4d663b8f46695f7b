"""The beginning of a file: public ones may be read, what cannot be is told before the rest is sent."""

from __future__ import annotations

from pathlib import Path

import pytest

from core.test_public_models import MODELS
from public_files import STEP_FILES
from usual_lamp.core.intake.first_look import HEAD, hopeless
from usual_lamp.core.intake.formats import SUFFIXES

PUBLIC = sorted(
    path
    for folder in (MODELS, STEP_FILES)
    for path in folder.rglob("*")
    if path.suffix.lower() in SUFFIXES and path.is_file() and "invalid" not in path.parts
)


def test_public_files_of_every_kind_may_be_read() -> None:
    """Files of other makers, as their packages keep them as good ones."""
    looked = {path.suffix.lower() for path in PUBLIC}
    assert looked >= {".stp", ".igs", ".brep", ".glb", ".gltf", ".ply", ".obj", ".3mf", ".stl", ".off"}
    refused = {}
    for path in PUBLIC:
        with path.open("rb") as file:
            if problem := hopeless(path.name, file.read(HEAD)):
                refused[path.name] = problem
    assert refused == {}


@pytest.mark.parametrize("name", ["a.step", "a.IGS", "a.glb", "a.ply", "a.zip", "a.3mf", "a.obj", "a.gltf", "a.dae"])
def test_a_picture_under_another_name_is_refused(name: str) -> None:
    png = b"\x89PNG\r\n\x1a\n\0\0\0\rIHDR" + bytes(200)
    problem = hopeless(name, png)
    assert problem is not None and problem.startswith("This is not a")
    assert hopeless(name, b"") == "The file is empty. Export it from CAD again."


def test_what_has_no_mark_is_left_to_its_reader() -> None:
    assert hopeless("a.stl", bytes(100)) is None and hopeless(str(Path("a.txt")), b"") is None
