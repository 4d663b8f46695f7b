"""Mesh files to an assembly, with trimesh as the reader. Runs in the child process.

Every geometry of the file becomes a definition; its triangles are cleaned, turned outside out where the whole is
inside out, and grouped into smooth faces, so that a cylinder is chosen as one face and keeps a sharp rim.
"""

from __future__ import annotations

import hashlib
import re
import traceback
from collections.abc import Callable
from dataclasses import dataclass, field
from pathlib import Path, PurePosixPath
from typing import Any

import numpy as np
import trimesh
from numpy.typing import NDArray
from trimesh.resolvers import FilePathResolver

from usual_lamp.core.assembly import Occurrence, PartDefinition
from usual_lamp.core.assembly.mending import Health, mend
from usual_lamp.core.assembly.mesh import content_hash
from usual_lamp.core.assembly.outline import outermost
from usual_lamp.core.assembly.smoothing import corners_after, describe_faces, smooth_faces
from usual_lamp.core.intake import mesh_census
from usual_lamp.core.intake.formats import LARGEST_REACH, MESHES, MILLIMETRES, UNITLESS, UnreadableFile
from usual_lamp.core.intake.gltf_materials import Finish
from usual_lamp.core.intake.gltf_text import GltfText
from usual_lamp.core.intake.mesh_pictures import coordinates, keep_pictures, mean_color

Array = NDArray[np.float64]
PICTURED = ("image", "baseColorTexture", "metallicRoughnessTexture", "normalTexture")
LONGEST = 400
"""Characters that are kept of a name or property."""
NUMBERED = re.compile(r"\d+(_[0-9a-f]{6})?")
"""What the reader calls nodes without a name."""
TO_ZUP = {
    "x": np.array([[0.0, 0, -1.0, 0], [0, 1.0, 0, 0], [1.0, 0, 0, 0], [0, 0, 0, 1.0]]),
    "y": np.array([[1.0, 0, 0, 0], [0, 0, -1.0, 0], [0, 1.0, 0, 0], [0, 0, 0, 1.0]]),
    "z": np.eye(4),
}
"""What takes the axis that points up in a file to z."""


@dataclass
class GltfWords:
    """What a glTF file says of its materials that the reader passes over, by material."""

    moved: dict[str, list[float]] = field(default_factory=dict)
    finishes: dict[str, Finish] = field(default_factory=dict)


@dataclass
class MeshFile:
    """What a mesh file holds, ready for the manifest."""

    units: str
    definitions: dict[str, PartDefinition] = field(default_factory=dict)
    occurrences: list[Occurrence] = field(default_factory=list)
    warnings: list[str] = field(default_factory=list)


def read(path: Path, folder: Path, name: str, unit: str, up: str, tell: Callable[[float, str], None]) -> MeshFile:
    """Take the file in; mesh blocks go into `folder` by their hash. `name` is for what has none in the file.

    Raises UnreadableFile.
    """
    scene, words = _load(path), _gltf_words(path)
    scale, unit_words, warnings = _scale(scene, path, unit)
    found = MeshFile(unit_words, warnings=warnings)
    geometries = {name: g for name, g in scene.geometry.items() if isinstance(g, trimesh.Trimesh)}
    found.warnings += mesh_census.missing(path, sum(len(g.faces) for g in geometries.values()))
    for left_out in scene.geometry.keys() - geometries.keys():
        found.warnings.append(f"{left_out}: points or lines without a surface, skipped")
    keys: dict[str, str] = {}
    alike: dict[tuple[object, ...], str] = {}
    for done, (own, geometry) in enumerate(geometries.items()):
        title = name if own == path.name else own
        definition = _definition(f"d{done + 1}", title, geometry, scale, folder, found.warnings, words)
        tell((done + 1) / len(geometries), f"meshes, {done + 1} of {len(geometries)}")
        if definition is None:
            continue
        # Equal triangles in equal colours are the same part, however often the file writes them down.
        looks = (
            definition.mesh,
            definition.color,
            definition.opacity,
            *sorted(definition.pictures.items()),
            repr(definition.finish),
        )
        keys[own] = alike.setdefault(looks, definition.key)
        if keys[own] == definition.key:
            found.definitions[definition.key] = definition
    if not found.definitions:
        raise UnreadableFile("The file holds no triangle with an area.")
    axis = _axis_upwards(path) if up == "as written" else up
    Grower(scene, keys, scale, found, {path.name: name}).grow(TO_ZUP[axis])
    return found


