"""Finish plates: a small bent, drilled plate that shows what an appearance does on flat, radius, edge and hole.

The plate is 40 x 40 mm, 1.6 mm thick, its front 12 mm bent down over a radius of 5 mm, with a hole of 8 mm.
"""

from __future__ import annotations

from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from usual_lamp.core.appearance import Appearance
from usual_lamp.core.assembly import Mesh
from usual_lamp.core.camera import Camera, Finish
from usual_lamp.core.picture import FastDenoiser, Layers, denoise, finish
from usual_lamp.core.scene import Backdrop, Lighting
from usual_lamp.core.scene.resolution import TraceInputs, TracePart
from usual_lamp.core.trace.jobs.still import trace_still
from usual_lamp.core.trace.world.atlas import PictureOf
from usual_lamp.core.trace.world.kept import Kept
from usual_lamp.core.trace.world.world import World

WIDTH, DEPTH, THICK, RADIUS, LIP = 40.0, 30.0, 1.6, 5.0, 9.0
HOLE = np.array([9.0, 19.0])
HOLE_RADIUS = 4.2
CAMERA = Camera(position=(-46.0, -128.0, 92.0), target=(0.0, 9.0, 9.3), focal_length=122.0)
Array = NDArray[np.float64]


def rectangle_point(angle: Array) -> Array:
    """Where rays from the hole's centre meet the border of the flat part, (N, 2)."""
    d = np.stack([np.cos(angle), np.sin(angle)], axis=1)
    high = (np.array([WIDTH / 2, DEPTH]) - HOLE) / np.where(d > 0, d, np.inf)
    low = (np.array([-WIDTH / 2, 0.0]) - HOLE) / np.where(d < 0, d, np.inf)
    reach = np.where(d > 0, high, np.where(d < 0, low, np.inf)).min(axis=1)
    return HOLE + d * reach[:, None]


def grid(points: Array, normals: Array) -> tuple[Array, Array, NDArray[np.uint32]]:
    """Triangulate an (n, m, 3) grid of points with (n, m, 3) normals, wound to agree with them."""
    n, m = points.shape[:2]
    index = np.arange(n * m).reshape(n, m)
    a, b, c, d = index[:-1, :-1], index[1:, :-1], index[1:, 1:], index[:-1, 1:]
    quads = np.stack([a, b, c, a, c, d], axis=-1).reshape(-1, 3).astype(np.uint32)
    flat, towards = points.reshape(-1, 3), normals.reshape(-1, 3)
    p, q, r = (flat[quads[:, k]] for k in range(3))
    inverted = np.einsum("ij,ij->", np.cross(q - p, r - p), towards[quads[:, 0]]) < 0
    return flat, towards, quads[:, ::-1] if inverted else quads


def profile(offset: float) -> tuple[Array, Array]:
    """Bend and lip as (n, 2) points in (y, z) with normals; `offset` 0 is the outer skin, -THICK the inner."""
    turn = np.linspace(0, np.pi / 2, 17)
    normal = np.stack([-np.sin(turn), np.cos(turn)], axis=1)
    bend = np.array([0.0, -RADIUS]) + normal * (RADIUS + offset)
    lip = bend[-1] + np.array([0.0, -LIP])
    return np.vstack([bend, lip]), np.vstack([normal, normal[-1]])


def sheets() -> list[tuple[Array, Array, NDArray[np.uint32]]]:
    """Return points (mm), normals and triangles of the front and back of the plate."""
    corners = np.arctan2(*(np.array([[x, y] for x in (-WIDTH / 2, WIDTH / 2) for y in (0, DEPTH)]) - HOLE).T[::-1])
    angles = np.sort(np.r_[np.linspace(-np.pi, np.pi, 97), corners])
    rim = HOLE + HOLE_RADIUS * np.stack([np.cos(angles), np.sin(angles)], axis=1)
    border = rectangle_point(angles)
    found = []
    up = np.array([0.0, 0.0, 1.0])
    for z, sign in ((0.0, 1.0), (-THICK, -1.0)):
        ring = np.stack([np.c_[p, np.full(len(p), z)] for p in (rim, border)])
        found.append(grid(ring, np.broadcast_to(up * sign, ring.shape)))
    across = np.array([-WIDTH / 2, WIDTH / 2])
    for offset, sign in ((0.0, 1.0), (-THICK, -1.0)):
        line, normal = profile(offset)
        points = np.stack([np.c_[np.full(len(line), x), line] for x in across])
        normals = np.stack([np.c_[np.zeros(len(line)), normal * sign]] * 2)
        found.append(grid(points, normals))
    found += walls(rim, border, angles)
    return found


