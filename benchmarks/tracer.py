"""Our tracer against the best stock configuration of Mitsuba on the demo: CPU time, and error for the same time.

Stock: `path` with next-event estimation and MIS, `principled` surfaces, box filter, the multijitter sampler in one
pass, the same meshes, map, lights and camera. Each engine is compared with its own reference.
"""

from __future__ import annotations

import statistics
import time
from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray

from benchmarks.scenes import CACHE, demo_inputs, mesh_of
from usual_lamp.core.engine_version import ENGINE_VERSION
from usual_lamp.core.scene.resolution import TraceInputs
from usual_lamp.core.trace.engine import dr, mi
from usual_lamp.core.trace.plan import Tile
from usual_lamp.core.trace.transport.tiles import trace_block
from usual_lamp.core.trace.world.geometry import Piece, build, cut, floor_piece
from usual_lamp.core.trace.world.world import MeshOf, World, emission

SIZE = (320, 240)
SAMPLES, REFERENCE, RUNS = 64, 2048, 5
WHOLE = Tile(0, 0, *SIZE)
Image = NDArray[np.float32]


def stock_scene(inputs: TraceInputs, world: World, size: tuple[int, int] = SIZE, mesh_of: MeshOf = mesh_of) -> mi.Scene:
    camera = inputs.camera
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
    count = 0
    for part in inputs.parts:
        for number, key, _ in cut(part, inputs.appearances):
            piece = build(key, mesh_of(part.mesh))
            if not len(piece[2]):
                continue
            shape = stock_mesh(piece, emission(inputs.appearances[number]))
            shape.set_bsdf(bsdfs[number])
            scene[f"shape{count}"] = shape
            count += 1
    return mi.load_dict(scene)


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


def timed(*runs: Callable[[int], Image]) -> list[tuple[float, Image]]:
    """Median CPU seconds and the last picture of each, after one run that compiles; they take turns, so that a machine
    that slows down slows them all."""
    spent: list[list[float]] = [[] for _ in runs]
    pictures = [run(0) for run in runs]
    for seed in range(1, RUNS + 1):
        for k, run in enumerate(runs):
            began = time.process_time()
            pictures[k] = run(seed)
            spent[k].append(time.process_time() - began)
    return [(statistics.median(times), picture) for times, picture in zip(spent, pictures, strict=True)]


def error(picture: Image, reference: Image) -> float:
    """Relative mean squared error, the brightest 0.1 percent of pixels left out (fireflies of either engine)."""
    squares = ((picture - reference) ** 2 / (reference**2 + (0.02 * reference.mean()) ** 2)).mean(axis=2).ravel()
    return float(np.sort(squares)[: int(len(squares) * 0.999)].mean())


def reference(name: str, run: Callable[[int], Image]) -> Image:
    """The mean of many passes with different seeds, computed once and kept."""
    file = CACHE / f"{name}-{ENGINE_VERSION}-{SIZE[0]}x{SIZE[1]}-{REFERENCE}.npy"
    if not file.exists():
        total = sum(np.asarray(run(1000 + k), np.float64) for k in range(REFERENCE // SAMPLES))
        np.save(file, (total / (REFERENCE // SAMPLES)).astype(np.float32))
    return np.load(file)  # type: ignore[no-any-return]


def main() -> None:
    inputs = demo_inputs(SIZE)
    world = World(inputs, mesh_of)
    stock = stock_scene(inputs, world)

    def ours(seed: int) -> Image:
        return trace_block(world, WHOLE, 0, SAMPLES, seed)[..., :3] / SAMPLES

    def theirs(seed: int) -> Image:
        image = mi.render(stock, spp=SAMPLES, seed=seed)
        dr.eval(image)
        return np.array(image)[..., :3]

    (our_time, our_picture), (stock_time, stock_picture) = timed(ours, theirs)
    our_error = error(our_picture, reference("ours", ours))
    stock_error = error(stock_picture, reference("stock", theirs))
    efficiency = (stock_error * stock_time) / (our_error * our_time)
    print(f"demo, {SIZE[0]}x{SIZE[1]}, {SAMPLES} samples, median of {RUNS}")
    print(f"  CPU s     ours {our_time:.2f}   stock {stock_time:.2f}   ratio {our_time / stock_time:.2f} (at most 1.1)")
    print(f"  relMSE    ours {our_error:.5f}   stock {stock_error:.5f}")
    print(f"  1 / (error x CPU s), ours over stock: {efficiency:.2f} (at least 1)")


if __name__ == "__main__":
    main()
