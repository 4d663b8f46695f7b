"""The command line: a CAD file in, a PNG out, through the same core and without a database.

Exit codes: 0 done, 1 the file or the tracing failed, 2 wrong use, 130 stopped by Ctrl-C.
"""

from __future__ import annotations

import fnmatch
import math
import sys
import tempfile
from collections.abc import Iterator
from pathlib import Path
from typing import TYPE_CHECKING, TypeVar, get_args

import click
import numpy as np
from tqdm import tqdm

from usual_lamp import __version__
from usual_lamp.core.appearance import SHELF
from usual_lamp.core.assembly import Assembly, Mesh
from usual_lamp.core.assembly.cutting import cut_by_name
from usual_lamp.core.camera.crop import LEAST_PIXELS, MOST_PIXELS
from usual_lamp.core.engine_version import ENGINE_VERSION
from usual_lamp.core.intake import IntakeError, IntakeResult, Watch, take_in
from usual_lamp.core.intake.formats import Unit, Up
from usual_lamp.core.light import LIGHTINGS
from usual_lamp.core.picture.read import read_picture
from usual_lamp.core.quality import SAMPLES
from usual_lamp.core.scene import Assign, Lighting, Scene, SetLighting, SetShot, apply_edit, first_scene, trace_inputs
from usual_lamp.core.scene.first_coat import first_coat as first_coat_of
from usual_lamp.core.scene.resolved import ResolvedScene
from usual_lamp.core.scene.section import Section
from usual_lamp.core.trace.plan import tiles
from usual_lamp.decal_option import lay, parse_decal

if TYPE_CHECKING:
    from usual_lamp.core.picture.develop import Effort
    from usual_lamp.core.scene import Shot
    from usual_lamp.core.trace.tiled import ScratchTiles
    from usual_lamp.core.trace.world.world import World

T = TypeVar("T")
COVERAGE_SAMPLES = 4
"""Of each pixel of a transparent picture, which tell whether a part covers any of it."""
MOST_LAYERED = 34_000_000
"""Pixels of a picture whose layers are written: all of them are held at once."""


class Size(click.ParamType[tuple[int, int]]):
    name = "WIDTHxHEIGHT"

    def convert(self, value: object, param: object, ctx: object) -> tuple[int, int]:
        if isinstance(value, tuple):
            return value
        try:
            width, height = (int(part) for part in str(value).lower().split("x"))
        except ValueError:
            self.fail(f"{value!r} is not a size like 1280x960")
        if not (min(width, height) >= LEAST_PIXELS and max(width, height) <= MOST_PIXELS):
            self.fail(f"width and height must lie between {LEAST_PIXELS} and {MOST_PIXELS} pixels")
        return width, height


@click.group()
@click.version_option(__version__, prog_name="Usual Lamp")
def main() -> None:
    """Photoreal design-review stills from CAD assemblies."""


@main.command()
@click.argument("file", type=click.Path(exists=True, dir_okay=False, path_type=Path))
@click.option("-o", "--output", required=True, type=click.Path(dir_okay=False, path_type=Path), help="PNG to write.")
@click.option("--size", type=Size(), default="1280x960", show_default=True, help="Pixels.")
@click.option("--quality", type=click.Choice(["coarse", "fair", "fine"]), default="fair", show_default=True)
@click.option(
    "--light",
    type=click.Choice(list(LIGHTINGS)),
    help="Surroundings to light it by, and nothing else; without, key, fill, rim and top on a table top.",
)
@click.option("--transparent", is_flag=True, help="Leave the backdrop out: product, shadow and reflection on nothing.")
@click.option(
    "--appearance",
    "appearances",
    multiple=True,
    metavar="GLOB=NAME",
    help="Give parts whose name matches GLOB a sample, e.g. 'Screw*=steel-machined'. May be repeated; later ones win.",
)
@click.option(
    "--decal",
    "decals",
    multiple=True,
    metavar="GLOB=FILE,SIDE,MM",
    help="Lay a picture, SVG or PDF on parts whose name matches GLOB, in the middle of their largest face to a SIDE "
    "(front, back, left, right, top, bottom), so many MM wide. Of a PDF, FILE#page=2 is its "
    "second page. May be repeated; later ones lie on top.",
)
@click.option("--first-coat", is_flag=True, help="Give parts plausible finishes by material, name, shape and colour.")
@click.option(
    "--section",
    metavar="AXIS=MM",
    help="Cut the product open across x, y or z, e.g. y=-30; what lies towards the viewer is left out.",
)
@click.option(
    "--layers",
    type=click.Path(dir_okay=False, path_type=Path),
    help="OpenEXR file to write besides: light by kind and by source, shadow, depth, position, normal, parts.",
)
@click.option("--unit", type=click.Choice(get_args(Unit)), default="as written", help="Where the file names none.")
@click.option("--up", type=click.Choice(get_args(Up)), default="as written", help="Upward axis of a mesh file.")
@click.option("--quiet", is_flag=True, help="No progress bar.")
def still(
    file: Path,
    output: Path,
    size: tuple[int, int],
    quality: str,
    light: str | None,
    transparent: bool,
    appearances: tuple[str, ...],
    decals: tuple[str, ...],
    first_coat: bool,
    section: str | None,
    layers: Path | None,
    unit: Unit,
    up: Up,
    quiet: bool,
) -> None:
    """Take a still of a CAD FILE: STEP, IGES, BREP, or a mesh as glTF, 3MF, OBJ, STL, PLY, OFF or Collada."""
    pairs = [parse_appearance(text) for text in appearances]
    wishes = [parse_decal(text) for text in decals]
    cut = parse_section(section) if section is not None else None
    if output.suffix.lower() != ".png":
        raise click.UsageError("--output must end in .png")
    if layers is not None and layers.suffix.lower() != ".exr":
        raise click.UsageError("--layers must end in .exr")
    for target in (output, layers or output):
        if not target.absolute().parent.is_dir():
            raise click.UsageError(f"the folder {target.absolute().parent} does not exist")
    with tempfile.TemporaryDirectory(prefix="usual-lamp-") as folder:
        try:
            result = intake(file, Path(folder), unit, up, quiet)
            scene = prepare(result.assembly, size, light, transparent, first_coat, pairs)
            scene = cut_open(result.assembly, scene, cut) if cut else scene
            scene = lay(result, scene, wishes, Path(folder))
            write_still(result, scene, output, layers, quality, quiet)
        except IntakeError as error:
            raise click.ClickException(str(error)) from error
    click.echo(f"{output}", err=False)


