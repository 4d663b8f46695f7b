"""The surface model as a Mitsuba plugin: Mitsuba's own `path` has to draw with it what our integrator draws."""

import numpy as np
import pytest

from core.test_against_references import BALL, SIZE, WHERE, sky, stock
from core.test_trace import appearance, color, sphere, world
from usual_lamp.core.trace.engine import mi
from usual_lamp.core.trace.surface import plugin

SURFACES = {
    "plastic": dict(base_color=(0.7, 0.4, 0.2), specular_roughness=0.3),
    "coated metal": dict(
        base_metalness=1.0, base_color=(0.9, 0.7, 0.4), specular_roughness=0.5, coat_weight=1.0, coat_roughness=0.1
    ),
    "frosted glass": dict(transmission_weight=1.0, specular_roughness=0.4),
    "thin tinted wall": dict(
        transmission_weight=1.0, specular_roughness=0.4, geometry_thin_walled=True, transmission_color=(0.9, 0.7, 0.6)
    ),
    "fuzz": dict(fuzz_weight=0.8, base_color=(0.3, 0.2, 0.5)),
    "measured gold": dict(base_conductor="Au", specular_roughness=0.3),
}


def asked(params: dict) -> dict:
    """A scene description as Mitsuba takes it."""
    colors = {k: {"type": "rgb", "value": list(v)} for k, v in params.items() if isinstance(v, tuple)}
    return {"type": plugin.NAME, **params, **colors}


@pytest.mark.parametrize("params", SURFACES.values(), ids=SURFACES)
def test_two_integrators_see_the_same_surface(params: dict) -> None:
    light = sky()
    ours = color(world({"ball": sphere(n=128)}, [appearance(**params)], BALL, light, SIZE), 2048)[WHERE]
    theirs = stock(asked(params), light, 4096)[WHERE]
    np.testing.assert_allclose(ours.mean(axis=(0, 1)), theirs.mean(axis=(0, 1)), rtol=0.012)


@pytest.mark.parametrize(
    "params",
    [dict(subsurface_weight=1.0), dict(geometry_opacity=0.5), dict(transmission_weight=1.0, transmission_depth=3.0)],
)
def test_what_needs_our_integrator_is_refused(params: dict) -> None:
    with pytest.raises(RuntimeError, match="own integrator"):
        mi.load_dict(asked(params))