def _axis_upwards(path: Path) -> str:
    """glTF is y-up; Collada says, and is y-up unless it does (COLLADA 1.5, `up_axis`); others are taken as z-up."""
    if path.suffix.lower() in (".glb", ".gltf"):
        return "y"
    if path.suffix.lower() != ".dae":
        return "z"
    with path.open("rb") as file:
        said = re.search(rb"<up_axis>\s*([XYZ])_UP", file.read(2**20))
    return said.group(1).decode().lower() if said else "y"


class Beside(FilePathResolver):  # type: ignore[misc]
    """Files next to the one that is read and below, however their paths are written; none elsewhere."""

    def get(self, name: str) -> bytes:
        """Return the bytes of a file beside the one that is read. Raises OSError."""
        plain = name.replace("\\", "/")
        home = Path(self.parent).resolve()
        reached = (home / plain).resolve()
        if not reached.is_relative_to(home):
            reached = home / PurePosixPath(plain).name
        return reached.read_bytes()


def _gltf_words(path: Path) -> GltfWords:
    text = GltfText.read(path) if path.suffix.lower() in (".glb", ".gltf") else None
    return GltfWords(text.moved_pictures(), text.finishes()) if text else GltfWords()


def _load(path: Path) -> Any:
    if path.stat().st_size == 0:
        raise UnreadableFile("The file is empty. Export it again.")
    try:
        apart = {"split_objects": True} if path.suffix.lower() == ".obj" else {}
        scene = trimesh.load_scene(path, process=False, resolver=Beside(str(path)), **apart)
    except Exception as error:  # whatever a reader raises on a damaged file
        traceback.print_exc()
        kind = MESHES[path.suffix.lower()]
        raise UnreadableFile(
            f"This {kind} file could not be read: it is damaged, or not what its name says. Export it again."
        ) from error
    if not scene.geometry:
        raise UnreadableFile("The file holds no mesh, or refers to files beside it that were not sent along.")
    return scene


def _scale(scene: Any, path: Path, unit: str) -> tuple[float, str, list[str]]:
    """Millimetres in one unit of the file, its unit in words, and what had to be assumed."""
    if unit != "as written":
        return MILLIMETRES[unit], unit, []
    suffix = path.suffix.lower()
    if suffix in (".glb", ".gltf"):
        return 1000.0, "m", []
    if scene.units and suffix not in UNITLESS:
        words = str(scene.units)
        return float(trimesh.units.unit_conversion(words, "mm")), words, []
    words = "The file names no unit: millimetres were taken. Take it in again with another unit if that is wrong."
    return 1.0, "mm", [words]


def _definition(
    key: str, name: str, geometry: Any, scale: float, folder: Path, warnings: list[str], words: GltfWords
) -> PartDefinition | None:
    on_picture = coordinates(geometry, words.moved) if _is_textured(geometry) else None
    points, triangles, health, corners = _clean(name, geometry, scale, on_picture)
    if not len(triangles):
        warnings.append(f"{name}: no triangle with an area, skipped")
        return None
    defects = in_words(health)
    warnings += [f"{name}: {defect}" for defect in defects]
    pictures, unread = keep_pictures(geometry, folder) if corners is not None else ({}, [])
    warnings += [f"{name}: {problem}" for problem in unread]
    if corners is None and _is_textured(geometry):
        warnings.append(f"{name}: its picture is not taken over, since nothing says where on the part it lies")
    mesh = smooth_faces(points, triangles, corners=corners if pictures else None)
    block = mesh.to_bytes()
    (folder / content_hash(block)).write_bytes(block)
    color, opacity = _color(geometry)
    if "color" in pictures:
        color = mean_color(geometry) or color
    bounds = np.array([mesh.positions.min(axis=0), mesh.positions.max(axis=0)], float)
    return PartDefinition(
        key=key,
        name=name,
        mesh=content_hash(block),
        shape=None,
        triangles=len(triangles),
        solids=0 if health.open_edges else health.shells,
        volume=0.0 if health.open_edges else mesh.volume(),
        area=mesh.area(),
        bounds=tuple(map(tuple, bounds.tolist())),
        color=color,
        opacity=opacity,
        faces=describe_faces(mesh),
        outline=outermost(mesh.positions),
        defects=defects,
        material=_material(geometry),
        properties=_properties(geometry),
        pictures=pictures,
        finish=words.finishes.get(_material(geometry) or "", {}),
    )


