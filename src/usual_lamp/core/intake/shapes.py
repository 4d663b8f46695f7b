"""Exact shapes to meshes and facts: tessellation, bulk arrays, face signatures. Runs in the child process."""

from __future__ import annotations

import hashlib
import json
import struct
from collections.abc import Callable
from io import BytesIO
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray
from OCP.BinTools import BinTools, BinTools_FormatVersion
from OCP.Bnd import Bnd_Box
from OCP.BRep import BRep_Tool
from OCP.BRepAdaptor import BRepAdaptor_Surface
from OCP.BRepBndLib import BRepBndLib
from OCP.BRepGProp import BRepGProp
from OCP.BRepMesh import BRepMesh_IncrementalMesh
from OCP.BRepTools import BRepTools
from OCP.collections import (
    IndexedDataMap_TCollection_AsciiString_TCollection_AsciiString as FileInfo,
)
from OCP.collections import IndexedMap_TopoDS_Shape_TopTools_ShapeMapHasher as ShapeMap
from OCP.GeomAbs import GeomAbs_SurfaceType
from OCP.GProp import GProp_GProps
from OCP.IMeshTools import IMeshTools_MeshAlgoType, IMeshTools_Parameters
from OCP.Message import Message_ProgressRange
from OCP.RWGltf import RWGltf_CafWriter
from OCP.TCollection import TCollection_AsciiString, TCollection_ExtendedString
from OCP.TDataStd import TDataStd_Name
from OCP.TDocStd import TDocStd_Document
from OCP.TopAbs import TopAbs_ShapeEnum
from OCP.TopExp import TopExp, TopExp_Explorer
from OCP.TopLoc import TopLoc_Location
from OCP.TopoDS import TopoDS, TopoDS_Face, TopoDS_Shape
from OCP.XCAFDoc import XCAFDoc_DocumentTool

from usual_lamp.core.assembly import Face, Mesh
from usual_lamp.core.assembly.creases import crease_segments
from usual_lamp.core.intake.recognition import recognised

Floats = NDArray[np.float32]
KINDS = {
    GeomAbs_SurfaceType.GeomAbs_Plane: "plane",
    GeomAbs_SurfaceType.GeomAbs_Cylinder: "cylinder",
    GeomAbs_SurfaceType.GeomAbs_Cone: "cone",
    GeomAbs_SurfaceType.GeomAbs_Sphere: "sphere",
    GeomAbs_SurfaceType.GeomAbs_Torus: "torus",
}
WAYS = (
    IMeshTools_MeshAlgoType.IMeshTools_MeshAlgoType_Delabella,
    IMeshTools_MeshAlgoType.IMeshTools_MeshAlgoType_Watson,
)
"""Of dividing a face into triangles; the second takes up what the first has left."""


def box(shape: TopoDS_Shape) -> NDArray[np.float64]:
    """(2, 3) low and high corner, mm; may be a little larger than the shape, which costs far less than a tight one."""
    bounds = Bnd_Box()
    BRepBndLib.Add_s(shape, bounds, False)
    bounds.SetGap(0.0)
    low, high = bounds.CornerMin(), bounds.CornerMax()
    return np.array([[low.X(), low.Y(), low.Z()], [high.X(), high.Y(), high.Z()]])


def count_solids(shape: TopoDS_Shape) -> int:
    """Return the number of solids in a shape."""
    solids = ShapeMap()
    TopExp.MapShapes_s(shape, TopAbs_ShapeEnum.TopAbs_SOLID, solids)
    return int(solids.Size())


def tessellate(shape: TopoDS_Shape, chord: float, angle: float) -> None:
    """Mesh a shape in place, dropping any triangulation the file brought along.

    The kernel's newer way (Delabella) takes some two thirds of the time and leaves some faces bare, such as the walls
    of raised letters; its older one meshes these.
    """
    BRepTools.Clean_s(shape)
    wish = IMeshTools_Parameters()
    wish.Deflection, wish.Angle, wish.InParallel = chord, angle, True
    for way in WAYS:
        wish.MeshAlgo = way
        BRepMesh_IncrementalMesh(shape, wish, Message_ProgressRange())
        if all(map(meshed, faces_of(shape))):
            return


def exact_bytes(shape: TopoDS_Shape) -> bytes:
    """Binary BREP without triangulation: all that later re-tessellation needs."""
    stream = BytesIO()
    BinTools.Write_s(shape, stream, False, False, BinTools_FormatVersion.BinTools_FormatVersion_CURRENT)
    return stream.getvalue()


