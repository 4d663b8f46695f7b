"""What ours is measured against: Mitsuba's own path tracer with its own surfaces, set up as cheaply as it can be.

It runs in a process of its own. Mitsuba records every shape that a process has made whenever it records a kernel, so
beside one of our worlds, with an instance for each screw, it would seem up to twenty times as slow.
"""

from __future__ import annotations

import multiprocessing
import time
from multiprocessing.connection import Connection

import numpy as np
from numpy.typing import NDArray

from benchmarks.scenes import frozen
from usual_lamp.core.scene.resolution import TraceInputs
from usual_lamp.core.trace.engine import dr, mi
from usual_lamp.core.trace.world.geometry import Piece, build, cut, floor_piece
from usual_lamp.core.trace.world.world import MeshOf, World, emission

Numbers = NDArray[np.float32]
GUIDED = 8
"""Samples from which it gets its guides; with fewer its denoised pictures get worse."""


class Stock:
    """One of the frozen scenes with stock surfaces, traced bare, in another process."""

    def __init__(self, scene: str, size: tuple[int, int]) -> None:
        """`scene` is its name in `scenes.frozen`."""
        self._ours, theirs = multiprocessing.Pipe()
        spawn = multiprocessing.get_context("spawn")
        self._process = spawn.Process(target=_serve, args=(theirs, scene, size), daemon=True)
        self._process.start()

    def run(self, samples: int, seed: int, guided: bool = False) -> tuple[float, Numbers]:
        """CPU seconds and means, (H, W, 3); with its guides from a few samples of their own, (H, W, 9)."""
        self._ours.send((samples, seed, guided))
        return self._ours.recv()  # type: ignore[no-any-return]

    def end(self) -> None:
        """End the process."""
        self._ours.send(None)
        self._process.join()


def _serve(asked: Connection, name: str, size: tuple[int, int]) -> None:
    scene = next(one for one in frozen(size) if one.name == name)
    stock = stock_scene(scene.inputs, size, scene.mesh_of)
    path = mi.load_dict({"type": "path", "max_depth": 12, "rr_depth": 5})
    guides = mi.load_dict({"type": "aov", "aovs": "albedo:albedo,normal:sh_normal"})
    for samples, seed, guided in iter(asked.recv, None):
        began = time.process_time()
        image = mi.render(stock, integrator=path, spp=samples, seed=seed)
        found = [image] + [mi.render(stock, integrator=guides, spp=min(samples, GUIDED), seed=seed)] * guided
        dr.eval(*found)
        means = [np.array(one, np.float32) for one in found]
        means = [means[0][..., :3], *(one[..., -6:] for one in means[1:])]
        asked.send((time.process_time() - began, np.concatenate(means, axis=2)))


def stock_scene(inputs: TraceInputs, size: tuple[int, int], mesh_of: MeshOf) -> mi.Scene:
    """The same meshes, map, light of glowing parts and camera, with stock surfaces."""
    camera, world = inputs.camera, World(inputs.model_copy(update={"parts": []}), mesh_of)
    scene: dict[str, object] = {
        "type": "scene",
        "integrator": {"type": "path", "max_depth": 12, "rr_depth": 5},
        "surroundings": {
            "type": "envmap",
            "bitmap": mi.Bitmap(np.ascontiguousarray(world.map[:, ::-1] * np.float32(inputs.lighting.brightness))),
            "to_world": mi.ScalarTransform4f(map_to_world(inputs.lighting.turn)),
        },
        "sensor": {
            "type": "perspective",
            "fov": float(np.degrees(2 * np.arctan(camera.half_tangents(size[0] / size[1])[0]))),
            "fov_axis": "x",
            "to_world": mi.ScalarTransform4f().look_at(list(camera.position), list(camera.target), [0, 0, 1]),
            "film": {"type": "hdrfilm", "width": size[0], "height": size[1], "rfilter": {"type": "box"}},
            "sampler": {"type": "multijitter"},
        },
    }
    bsdfs = [mi.load_dict(principled(a.params)) for a in inputs.appearances]
    floor = stock_mesh(floor_piece(inputs), np.zeros(3))
    floor.set_bsdf(mi.load_dict({"type": "principled", "base_color": rgb(world.floor_albedo), "roughness": 0.4}))
    scene["floor"] = floor
    # One mesh for each appearance: the fewer shapes there are, the less the peer records.
    pieces: dict[int, list[Piece]] = {}
    for part in inputs.parts:
        for number, key, _ in cut(part, inputs.appearances):
            pieces.setdefault(number, []).append(build(key, mesh_of(part.mesh)))
    for number, parts in pieces.items():
        shape = stock_mesh(joined(parts), emission(inputs.appearances[number]))
        shape.set_bsdf(bsdfs[number])
        scene[f"shape{number}"] = shape
    return mi.load_dict(scene)


def joined(pieces: list[Piece]) -> Piece:
    """All as one."""
    first = np.cumsum([0, *(len(piece.positions) for piece in pieces[:-1])])
    triangles = [piece.triangles + np.uint32(start) for piece, start in zip(pieces, first, strict=True)]
    positions, normals = (np.concatenate([piece[k] for piece in pieces]) for k in (0, 1))
    return Piece(positions, normals, np.concatenate(triangles))


def map_to_world(turn: float) -> NDArray[np.float64]:
    """Rotation from Mitsuba's y-up map frame to the z-up world, turned about the vertical by degrees."""
    c, s = np.cos(np.radians(turn)), np.sin(np.radians(turn))
    upright = np.array([[1.0, 0, 0, 0], [0, 0, -1.0, 0], [0, 1.0, 0, 0], [0, 0, 0, 1.0]])
    return np.array([[c, -s, 0, 0], [s, c, 0, 0], [0, 0, 1.0, 0], [0, 0, 0, 1.0]]) @ upright


def stock_mesh(piece: Piece, radiance: NDArray[np.float64]) -> mi.Mesh:
    """The same mesh; with a radiance it is an area light."""
    props = mi.Properties()
    if radiance.any():
        props["light"] = mi.load_dict({"type": "area", "radiance": rgb(radiance)})
    mesh = mi.Mesh("part", len(piece[0]), len(piece[2]), props, has_vertex_normals=True)
    params = mi.traverse(mesh)
    for name, array in zip(("vertex_positions", "vertex_normals"), piece, strict=False):
        params[name] = mi.Float(array.astype(np.float32).ravel())
    params["faces"] = mi.UInt32(piece[2].ravel())
    params.update()
    return mesh


def rgb(color: object) -> dict[str, object]:
    return {"type": "rgb", "value": [float(v) for v in np.asarray(color)]}


def principled(p: object) -> dict[str, object]:
    return {
        "type": "principled",
        "base_color": rgb(p.transmission_color if p.transmission_weight else p.base_color),  # type: ignore[attr-defined]
        "metallic": p.base_metalness,  # type: ignore[attr-defined]
        "roughness": max(p.specular_roughness, 0.03),  # type: ignore[attr-defined]
        "eta": max(p.specular_ior, 1.01),  # type: ignore[attr-defined]
        "spec_trans": p.transmission_weight,  # type: ignore[attr-defined]
        "clearcoat": p.coat_weight,  # type: ignore[attr-defined]
    }