def _clean(
    name: str, geometry: Any, scale: float, on_picture: Array | None
) -> tuple[Array, NDArray[np.int64], Health, Array | None]:
    """Points in mm, equal ones merged, and sound triangles, each once, facing outwards; the corners' coordinates."""
    points = np.asarray(geometry.vertices, np.float64) * scale
    triangles = np.asarray(geometry.faces, np.int64)
    if len(points) == 0 or len(triangles) == 0:
        return np.zeros((0, 3)), *mend(np.zeros((0, 3)), np.zeros((0, 3), np.int64)), None
    if triangles.min() < 0 or triangles.max() >= len(points):
        raise UnreadableFile(f"{name} has triangles between points that are not there: it is damaged. Export it again.")
    if not np.isfinite(points).all():
        raise UnreadableFile(f"{name} holds coordinates that are no numbers. Export it again.")
    if np.abs(points).max() > LARGEST_REACH:
        raise UnreadableFile(
            f"{name} reaches farther than {LARGEST_REACH / 1e6:.0f} km. Select another unit and try again."
        )
    size = float(np.ptp(points, axis=0).max()) or 1.0
    # A millionth of the size is the same point; twenty bits an axis make one number of the three.
    grid = np.round((points - points.min(axis=0)) / (size * 1e-6)).astype(np.int64)
    code = (grid[:, 0] << 42) | (grid[:, 1] << 21) | grid[:, 2]
    _, first, place = np.unique(code, return_index=True, return_inverse=True)
    merged = place.reshape(-1)[triangles]
    sound, health = mend(points[first], merged)
    if on_picture is None or not len(sound):
        return points[first], sound, health, None
    return points[first], sound, health, corners_after(merged, on_picture[triangles], sound)


def in_words(health: Health) -> list[str]:
    """What was wrong with a mesh and what was done about it, a phrase each."""
    dropped = health.without_area + health.twice
    found = []
    if dropped:
        found.append(f"{dropped} triangles without area or twice in place, skipped")
    if health.turned and health.turned == health.triangles - dropped:
        found.append("was inside out, turned")
    elif health.turned:
        found.append(f"{health.turned} of {health.triangles - dropped} triangles faced the wrong way, turned")
    if health.open_edges:
        found.append(f"open: {health.open_edges} edges with one side only")
    if health.crowded_edges:
        found.append(f"{health.crowded_edges} edges shared by three or more triangles")
    if health.one_sided:
        found.append("has no outside: it is wound like a Moebius strip")
    return found


def _color(geometry: Any) -> tuple[tuple[float, float, float] | None, float]:
    """Linear colour and opacity of a geometry's material, or the mean of its own colours."""
    visual = geometry.visual
    material = getattr(visual, "material", None)
    factor = getattr(material, "baseColorFactor", None)
    if factor is not None:
        value = np.asarray(factor, float) / (255.0 if np.asarray(factor).dtype.kind in "ui" else 1.0)
        return _triple(value), float(value[3]) if len(value) > 3 else 1.0
    if material is not None and hasattr(material, "diffuse"):
        return _from_srgb(np.asarray(material.diffuse, float) / 255.0)
    if getattr(visual, "kind", None) in ("face", "vertex"):
        colors = visual.face_colors if visual.kind == "face" else visual.vertex_colors
        return _from_srgb(np.asarray(colors, float).mean(axis=0) / 255.0)
    return None, 1.0


