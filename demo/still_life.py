"""`python -m demo.still_life PICTURE.png`: one picture of what surfaces can do, on simple turned bodies.

Back: brushed and rough steel, heat-tinted titanium, gold plate, soft-touch. Front: a clear tube before metal, a milky hose
with a light in it, a lit ball in a clear one, a label over embossed dots, a perforated sheet.
"""

from __future__ import annotations

import sys
from dataclasses import dataclass, field
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray
from PIL import Image, ImageDraw

from usual_lamp.core.appearance import SHELF, Appearance, OpenPBR
from usual_lamp.core.assembly import Mesh
from usual_lamp.core.camera import Camera, Finish
from usual_lamp.core.picture import Layers, develop
from usual_lamp.core.scene import Lighting
from usual_lamp.core.scene.picture_on_part import PictureOnPart
from usual_lamp.core.scene.resolution import TraceInputs, TracePart
from usual_lamp.core.trace.jobs.still import trace_still
from usual_lamp.core.trace.world.world import World

SAMPLES, AROUND = 96, 128
IDENTITY = tuple(np.eye(4).ravel())


@dataclass
class Scene:
    """Bodies with what they wear, as they are put down."""

    meshes: dict[str, Mesh] = field(default_factory=dict)
    parts: list[TracePart] = field(default_factory=list)
    worn: list[Appearance] = field(default_factory=list)

    def put(self, mesh: Mesh, at: tuple[float, float, float], wear: Appearance, *on: PictureOnPart) -> None:
        name = f"body-{len(self.parts)}"
        moved = mesh.positions + np.array(at, np.float32)
        self.meshes[name] = Mesh(moved, mesh.normals, mesh.triangles, mesh.face_ranges, mesh.edges)
        pictures = tuple(use.model_copy(update={"center": tuple(np.add(use.center, at))}) for use in on)
        self.parts.append(TracePart(mesh=name, matrix=IDENTITY, appearance=len(self.worn), pictures=pictures))
        self.worn.append(wear)


def body(points: list[NDArray], normals: list[NDArray], triangles: list[NDArray]) -> Mesh:
    flat = np.concatenate(triangles).astype(np.uint32)
    ranges = np.array([[0, len(flat)]], np.uint32)
    arrays = (np.concatenate(a).astype(np.float32) for a in (points, normals))
    return Mesh(*arrays, flat, ranges, np.zeros((0, 2, 3), np.float32))


def turned(profile: list[tuple[float, float]]) -> Mesh:
    """A body of revolution about z from (radius, height) points, outside on the right of the way."""
    angle = np.linspace(0, 2 * np.pi, AROUND + 1)
    ring = np.stack([np.cos(angle), np.sin(angle)], axis=1)
    points, normals, triangles = [], [], []
    for k, ((r0, z0), (r1, z1)) in enumerate(pairwise(profile)):
        out = np.array([z1 - z0, r0 - r1]) / np.hypot(z1 - z0, r1 - r0)
        for r, z in ((r0, z0), (r1, z1)):
            points.append(np.c_[ring * r, np.full(AROUND + 1, z)])
            normals.append(np.c_[ring * out[0], np.full(AROUND + 1, out[1])])
        a = 2 * k * (AROUND + 1) + np.arange(AROUND)
        b = a + AROUND + 1
        triangles += [np.stack([a, a + 1, b + 1], 1), np.stack([a, b + 1, b], 1)]
    return body(points, normals, triangles)


def cylinder(radius: float, height: float) -> Mesh:
    edge = 0.4
    low = [(1e-3, 0.0), (radius - edge, 0.0), (radius, edge)]
    return turned([*low, (radius, height - edge), (radius - edge, height), (1e-3, height)])


def tube(radius: float, wall: float, height: float) -> Mesh:
    inner = radius - wall
    return turned([(inner, 0.0), (radius, 0.0), (radius, height), (inner, height), (inner, 0.0)])


def ball(radius: float) -> Mesh:
    angle = np.linspace(-np.pi / 2, np.pi / 2, 65)
    mesh = turned([(max(radius * np.cos(a), 1e-3), radius * np.sin(a)) for a in angle])
    smooth = mesh.positions / np.linalg.norm(mesh.positions, axis=1, keepdims=True)
    return Mesh(mesh.positions, smooth, mesh.triangles, mesh.face_ranges, mesh.edges)