def walls(rim: Array, border: Array, angles: Array) -> list[tuple[Array, Array, NDArray[np.uint32]]]:
    """The hole's bore, the straight edges round the flat, the ends of the bend and the lip's lower edge."""
    outward = np.stack([np.cos(angles), np.sin(angles), np.zeros(len(angles))], axis=1)
    bore = np.stack([np.c_[rim, np.full(len(rim), z)] for z in (0.0, -THICK)])
    found = [grid(bore, np.stack([-outward] * 2))]
    side = np.zeros((len(border), 3))
    side[np.abs(border[:, 0]) > WIDTH / 2 - 1e-6, 0] = 1.0
    for normal, mask in (
        ((1.0, 0, 0), border[:, 0] > WIDTH / 2 - 1e-6),
        ((-1.0, 0, 0), border[:, 0] < -WIDTH / 2 + 1e-6),
        ((0, 1.0, 0), border[:, 1] > DEPTH - 1e-6),
    ):
        line = border[mask]
        line = line[np.lexsort(line.T)]
        strip = np.stack([np.c_[line, np.full(len(line), z)] for z in (0.0, -THICK)])
        found.append(grid(strip, np.broadcast_to(np.array(normal), strip.shape)))
    outer, inner = profile(0.0)[0], profile(-THICK)[0]
    for x, sign in ((WIDTH / 2, 1.0), (-WIDTH / 2, -1.0)):
        strip = np.stack([np.c_[np.full(len(p), x), p] for p in (outer, inner)])
        found.append(grid(strip, np.broadcast_to(np.array([sign, 0, 0]), strip.shape)))
    low = np.stack([np.array([[x, *p] for x in (-WIDTH / 2, WIDTH / 2)]) for p in (outer[-1], inner[-1])])
    found.append(grid(low, np.broadcast_to(np.array([0, 0, -1.0]), low.shape)))
    return found


def plate_mesh() -> Mesh:
    """Return the plate as one mesh, mm."""
    positions, normals, triangles, offset = [], [], [], 0
    for points, normal, corners in sheets():
        positions.append(points)
        normals.append(normal)
        triangles.append(corners + np.uint32(offset))
        offset += len(points)
    counts = np.array([len(t) for t in triangles])
    lift = np.array([0.0, 0.0, RADIUS + LIP])
    return Mesh(
        (np.vstack(positions) + lift).astype(np.float32),
        np.vstack(normals).astype(np.float32),
        np.vstack(triangles).astype(np.uint32),
        np.stack([np.cumsum(counts) - counts, counts], axis=1).astype(np.uint32),
        np.zeros((0, 2, 3), np.float32),
    )


def trace_plate(
    appearance: Appearance, size: int = 160, samples: int = 64, picture_of: PictureOf | None = None
) -> NDArray[np.uint8]:
    """(size, size, 3) sRGB picture of the appearance's finish plate."""
    part = TracePart(mesh="plate", matrix=tuple(np.eye(4).ravel()), appearance=0)
    inputs = TraceInputs(
        parts=[part],
        appearances=[appearance],
        lighting=Lighting(backdrop=Backdrop(kind="plain", bottom="#ECE5D8")),
        camera=CAMERA,
        width=size,
        height=size,
        floor_height=0.0,
        center=(0.0, DEPTH / 2, (RADIUS + LIP) / 2),
        radius=28.0,
    )
    kept = _kept()
    world = World(inputs, kept.mesh_of, picture_of=picture_of, kept=kept)
    sums = np.zeros(0, np.float32)
    for _, sums in trace_still(world, samples):  # noqa: B007
        pass
    layers = Layers.from_sums(sums, samples)
    # What is seen through glass has grain in its guides, too.
    clean = denoise(layers) if appearance.params.transmission_weight > 0 else _denoiser(size)(layers)
    return finish(clean, Finish())


@lru_cache(maxsize=1)
def _kept() -> Kept:
    """The plate and its light: the same for all of them."""
    mesh = plate_mesh()
    return Kept(lambda _: mesh)


@lru_cache(maxsize=2)
def _denoiser(size: int) -> FastDenoiser:
    return FastDenoiser(size, size)
