"""From OpenPBR parameters to a row of numbers for the kernel: what depends on the appearance alone is settled here.

Sources: OpenPBR Surface 1.1 for how a coat darkens what is beneath (internal diffuse reflection), widens its gloss
and weakens its index; van de Hulst's inversion, as given there, from the colour of a dense body to its scattering.
"""

from __future__ import annotations

from functools import lru_cache
from typing import Any

import numpy as np
from numpy.typing import NDArray

from usual_lamp.core.appearance import Appearance, OpenPBR
from usual_lamp.core.appearance.coat import darkening
from usual_lamp.core.trace.surface import albedo, fuzz, spectrum, stack
from usual_lamp.core.trace.surface.table import (
    BLOCKS,
    FRESNEL_KNOTS,
    FRESNEL_OF_DIELECTRIC,
    FRESNEL_OF_METAL,
    AppearanceTable,
    Kinds,
)

Array = NDArray[np.float64]
WHITE = (1.0, 1.0, 1.0)


def table_of(appearances: list[Appearance], earlier: AppearanceTable | None = None) -> AppearanceTable:
    """The table of these appearances. Kinds of surface that the `earlier` table had stay compiled in.

    Raises ValueError, naming the appearance, where a number is not finite.
    """
    kinds = earlier.has if earlier else Kinds()
    found = []
    for appearance in appearances:
        numbers = _kept_row(appearance.params)
        if not np.isfinite(numbers).all():
            raise ValueError(f"The appearance {appearance.name!r} holds a number that is not finite. Set it anew.")
        found.append(numbers)
        kinds |= Kinds.of(appearance.params)
    return AppearanceTable(np.stack(found), kinds)


@lru_cache(maxsize=4096)
def _kept_row(p: OpenPBR) -> NDArray[np.float32]:
    """An edit changes one appearance; the rows of all others are as they were."""
    return row(p)


def row(p: OpenPBR, lost: NDArray[np.float32] | None = None) -> NDArray[np.float32]:
    """The table row, (4 * ROW_BLOCKS,). `lost` is the stack's loss at the knots, measured unless it is given."""
    if lost is None:
        lost = stack.lost_light(p) if stack.is_stacked(p) else np.zeros(albedo.KNOTS, np.float32)
    knots = tuple(albedo.cosines())
    roughness, ior = _under_coat(p)
    mirror, reflected, total_out, second, fourth = albedo.curves(roughness, ior, p.specular_roughness_anisotropy)
    total_in = albedo.curves(roughness, 1.0 / ior, p.specular_roughness_anisotropy)[2]
    coat = albedo.curves(p.coat_roughness, max(p.coat_ior, 1.0001))[1]
    rim, rim_scale = fuzz.curve(p.fuzz_roughness, knots)
    facet, film_ratio, facet_of = _facet(p)
    base = np.multiply(p.base_color, p.base_weight)
    if facet_of == FRESNEL_OF_METAL:
        base = facet[-1]
    turn = np.radians(p.geometry_tangent_rotation)
    values: dict[str, Any] = {
        "base": base,
        "metalness": p.base_metalness if p.base_conductor is None else 1.0,
        "specular_color": p.specular_color,
        "specular_weight": p.specular_weight,
        "roughness": roughness,
        "ior": ior,
        "transmission": p.transmission_weight,
        "thin": float(p.geometry_thin_walled),
        **_passage(p),
        "coat": p.coat_weight,
        "coat_color": np.multiply(p.coat_color, darkening(p, _albedo(p, base))),
        "coat_roughness": p.coat_roughness,
        "coat_ior": max(p.coat_ior, 1.0001),
        "emission": np.multiply(p.emission_color, p.emission_luminance),
        "mirror_average": albedo.average(mirror),
        "reflected_average": albedo.average(reflected),
        "total_average_out": albedo.average(total_out),
        "total_average_in": albedo.average(total_in),
        "diffuse_roughness": p.base_diffuse_roughness,
        "grain_cosine": np.cos(turn),
        "grain_sine": np.sin(turn),
        "anisotropy": p.specular_roughness_anisotropy,
        "opacity": p.geometry_opacity,
        "film_ratio": film_ratio,
        "fresnel_of": facet_of,
        "fuzz_color": p.fuzz_color,
        "fuzz": p.fuzz_weight,
        "fuzz_roughness": p.fuzz_roughness,
        "fuzz_scale": rim_scale,
        "lost_color": np.multiply(_albedo(p, base), _lerp(WHITE, p.coat_color, p.coat_weight)),
        "lost_average": albedo.average(lost),
        **_body(p),
    }
    parameters = [np.atleast_1d(values[name]) for names in BLOCKS.values() for name in names]
    facets = np.stack([mirror, reflected, total_out, total_in], axis=1).ravel()
    covers = np.stack([coat, rim, lost, np.zeros_like(lost)], axis=1).ravel()
    swings = np.stack([second, fourth, np.zeros_like(lost), np.zeros_like(lost)], axis=1).ravel()
    curve = np.c_[facet, np.zeros(len(facet))].ravel()
    return np.concatenate([*parameters, facets, covers, swings, curve]).astype(np.float32)


