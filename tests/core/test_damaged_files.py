"""Damaged files: none passes for a whole one, none ends in a raw message, none reads outside of what was sent.

`data/damaged` holds files made by flipping and cutting bytes of small ones that a script wrote: a plate and two pins
(4 placed parts of 2 solids with 9 faces) as STEP and IGES, a cylinder as BREP, meshes.
"""

from __future__ import annotations

import os
import struct
from pathlib import Path

import pytest

from core.test_bundle import packed
from public_files import AS1, step_file
from usual_lamp.core.intake import PRELOADED, IntakeError, Watch, take_in
from usual_lamp.core.intake.mesh_census import missing
from usual_lamp.core.sandbox import Nursery

DAMAGED = Path(__file__).parents[1] / "data" / "damaged"
RAW = ("Error", "Traceback", "Input should", "zlib", "index out", "errno", "NoneType", "object", "(")


@pytest.fixture(scope="module")
def watch():
    nursery = Nursery(*PRELOADED)
    yield Watch(nursery=nursery)
    nursery.close()


@pytest.mark.parametrize(
    ("name", "words"),
    [
        ("three-of-four.step", "1 of 4 placed parts and 1 of 2 solids and 1 of 9 faces"),
        ("one-not-placed.step", "1 of 4 placed parts"),
        ("six-of-nine-faces.iges", "3 of 9 faces"),
        ("lines-missing.iges", "should have 152 lines in section D and has 145"),
        ("number-cut.brep", "do not fit together"),
    ],
)
def test_a_partial_read_says_what_is_missing(name: str, words: str, tmp_path: Path, watch: Watch) -> None:
    found = take_in(DAMAGED / name, tmp_path, watch=watch)
    assert any(words in warning for warning in found.assembly.warnings), found.assembly.warnings


def test_a_whole_file_has_nothing_missing(as1) -> None:
    assert as1.assembly.warnings == []


@pytest.mark.parametrize("name", ["infinite.brep", "packed.zip", "header.ply", "accessor.glb", "crashing.zip"])
def test_what_cannot_be_read_is_refused_in_a_sentence(name: str, tmp_path: Path, watch: Watch) -> None:
    with pytest.raises(IntakeError, match=r"damaged") as told:
        take_in(DAMAGED / name, tmp_path, watch=watch)
    assert not [word for word in RAW if word in str(told.value)], told.value


def test_a_file_that_is_read_without_end_is_given_up(tmp_path: Path, watch: Watch, monkeypatch) -> None:
    monkeypatch.setattr("usual_lamp.core.intake.sandbox.SILENCE", 1.0)
    with pytest.raises(IntakeError, match="came to nothing"):
        take_in(DAMAGED / "endless.brep", tmp_path, watch=watch)


@pytest.mark.parametrize(
    ("name", "data", "said"),
    [
        ("a.obj", b"v 0 0 0\nv 1 0 0\nv 0 1 0\nf 1 2 3\nq 1 2 3\n", "1 line of the file"),
        ("a.obj", b"f 1 2 3\nf 2 3 4\n", "1 of 2 faces"),
        ("a.obj", b"v 0 0 0\nf 1 1 1\no next\nv 1.73 -1.", "cut off"),
        ("a.ply", b"ply\nformat ascii 1.0\nelement face 7\n", "6 of 7 faces"),
        ("a.off", b"OFF\n# a comment\n8 3 0\n", "2 of 3 faces"),
        ("a.stl", b"x" * 80 + struct.pack("<I", 4), "3 of 4 faces"),
        ("a.dae", b'<triangles material="m" count="5">', "4 of 5 faces"),
    ],
)
def test_meshes_are_counted_by_their_own_words(name: str, data: bytes, said: str, tmp_path: Path) -> None:
    (tmp_path / name).write_bytes(data)
    assert any(said in words for words in missing(tmp_path / name, 1)), missing(tmp_path / name, 1)


OUTWARDS = ["{secret}", "../secret.stp", "sub/../../secret.stp", "..\\\\secret.stp"]


@pytest.mark.parametrize("place", OUTWARDS)
@pytest.mark.parametrize("fenced", [True, False])
def test_references_of_a_step_file_lead_nowhere_else(place: str, fenced: bool, tmp_path: Path, monkeypatch) -> None:
    """With the fence of the kernel and, as on kernels that have none, without it."""
    if not fenced:
        monkeypatch.setattr("usual_lamp.core.intake.sandbox.run_job", without_fence)
    split = step_file(AS1).parent / "s1-c5-214"
    bundle = {path.name: path.read_bytes() for path in split.glob("*.stp")}
    secret = tmp_path / "secret.stp"
    secret.write_bytes(bundle.pop("TAIL_TURBINE.stp"))
    target = place.format(secret=secret).encode()
    bundle = {name: data.replace(b"'TAIL_TURBINE.stp'", b"'" + target + b"'") for name, data in bundle.items()}
    inside = tmp_path / "sent"
    inside.mkdir()
    found = take_in(packed(inside / "s1.zip", bundle), inside / "out", quality="coarse").assembly
    assert len(list(found.parts())) == 9, "the two that lie elsewhere are not there"
    assert any("secret.stp is missing" in warning for warning in found.warnings), found.warnings


def without_fence(job: str, folder: Path, asked: dict, **options) -> object:
    """The job in a child that sees everything."""
    from usual_lamp.core.sandbox import run_job

    return run_job(job, folder, asked, **options | {"readable": [*options["readable"], Path("/")]})


@pytest.mark.parametrize("name", ["/etc/passwd", "/etc/there-is-no-such-file", "../../secret.mtl"])
def test_an_obj_cannot_ask_whether_a_file_exists(name: str, tmp_path: Path, watch: Watch) -> None:
    (tmp_path / "secret.mtl").write_text("newmtl red\nKd 1 0 0\n")
    folder = tmp_path / "a" / "b"
    folder.mkdir(parents=True)
    (folder / "a.obj").write_text(f"mtllib {name}\nv 0 0 0\nv 9 0 0\nv 0 9 0\nusemtl red\nf 1 2 3\n")
    found = take_in(folder / "a.obj", tmp_path / "out", watch=watch).assembly
    assert any(f"{name} is missing" in warning for warning in found.warnings), "said of all that lie elsewhere alike"
    assert next(iter(found.definitions.values())).color != (1.0, 0.0, 0.0)


def test_the_child_gets_no_secret(tmp_path: Path, monkeypatch) -> None:
    monkeypatch.setenv("USUAL_LAMP_DATABASE", "with a password")
    seen: list[bytes] = []

    def look(share: float, stage: str) -> None:
        for pid in os.listdir("/proc"):
            if pid.isdecimal() and (line := read(f"/proc/{pid}/cmdline")) and b"sandbox/start.py" in line:
                seen.append(read(f"/proc/{pid}/environ"))

    take_in(step_file(AS1), tmp_path, quality="coarse", watch=Watch(progress=look))
    assert seen and not any(b"USUAL_LAMP" in environment for environment in seen)


def read(path: str) -> bytes:
    try:
        return Path(path).read_bytes()
    except OSError:
        return b""
