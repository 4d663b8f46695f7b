"""The frozen inputs of the benchmarks: the demo as in its review, as1-oc-214, a tray of 1,000 turned parts."""

from __future__ import annotations

import fnmatch
import os
from collections.abc import Iterator
from dataclasses import dataclass
from functools import lru_cache
from pathlib import Path

import numpy as np
from demo.appearances import DEMO_APPEARANCES
from demo.files import demo_files

from usual_lamp.core.appearance import SHELF, Appearance
from usual_lamp.core.assembly import Mesh
from usual_lamp.core.camera import frame_points, three_quarter
from usual_lamp.core.intake import IntakeResult, take_in
from usual_lamp.core.scene import Assign, Lighting, apply_edit, first_scene, trace_inputs
from usual_lamp.core.scene.resolution import DEFAULT_SHOT, TraceInputs, TracePart
from usual_lamp.core.trace.world.world import MeshOf

CACHE = Path(os.environ.get("USUAL_LAMP_CACHE", "/tmp/usual-lamp-cache")) / "benchmarks"
AS1 = Path(__file__).parents[1] / "tests/data/node_modules/occt-import-js/test/testfiles/cax-if/as1-oc-214.stp"
"""Fetched by `./lamp test`."""


def demo_file() -> Path:
    return demo_files()[0]


@dataclass(frozen=True)
class Frozen:
    """A scene to measure on."""

    name: str
    inputs: TraceInputs
    mesh_of: MeshOf


@lru_cache(maxsize=1)
def demo() -> IntakeResult:
    return take_in(demo_file(), CACHE / "demo-intake", name="demo")


def demo_inputs(size: tuple[int, int]) -> TraceInputs:
    assembly = demo().assembly
    uids = {part.uid for part in assembly.parts()}
    scene = first_scene(assembly, "benchmark", size)
    for pattern, name in DEMO_APPEARANCES:
        found = [part.uid for part in assembly.parts() if fnmatch.fnmatch(part.name, pattern)]
        edit = Assign(assignments=dict.fromkeys(found, name), define={name: SHELF[name]})
        scene, _ = apply_edit(scene, edit, uids)
    return plainly_lit(trace_inputs(assembly, scene, scene.shots[DEFAULT_SHOT], size))


def plainly_lit(inputs: TraceInputs) -> TraceInputs:
    """Lit by surroundings alone, as when the first figures were taken; lamps have figures of their own."""
    return inputs.model_copy(update={"lighting": Lighting()})


def mesh_of(key: str) -> Mesh:
    return Mesh.from_bytes(demo().blobs[key].read_bytes())


def as1(size: tuple[int, int]) -> Frozen:
    """The public assembly of the CAx Implementor Forum, in the colours that its file gives."""
    found = take_in(AS1, CACHE / "as1-intake", name="as1", quality="fine")
    scene = first_scene(found.assembly, "benchmark", size)
    inputs = plainly_lit(trace_inputs(found.assembly, scene, scene.shots[DEFAULT_SHOT], size))
    return Frozen("as1-oc-214", inputs, lambda key: Mesh.from_bytes(found.blobs[key].read_bytes()))


TURNED, AROUND, TRAY = 20, 25, (40, 25)
"""Rings and segments of a turned part, which has 2 x TURNED x AROUND triangles; parts of the tray each way."""


def turned_part() -> Mesh:
    """A knob with a groove, 8 mm across, closed at both ends."""
    t = np.linspace(0, 1, TURNED + 1)
    radius = np.sin(np.pi * t) ** 0.35 * (4 - 1.2 * np.exp(-(((t - 0.7) / 0.06) ** 2)))
    radius[[0, -1]] = 1e-3
    slope = np.gradient(radius, t * 8)
    angle = np.arange(AROUND + 1) * 2 * np.pi / AROUND
    ring = np.stack([np.cos(angle), np.sin(angle)], axis=1)
    points = np.concatenate([np.c_[ring * r, np.full(AROUND + 1, z)] for r, z in zip(radius, t * 8, strict=True)])
    normals = np.concatenate([np.c_[ring, np.full(AROUND + 1, -k)] for k in np.clip(slope, -20, 20)])
    normals /= np.linalg.norm(normals, axis=1, keepdims=True)
    first = (np.arange(TURNED)[:, None] * (AROUND + 1) + np.arange(AROUND)).ravel()
    a, b, c, d = first, first + 1, first + AROUND + 2, first + AROUND + 1
    triangles = np.concatenate([np.stack([a, b, c], 1), np.stack([a, c, d], 1)]).astype(np.uint32)
    ranges = np.array([[0, len(triangles)]], np.uint32)
    empty = np.zeros((0, 2, 3), np.float32)
    return Mesh(points.astype(np.float32), normals.astype(np.float32), triangles, ranges, empty)


def different_appearances(different: int) -> list[Appearance]:
    palette = list(SHELF.values())[:7]

    def another(k: int) -> Appearance:
        params = palette[k % 7].params.model_copy(update={"specular_roughness": 0.1 + 0.5 * k / different})
        return palette[k % 7].model_copy(update={"id": f"worn-{k}", "params": params})

    return [another(k) for k in range(different)]


def tray(
    size: tuple[int, int], different: int | list[Appearance] = 12, across: tuple[int, int] = TRAY, name: str = "tray"
) -> Frozen:
    """1,000 parts of 1,000 triangles each, unless it is wider, in so many different appearances, or in these."""
    mesh = turned_part()
    worn = different_appearances(different) if isinstance(different, int) else different
    parts = []
    for k in range(across[0] * across[1]):
        matrix = np.eye(4)
        matrix[:2, 3] = (k % across[0]) * 10.0, (k // across[0]) * 10.0
        parts.append(TracePart(mesh="knob", matrix=tuple(matrix.ravel()), appearance=k % len(worn)))
    corners = np.array([[x, y, z] for x in (0, across[0] * 10) for y in (0, across[1] * 10) for z in (0, 8)], float)
    camera = frame_points(corners, three_quarter(elevation=40), 70.0, size[0] / size[1])
    center = tuple(float(v) for v in corners.mean(axis=0))
    inputs = TraceInputs(
        parts=parts, appearances=worn, lighting=Lighting(), camera=camera, width=size[0], height=size[1],
        floor_height=0.0, center=center, radius=float(np.ptp(corners, axis=0).max()) / 2,
    )  # fmt: skip
    return Frozen(name, inputs, lambda _: mesh)


def frozen(size: tuple[int, int]) -> Iterator[Frozen]:
    """The three scenes, one after the other."""
    yield Frozen("demo", demo_inputs(size), mesh_of)
    yield as1(size)
    yield tray(size)