def parse_appearance(text: str) -> tuple[str, str]:
    glob, separator, name = text.rpartition("=")
    if not separator or not glob:
        raise click.UsageError(f"--appearance {text!r}: write it as GLOB=NAME")
    if name not in SHELF:
        raise click.UsageError(f"--appearance: there is no sample {name!r}; there are {', '.join(SHELF)}")
    return glob, name


def parse_section(text: str) -> tuple[int, float]:
    """The number of the axis, and mm along it."""
    axis, separator, mm = text.partition("=")
    try:
        place = float(mm)
    except ValueError:
        place = math.nan
    if not separator or axis.strip() not in ("x", "y", "z") or not math.isfinite(place):
        raise click.UsageError(f"--section {text!r}: write it as AXIS=MM, e.g. y=-30")
    return "xyz".index(axis.strip()), place


def cut_open(assembly: Assembly, scene: Scene, cut: tuple[int, float]) -> Scene:
    """The scene with its shot cut across an axis, what lies towards the camera taken away."""
    axis, place = cut
    (id, shot), *_ = scene.shots.items()
    sign = 1.0 if shot.camera.position[axis] >= place else -1.0
    x, y, z = (sign if k == axis else 0.0 for k in range(3))
    section = Section(normal=(x, y, z), offset=place * sign)
    edit = SetShot(id=id, shot=shot.model_copy(update={"section": section}))
    return apply_edit(scene, edit, {part.uid for part in assembly.parts()})[0]


def intake(file: Path, folder: Path, unit: Unit, up: Up, quiet: bool) -> IntakeResult:
    with tqdm(
        total=100,
        desc="Taking in",
        unit="%",
        disable=quiet,
        bar_format="{desc} {percentage:3.0f}% |{bar}| {postfix}",
    ) as bar:

        def show(share: float, stage: str) -> None:
            bar.set_postfix_str(stage, refresh=False)
            bar.update(share * 100 - bar.n)

        result = take_in(file, folder, unit=unit, up=up, watch=Watch(progress=show))
        bar.update(100 - bar.n)
    for warning in result.assembly.warnings:
        click.echo(f"Note: {warning}", err=True)
    hidden = len(result.assembly.hidden_in_cad())
    if hidden:
        click.echo(f"Note: {hidden} parts hidden in CAD are left out.", err=True)
    return result


def prepare(
    assembly: Assembly,
    size: tuple[int, int],
    light: str | None,
    transparent: bool,
    coated: bool,
    pairs: list[tuple[str, str]],
) -> Scene:
    """The first scene with the asked light and appearances, made by the same edits as on the desk."""
    scene = first_scene(assembly, "file", size)
    uids = {part.uid for part in assembly.parts()}
    backdrop = scene.lighting.backdrop.model_copy(update={"transparent": transparent})
    lighting = Lighting(surroundings=light) if light else scene.lighting
    lighting = lighting.model_copy(update={"backdrop": backdrop})
    scene, _ = apply_edit(scene, SetLighting(lighting=lighting), uids)
    if coated:
        coat = first_coat_of(ResolvedScene(assembly, scene)).edit(scene.look)
        scene = apply_edit(scene, coat, uids)[0] if coat else scene
    for glob, name in pairs:
        found = [p.uid for p in assembly.parts() if fnmatch.fnmatch(p.name.lower(), glob.lower())]
        if not found:
            raise click.UsageError(f"--appearance: no part is called like {glob!r}")
        edit = Assign(assignments=dict.fromkeys(found, name), define={name: SHELF[name]})
        scene, _ = apply_edit(scene, edit, uids)
    return scene


