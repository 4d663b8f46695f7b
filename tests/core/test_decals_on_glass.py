"""What decals on a clear wall do to the light that comes through it."""

from __future__ import annotations

import numpy as np
import pytest

from core.decal_bodies import box
from core.test_trace import appearance, color, square, world
from usual_lamp.core.camera import Camera
from usual_lamp.core.scene.picture_on_part import PictureOnPart
from usual_lamp.core.trace.world.world import World

MATT = appearance(base_color=(0.5, 0.5, 0.5), specular_weight=0.0)
BELOW = Camera(position=(0, -0.01, 20), target=(0, 0, 0), focal_length=800)
"""On a table, from beneath the pane over it."""
OVERHEAD = np.zeros((64, 128, 3), np.float32)
OVERHEAD[:6] = 1e4


def under_a_pane(wear, pictures: tuple[PictureOnPart, ...] = (), coverage: float = 1.0, samples: int = 256) -> float:
    """What a matt table sends back beneath a pane of 60 x 60 x 1 mm that wears black pictures; per 100 cd/m²."""
    pane = box(60.0, 60.0, 1.0)
    pane.positions[:, 2] += 30.0
    w = world({"table": square(25), "pane": pane}, [MATT, wear], BELOW, OVERHEAD)
    table, slab = w.inputs.parts
    inputs = w.inputs.model_copy(update={"parts": [table, slab.model_copy(update={"pictures": pictures})]})
    picture = np.zeros((4, 4, 4), np.float32)
    picture[..., 3] = coverage
    return float(color(World(inputs, w.mesh_of, OVERHEAD, lambda *_: picture), samples).mean())


def glass(roughness: float = 0.0):
    return appearance(transmission_weight=1.0, specular_roughness=roughness, specular_ior=1.5)


def over_all(**more) -> PictureOnPart:
    lies = dict(picture="p", center=(0, 0, 30), right=(1, 0, 0), up=(0, 1, 0), width=60, height=60, depth=3.0)
    return PictureOnPart.model_validate(lies | more)


@pytest.mark.parametrize("kind", ["printed", "foil"])
def test_print_and_foil_on_glass_cast_a_shadow(kind: str) -> None:
    bare = under_a_pane(glass())
    assert bare > 10
    assert under_a_pane(glass(), (over_all(**{kind: True}),)) < 0.01 * bare


def test_a_screen_of_ink_lets_its_gaps_through() -> None:
    """A fifth of the wall is covered, on its front alone: so much less comes through."""
    front = over_all(printed=True, center=(0, 0, 30.5), depth=0.2)
    assert under_a_pane(glass(), (front,), 0.2) == pytest.approx(0.8 * under_a_pane(glass()), rel=0.04)


def test_etched_glass_spreads_light_as_frosted_glass_does() -> None:
    etched = under_a_pane(glass(), (over_all(target="roughness", value=0.5),), samples=1024)
    assert etched == pytest.approx(under_a_pane(glass(0.5), samples=1024), rel=0.05)
