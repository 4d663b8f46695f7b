"""`python -m demo.help_pictures FOLDER [NAME...]`: for each setting that the drawer explains, a picture of little of it
and one of much, as the tracer makes them."""

from __future__ import annotations

import sys
from collections.abc import Callable
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

import numpy as np
import trimesh
from PIL import Image

from demo.still_life import Scene, ball, body, cylinder, turned
from usual_lamp.core.appearance import Appearance, OpenPBR, hex_to_linear
from usual_lamp.core.assembly import Mesh
from usual_lamp.core.camera import Camera, Finish
from usual_lamp.core.picture import Layers, develop
from usual_lamp.core.scene.document import Floor
from usual_lamp.core.scene.resolution import TraceInputs, first_lighting, standing_at
from usual_lamp.core.trace.jobs.still import trace_still
from usual_lamp.core.trace.world.world import World

SIZE, SAMPLES = (132, 99), 128
BLUE, STEEL, GOLD = hex_to_linear("#2F5F9A"), hex_to_linear("#C6C4C1"), hex_to_linear("#E0B25A")
CLEAR = {"transmission_weight": 1.0, "specular_roughness": 0.0, "base_color": (1.0, 1.0, 1.0)}
AT = Camera(position=(70.0, -150.0, 75.0), target=(0.0, 0.0, 10.0), focal_length=95.0)
GLOWING = {"base_color": (0.0, 0.0, 0.0), "emission_luminance": 2500.0, "emission_color": (0.3, 0.8, 1.0)}
LOW = {"position": (70.0, -165.0, 22.0)}


@dataclass
class Take:
    """One picture: what the bodies wear, and what is special of camera, lighting, finish and edges."""

    wear: dict[str, Any] = field(default_factory=lambda: {"base_color": BLUE, "specular_roughness": 0.35})
    bodies: str = "knob"
    camera: dict[str, Any] = field(default_factory=dict)
    floor: dict[str, Any] = field(default_factory=dict)
    finish: dict[str, Any] = field(default_factory=dict)
    rounding: float = 0.2


def blue(**more: Any) -> Take:
    return Take({"base_color": BLUE, "specular_roughness": 0.35, **more})


def steel(**more: Any) -> Take:
    return Take({"base_color": STEEL, "base_metalness": 1.0, "specular_roughness": 0.25, **more})


def row(**camera: Any) -> Take:
    """Three knobs, one behind the other."""
    return Take({"base_color": GOLD, "base_metalness": 1.0, "specular_roughness": 0.25}, "row", camera)


def from_afar(focal: float) -> dict[str, Any]:
    """A lens with the camera as far away as keeps the size of what is looked at; wide enough for a row."""
    way = np.subtract(AT.position, AT.target) * 1.7 * focal / AT.focal_length
    return {"focal_length": focal, "position": tuple(np.add(AT.target, way))}


PAIRS: dict[str, tuple[Take, Take]] = {
    "specular_roughness": (blue(specular_roughness=0.08), blue(specular_roughness=0.6)),
    "base_metalness": (
        Take({"base_color": GOLD, "specular_roughness": 0.25}),
        Take({"base_color": GOLD, "specular_roughness": 0.25, "base_metalness": 1.0}),
    ),
    "specular_roughness_anisotropy": (steel(specular_roughness=0.35), steel(specular_roughness=0.35,
                                      specular_roughness_anisotropy=0.9)),
    "specular_ior": (Take({**CLEAR, "specular_ior": 1.3}, "ball"), Take({**CLEAR, "specular_ior": 2.2}, "ball")),
    "transmission_depth": (
        Take({**CLEAR, "transmission_color": hex_to_linear("#7FB296"), "transmission_depth": 6.0}, "ball"),
        Take({**CLEAR, "transmission_color": hex_to_linear("#7FB296"), "transmission_depth": 80.0}, "ball"),
    ),
    "coat_weight": (blue(specular_roughness=0.6), blue(specular_roughness=0.6, coat_weight=1.0)),
    "fuzz_weight": (blue(specular_roughness=0.7), blue(specular_roughness=0.7, fuzz_weight=1.0,
                    fuzz_color=(0.8, 0.85, 0.95))),
    "subsurface_radius": (
        Take({"subsurface_weight": 1.0, "subsurface_color": (0.9, 0.85, 0.75), "subsurface_radius": 0.2}),
        Take({"subsurface_weight": 1.0, "subsurface_color": (0.9, 0.85, 0.75), "subsurface_radius": 8.0}),
    ),
    "lens": (row(**from_afar(35.0)), row(**from_afar(200.0))),
    "aperture": (row(**from_afar(95.0), f_number=22.0), row(**from_afar(95.0), f_number=1.4)),
    "glare": (Take(GLOWING), Take(GLOWING, finish={"glare": 0.5})),
    "reflection": (Take(camera=LOW, floor={"reflection": 0.0}), Take(camera=LOW, floor={"reflection": 1.0, "roughness": 0.0})),
    "shadow": (Take(floor={"shadow": 0.0}), Take(floor={"shadow": 1.0})),
    "rounding": (Take(steel().wear, "block", rounding=0.0), Take(steel().wear, "block", rounding=0.8)),
}  # fmt: skip
"""By the name of the parameter or setting: little and much."""