def write_still(
    result: IntakeResult, scene: Scene, output: Path, layers: Path | None, quality: str, quiet: bool
) -> None:
    try:
        from usual_lamp.core.trace import engine  # noqa: F401  (chooses the variant, or says what is missing)
    except RuntimeError as error:
        raise click.ClickException(str(error)) from error
    from usual_lamp.core.trace.world.world import World

    (shot,) = scene.shots.values()
    try:
        inputs = trace_inputs(result.assembly, scene, shot)
    except ValueError as error:
        raise click.ClickException(str(error)) from error
    if layers is not None and inputs.width * inputs.height > MOST_LAYERED:
        raise click.ClickException(f"Layers are written of pictures of up to {MOST_LAYERED // 10**6} megapixels.")
    world = World(
        inputs,
        lambda name: cut_by_name(name, lambda key: Mesh.from_bytes(result.blobs[key].read_bytes())),
        picture_of=lambda key, color: read_picture(result.blobs[key].read_bytes(), color),
    )
    # Beside the picture, since a large one needs much room while it is made.
    with tempfile.TemporaryDirectory(prefix=".usual-lamp-", dir=output.parent) as folder:
        trace_and_write(world, shot, output, layers, quality, quiet, Path(folder))


def trace_and_write(
    world: World, shot: Shot, output: Path, layers: Path | None, quality: str, quiet: bool, folder: Path
) -> None:
    """Trace a still and write it, with files that are not needed afterwards in a folder."""
    from usual_lamp.core.picture.finishing import encoded_rows
    from usual_lamp.core.picture.negative import Negative, clean_into
    from usual_lamp.core.picture.png_file import write_png
    from usual_lamp.core.trace.jobs.still import surveyed, trace_into
    from usual_lamp.core.trace.tiled import ScratchTiles, TiledPicture

    samples, ground = SAMPLES[quality], world.inputs.lighting.ground  # type: ignore[index]
    sums = ScratchTiles(folder)
    if layers is None:
        finished(trace_into(sums, world, samples), samples, quiet)
    else:
        write_layers(world, layers, samples, quiet, sums)
    picture = TiledPicture(world.inputs.width, world.inputs.height, lambda k: sums[k] / np.float32(samples))
    bare_of = None if ground is None else lambda area: surveyed(world, area, COVERAGE_SAMPLES)["alpha"] == 0
    negative = folder / "negative.exr"
    effort: Effort = "quick" if quality == "coarse" else "best"
    clean_into(negative, picture.size, picture.layers, picture.sketch, effort, bare_of)
    words = {"Software": f"Usual Lamp {__version__}", "Engine": ENGINE_VERSION, "Samples": str(samples)}
    with output.open("wb") as file:
        write_png(file, picture.size, encoded_rows(Negative(negative), shot.finish, np.uint8, ground), words)


def write_layers(world: World, path: Path, samples: int, quiet: bool, sums: ScratchTiles) -> None:
    """Trace a still in layers and write them; its picture goes into `sums`."""
    from usual_lamp.core.trace.jobs.still import survey_still, trace_still_in_layers, write_exr
    from usual_lamp.core.trace.kinds_of_light import shadow

    found = finished(trace_still_in_layers(world, samples), samples, quiet)
    means = {name: values / np.float32(samples) for name, values in found.items()}
    means["shadow"] = shadow(means["unshadowed"], means["shadowed"])
    looked = survey_still(world)
    looked["surface_normal"] = looked.pop("normal")
    write_exr(path, means | looked)
    whole = np.concatenate([found[name] for name in ("beauty", "albedo", "normal", "backdrop_seen")], axis=2)
    for number, tile in enumerate(tiles(world.inputs.width, world.inputs.height)):
        sums.add(number, whole[tile.y : tile.y + tile.height, tile.x : tile.x + tile.width])


def finished(growing: Iterator[tuple[float, T]], samples: int, quiet: bool) -> T:
    """Follow a picture with a progress bar until it is done."""
    with tqdm(
        total=samples,
        desc="Tracing",
        unit=" samples",
        disable=quiet,
        bar_format="{desc} {percentage:3.0f}% |{bar}| {n:.0f} of {total} samples, {remaining} left",
    ) as bar:
        for share, grown in growing:  # noqa: B007
            bar.update(share * samples - bar.n)
    return grown


def run() -> None:
    try:
        main(standalone_mode=False)
    except click.exceptions.Abort:
        click.echo("Stopped.", err=True)
        sys.exit(130)
    except click.ClickException as error:
        error.show()
        sys.exit(error.exit_code)


if __name__ == "__main__":
    run()
