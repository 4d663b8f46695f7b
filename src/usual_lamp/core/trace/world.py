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
from usual_lamp.core.trace.table import AppearanceTable

FLOOR_REACH = 14.0
"""Radius of the floor disc in model radii; beyond it the backdrop takes over."""

MapToWorld = NDArray[np.float64]
MeshOf = Callable[[str], Mesh]


class World:
    """A Mitsuba scene plus the tables and numbers that our integrator reads."""

    def __init__(
        self, inputs: TraceInputs, mesh_of: MeshOf, surroundings: NDArray[np.float32] | None = None
    ) -> None:
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

        shapes, numbers = [], []
        for part in inputs.parts:
            for number, shape in part_shapes(part, mesh_of(part.mesh), inputs.appearances):
                shapes.append(shape)
                numbers.append(number)
        if lighting.floor:
            shapes.append(floor_shape(inputs))
            numbers.append(self.floor_index)
        light = surroundings if surroundings is not None else surroundings_map(lighting.surroundings)
        light = light * np.float32(lighting.brightness)
        self.floor_albedo = np.clip(
            self.bottom * np.pi / np.maximum(irradiance(light, (0, 0, 1)), 1e-6), 0.0, 0.95
        )
        if surroundings is None:
            light = light.copy()
            light[light.shape[0] // 2 :] = self.bottom
        self.light = light
        scene = {f"shape{i}": shape for i, shape in enumerate(shapes)}
        self.scene = mi.load_dict(
            {"type": "scene", "surroundings": surroundings_emitter(light, lighting.turn), **scene}
        )
        self.shape_numbers = number_table(self.scene, shapes, numbers)

    def appearance_of(self, si: mi.SurfaceInteraction3f, active: mi.Bool) -> mi.UInt32:
        """Table index of the appearance at a hit."""
        shape = dr.reinterpret_array(mi.UInt32, si.shape)
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


def part_shapes(part: TracePart, mesh: Mesh, appearances: list[Appearance]) -> list[tuple[int, mi.Mesh]]:
    """One shape for each appearance the part wears, in world space."""
    matrix = np.array(part.matrix).reshape(4, 4)
    positions = mesh.positions @ matrix[:3, :3].T.astype(np.float32) + matrix[:3, 3].astype(np.float32)
    normals = mesh.normals @ np.linalg.inv(matrix[:3, :3]).astype(np.float32)
    normals /= np.maximum(np.linalg.norm(normals, axis=1, keepdims=True), 1e-12)
    mirrored = np.linalg.det(matrix[:3, :3]) < 0
    wears = np.full(len(mesh.face_ranges), part.appearance)
    for face, number in part.faces.items():
        wears[face] = number
    of_triangle = np.repeat(wears, mesh.face_ranges[:, 1])
    shapes = []
    for number in np.unique(of_triangle):
        triangles = mesh.triangles[of_triangle == number]
        used, flat = np.unique(triangles, return_inverse=True)
        triangles = flat.reshape(-1, 3).astype(np.uint32)
        if mirrored:
            triangles = triangles[:, ::-1]
        emission = np.multiply(
            appearances[number].params.emission_color, appearances[number].params.emission_luminance
        )
        shapes.append((int(number), mesh_shape(positions[used], normals[used], triangles, emission)))
    return shapes


def mesh_shape(
    positions: NDArray[np.float32],
    normals: NDArray[np.float32],
    triangles: NDArray[np.uint32],
    emission: NDArray[np.float64] | None = None,
) -> mi.Mesh:
    """A Mitsuba mesh from (V, 3) mm, (V, 3) and (T, 3); with an emission (cd/m², RGB) it is an area light."""
    props = mi.Properties()
    if emission is not None and emission.any():
        radiance = {"type": "rgb", "value": [float(v) for v in emission]}
        props["light"] = mi.load_dict({"type": "area", "radiance": radiance, "sampling_weight": 0.15})
    mesh = mi.Mesh("part", len(positions), len(triangles), props, has_vertex_normals=True)
    params = mi.traverse(mesh)
    params["vertex_positions"] = mi.Float(np.ascontiguousarray(positions, np.float32).ravel())
    params["vertex_normals"] = mi.Float(np.ascontiguousarray(normals, np.float32).ravel())
    params["faces"] = mi.UInt32(np.ascontiguousarray(triangles, np.uint32).ravel())
    params.update()
    return mesh


def floor_shape(inputs: TraceInputs) -> mi.Shape:
    x, y, _ = inputs.center
    reach = inputs.radius * FLOOR_REACH
    place = mi.ScalarTransform4f().translate([x, y, inputs.floor_height - inputs.radius * 2e-4]).scale(reach)
    return mi.load_dict({"type": "disk", "to_world": place})


def map_to_world(turn: float) -> MapToWorld:
    """Rotation from Mitsuba's y-up map frame to the z-up world, turned about the vertical by degrees."""
    c, s = np.cos(np.radians(turn)), np.sin(np.radians(turn))
    upright = np.array([[1.0, 0, 0, 0], [0, 0, -1.0, 0], [0, 1.0, 0, 0], [0, 0, 0, 1.0]])
    return np.array([[c, -s, 0, 0], [s, c, 0, 0], [0, 0, 1.0, 0], [0, 0, 0, 1.0]]) @ upright


def surroundings_emitter(light: NDArray[np.float32], turn: float) -> dict[str, object]:
    flipped = np.ascontiguousarray(light[:, ::-1])
    return {
        "type": "envmap",
        "bitmap": mi.Bitmap(flipped),
        "to_world": mi.ScalarTransform4f(map_to_world(turn)),
        "sampling_weight": 1.0,
    }
