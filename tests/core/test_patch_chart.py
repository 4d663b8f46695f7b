"""A patch chart under neutral light, traced and developed: what is specified is what is seen."""

from __future__ import annotations

import colour
import numpy as np
import pytest

from core.test_trace import IDENTITY, appearance, square
from usual_lamp.core.appearance.color_difference import ciede2000, linear_to_lab
from usual_lamp.core.camera import Camera, Finish, exposure_scale
from usual_lamp.core.picture import Clean, finish
from usual_lamp.core.picture.burn_out import burns_from
from usual_lamp.core.scene import Lighting
from usual_lamp.core.scene.resolution import TraceInputs, TracePart
from usual_lamp.core.trace.plan import Tile
from usual_lamp.core.trace.transport.tiles import trace_block
from usual_lamp.core.trace.world.world import World

SIZE, EV = (60, 40), 9.3
LIGHT = 1 / exposure_scale(EV)
"""cd/m² from everywhere: exposed for a white that sends back all of it."""


def specified() -> np.ndarray:
    """(24, 3) linear Rec. 709 of C. S. McCamy's chart (1976), as colour-science lists the one after November 2014."""
    chart = colour.CCS_COLOURCHECKERS["ColorChecker24 - After November 2014"]
    xyz = colour.xyY_to_XYZ(list(chart.data.values()))
    linear = colour.XYZ_to_RGB(xyz, "sRGB", illuminant=chart.illuminant, apply_cctf_encoding=False)
    return np.clip(linear, 0, 1)


def photographed(patches: np.ndarray, tone: str, **params) -> np.ndarray:
    """(24, 3) linear of what the finished picture shows of squares with these base colours."""
    parts = []
    for k in range(24):
        matrix = np.array(IDENTITY).reshape(4, 4).copy()
        matrix[:2, 3] = (k % 6) * 10 - 25, 15 - (k // 6) * 10
        parts.append(TracePart(mesh="patch", matrix=tuple(matrix.ravel()), appearance=k))
    inputs = TraceInputs(
        parts=parts, appearances=[appearance(base_color=tuple(map(float, c)), **params) for c in patches],
        lighting=Lighting(floor=False), camera=Camera(position=(0, -0.01, 1000), target=(0, 0, 0), focal_length=600),
        width=SIZE[0], height=SIZE[1], floor_height=0.0, center=(0, 0, 0), radius=40.0,
    )  # fmt: skip
    mesh = square(5.0)
    w = World(inputs, lambda _: mesh, np.full((32, 64, 3), LIGHT, np.float32))
    seen = trace_block(w, Tile(0, 0, *SIZE), 0, 256)[..., :3] / 256
    shown = finish(Clean(seen.astype(np.float32), None), Finish(exposure=EV, tone=tone)) / 255.0  # type: ignore[arg-type]
    cells = colour.cctf_decoding(shown, function="sRGB").reshape(4, 10, 6, 10, 3)[:, 3:7, :, 3:7]
    return cells.mean(axis=(1, 3)).reshape(24, 3)


@pytest.mark.parametrize(
    ("tone", "params"),
    [("linear", {"specular_weight": 0.0}), ("neutral", {"specular_roughness": 0.4})],
    ids=["matt, linear", "plastic, neutral"],
)
def test_patches_measure_as_specified(tone: str, params: dict) -> None:
    """CIEDE2000 mean under 1.0 and maximum under 2.5. The neutral curve takes off the 4 percent that gloss adds."""
    patches = specified()
    found = photographed(patches, tone, **params)
    apart = ciede2000(linear_to_lab(found), linear_to_lab(patches))
    assert apart.mean() < 1.0 and apart.max() < 2.5, apart.round(2)


def test_a_glow_burns_out_where_the_picture_says_so() -> None:
    """Just under the luminance told a red still shows most of its colour, well above it hardly any; white has none."""
    look, red = Finish(exposure=EV), (1.0, 0.04, 0.03)
    limit = burns_from(red, look)
    assert limit is not None and burns_from((1.0, 1.0, 1.0), look) is None

    def chroma(luminance: float) -> float:
        pixel = np.full((1, 1, 3), luminance, np.float32) * np.array(red, np.float32)
        shown = colour.cctf_decoding(finish(Clean(pixel, None), look) / 255.0, function="sRGB")
        return float(np.hypot(*linear_to_lab(shown.reshape(1, 3))[0, 1:]))

    best = max(chroma(v) for v in np.geomspace(10, limit, 60))
    assert chroma(limit * 0.95) > best / 2 * 0.98 and chroma(limit * 1.1) < best / 2
    brighter = burns_from(red, Finish(exposure=EV + 1))
    assert brighter == pytest.approx(2 * limit, rel=0.04), "a stop darker, a stop later"
