"""Fresnel terms and the GGX microfacet distribution. Directions are in the local frame, normal = +z.

Sources: B. Walter et al., "Microfacet Models for Refraction through Rough Surfaces", EGSR 2007 (GGX, refraction);
E. Heitz, "Understanding the Masking-Shadowing Function", JCGT 3(2), 2014 (height-correlated G2);
J. Dupuy and A. Benyoub, "Sampling Visible GGX Normals with Spherical Caps", HPG 2023;
OpenPBR Surface 1.1 (F82-tint metal, roughness squared to alpha).
"""

from __future__ import annotations

from usual_lamp.core.trace.engine import dr, mi

ALPHA_MIN = 1e-3
"""Below this a float32 GGX lobe loses digits; at this it is a mirror to the eye."""


def alpha(roughness: mi.Float, anisotropy: mi.Float | float = 0.0) -> mi.Vector2f:
    """Facet slopes along and across the tangent; their mean square does not depend on the anisotropy (OpenPBR)."""
    squared = dr.square(roughness)
    along = squared * dr.sqrt(2.0 / (1.0 + dr.square(1.0 - anisotropy)))
    return mi.Vector2f(dr.maximum(along, ALPHA_MIN), dr.maximum(along * (1.0 - anisotropy), ALPHA_MIN))


def distribution(h: mi.Vector3f, a: mi.Vector2f) -> mi.Float:
    """D(h), per steradian; written to stay exact near the pole for small alpha."""
    stretched = dr.square(h.x / a.x) + dr.square(h.y / a.y) + dr.square(h.z)
    return dr.rcp(dr.pi * a.x * a.y * dr.square(stretched))


def smith_lambda(w: mi.Vector3f, a: mi.Vector2f) -> mi.Float:
    """Return Smith's Lambda of the GGX distribution."""
    slope2 = (dr.square(w.x * a.x) + dr.square(w.y * a.y)) / dr.maximum(dr.square(w.z), 1e-14)
    return 0.5 * (dr.sqrt(1.0 + slope2) - 1.0)


def sample_visible(wi: mi.Vector3f, a: mi.Vector2f, u: mi.Point2f) -> mi.Vector3f:
    """A microfacet normal, distributed as seen from wi (wi.z > 0)."""
    stretched = dr.normalize(mi.Vector3f(wi.x * a.x, wi.y * a.y, wi.z))
    z = dr.fma(1.0 - u.y, 1.0 + stretched.z, -stretched.z)
    radius = dr.safe_sqrt(1.0 - dr.square(z))
    sine, cosine = dr.sincos(dr.two_pi * u.x)
    cap = mi.Vector3f(radius * cosine, radius * sine, z)
    h = cap + stretched
    return dr.normalize(mi.Vector3f(h.x * a.x, h.y * a.y, dr.maximum(h.z, 1e-9)))


def dielectric(cos_i: mi.Float, eta: mi.Float) -> tuple[mi.Float, mi.Float]:
    """Unpolarised Fresnel reflectance for cos_i >= 0 and relative index eta = n_other / n_here, with the cosine
    on the other side (0 at total reflection). Exactly ((eta - 1) / (eta + 1))² at normal incidence."""
    cos_t2 = 1.0 - (1.0 - dr.square(cos_i)) / dr.square(eta)
    cos_t = dr.safe_sqrt(cos_t2)
    perpendicular = (cos_i - eta * cos_t) / dr.maximum(cos_i + eta * cos_t, 1e-9)
    parallel = (eta * cos_i - cos_t) / dr.maximum(eta * cos_i + cos_t, 1e-9)
    reflectance = 0.5 * (dr.square(perpendicular) + dr.square(parallel))
    return dr.select(cos_t2 <= 0, 1.0, reflectance), cos_t


def metal(cos_i: mi.Float, f0: mi.Color3f, f82: mi.Color3f) -> mi.Color3f:
    """F82-tint: Schlick's curve from f0, scaled to f82 times itself at 82 degrees (cosine 1/7)."""
    peak = 1.0 / 7.0
    white = mi.Color3f(1.0)
    schlick_peak = dr.fma(white - f0, (1.0 - peak) ** 5, f0)
    bend = schlick_peak * (white - f82) / (peak * (1.0 - peak) ** 6)
    grazing = dr.clip(1.0 - cos_i, 0.0, 1.0)
    grazing5 = dr.square(dr.square(grazing)) * grazing
    return dr.clip(f0 + (white - f0) * grazing5 - bend * cos_i * grazing5 * grazing, 0.0, 1.0)


def reflection(wi: mi.Vector3f, wo: mi.Vector3f, a: mi.Vector2f) -> tuple[mi.Float, mi.Float, mi.Float]:
    """D G2 / (4 cos_i cos_o) times cos_o, the density of wo by visible normals, and cos of wi to the half vector.

    Both directions must lie above the surface; the caller masks others.
    """
    h = dr.normalize(wi + wo)
    d = distribution(h, a)
    li, lo = smith_lambda(wi, a), smith_lambda(wo, a)
    scaled = d / (4.0 * dr.maximum(wi.z, 1e-7))
    return scaled / (1.0 + li + lo), scaled / (1.0 + li), dr.dot(wi, h)


def refraction(wi: mi.Vector3f, wo: mi.Vector3f, a: mi.Vector2f, eta: mi.Float) -> tuple[mi.Float, mi.Float, mi.Float]:
    """The same for a direction on the other side (wo.z < 0), without Fresnel, and without the radiance factor eta².

    eta = n_other / n_here. The third value is the cosine of wi to the half vector, not positive where the pair
    cannot be joined by one refraction.
    """
    h = dr.normalize(wi + wo * eta)
    h = dr.mulsign(h, h.z)
    ih, oh = dr.dot(wi, h), dr.dot(wo, h)
    possible = (ih > 0) & (oh < 0)
    li, lo = smith_lambda(wi, a), smith_lambda(wo, a)
    jacobian = dr.square(eta) * dr.abs(oh) / dr.maximum(dr.square(ih + eta * oh), 1e-12)
    scaled = distribution(h, a) * ih * jacobian / dr.maximum(wi.z, 1e-7)
    value, density = scaled / (1.0 + li + lo), scaled / (1.0 + li)
    return dr.select(possible, value, 0.0), dr.select(possible, density, 0.0), dr.select(possible, ih, 0.0)
