"""What the shaded picture shows of an appearance, against measured metals and what the coat does in the tracer."""

from __future__ import annotations

from typing import get_args

import numpy as np
import pytest

from usual_lamp.core.appearance import OpenPBR
from usual_lamp.core.appearance.openpbr import CONDUCTOR_COLORS, CONDUCTORS, Conductor
from usual_lamp.core.appearance.shaded import shaded
from usual_lamp.core.trace.surface import spectrum
from usual_lamp.core.trace.surface.rows import row


@pytest.mark.parametrize("symbol", get_args(Conductor))
def test_every_metal_is_measured_and_shaded_in_its_own_colour(symbol: Conductor) -> None:
    """n and k: Palik, Handbook of Optical Constants of Solids, as shipped with Mitsuba."""
    straight_on = spectrum.to_rgb(spectrum.bare(np.array([1.0]), spectrum.measured(symbol)))[0]
    assert CONDUCTORS[symbol]
    np.testing.assert_allclose(CONDUCTOR_COLORS[symbol], straight_on, atol=6e-4)
    shown = shaded(OpenPBR(base_conductor=symbol, base_color=(0.0, 1.0, 0.0)))
    assert (shown.color, shown.metalness) == (CONDUCTOR_COLORS[symbol], 1.0)
    assert np.isfinite(row(OpenPBR(base_conductor=symbol))).all()


def test_a_body_under_a_coat_is_as_dark_as_saunderson_says() -> None:
    """Saunderson, J. Opt. Soc. Am. 32 (1942) 727: a layer of reflectance R behind an interface that throws back k2
    of what is within sends out (1 - k2) R / (1 - k2 R) of the light that got in."""
    n, body = 1.5, 0.6
    f0 = ((n - 1) / (n + 1)) ** 2
    k2 = 1 - (1 - f0) / n**2
    shown = shaded(OpenPBR(base_color=(body, body, body), coat_weight=1.0, coat_ior=n))
    assert shown.color[0] == pytest.approx((1 - k2) * body / (1 - k2 * body), rel=1e-5)
    assert shaded(OpenPBR(base_color=(body,) * 3, coat_weight=1.0, coat_darkening=0.0)).color[0] == pytest.approx(body)


def test_clear_bodies_are_seen_through_and_milky_ones_show_their_colour() -> None:
    glass = shaded(OpenPBR(transmission_weight=1.0, specular_roughness=0.0))
    assert glass.clear and glass.opacity < 0.5
    frosted = shaded(OpenPBR(transmission_weight=1.0, specular_roughness=0.6))
    assert not frosted.clear and frosted.opacity == 1.0
    milky = shaded(OpenPBR(subsurface_weight=1.0, subsurface_color=(0.9, 0.5, 0.1)))
    assert milky.color == (0.9, 0.5, 0.1)
    assert shaded(OpenPBR(emission_luminance=200.0, emission_color=(1.0, 0.5, 0.0))).glow == (200.0, 100.0, 0.0)
