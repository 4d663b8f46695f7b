"""From resolved trace inputs to a Mitsuba scene: geometry, appearance numbers, surroundings, floor."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray

from usual_lamp.core.appearance import NEUTRAL, Appearance, hex_to_linear
from usual_lamp.core.assembly import Mesh
from usual_lamp.core.camera import exposure_scale
from usual_lamp.core.light import irradiance, surroundings_map
from usual_lamp.core.light.surroundings import REFERENCE_EV
from usual_lamp.core.scene.resolution import TraceInputs, TracePart
from usual_lamp.core.trace.engine import dr, mi
from usual_lamp.core.trace.lights import Glow, Lights, Surroundings
from usual_lamp.core.trace.table import AppearanceTable

FLOOR_REACH = 14.0
"""Half side of the floor in model radii; it has faded into the backdrop before that."""

MeshOf = Callable[[str], Mesh]


class World:
    """A Mitsuba scene plus the tables and numbers that our integrator reads."""

    def __init__(self, inputs: TraceInputs, mesh_of: MeshOf, surroundings: NDArray[np.float32] | None = None) -> None:
        """`surroundings` replaces the lighting's map (H, W, 3 in cd/m², as in `light`); used for measurements."""
        self.inputs = inputs
        lighting = inputs.lighting
        backdrop = lighting.backdrop
        level = lighting.brightness / exposure_scale(REFERENCE_EV)
        self.bottom = np.array(hex_to_linear(backdrop.bottom)) * level
        top = backdrop.top if backdrop.kind == "gradient" else backdrop.bottom
        self.top = np.array(hex_to_linear(top)) * level
        self.appearances = [*inputs.appearances, NEUTRAL]
        self.floor_index = len(inputs.appearances)
        self.has_floor = lighting.floor
        self.has_clear = any(is_clear(a) for a in inputs.appearances)
        self.table = AppearanceTable(self.appearances)

        shapes, numbers, glowing = [], [], []
        for part in inputs.parts:
            for number, piece in pieces_of(part, mesh_of(part.mesh)):
                shapes.append(mesh_shape(*piece))
                numbers.append(number)
                radiance = emission(inputs.appearances[number])
                if radiance.any():
                    corners = piece[0][piece[2]]
                    glowing.append((corners, np.broadcast_to(radiance, (len(corners), 3))))
        if lighting.floor:
            shapes.append(mesh_shape(*floor_piece(inputs)))
            numbers.append(self.floor_index)
        light = surroundings if surroundings is not None else surroundings_map(lighting.surroundings)
        light = light * np.float32(lighting.brightness)
        self.floor_albedo = np.clip(self.bottom * np.pi / np.maximum(irradiance(light, (0, 0, 1)), 1e-6), 0.0, 0.95)
        if surroundings is None:
            light = light.copy()
            light[light.shape[0] // 2 :] = self.bottom
        self.light = light
        glow = Glow(*(np.concatenate(arrays) for arrays in zip(*glowing, strict=True))) if glowing else None
        self.lights = Lights(Surroundings(light, lighting.turn), glow)
        self.scene = mi.load_dict({"type": "scene", **{f"shape{i}": shape for i, shape in enumerate(shapes)}})
        self.shape_numbers = number_table(self.scene, shapes, numbers)

    def appearance_of(self, hit: mi.SurfaceInteraction3f | mi.PreliminaryIntersection3f, active: mi.Bool) -> mi.UInt32:
        """Table index of the appearance at a hit."""
        shape = dr.reinterpret_array(mi.UInt32, hit.shape)
        return dr.gather(mi.UInt32, self.shape_numbers, shape, active)


def is_clear(appearance: Appearance) -> bool:
    return appearance.params.transmission_weight > 0


def number_table(scene: mi.Scene, shapes: list[mi.Shape], numbers: list[int]) -> mi.UInt32:
    """Appearance index by the shape's registry number."""
    ids = [int(dr.reinterpret_array(mi.UInt32, mi.ShapePtr(shape))[0]) for shape in shapes]
    table = np.zeros(max([*ids, 0]) + 1, np.uint32)
    table[ids] = numbers
    result = mi.UInt32(table)
    dr.make_opaque(result)
    return result


Piece = tuple[NDArray[np.float32], NDArray[np.float32], NDArray[np.uint32]]
"""World positions (V, 3) mm, normals (V, 3), triangles (T, 3)."""


def pieces_of(part: TracePart, mesh: Mesh) -> list[tuple[int, Piece]]:
    """One piece for each appearance the part wears, in world space."""
    matrix = np.array(part.matrix).reshape(4, 4)
    positions = mesh.positions @ matrix[:3, :3].T.astype(np.float32) + matrix[:3, 3].astype(np.float32)
    normals = mesh.normals @ np.linalg.inv(matrix[:3, :3]).astype(np.float32)
    normals /= np.maximum(np.linalg.norm(normals, axis=1, keepdims=True), 1e-12)
    mirrored = np.linalg.det(matrix[:3, :3]) < 0
    wears = np.full(len(mesh.face_ranges), part.appearance)
    for face, number in part.faces.items():
        wears[face] = number
    of_triangle = np.repeat(wears, mesh.face_ranges[:, 1])
    pieces = []
    for number in np.unique(of_triangle):
        used, flat = np.unique(mesh.triangles[of_triangle == number], return_inverse=True)
        triangles = flat.reshape(-1, 3).astype(np.uint32)
        piece = (positions[used], normals[used], triangles[:, ::-1] if mirrored else triangles)
        pieces.append((int(number), piece))
    return pieces


def emission(appearance: Appearance) -> NDArray[np.float64]:
    """Radiance in cd/m², linear Rec. 709."""
    return np.multiply(appearance.params.emission_color, appearance.params.emission_luminance)


def mesh_shape(positions: NDArray[np.float32], normals: NDArray[np.float32], triangles: NDArray[np.uint32]) -> mi.Mesh:
    mesh = mi.Mesh("part", len(positions), len(triangles), has_vertex_normals=True)
    params = mi.traverse(mesh)
    params["vertex_positions"] = mi.Float(np.ascontiguousarray(positions, np.float32).ravel())
    params["vertex_normals"] = mi.Float(np.ascontiguousarray(normals, np.float32).ravel())
    params["faces"] = mi.UInt32(np.ascontiguousarray(triangles, np.uint32).ravel())
    params.update()
    return mesh


def floor_piece(inputs: TraceInputs) -> Piece:
    """A square a hair below the product; triangles like all else, which keeps the ray kernels of one kind."""
    x, y, _ = inputs.center
    reach, z = inputs.radius * FLOOR_REACH, inputs.floor_height - inputs.radius * 2e-4
    corners = [(x + reach * i, y + reach * j, z) for i, j in ((-1, -1), (1, -1), (1, 1), (-1, 1))]
    up = np.tile(np.array([0.0, 0.0, 1.0], np.float32), (4, 1))
    return np.array(corners, np.float32), up, np.array([[0, 1, 2], [0, 2, 3]], np.uint32)