def sheet(width: float, height: float) -> Mesh:
    """Upright, facing the front, its foot in the middle."""
    x = width / 2
    corners = np.array([(-x, 0, 0), (x, 0, 0), (x, 0, height), (-x, 0, height)])
    return body([corners], [np.tile([0.0, -1.0, 0.0], (4, 1))], [np.array([[0, 1, 2], [0, 2, 3]])])


def pictures() -> dict[str, NDArray[np.float32]]:
    label = Image.new("RGBA", (512, 256), (0, 0, 0, 0))
    pen = ImageDraw.Draw(label)
    pen.rectangle([8, 8, 504, 248], outline="#141414", width=10)
    pen.ellipse([40, 60, 176, 196], fill="#C8461E")
    pen.polygon([(230, 190), (290, 70), (350, 190)], fill="#141414")
    pen.rectangle([380, 70, 470, 190], fill="#145AA0")
    encoded = np.asarray(label, np.float32) / 255
    linear = np.where(encoded <= 0.04045, encoded / 12.92, ((encoded + 0.055) / 1.055) ** 2.4)
    linear[..., 3] = encoded[..., 3]
    y, x = np.mgrid[0:64, 0:64]
    away = np.hypot(x - 32, y - 32)[..., None]
    solid = np.ones((64, 64, 1))
    dots = np.concatenate([np.repeat(np.clip(1 - away / 22, 0, 1) ** 0.5, 3, 2), solid], axis=2)
    holes = np.concatenate([np.repeat((away > 18).astype(float), 3, 2), solid], axis=2)
    return {"label": linear, "dots": dots.astype(np.float32), "holes": holes.astype(np.float32)}


def still_life() -> Scene:
    scene = Scene()
    rough = OpenPBR(base_color=(0.57, 0.55, 0.53), base_metalness=1.0, specular_roughness=0.38)
    steel = Appearance(id="steel-rough", name="Steel, rough", family="metal", params=rough)
    names = ("steel-brushed", None, "titanium-tinted", "gold-plated", "soft-touch")
    for k, name in enumerate(names):
        scene.put(cylinder(9, 22), (-45 + 23 * k, 20, 0), SHELF[name] if name else steel)
    scene.put(tube(8, 2.5, 16), (-40, -6, 0), SHELF["polycarbonate-clear"])
    scene.put(tube(7, 2, 20), (-14, -6, 0), SHELF["silicone-milky"])
    shine = OpenPBR(base_color=(0, 0, 0), emission_luminance=6000.0, emission_color=(1.0, 0.85, 0.6))
    scene.put(cylinder(2.5, 14), (-14, -6, 1), Appearance(id="warm", name="Warm", family="glow", params=shine))
    scene.put(ball(7), (12, -8, 7), SHELF["polycarbonate-clear"])
    scene.put(ball(2.2), (12, -8, 7), SHELF["lit-green"])
    frame = {"right": (1.0, 0.0, 0.0), "up": (0.0, 0.0, 1.0)}
    label = PictureOnPart(picture="label", center=(0, 0, 10.8), width=16, height=8, **frame)
    dots = {"width": 3, "height": 3, "repeat": True, "strength": 0.6, **frame}
    raised = PictureOnPart(picture="dots", target="bump", center=(0, 0, 4), **dots)
    scene.put(sheet(20, 16), (36, -8, 0.2), SHELF["abs-light"], label, raised)
    holes = {"width": 4, "height": 4, "repeat": True, **frame}
    pierced = PictureOnPart(picture="holes", target="opacity", center=(0, 0, 8), **holes)
    scene.put(sheet(18, 16), (60, -6, 0.2), SHELF["steel-machined"], pierced)
    return scene


def main(target: str, samples: int = SAMPLES, width: int = 1100) -> None:
    scene = still_life()
    inputs = TraceInputs(
        parts=scene.parts, appearances=scene.worn, lighting=Lighting(), width=width, height=width * 28 // 55,
        camera=Camera(position=(-30, -210, 80), target=(6, 4, 9), focal_length=58.0),
        floor_height=0.0, center=(5.0, 5.0, 8.0), radius=60.0,
    )  # fmt: skip
    on = pictures()
    world = World(inputs, scene.meshes.__getitem__, picture_of=lambda name, _: on[name])
    for _, sums in trace_still(world, samples):  # noqa: B007
        pass
    Image.fromarray(develop(Layers.from_sums(sums, samples), Finish())).save(target, optimize=True)


if __name__ == "__main__":
    main(sys.argv[1])
