"""The exposure of a first picture, by what the product shows: told from colours, before anything is traced.

What is metered on a traced product goes with the reflectance of what is seen of it, in our first lighting. How much
each part has of the view was looked at when the file came in. Exposed is for the product, not the backdrop, and only as
far as it lies beyond what looks right: a black product stays darker than a white one.
"""

from __future__ import annotations

import math

import numpy as np

from usual_lamp.core.appearance import OpenPBR
from usual_lamp.core.light.surroundings import LUMINANCE
from usual_lamp.core.scene.preflight.of_camera import OFF_EXPOSURE
from usual_lamp.core.scene.resolution import DEFAULT_SHOT, FIRST_SURROUNDINGS
from usual_lamp.core.scene.resolved import ResolvedScene
from usual_lamp.core.scene.shot import Shot

USUAL = Shot.model_fields["exposure"].default
GREY, METERS, STEEP = 0.18, 9.1, 0.67
"""EV that a product of middle grey meters in the first lighting, and by how many EV more one of twice its reflectance:
fitted to traced pictures, see the test. Less than one, since gloss and what parts mirror of each other is no darker on
dark ones."""
DARKEST = 0.02
"""Reflectance: gloss alone sends back that much."""
KEPT = 1.0
"""EV by which a product may stay lighter or darker than middle grey."""
MOST_SEEN_THROUGH = 0.5
"""Share of the view; where clear parts have more, what lies behind them decides, which nobody looked at."""


def first_exposure(resolved: ResolvedScene) -> float | None:
    """EV for the first shot, where the product would come out far too light or dark in it; None where it would not,
    where that cannot be told, and where somebody has set exposure or light already."""
    shot, lighting = resolved.scene.shots.get(DEFAULT_SHOT), resolved.scene.lighting
    if shot is None or shot.locked or shot.exposure != USUAL or lighting.surroundings != FIRST_SURROUNDINGS:
        return None
    meters = likely_metered(resolved)
    if meters is None or abs(off := meters - USUAL) < OFF_EXPOSURE:
        return None
    return float(round(USUAL + math.copysign(abs(off) - KEPT, off), 1))


def likely_metered(resolved: ResolvedScene) -> float | None:
    """EV that the traced product would meter in the first lighting; None where too little is known of what it shows."""
    sums, weights, clear = 0.0, 0.0, 0.0
    for uid, share in resolved.assembly.shows.items():
        worn = resolved.worn.get(uid)
        if worn is None or uid in resolved.scene.states:
            continue
        params = worn.appearance.params
        if params.transmission_weight > 0.5 or params.geometry_opacity < 0.5:
            clear += share
            continue
        sums += share * math.log2(max(_reflectance(params), DARKEST) / GREY)
        weights += share
    if weights <= 0 or clear > MOST_SEEN_THROUGH * (weights + clear):
        return None
    return METERS + STEEP * sums / weights


def _reflectance(params: OpenPBR) -> float:
    return params.base_weight * float(np.dot(params.base_color, LUMINANCE))