def knob(scene: Scene, wear: Appearance, at: tuple[float, float, float] = (0.0, 0.0, 0.0)) -> None:
    """A foot, a waist and a round top."""
    x, y, z = at
    scene.put(cylinder(17, 6), at, wear)
    scene.put(turned([(9.0, 0.0), (9.0, 8.0)]), (x, y, z + 6), wear)
    scene.put(ball(12), (x, y, z + 22), wear)


def bodies(name: str, wear: Appearance) -> Scene:
    """A knob, a row of three, a ball before two posts, or a block."""
    scene = Scene()
    if name == "row":
        for k in range(3):
            knob(scene, wear, (-34.0 + 28 * k, 40.0 - 42 * k, 0.0))
    elif name == "ball":
        scene.put(ball(17), (0, 0, 17), wear)
        plain = Appearance(id="grey", name="Grey", family="paint", params=OpenPBR(base_color=(0.25, 0.25, 0.25)))
        scene.put(cylinder(3, 30), (-14, 26, 0), plain)
        scene.put(cylinder(3, 30), (14, 26, 0), plain)
    elif name == "block":
        scene.put(block((34, 28, 22)), (0, 0, 0), wear)
    else:
        knob(scene, wear)
    return scene


def block(size: tuple[float, float, float]) -> Mesh:
    """A block with sharp edges (mm), its foot on the ground."""
    made = trimesh.creation.box(size)
    corners = made.triangles.reshape(-1, 3) + np.array([0, 0, size[2] / 2])
    triangles = np.arange(len(corners)).reshape(-1, 3)
    return body([corners], [np.repeat(made.face_normals, 3, axis=0)], [triangles])


def picture(take: Take, samples: int = SAMPLES) -> Image.Image:
    """Trace and finish one."""
    wear = Appearance(id="shown", name="Shown", family="plastic", params=OpenPBR.model_validate(take.wear))
    scene = bodies(take.bodies, wear)
    points = np.concatenate([mesh.positions for mesh in scene.meshes.values()]).astype(float)
    camera = AT.model_copy(update=take.camera)
    lighting = first_lighting(standing_at(points, AT)).model_copy(
        update={"floor_finish": Floor().model_copy(update=take.floor)}
    )
    low, high = points.min(axis=0), points.max(axis=0)
    center = (low + high) / 2
    inputs = TraceInputs(
        parts=scene.parts, appearances=scene.worn, lighting=lighting, camera=camera, width=2 * SIZE[0],
        height=2 * SIZE[1], floor_height=float(low[2]), center=tuple(center.tolist()),
        radius=float(np.linalg.norm(high - low)) / 2, rounding=take.rounding,
    )  # fmt: skip
    world = World(inputs, scene.meshes.__getitem__)
    for _, sums in trace_still(world, samples):  # noqa: B007
        pass
    finish = Finish().model_copy(update=take.finish)
    return Image.fromarray(develop(Layers.from_sums(sums, samples), finish))


def main(folder: Path, names: list[str], make: Callable[[Take], Image.Image] = picture) -> None:
    """Write those of some names, or of all."""
    folder.mkdir(parents=True, exist_ok=True)
    for name in names or PAIRS:
        for word, take in zip(("low", "high"), PAIRS[name], strict=True):
            make(take).save(folder / f"{name}-{word}.webp", quality=82, method=6)


if __name__ == "__main__":
    main(Path(sys.argv[1]), sys.argv[2:])
