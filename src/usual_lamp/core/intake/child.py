"""What an import's child process does: files to assemblies, kept shapes to new meshes, meshes to smoother ones.

Each job writes `assembly.json` and content-named blobs into the request's folder.
"""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import Any

import numpy as np

Say = Callable[..., None]


def read(request: dict[str, Any], say: Say) -> None:
    """A foreign file to an assembly. Raises UnreadableFile."""
    say(progress=0.02, stage="reading the file")
    from usual_lamp.core.intake.formats import MESHES

    gather(request, say)
    if Path(request["source"]).suffix.lower() in MESHES:
        take_meshes(request, say)
    else:
        take_exact(request, say)


def tessellate(request: dict[str, Any], say: Say) -> None:
    """Exact shapes that were kept, tessellated anew."""
    from usual_lamp.core.intake.again import tessellate_again

    tessellate_again(request, say)


def smooth(request: dict[str, Any], say: Say) -> None:
    """Meshes that came as triangles, with new normals or turned inside out."""
    from usual_lamp.core.intake.again import smooth_again

    smooth_again(request, say)


def gather(request: dict[str, Any], say: Say) -> None:
    """Make the source a plain file with its side files beside it, and note what is missing."""
    from usual_lamp.core.intake.bundle import complete, unpack

    source = Path(request["source"])
    bundled = source.suffix.lower() == ".zip"
    if bundled:
        say(progress=0.03, stage="unpacking")
        source = unpack(source, Path(request["folder"]) / "bundle")
    source, missing = complete(source, bundled, Path(request["folder"]) / "bundle")
    request["source"], request["missing"] = str(source), missing


def take_exact(request: dict[str, Any], say: Say) -> None:
    """Read a file with exact surfaces and write its assembly. Raises UnreadableFile."""
    from usual_lamp.core.intake import exact_files, step
    from usual_lamp.core.intake.formats import EXACT, UnreadableFile
    from usual_lamp.core.intake.step_text import StepText, look_through

    source = Path(request["source"])
    document, warnings, units = exact_files.read(source, request["unit"], say)
    say(progress=0.4, stage="building the tree")
    text = look_through(source) if EXACT[source.suffix.lower()] == "STEP" else StepText()
    tree = step.TreeBuilder(document, text, request["name"]).build()
    if not tree.definitions:
        raise UnreadableFile("The file holds no part with a surface.")
    write_assembly(tree, warnings, units, request, say)


def take_meshes(request: dict[str, Any], say: Say) -> None:
    """Read a mesh file and write its assembly. Raises UnreadableFile."""
    from usual_lamp.core.assembly import Assembly
    from usual_lamp.core.intake import mesh_files
    from usual_lamp.core.intake.gltf_text import with_variant

    folder = Path(request["folder"])
    tell = lambda share, stage: say(progress=0.3 + 0.65 * share, stage=stage)  # noqa: E731
    variants, source = with_variant(Path(request["source"]), request["variant"], folder)
    found = mesh_files.read(source, folder, request["name"], request["unit"], request["up"], tell)
    assembly = Assembly(
        name=request["name"], source_units=found.units, chord=0.0, angle=0.0, definitions=found.definitions,
        occurrences=found.occurrences, warnings=request["missing"] + found.warnings,
        variants=variants, variant=request["variant"] if request["variant"] in variants else None,
    )  # fmt: skip
    write_manifest(assembly, folder)


def write_manifest(assembly: Any, folder: Path) -> None:
    """Write an assembly whose meshes lie in the folder, with the side that shows most and what shows there."""
    from usual_lamp.core.assembly import Mesh
    from usual_lamp.core.assembly.facing import MOST_TRIANGLES, looked_at
    from usual_lamp.core.camera import three_quarter

    if sum(definition.triangles for definition in assembly.definitions.values()) <= MOST_TRIANGLES:
        meshes = {
            key: Mesh.from_bytes((folder / definition.mesh).read_bytes())
            for key, definition in assembly.definitions.items()
        }
        looked = looked_at(assembly, meshes, three_quarter)
        if looked is not None:
            assembly = assembly.model_copy(update={"facing": looked.azimuth, "shows": looked.shares})
    (folder / "assembly.json").write_text(assembly.model_dump_json())


