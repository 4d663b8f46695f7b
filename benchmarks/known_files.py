"""Small files of every format with known content, for damaging: a plate with pins, a block and a ring."""

from __future__ import annotations

import base64
import io
import json
import tempfile
import zipfile
from dataclasses import dataclass
from functools import cache
from pathlib import Path

import trimesh
from demo.build import Group, Part, Writer
from demo.solids import box, disc
from OCP.BRepTools import BRepTools
from OCP.IGESCAFControl import IGESCAFControl_Writer
from OCP.Message import Message_ProgressRange
from PIL import Image


@dataclass(frozen=True)
class Known:
    """A file and what it truly holds."""

    name: str
    data: bytes
    parts: int
    pieces: int
    """Faces of exact surfaces, triangles of meshes; of each definition once."""


@cache
def known_files() -> tuple[Known, ...]:
    """One small file of each kind."""
    found = [*_exact_files(), *_mesh_files()]
    step = found[0]
    packed = io.BytesIO()
    with zipfile.ZipFile(packed, "w", zipfile.ZIP_DEFLATED) as bundle:
        bundle.writestr("sub/plate.step", step.data)
    return (*found, Known("packed.zip", packed.getvalue(), step.parts, step.pieces))


def _exact_files() -> list[Known]:
    """A plate and three pins as STEP, and as IGES (one part of loose faces); a cylinder as BREP."""
    plate = Part("Plate", lambda: box((0, 0, 0), (40, 30, 4)), "#8090A0")
    pin = Part("Pin", lambda: disc(3.0, 12.0), "#C0A060", places=[(8, 8, 4), (20, 15, 4), (32, 22, 4)])
    writer = Writer()
    writer.add(Group("Fixture", [plate, pin]))
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        writer.write(folder / "a.step")
        iges = IGESCAFControl_Writer()
        iges.Transfer(writer.document)
        iges.Write(str(folder / "a.igs"))
        BRepTools.Write_s(disc(3.0, 12.0), str(folder / "a.brep"), Message_ProgressRange())
        step, drawn, exact = ((folder / file).read_bytes() for file in ("a.step", "a.igs", "a.brep"))
    return [Known("plate.step", step, 4, 9), Known("plate.igs", drawn, 1, 15), Known("pin.brep", exact, 1, 3)]


def _mesh_files() -> list[Known]:
    block = trimesh.creation.box((8, 8, 8))
    ring = trimesh.creation.annulus(2.0, 4.0, 3.0, sections=24)
    scene, both = trimesh.Scene({"block": block, "ring": ring}), len(block.faces) + len(ring.faces)
    found = [Known("text.gltf", _gltf(scene), 2, both), _pictured()]
    for kind in ("glb", "obj", "3mf"):
        found.append(Known(f"scene.{kind}", _bytes(scene.export(file_type=kind)), 2, both))
    for kind in ("stl", "stl_ascii", "ply", "off", "dae"):
        name = f"ring.{kind.removesuffix('_ascii')}"
        found.append(Known(name, _bytes(ring.export(file_type=kind)), 1, len(ring.faces)))
    return found


def _bytes(made: str | bytes) -> bytes:
    return made.encode() if isinstance(made, str) else bytes(made)


def _gltf(scene: trimesh.Scene) -> bytes:
    files = trimesh.exchange.gltf.export_gltf(scene, merge_buffers=True)
    tree = json.loads(files["model.gltf"])
    for buffer in tree["buffers"]:
        buffer["uri"] = "data:application/octet-stream;base64," + base64.b64encode(files[buffer["uri"]]).decode()
    return json.dumps(tree).encode()


def _pictured() -> Known:
    """A block with a picture on it, its colours and the picture beside it, packed."""
    block = trimesh.creation.box((8, 8, 8))
    picture = io.BytesIO()
    Image.new("RGB", (16, 16), "orange").save(picture, "PNG")
    corners = "".join(f"v {x} {y} {z}\n" for x, y, z in block.vertices)
    places = "".join(f"vt {k / 8} {1 - k / 8}\n" for k in range(8))
    faces = "".join(f"f {a + 1}/{a + 1} {b + 1}/{b + 1} {c + 1}/{c + 1}\n" for a, b, c in block.faces)
    packed = io.BytesIO()
    with zipfile.ZipFile(packed, "w", zipfile.ZIP_DEFLATED) as bundle:
        bundle.writestr("block.obj", f"mtllib skin.mtl\no block\n{corners}{places}usemtl skin\n{faces}")
        bundle.writestr("skin.mtl", "newmtl skin\nKd 1 1 1\nmap_Kd skin.png\n")
        bundle.writestr("skin.png", picture.getvalue())
    return Known("pictured.zip", packed.getvalue(), 1, len(block.faces))