def faces_of(shape: TopoDS_Shape) -> list[TopoDS_Face]:
    """Return the faces of a shape, each once, in the kernel's order."""
    explorer, faces = TopExp_Explorer(shape, TopAbs_ShapeEnum.TopAbs_FACE), []
    while explorer.More():
        faces.append(TopoDS.Face(explorer.Current()))
        explorer.Next()
    return faces


def meshed(face: TopoDS_Face) -> bool:
    """Whether a face has triangles."""
    return BRep_Tool.Triangulation_s(face, TopLoc_Location()) is not None


def describe_faces(shape: TopoDS_Shape, mesh: Mesh, colors: dict[int, tuple[float, float, float]]) -> list[Face]:
    """The faces of a shape, of which there is this mesh; `colors` by place."""
    return [describe_face(face, colors.get(place), mesh, place) for place, face in enumerate(faces_of(shape))]


def describe_face(face: TopoDS_Face, color: tuple[float, float, float] | None, mesh: Mesh, place: int) -> Face:
    """Kind, area and a signature that does not depend on the tessellation, of the face at a place in a mesh's.

    The signature goes by what is written, so that a revision from another program version, which writes a cylinder as a
    spline, differs there at most.
    """
    props = GProp_GProps()
    BRepGProp.SurfaceProperties_s(face, props)
    centre = props.CentreOfMass()
    surface = BRepAdaptor_Surface(face, True)
    kind = surface.GetType()
    facts = [props.Mass(), centre.X(), centre.Y(), centre.Z()]
    if kind == GeomAbs_SurfaceType.GeomAbs_Cylinder:
        facts.append(surface.Cylinder().Radius())
    elif kind == GeomAbs_SurfaceType.GeomAbs_Cone:
        facts += [surface.Cone().RefRadius(), surface.Cone().SemiAngle()]
    elif kind == GeomAbs_SurfaceType.GeomAbs_Sphere:
        facts.append(surface.Sphere().Radius())
    elif kind == GeomAbs_SurfaceType.GeomAbs_Torus:
        facts += [surface.Torus().MajorRadius(), surface.Torus().MinorRadius()]
    name = KINDS.get(kind, "free")
    text = name + ":" + ",".join(f"{round(value, 3) + 0.0:.3f}" for value in facts)
    signature = hashlib.sha256(text.encode()).hexdigest()[:16]
    center = (centre.X(), centre.Y(), centre.Z())
    if name == "free":
        name = recognised(surface, mesh.of_face(place))
    return Face(kind=name, signature=signature, area=props.Mass(), center=center, color=color)


def volume(shape: TopoDS_Shape) -> float:
    """Return the volume of a shape, mm³."""
    props = GProp_GProps()
    BRepGProp.VolumeProperties_s(shape, props, True, True)
    return float(props.Mass())


def face_colors(
    shape: TopoDS_Shape, colored: list[tuple[TopoDS_Shape, tuple[float, float, float]]]
) -> dict[int, tuple[float, float, float]]:
    """Index of each coloured face; a colour on a face wins over one on the solid or shell it belongs to."""
    order = ShapeMap()
    for face in faces_of(shape):
        order.Add(face)
    result: dict[int, tuple[float, float, float]] = {}
    for whole_first in (True, False):
        for sub, color in colored:
            if (sub.ShapeType() != TopAbs_ShapeEnum.TopAbs_FACE) == whole_first:
                for face in faces_of(sub):
                    index = order.FindIndex(face)
                    if index:
                        result[index - 1] = color
    return result


def export_arrays(shapes: dict[str, TopoDS_Shape], folder: Path, progress: Callable[[float], None]) -> dict[str, Mesh]:
    """Meshes of tessellated shapes, keyed alike, in mm.

    Node-by-node access from Python is slow, so the kernel's own glTF writer lays out positions, exact normals and
    one primitive per face in a buffer that numpy can view. Faces without a triangulation get an empty range.
    """
    document = TDocStd_Document(TCollection_ExtendedString("arrays"))
    XCAFDoc_DocumentTool.SetLengthUnit_s(document, 1.0)
    tool = XCAFDoc_DocumentTool.ShapeTool_s(document.Main())
    for key, shape in shapes.items():
        label = tool.AddShape(shape, False)
        TDataStd_Name.Set_s(label, TCollection_ExtendedString(key))
    target = folder / "arrays.glb"
    writer = RWGltf_CafWriter(TCollection_AsciiString(str(target)), True)
    writer.SetMergeFaces(False)
    writer.SetParallel(True)
    if not writer.Perform(document, FileInfo(), Message_ProgressRange()):
        raise RuntimeError("the tessellation could not be written out")
    progress(0.6)
    data = target.read_bytes()
    target.unlink()
    return parse_glb(data, shapes)


