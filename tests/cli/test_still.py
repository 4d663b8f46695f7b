"""The command line: a CAD file in, a PNG out, with the exit codes and messages of a good tool."""

from __future__ import annotations

import io
import os
import subprocess
import sys
from contextlib import redirect_stderr, redirect_stdout
from pathlib import Path
from unittest.mock import patch

import numpy as np
import pytest
from PIL import Image

from public_files import AS1, ROOT, step_file
from usual_lamp import cli
from usual_lamp.decal_option import parse_decal


def still(*arguments: str) -> subprocess.CompletedProcess[str]:
    """What the command does, in this process: starting another takes seconds each time."""
    out, told, code = io.StringIO(), io.StringIO(), 0
    with patch("sys.argv", ["lamp", "still", *arguments]), redirect_stdout(out), redirect_stderr(told):
        try:
            cli.run()
        except SystemExit as end:
            code = int(end.code or 0)
    return subprocess.CompletedProcess(arguments, code, out.getvalue(), told.getvalue())


def in_a_process_of_its_own(*arguments: str) -> subprocess.CompletedProcess[str]:
    command = [sys.executable, "-m", "usual_lamp.cli", "still", *arguments]
    environment = os.environ | {"PYTHONPATH": str(ROOT / "src")}
    return subprocess.run(command, env=environment, capture_output=True, text=True, timeout=300, check=False)


def test_a_file_becomes_a_picture(tmp_path: Path) -> None:
    out = tmp_path / "as1.png"
    done = in_a_process_of_its_own(
        str(step_file(AS1)), "-o", str(out), "--size", "96x64", "--quality", "coarse", "--light", "overhead",
        "--appearance", "PLATE=anodised-orange", "--appearance", "*-bracket=rubber-black", "--quiet",
    )  # fmt: skip
    assert done.returncode == 0, done.stderr
    assert done.stdout.strip() == str(out)
    image = Image.open(out)
    assert image.size == (96, 64) and image.text["Samples"] == "16" and image.text["Engine"]
    pixels = np.asarray(image.convert("RGB"), float)
    r, g, b = (pixels[..., k] for k in range(3))
    assert np.mean((r > 90) & (r > 1.5 * g) & (r > 2.5 * b)) > 0.1, "the plate is orange"
    assert np.mean(pixels.max(axis=2) < 70) > 0.03, "the brackets are black rubber"
    wrong = in_a_process_of_its_own("missing.step", "-o", str(out))
    assert wrong.returncode == 2 and "does not exist" in wrong.stderr and "Traceback" not in wrong.stderr


def test_a_mesh_file_in_inches(tmp_path: Path) -> None:
    import trimesh

    file, out = tmp_path / "knob.stl", tmp_path / "knob.png"
    trimesh.creation.cylinder(1, 2, sections=64).export(file)
    done = still(str(file), "-o", str(out), "--size", "96x64", "--quality", "coarse", "--unit", "inch", "--up", "y")
    assert done.returncode == 0, done.stderr
    assert np.asarray(Image.open(out)).std() > 10 and "names no unit" not in done.stderr


def test_layers_go_into_one_file_and_add_up(tmp_path: Path) -> None:
    from usual_lamp.core.trace.engine import mi
    from usual_lamp.core.trace.transport.book import LAYERS

    out, exr = tmp_path / "as1.png", tmp_path / "as1.exr"
    done = still(str(step_file(AS1)), "-o", str(out), "--layers", str(exr), "--size", "96x64", "--quality", "coarse")
    assert done.returncode == 0, done.stderr
    bitmap = mi.Bitmap(str(exr))
    channels = {field.name: np.array(bitmap)[..., k] for k, field in enumerate(bitmap.struct_())}
    for channel in "RGB":
        total = sum(channels[f"{name}.{channel}"] for name in LAYERS)
        np.testing.assert_allclose(total, channels[channel], rtol=1e-3, atol=channels[channel].mean() * 1e-3)
    assert {"depth.Y", "position.X", "surface_normal.Z", "alpha.Y", "occlusion.Y"} <= set(channels)
    assert len(np.unique(channels["part.Y"])) > 3 and channels["shadow.G"].max() <= 1.001


