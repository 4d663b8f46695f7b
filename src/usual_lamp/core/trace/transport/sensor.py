"""Camera rays: perspective and parallel projection, shifted lenses, and the blur of a thin lens."""

from __future__ import annotations

import numpy as np

from usual_lamp.core.scene.resolution import TraceInputs
from usual_lamp.core.trace.engine import dr, mi


def camera_rays(inputs: TraceInputs, s: mi.Float, t: mi.Float, lens: mi.Point2f) -> mi.Ray3f:
    """Rays through picture positions s (left to right) and t (top to bottom) in [0, 1].

    `lens` is random and picks the place on the aperture. All numbers are opaque, so one kernel serves all cameras.
    """
    camera = inputs.camera
    opaque = lambda value: dr.opaque(mi.Float, float(value))  # noqa: E731
    across, along = camera.half_tangents(inputs.width / inputs.height)
    to_right, to_up = camera.offset()
    right, up, forward = (mi.Vector3f(*(opaque(v) for v in row)) for row in camera.basis())
    place = right * ((2 * s - 1) * opaque(across) + opaque(to_right))
    place += up * ((1 - 2 * t) * opaque(along) + opaque(to_up))
    origin = mi.Point3f(*(opaque(v) for v in camera.position))
    # Parallel rays start spread out, and far enough back to meet everything.
    distance = float(np.linalg.norm(np.subtract(camera.target, camera.position)))
    parallel = opaque(camera.parallel)
    origin += parallel * (place * opaque(distance) - forward * opaque(4 * inputs.radius))
    # Through a thin lens all rays of a picture point meet in the plane that is in focus.
    spot = aperture(lens, dr.opaque(mi.UInt32, camera.blades if camera.blades >= 3 else 0))
    off = (right * spot.x + up * spot.y) * opaque(camera.aperture_radius())
    direction = dr.normalize((forward + place * (1 - parallel)) * opaque(camera.sharp_at()) - off)
    # What is cut away lies before the start of the rays.
    start = 0.0 if camera.near is None else camera.near + camera.parallel * 4 * inputs.radius
    return mi.Ray3f(origin + off + direction * (opaque(start) / dr.dot(direction, forward)), direction)


def aperture(lens: mi.Point2f, blades: mi.UInt32) -> mi.Point2f:
    """A point of the aperture of radius 1: even over a disc, or over a regular polygon with that many corners."""
    disc = mi.warp.square_to_uniform_disk_concentric(lens)
    corners = mi.Float(dr.maximum(blades, 3))
    turned = lens.x * corners
    wedge = dr.floor(turned)
    # Even over the triangle between the middle and one side.
    far, side = dr.sqrt(turned - wedge), lens.y
    a, b = wedge * dr.two_pi / corners, (wedge + 1) * dr.two_pi / corners
    (sin_a, cos_a), (sin_b, cos_b) = dr.sincos(a), dr.sincos(b)
    polygon = mi.Point2f(far * dr.lerp(cos_a, cos_b, side), far * dr.lerp(sin_a, sin_b, side))
    return dr.select(blades >= 3, polygon, disc)