def _material(geometry: Any) -> str | None:
    name = getattr(getattr(geometry.visual, "material", None), "name", None)
    # The reader's own stand-in for a mesh without a material is nothing that the file says.
    return str(name)[:LONGEST] if name and not str(name).startswith("material_") else None


def _properties(geometry: Any) -> dict[str, str]:
    """What the file says of a geometry beyond its shape, such as a glTF mesh's extras; plain values only."""
    extras = geometry.metadata.get("extras") or {}
    plain = extras if isinstance(extras, dict) else {}
    return {str(k): str(v)[:LONGEST] for k, v in plain.items() if isinstance(v, str | int | float) and str(v)}


def _from_srgb(encoded: Array) -> tuple[tuple[float, float, float], float]:
    linear = np.where(encoded[:3] <= 0.04045, encoded[:3] / 12.92, ((encoded[:3] + 0.055) / 1.055) ** 2.4)
    return _triple(linear), float(encoded[3]) if len(encoded) > 3 else 1.0


def _triple(values: Array) -> tuple[float, float, float]:
    r, g, b = (round(float(v), 6) for v in values[:3])
    return r, g, b


def _is_textured(geometry: Any) -> bool:
    material = getattr(geometry.visual, "material", None)
    return any(getattr(material, name, None) is not None for name in PICTURED)


class Grower:
    """Turns the reader's scene graph into occurrences; nodes that hold nothing anywhere below are left out."""

    def __init__(self, scene: Any, keys: dict[str, str], scale: float, found: MeshFile, names: dict[str, str]) -> None:
        self.graph, self.keys, self.scale, self.found, self.names = scene.graph, keys, scale, found, names
        self.children: dict[str, list[str]] = {}
        for child, parent in self.graph.transforms.parents.items():
            self.children.setdefault(parent, []).append(child)

    def grow(self, root: Array) -> None:
        """Add all nodes below the base frame; `root` (4 x 4) takes the file's up axis to z."""
        base = self.graph.base_frame
        for top in self._below(base):
            self._place(top, None, root @ self._local(base, top), "")
        used = {node.definition for node in self.found.occurrences}
        for key in self.found.definitions.keys() - used:
            del self.found.definitions[key]

    def _below(self, node: str) -> list[str]:
        return sorted(self.children.get(node, []), key=str)

    def _local(self, parent: str, child: str) -> Array:
        matrix = np.array(self.graph.transforms.edge_data[(parent, child)].get("matrix", np.eye(4)), np.float64)
        matrix[:3, 3] *= self.scale
        return matrix

    def _place(self, node: str, parent: str | None, placement: Array, path: str) -> bool:
        """Whether the node holds a part, itself or below it."""
        path = f"{path}/{node}"
        uid = _uid(path)
        geometry = self.graph.transforms.node_data[node].get("geometry")
        definition = self.keys.get(geometry) if geometry is not None else None
        name = self.names.get(str(node), str(node))
        if definition is not None and NUMBERED.fullmatch(name):
            # The file gives the node no name, and the reader's number says nothing: the mesh may be named.
            name = self.found.definitions[definition].name
        below = self._below(node)
        if not below:
            if definition is not None:
                self.found.occurrences.append(_node(uid, parent, name, placement, definition))
            return definition is not None
        here = len(self.found.occurrences)
        self.found.occurrences.append(_node(uid, parent, name, placement, None))
        if definition is not None:
            # A sub-assembly has no surface of its own: the node's mesh becomes its first part.
            self.found.occurrences.append(_node(_uid(f"{path}#"), uid, str(geometry), np.eye(4), definition))
        held = [self._place(child, uid, self._local(node, child), path) for child in below]
        if definition is None and not any(held):
            del self.found.occurrences[here:]
            return False
        return True


def _uid(path: str) -> str:
    return "p" + hashlib.sha256(path.encode()).hexdigest()[:12]


def _node(uid: str, parent: str | None, name: str, placement: Array, definition: str | None) -> Occurrence:
    flat = [float(v) for v in placement.ravel()]
    return Occurrence(uid=uid, parent=parent, name=name, placement=flat, definition=definition)