@pytest.mark.parametrize(
    ("arguments", "code", "words"),
    [
        (["missing.step", "-o", "x.png"], 2, "does not exist"),
        (["FILE", "-o", "x.gif"], 2, ".png"),
        (["FILE", "-o", "x.png", "--layers", "x.tif"], 2, ".exr"),
        (["FILE", "-o", "nowhere/x.png"], 2, "does not exist"),
        (["FILE", "-o", "x.png", "--size", "12"], 2, "1280x960"),
        (["FILE", "-o", "x.png", "--size", "8x9000"], 2, "between 64 and 16384"),
        (["FILE", "-o", "x.png", "--appearance", "Screw*"], 2, "GLOB=NAME"),
        (["FILE", "-o", "x.png", "--appearance", "Screw*=velvet"], 2, "steel-machined"),
        (["FILE", "-o", "x.png", "--appearance", "Wing*=steel-machined"], 2, "no part is called"),
        (["FILE", "-o", "x.png", "--light", "moon"], 2, "overcast"),
        (["FILE", "-o", "x.png", "--section", "w=3"], 2, "AXIS=MM"),
        (["FILE", "-o", "x.png", "--section", "x=nan"], 2, "AXIS=MM"),
        (["FILE", "-o", "x.png", "--section", "z=-900"], 1, "shows no part"),
        (["BROKEN", "-o", "x.png"], 1, "cut off"),
    ],
)
def test_wrong_use_and_bad_files_are_told_apart(tmp_path: Path, arguments: list[str], code: int, words: str) -> None:
    broken = tmp_path / "broken.step"
    broken.write_bytes(step_file(AS1).read_bytes()[:50_000])
    files = {"FILE": str(step_file(AS1)), "BROKEN": str(broken)}
    done = still(*[files.get(word, word) for word in arguments], "--quiet")
    assert done.returncode == code and words in done.stderr, done.stderr


def test_a_decal_lies_on_the_side_that_is_asked_for(tmp_path: Path) -> None:
    label, out = tmp_path / "label.svg", tmp_path / "as1.png"
    box = '<rect width="40" height="10" fill="#ff00ff"/>'
    label.write_text(f'<svg xmlns="http://www.w3.org/2000/svg" width="40" height="10">{box}</svg>')
    asked = ("-o", str(out), "--size", "160x120", "--quality", "coarse", "--quiet", "--appearance", "plate=abs-white")
    done = still(str(step_file(AS1)), *asked, "--decal", f"PLATE={label},front,80")
    assert done.returncode == 0, done.stderr
    r, g, b = (np.asarray(Image.open(out).convert("RGB"), float)[..., k] for k in range(3))
    assert 0.005 < np.mean((r > 90) & (b > 90) & (g < 0.6 * np.minimum(r, b))) < 0.1
    for text, words in (
        (f"plate={label},inside,80", "no side"),
        (f"plate={label},front,0", "no width"),
        ("plate", "GLOB=FILE,SIDE,MM"),
        ("plate=gone.png,front,80", "no file"),
    ):
        done = still(str(step_file(AS1)), *asked, "--decal", text)
        assert done.returncode == 2 and words in done.stderr


def test_a_decal_may_be_a_page_of_a_pdf(tmp_path: Path) -> None:
    sheet = tmp_path / "sheet.pdf"
    sheet.touch()
    found = [parse_decal(f"plate={sheet}{page},front,80") for page in ("", "#page=12")]
    assert [(one.file, one.page) for one in found] == [(sheet, 1), (sheet, 12)]


def test_a_first_coat_and_a_section_change_the_picture(tmp_path: Path) -> None:
    """as1 is drawn in the colours of a screen; coated it is not, and cut in half it covers less of the picture."""
    seen = {}
    for name, more in (("plain", []), ("coated", ["--first-coat"]), ("cut", ["--first-coat", "--section", "y=75"])):
        out = tmp_path / f"{name}.png"
        asked = ("-o", str(out), "--size", "160x120", "--quality", "coarse", "--quiet", "--transparent", *more)
        done = still(str(step_file(AS1)), *asked)
        assert done.returncode == 0, done.stderr
        seen[name] = np.asarray(Image.open(out).convert("RGBA"), float)
    strong = {name: (np.ptp(image[..., :3], axis=2) * (image[..., 3] > 200)).mean() for name, image in seen.items()}
    assert strong["coated"] < 0.7 * strong["plain"]
    solid = {name: (image[..., 3] > 250).mean() for name, image in seen.items()}
    assert 0.2 * solid["coated"] < solid["cut"] < 0.9 * solid["coated"]