def write_assembly(tree: Any, warnings: list[str], units: str, request: dict[str, Any], say: Say) -> None:
    """Tessellate what a document holds and write the assembly. Raises UnreadableFile for sizes that cannot be drawn."""
    from usual_lamp.core.assembly import Assembly
    from usual_lamp.core.intake import shapes
    from usual_lamp.core.intake.formats import LARGEST_REACH as LARGEST
    from usual_lamp.core.intake.formats import UnreadableFile
    from usual_lamp.core.intake.meshing import meshes_within
    from usual_lamp.core.intake.tessellation import OVER, QUALITIES

    boxes = {key: shapes.box(d.shape) for key, d in tree.definitions.items()}
    for key, box in boxes.items():
        if not np.abs(np.asarray(box, float)).max(initial=0.0) < LARGEST:
            name = tree.definitions[key].name
            raise UnreadableFile(
                f"{name} reaches farther than {LARGEST / 1e6:.0f} km. The file is damaged, or its unit."
            )
    quality = QUALITIES[request["quality"]]
    chord = request["chord"] or quality.chord(diagonal(tree.occurrences, boxes))
    angle = request["angle"] or quality.angle
    total = len(tree.definitions)
    folder = Path(request["folder"])
    bare = {key: d.shape for key, d in tree.definitions.items()}
    wanted = dict.fromkeys(bare, (chord, angle, OVER * chord))
    meshes, reached = meshes_within(
        bare, wanted, folder, lambda share, stage: say(progress=0.45 + 0.4 * share, stage=stage), turns=3
    )
    definitions = {}
    for done, (key, definition) in enumerate(tree.definitions.items()):
        definitions[key] = describe(definition, meshes[key], reached[key], folder)
        say(progress=0.85 + 0.14 * (done + 1) / total, stage=f"faces, {done + 1} of {total}")
        if definitions[key].triangles == 0:
            warnings.append(f"{definition.name}: could not be tessellated, nothing of it will be seen")
        elif bad := sum(count == 0 for _, count in meshes[key].face_ranges):
            warnings.append(f"{definition.name}: {bad} faces could not be tessellated")
    assembly = Assembly(
        name=request["name"],
        source_units=units,
        chord=chord,
        angle=angle,
        definitions=definitions,
        occurrences=tree.occurrences,
        warnings=request["missing"] + warnings + tree.warnings,
    )
    write_manifest(assembly, folder)


def diagonal(occurrences: list[Any], boxes: dict[str, Any]) -> float:
    """Box diagonal of the whole model in mm; parts far astray would coarsen all, so hidden ones do not count."""
    worlds: dict[str, Any] = {}
    placed, corners = [], []
    for node in occurrences:
        local = np.array(node.placement).reshape(4, 4)
        worlds[node.uid] = local if node.parent is None else worlds[node.parent] @ local
        if node.definition is not None and not node.hidden_in_cad:
            placed.append(worlds[node.uid])
            corners.append(boxes[node.definition])
    if not placed:
        return float(np.linalg.norm(np.ptp(np.vstack(list(boxes.values())), axis=0)))
    which = (np.arange(8)[:, None] >> np.arange(3)) & 1
    low, high = np.array(corners).swapaxes(0, 1)
    points = np.where(which, high[:, None], low[:, None])
    matrices = np.array(placed)
    points = np.einsum("nij,nkj->nki", matrices[:, :3, :3], points) + matrices[:, None, :3, 3]
    return float(np.linalg.norm(np.ptp(points.reshape(-1, 3), axis=0)))


def describe(definition: Any, mesh: Any, deviation: float, folder: Path) -> Any:
    """Return the definition of a shape whose mesh lies so far off it (mm); its blobs go into `folder`."""
    from usual_lamp.core.assembly import PartDefinition
    from usual_lamp.core.assembly.mesh import content_hash
    from usual_lamp.core.assembly.outline import outermost
    from usual_lamp.core.intake import shapes

    def keep(data: bytes) -> str:
        """Write bytes under the hash of what they hold; returns it."""
        name = content_hash(data)
        (folder / name).write_bytes(data)
        return name

    drawn = mesh.positions.astype(np.float64)
    bounds = np.array([drawn.min(0), drawn.max(0)]) if len(drawn) else shapes.box(definition.shape)
    colors = shapes.face_colors(definition.shape, definition.sub_colors)
    faces = shapes.describe_faces(definition.shape, mesh, colors)
    return PartDefinition(
        key=definition.key,
        name=definition.name,
        mesh=keep(mesh.to_bytes()),
        shape=keep(shapes.exact_bytes(definition.shape)),
        triangles=len(mesh.triangles),
        solids=shapes.count_solids(definition.shape),
        volume=shapes.volume(definition.shape),
        area=sum(face.area for face in faces),
        bounds=tuple(map(tuple, bounds.tolist())),
        color=definition.color,
        opacity=definition.opacity,
        faces=faces,
        outline=outermost(mesh.positions),
        material=definition.material,
        properties=definition.properties,
        deviation=deviation,
    )
