"""What a stack of layers loses in white light, measured in the furnace, so that the surface can give it back.

Coat and fuzz cover what is beneath by 1 - max(E(i), E(o)), which is reciprocal and never gains, but loses some of what
in nature is thrown to and fro between the layers. The loss 1 - E of an all-white stack, as a curve over the cosine, is
the broad lobe of C. Kulla and A. Conty once more, see `surface`.
"""

from __future__ import annotations

from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from usual_lamp.core.appearance import OpenPBR
from usual_lamp.core.trace import sampler
from usual_lamp.core.trace.engine import dr, mi
from usual_lamp.core.trace.surface import albedo
from usual_lamp.core.trace.surface.bsdf import Surface
from usual_lamp.core.trace.surface.table import AppearanceTable, Kinds

SAMPLES = 4096
"""For each knot."""
SPARE = 0.003
"""Of the light, not given back: curves that are straight between their knots would hand out up to this too much."""
ALL_KINDS = Kinds(coat=True, glass=True, rough_diffuse=True, brushed=True, fuzz=True)
"""One kernel measures every stack."""
COLORS = ("base_color", "specular_color", "transmission_color", "coat_color", "fuzz_color")


def is_stacked(p: OpenPBR) -> bool:
    """Whether a coat or fuzz lies on the base."""
    return p.coat_weight > 0 or p.fuzz_weight > 0


def lost_light(p: OpenPBR) -> NDArray[np.float32]:
    """1 - E of the stack with all its colours white, at the albedo's knots."""
    white = dict.fromkeys(COLORS, (1.0, 1.0, 1.0))
    plain = {"base_weight": 1.0, "base_conductor": None, "thin_film_weight": 0.0, "subsurface_weight": 0.0}
    keep = {"emission_luminance": 0.0, "coat_darkening": 0.0, "transmission_depth": 0.0, "geometry_opacity": 1.0}
    return _measure(p.model_copy(update={**white, **plain, **keep, "geometry_tangent_rotation": 0.0}))


@lru_cache(maxsize=1024)
def _measure(white: OpenPBR) -> NDArray[np.float32]:
    from usual_lamp.core.trace.surface.rows import row

    table = AppearanceTable(row(white, np.zeros(albedo.KNOTS, np.float32))[None], ALL_KINDS)
    n = albedo.KNOTS * SAMPLES
    lane = dr.arange(mi.UInt32, n)
    cosine = dr.gather(mi.Float, mi.Float(albedo.cosines()), lane // SAMPLES)
    number = lane % SAMPLES
    turn = sampler.to_unit(sampler.mix(number)) * dr.two_pi
    sine = dr.safe_sqrt(1 - dr.square(cosine))
    wi = mi.Vector3f(sine * dr.cos(turn), sine * dr.sin(turn), cosine)
    surface = Surface(table, dr.zeros(mi.UInt32, n), dr.full(mi.Bool, True, n), wi, dr.full(mi.Bool, False, n))
    pick, place = (sampler.point(lane // SAMPLES, number, mi.UInt32(k)) for k in (0, 1))
    drawn = surface.sample(pick.x, place)
    value, density = surface.evaluate(drawn.wo)
    seen = dr.select(drawn.valid & (density > 0), value.total().x / dr.maximum(density, 1e-12), 0.0)
    kept = np.array(dr.block_reduce(dr.ReduceOp.Add, seen, SAMPLES)) / SAMPLES
    return np.clip(1.0 - kept - SPARE, 0.0, 1.0).astype(np.float32)
