"""Exact shapes that were kept, tessellated anew. Runs in the child process."""

from __future__ import annotations

from collections.abc import Callable
from io import BytesIO
from pathlib import Path
from typing import Any

from OCP.BinTools import BinTools
from OCP.TopoDS import TopoDS_Shape

from usual_lamp.core.assembly import Assembly, Mesh, PartDefinition
from usual_lamp.core.assembly.mesh import content_hash
from usual_lamp.core.assembly.smoothing import CREASE, describe_faces, smooth_faces, welded
from usual_lamp.core.intake.formats import UnreadableFile
from usual_lamp.core.intake.meshing import meshes_within


def tessellate_again(request: dict[str, Any], say: Callable[..., None]) -> None:
    """Writes the assembly with new meshes. `request["wanted"]` has chord (mm), angle (radians) and limit (mm, or 0) by
    definition: where the kernel misses the limit, it is asked for less, a few times.
    """
    folder = Path(request["folder"])
    assembly = Assembly.model_validate_json(Path(request["assembly"]).read_text())
    exact = {key: _read(Path(request["shapes"][key])) for key in request["wanted"]}
    meshes, reached = meshes_within(
        exact, request["wanted"], folder, lambda share, stage: say(progress=0.05 + 0.9 * share, stage=stage)
    )
    changed: dict[str, PartDefinition] = {}
    for key, mesh in meshes.items():
        block = mesh.to_bytes()
        (folder / content_hash(block)).write_bytes(block)
        chord, angle, _ = request["wanted"][key]
        change = {"mesh": content_hash(block), "triangles": len(mesh.triangles), "chord": chord, "angle": angle}
        changed[key] = assembly.definitions[key].model_copy(update=change | {"deviation": reached[key]})
    made = assembly.model_copy(update={"definitions": assembly.definitions | changed})
    (folder / "assembly.json").write_text(made.model_dump_json())


def smooth_again(request: dict[str, Any], say: Callable[..., None]) -> None:
    """Writes the assembly with new normals by `request["crease"]` (degrees), or with meshes turned inside out."""
    folder = Path(request["folder"])
    assembly = Assembly.model_validate_json(Path(request["assembly"]).read_text())
    definitions = dict(assembly.definitions)
    for done, (key, file) in enumerate(request["meshes"].items()):
        points, triangles, corners = welded(Mesh.from_bytes(Path(file).read_bytes()))
        if request["flip"]:
            triangles = triangles[:, ::-1]
            corners = None if corners is None else corners[:, ::-1]
        crease = CREASE if request["crease"] is None else request["crease"]
        mesh = smooth_faces(points, triangles, crease, corners)
        block = mesh.to_bytes()
        (folder / content_hash(block)).write_bytes(block)
        change = {"mesh": content_hash(block), "faces": describe_faces(mesh)}
        definitions[key] = definitions[key].model_copy(update=change)
        say(progress=0.9 * (done + 1) / len(request["meshes"]), stage=f"meshes, {done + 1} of {len(request['meshes'])}")
    made = assembly.model_copy(update={"definitions": definitions})
    (folder / "assembly.json").write_text(made.model_dump_json())


def _read(path: Path) -> TopoDS_Shape:
    shape = TopoDS_Shape()
    BinTools.Read_s(shape, BytesIO(path.read_bytes()))
    if shape.IsNull():
        raise UnreadableFile("An exact shape that was kept could not be read. Take the file in again.")
    return shape
