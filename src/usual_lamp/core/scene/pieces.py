"""Pieces of context made in place: boxes of given size with slightly broken edges, which catch the light."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from usual_lamp.core.assembly import Assembly, Face, Mesh, Occurrence, PartDefinition
from usual_lamp.core.assembly.creases import crease_segments
from usual_lamp.core.assembly.mesh import content_hash
from usual_lamp.core.assembly.outline import outermost
from usual_lamp.core.scene.document import Piece

Array = NDArray[np.float64]
PIECE_NAMES = {"wall": "Wall", "table top": "Tabletop", "plinth": "Plinth", "box": "Box"}
BREAK = 1.5
"""Width of the broken edge, mm; narrower on small pieces."""


def piece_assembly(piece: Piece, uid: str, name: str) -> tuple[Assembly, bytes]:
    """The piece as an assembly of one part, standing on z = 0 over its middle, and its mesh block."""
    mesh = _block(np.array(piece.size))
    block = mesh.to_bytes()
    width, depth, height = piece.size
    definition = PartDefinition(
        key="d1", name=name, mesh=content_hash(block), shape=None, triangles=len(mesh.triangles), solids=1,
        volume=width * depth * height, area=mesh.area(),
        bounds=((-width / 2, -depth / 2, 0.0), (width / 2, depth / 2, height)),
        outline=outermost(mesh.positions),
        faces=[
            Face(kind="plane", signature=f"{index:016x}", area=float(area), center=tuple(center.tolist()))
            for index, (area, center) in enumerate(_faces(mesh))
        ],
    )  # fmt: skip
    node = Occurrence(uid=uid, name=name, placement=np.eye(4).ravel().tolist(), definition="d1")
    return Assembly(name=name, chord=0.0, angle=0.0, definitions={"d1": definition}, occurrences=[node]), block


def _block(size: Array) -> Mesh:
    """Six sides, twelve bevels and eight corners, each flat, wound outwards."""
    half, bevel = size / 2, min(BREAK, float(size.min()) / 8)
    signs = np.array([[x, y, z] for x in (-1, 1) for y in (-1, 1) for z in (-1, 1)], float)
    # Each corner of the box gives three points: one on each of the sides that meet there.
    points = {}
    for corner in signs:
        for axis in range(3):
            inset = half - bevel
            inset[axis] = half[axis]
            points[(*corner, axis)] = corner * inset
    polygons = []
    for axis in range(3):
        for side in (-1.0, 1.0):
            polygons.append([points[(*c, axis)] for c in signs if c[axis] == side])
            a, b = [k for k in range(3) if k != axis]
            for other in (-1.0, 1.0):
                ends = [c for c in signs if c[a] == side and c[b] == other]
                polygons.append([points[(*c, k)] for c in ends for k in (a, b)])
    polygons += [[points[(*c, axis)] for axis in range(3)] for c in signs]
    return _flat_faces(polygons, -half[2])


def _flat_faces(polygons: list[list[Array]], floor: float) -> Mesh:
    positions: list[Array] = []
    normals: list[Array] = []
    triangles: list[tuple[int, int, int]] = []
    ranges: list[tuple[int, int]] = []
    for polygon in polygons:
        corners = np.array(polygon)
        middle = corners.mean(axis=0)
        _, _, axes = np.linalg.svd(corners - middle)
        normal = axes[2] * (1.0 if axes[2] @ middle > 0 else -1.0)
        across = axes[0]
        along = np.cross(normal, across)
        turn = np.arctan2((corners - middle) @ along, (corners - middle) @ across)
        first = len(positions)
        positions += list(corners[np.argsort(turn)])
        normals += [normal] * len(corners)
        ranges.append((len(triangles), len(corners) - 2))
        triangles += [(first, first + k, first + k + 1) for k in range(1, len(corners) - 1)]
    placed = np.array(positions) - [0.0, 0.0, floor]
    arrays = placed.astype(np.float32), np.array(normals, np.float32), np.array(triangles, np.uint32)
    return Mesh(*arrays, np.array(ranges, np.uint32), crease_segments(*arrays))


def _faces(mesh: Mesh) -> list[tuple[float, Array]]:
    found = []
    for first, count in mesh.face_ranges.tolist():
        corners = mesh.positions[mesh.triangles[first : first + count]].astype(np.float64)
        areas = np.linalg.norm(np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]), axis=1) / 2
        found.append((float(areas.sum()), areas @ corners.mean(axis=1) / max(float(areas.sum()), 1e-12)))
    return found