def _lerp(a: Any, b: Any, share: float) -> Array:
    return np.asarray(a) + (np.asarray(b) - np.asarray(a)) * share


def _albedo(p: OpenPBR, base: Array) -> Array:
    """About what the uncoated body sends back."""
    color = _lerp(base, p.subsurface_color, p.subsurface_weight * (1 - p.base_metalness))
    return _lerp(color, WHITE, p.transmission_weight * (1 - p.base_metalness))


def _under_coat(p: OpenPBR) -> tuple[float, float]:
    """Roughness and index of the gloss beneath a coat: widened by the coat's facets, weakened by its index."""
    widened = min(1.0, p.specular_roughness**4 + 2 * p.coat_roughness**4) ** 0.25
    roughness = float(_lerp(p.specular_roughness, widened, p.coat_weight))
    ratio = p.specular_ior / max(p.coat_ior, 1.0001)
    # Rays that cross both interfaces bend by the whole index, so a clear body keeps it.
    weakened = float(_lerp(p.specular_ior, max(ratio, 1 / ratio), p.coat_weight * (1 - p.transmission_weight)))
    return roughness, max(weakened, 1.0001)


def _passage(p: OpenPBR) -> dict[str, Any]:
    """Colour of transmission. Without a depth it is that of the whole passage: half of it (by power) at each of two
    surfaces."""
    color = np.maximum(p.transmission_color, 1e-4)
    if p.transmission_depth > 0 and not p.geometry_thin_walled:
        return {"tint": WHITE, "absorption": -np.log(color) / p.transmission_depth}
    return {"tint": color if p.geometry_thin_walled else np.sqrt(color), "absorption": (0.0, 0.0, 0.0)}


def _facet(p: OpenPBR) -> tuple[Array, Array, float]:
    """Reflectance of a facet at FRESNEL_KNOTS cosines, (K, 3); its average over that of the bare one; what it belongs
    to (0: nothing)."""
    metal = p.base_conductor is not None or p.base_metalness > 0.5
    if p.base_conductor is None and p.thin_film_weight == 0:
        return np.zeros((FRESNEL_KNOTS, 3)), np.zeros(3), 0.0
    cosines = np.maximum(np.linspace(0.0, 1.0, FRESNEL_KNOTS) ** 2, 1e-4)
    if p.base_conductor is not None:
        substrate: Any = spectrum.measured(p.base_conductor)
    elif metal:
        substrate = spectrum.index_of(tuple(np.multiply(p.base_color, p.base_weight)))
    else:
        substrate = np.full(len(spectrum.WAVELENGTHS), max(p.specular_ior, 1.0001))
    bare = spectrum.bare(cosines, substrate)
    filmed = spectrum.filmed(cosines, p.thin_film_ior, 1000 * p.thin_film_thickness, substrate)
    curve = spectrum.to_rgb(_lerp(bare, filmed, p.thin_film_weight))
    ratio = _average(cosines, curve) / _average(cosines, spectrum.to_rgb(bare))
    return curve, ratio, FRESNEL_OF_METAL if metal else FRESNEL_OF_DIELECTRIC


def _average(cosines: Array, curve: Array) -> Array:
    """Over the hemisphere, by the cosine, for each channel."""
    fine = (np.arange(512) + 0.5) / 512
    seen = np.stack([np.interp(fine, cosines, channel) for channel in curve.T], axis=1)
    return np.asarray((2 * seen * fine[:, None]).mean(axis=0))


def _body(p: OpenPBR) -> dict[str, Any]:
    """Light under the surface: through a thin wall by shares, in a solid by a walk."""
    color, g = np.clip(p.subsurface_color, 1e-3, 0.999), p.subsurface_scatter_anisotropy
    s = 4.09712 + 4.20863 * color - np.sqrt(9.59217 + 41.6808 * color + 17.7126 * color**2)
    path = np.maximum(np.multiply(p.subsurface_radius, p.subsurface_radius_scale), 1e-3)
    return {
        "subsurface": p.subsurface_weight,
        "forward": (1 + g) / 2,
        "body_color": p.subsurface_color,
        "body_spare": 0.0,
        "walk_albedo": (1 - s**2) / (1 - g * s**2),
        "walk_anisotropy": g,
        "walk_density": 1.0 / path,
        "density_spare": 0.0,
    }
