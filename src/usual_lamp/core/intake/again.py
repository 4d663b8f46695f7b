"""Exact shapes that were kept, tessellated anew. Runs in the child process."""

from __future__ import annotations

from collections.abc import Callable
from io import BytesIO
from pathlib import Path
from typing import Any

from OCP.BinTools import BinTools
from OCP.TopoDS import TopoDS_Shape

from usual_lamp.core.assembly import Assembly, PartDefinition
from usual_lamp.core.assembly.deviation import deviation
from usual_lamp.core.assembly.mesh import content_hash
from usual_lamp.core.intake import shapes
from usual_lamp.core.intake.formats import UnreadableFile


def tessellate_again(request: dict[str, Any], say: Callable[..., None]) -> None:
    """Writes the assembly with new meshes; `request["wanted"]` has chord (mm) and angle (radians) by definition."""
    folder = Path(request["folder"])
    assembly = Assembly.model_validate_json(Path(request["assembly"]).read_text())
    read = {key: _read(Path(request["shapes"][key])) for key in request["wanted"]}
    for done, (key, (chord, angle)) in enumerate(request["wanted"].items()):
        shapes.tessellate(read[key], chord, angle)
        say(progress=0.05 + 0.6 * (done + 1) / len(read), stage=f"tessellating, {done + 1} of {len(read)}")
    meshes = shapes.export_arrays(read, folder, lambda share: say(progress=0.65 + 0.3 * share, stage="meshes"))
    changed: dict[str, PartDefinition] = {}
    for key, mesh in meshes.items():
        block = mesh.to_bytes()
        (folder / content_hash(block)).write_bytes(block)
        chord, angle = request["wanted"][key]
        change = {"mesh": content_hash(block), "triangles": len(mesh.triangles), "chord": chord, "angle": angle}
        changed[key] = assembly.definitions[key].model_copy(update=change | {"deviation": deviation(mesh)})
    made = assembly.model_copy(update={"definitions": assembly.definitions | changed})
    (folder / "assembly.json").write_text(made.model_dump_json())


def _read(path: Path) -> TopoDS_Shape:
    shape = TopoDS_Shape()
    BinTools.Read_s(shape, BytesIO(path.read_bytes()))
    if shape.IsNull():
        raise UnreadableFile("An exact shape that was kept could not be read. Take the file in again.")
    return shape
