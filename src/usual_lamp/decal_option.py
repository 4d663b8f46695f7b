"""Decals of the command line: a file, the parts that wear it, the side that shows it and its width."""

from __future__ import annotations

import fnmatch
import hashlib
import re
from dataclasses import dataclass
from pathlib import Path

import click
import numpy as np

from usual_lamp.core.assembly import Mesh
from usual_lamp.core.exr import UnreadablePicture
from usual_lamp.core.intake import IntakeResult
from usual_lamp.core.picture.decoding import decode
from usual_lamp.core.scene import Decal, Scene, SetDecals, apply_edit
from usual_lamp.core.scene.decal_placing import placed, spot_facing

SIDES = {
    "front": (0, -1, 0), "back": (0, 1, 0), "left": (-1, 0, 0),
    "right": (1, 0, 0), "top": (0, 0, 1), "bottom": (0, 0, -1),
}  # fmt: skip
"""Directions in the world, by the word for the side of a part."""
MOST_PIXELS = 40_000_000
PAGE = re.compile(r"#page=([1-9]\d{0,4})$")
"""At the end of a PDF's name, as RFC 8118 has it in addresses."""


@dataclass(frozen=True)
class DecalOption:
    """What one use of the option asks for."""

    glob: str
    file: Path
    side: str
    width: float
    """mm."""
    page: int = 1
    """Of a PDF."""


def parse_decal(text: str) -> DecalOption:
    """Read `GLOB=FILE,SIDE,MM`. Raises UsageError."""
    glob, separator, rest = text.partition("=")
    parts = rest.rsplit(",", 2)
    if not separator or not glob or len(parts) != 3:
        raise click.UsageError(f"--decal {text!r}: write it as GLOB=FILE,SIDE,MM, such as 'Cover*=label.svg,front,40'")
    file, side, width = parts
    if side not in SIDES:
        raise click.UsageError(f"--decal: there is no side {side!r}; there are {', '.join(SIDES)}")
    try:
        size = float(width)
    except ValueError:
        size = 0.0
    if not 0.1 <= size <= 10_000:
        raise click.UsageError(f"--decal: {width!r} is no width between 0.1 and 10000 mm")
    numbered = PAGE.search(file)
    file = PAGE.sub("", file)
    if not Path(file).is_file():
        raise click.UsageError(f"--decal: there is no file {file}")
    return DecalOption(glob, Path(file), side, size, int(numbered[1]) if numbered else 1)


def lay(result: IntakeResult, scene: Scene, wishes: list[DecalOption], folder: Path) -> Scene:
    """The scene with its decals, whose pictures are added to what was taken in. Raises UsageError, ClickException."""
    assembly = result.assembly
    parts = list(assembly.parts())
    for number, wish in enumerate(wishes):
        named = [part for part in parts if fnmatch.fnmatch(part.name.lower(), wish.glob.lower())]
        if not named:
            raise click.UsageError(f"--decal: no part is called like {wish.glob!r}")
        picture, aspect = _kept(result, wish, folder)
        made = {}
        for part in named:
            mesh = Mesh.from_bytes(result.blobs[assembly.definition_of(part).mesh].read_bytes())
            matrix = assembly.world[part.uid]
            try:
                face, point, normal = spot_facing(mesh, matrix, np.array(SIDES[wish.side], float))
            except LookupError as error:
                raise click.UsageError(f"--decal: {part.name} has no face to the {wish.side}") from error
            up = np.array([0.0, 1.0, 0.0] if wish.side in ("top", "bottom") else [0.0, 0.0, 1.0])
            size = (wish.width, max(0.1, wish.width / aspect))
            lies = placed(mesh, face, matrix, point, normal, up, aspect, size)
            name = wish.file.stem[:60] or "Decal"
            made[f"decal-{number}-{part.uid}"] = Decal.model_validate(
                {"name": name, "picture": picture, "part": part.uid} | lies
            )
        scene, _ = apply_edit(scene, SetDecals(decals=made), {part.uid for part in parts})
    return scene


def _kept(result: IntakeResult, wish: DecalOption, folder: Path) -> tuple[str, float]:
    """The picture's content hash and its width over its height."""
    asked = {"source": str(wish.file), "folder": str(folder), "most_pixels": MOST_PIXELS, "page": wish.page}
    try:
        found = decode(asked, lambda *_: None)
    except UnreadablePicture as error:
        raise click.ClickException(f"{wish.file}: {error}") from error
    block = (folder / "picture").read_bytes()
    name = hashlib.sha256(block).hexdigest()
    result.blobs[name] = folder / name
    result.blobs[name].write_bytes(block)
    return name, found["width"] / found["height"]
