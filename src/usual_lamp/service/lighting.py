"""Lamps for a review: new ones, starter sets, and lamps moved to where a highlight or a shadow is wanted."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from usual_lamp.core.camera import Camera
from usual_lamp.core.light import Lamp
from usual_lamp.core.light.arranging import (
    LABELS,
    CannotPlace,
    LampKind,
    SetName,
    Stand,
    highlight_at,
    new_lamp,
    photometric_lamp,
    put_sun,
    shadow_at,
    starter_set,
)
from usual_lamp.core.light.lamps import DistantLamp
from usual_lamp.core.light.photometry import UnreadablePhotometry, read_photometry
from usual_lamp.core.light.sun import SunTime
from usual_lamp.core.scene.resolved import Bounds, ResolvedScene
from usual_lamp.service.errors import Refused

Array = NDArray[np.float64]


def stand(resolved: ResolvedScene, camera: Camera) -> Stand:
    """How the product stands, seen by a camera. Raises Refused when nothing is shown."""
    bounds = shown(resolved)
    floor = float(bounds.low[2]) + resolved.scene.lighting.floor_finish.lift
    return Stand(bounds.center, bounds.radius, floor, np.array(camera.position, float))


def shown(resolved: ResolvedScene) -> Bounds:
    """The box round all that is shown. Raises Refused when nothing is."""
    if resolved.bounds is None:
        raise Refused("Nothing is shown: bring at least one part back.")
    return resolved.bounds


def lamp(resolved: ResolvedScene, camera: Camera, kind: LampKind) -> Lamp:
    """A new lamp with a name that no other has. Raises Refused."""
    taken = {one.name for one in resolved.scene.lighting.lamps.values()}
    label = LABELS[kind]
    names = [label, *(f"{label} {number}" for number in range(2, 100))]
    return new_lamp(kind, stand(resolved, camera), next(name for name in names if name not in taken))


def lamp_set(resolved: ResolvedScene, camera: Camera, name: SetName) -> tuple[dict[str, Lamp], float]:
    """A starter set by lamp id, and the brightness of the surroundings that goes with it. Raises Refused."""
    return starter_set(name, stand(resolved, camera))


def photometric(resolved: ResolvedScene, camera: Camera, text: str) -> tuple[Lamp, tuple[str, ...]]:
    """A lamp by the text of its photometric file, and what has to be said of it. Raises Refused."""
    try:
        found = read_photometry(text.encode())
        return photometric_lamp(found, stand(resolved, camera)), found.notes
    except UnreadablePhotometry as error:
        raise Refused(str(error)) from error


def sun(moved: Lamp, when: SunTime) -> Lamp:
    """The lamp as the sun at a moment and place. Raises Refused."""
    if not isinstance(moved, DistantLamp):
        raise Refused("Only a light that is far away can be the sun.")
    try:
        return put_sun(moved, when)
    except CannotPlace as error:
        raise Refused(str(error)) from error


def pointed(resolved: ResolvedScene, camera: Camera, moved: Lamp, how: str, point: Array, normal: Array) -> Lamp:
    """The lamp where its highlight lies on a point, or the shadow of the product's top falls on it. Raises Refused."""
    where = stand(resolved, camera)
    try:
        if how == "highlight":
            return highlight_at(moved, where, point, normal)
        top = np.array([where.center[0], where.center[1], shown(resolved).high[2]])
        return shadow_at(moved, where, point, top)
    except CannotPlace as error:
        raise Refused(str(error)) from error