def parse_glb(data: bytes, shapes: dict[str, TopoDS_Shape]) -> dict[str, Mesh]:
    """Return the JSON tree and the binary chunk of a GLB."""
    (json_length,) = struct.unpack_from("<I", data, 12)
    tree = json.loads(data[20 : 20 + json_length])
    body = 20 + json_length + 8
    meshes = {}
    for node in tree["nodes"]:
        if "mesh" in node and node.get("name") in shapes:
            primitives = tree["meshes"][node["mesh"]]["primitives"]
            meshes[node["name"]] = assemble(tree, data, body, primitives, shapes[node["name"]])
    missing = set(shapes) - set(meshes)
    for key in missing:
        none = np.zeros((0, 3), np.float32)
        ranges = np.zeros((len(faces_of(shapes[key])), 2), np.uint32)
        meshes[key] = Mesh(none, none, none.astype(np.uint32), ranges, np.zeros((0, 2, 3), np.float32))
    return meshes


TYPES = {5121: "<u1", 5123: "<u2", 5125: "<u4", 5126: "<f4"}


def assemble(
    tree: dict[str, Any], data: bytes, body: int, primitives: list[dict[str, Any]], shape: TopoDS_Shape
) -> Mesh:
    """One mesh from the per-face primitives of a shape, in the order of its faces."""

    def view(index: int, width: int) -> NDArray[np.float32]:
        """The numbers of an accessor, (N, width), or (N,) for a width of 1."""
        accessor = tree["accessors"][index]
        place = tree["bufferViews"][accessor["bufferView"]]
        start = body + place.get("byteOffset", 0) + accessor.get("byteOffset", 0)
        flat = np.frombuffer(data, TYPES[accessor["componentType"]], accessor["count"] * width, start)
        return flat.reshape(-1, width) if width > 1 else flat

    has_mesh = [meshed(face) for face in faces_of(shape)]
    if sum(has_mesh) != len(primitives):
        raise RuntimeError(f"{len(primitives)} primitives for {sum(has_mesh)} tessellated faces")
    positions, normals, triangles, counts, offset = [], [], [], [], 0
    for primitive in primitives:
        points = view(primitive["attributes"]["POSITION"], 3)
        corners = view(primitive["indices"], 1).reshape(-1, 3).astype(np.uint32)
        positions.append(points)
        normals.append(view(primitive["attributes"]["NORMAL"], 3))
        triangles.append(corners + np.uint32(offset))
        counts.append(len(corners))
        offset += len(points)
    sizes = np.zeros(len(has_mesh), np.int64)
    sizes[np.array(has_mesh, bool)] = counts
    ranges = np.stack([np.cumsum(sizes) - sizes, sizes], axis=1).astype(np.uint32)
    p, n, t = np.concatenate(positions), np.concatenate(normals), np.concatenate(triangles)
    n = normals_at_poles(p, n, t)
    return Mesh(p, n, t, ranges, crease_segments(p, n, t))


def normals_at_poles(positions: Floats, normals: Floats, triangles: NDArray[np.uint32]) -> Floats:
    """The normals, with those that look against all of their triangles turned to the mean of these.

    Where a surface's coordinates run together, as at the pole of a sphere and the tip of a cone, the kernel has no
    normal of its own and guesses, at times inwards: a black dot on every rounded corner.
    """
    a, b, c = (positions[triangles[:, k]].astype(np.float64) for k in range(3))
    facing = np.cross(b - a, c - a)
    corners = triangles.ravel()
    mean = np.stack([np.bincount(corners, np.repeat(facing[:, k], 3), len(positions)) for k in range(3)], axis=1)
    wrong = np.einsum("ij,ij->i", mean, normals) < 0
    if not wrong.any():
        return normals
    mended = normals.copy()
    mended[wrong] = mean[wrong] / np.linalg.norm(mean[wrong], axis=1, keepdims=True)
    return mended
