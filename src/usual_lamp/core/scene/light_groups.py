"""Lights by group: each keeps a sum of its own in a traced picture, so that it is changed there without a new trace.

The surroundings are the first group, glowing parts the second, and each lamp that is left one more. A group's gain is
what its switch, level and colour make of its nominal light, per channel.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from usual_lamp.core.appearance import hex_to_linear
from usual_lamp.core.camera.finish import RGB_TO_XYZ, chromaticity
from usual_lamp.core.light import Lamp
from usual_lamp.core.light.lamps import WHITE
from usual_lamp.core.scene.document import MOST_BRIGHTNESS, Lighting

Array = NDArray[np.float64]
ENVIRONMENT, GLOW, FIRST_LAMP = 0, 1, 2
MOST_GROUPS = 8
"""Lamps beyond these share the last group, with their levels traced in."""
SIZES = (2, 4, 6, 8)
"""Numbers of groups that sums are kept for; new reviews start with six."""


@dataclass(frozen=True)
class LightGroups:
    """The groups of a lighting."""

    gains: Array
    """(MOST_GROUPS, 3), linear Rec. 709; 0 for a light that is off."""
    of_lamp: dict[str, int]
    """Group by lamp id."""
    traced_in: dict[str, Array]
    """(3,) by lamp id: the gain of a lamp that has no group of its own."""

    @property
    def kept(self) -> int:
        """How many sums are kept: one of few numbers, so that few kernels serve all lightings."""
        count = max(2, len(set(self.of_lamp.values())) + FIRST_LAMP)
        return next(size for size in SIZES if size >= count)


def light_groups(lighting: Lighting) -> LightGroups:
    """Return the groups of a lighting and what each is multiplied by."""
    gains = np.ones((MOST_GROUPS, 3))
    gains[ENVIRONMENT] = lighting.brightness if lighting.on else 0.0
    gains[GLOW] = 2.0**lighting.glow if lighting.glows else 0.0
    alone = list(lighting.sources)[: MOST_GROUPS - FIRST_LAMP]
    if len(lighting.sources) > len(alone):
        alone.pop()
    of_lamp, traced_in = {}, {}
    for id, lamp in lighting.sources.items():
        own = id in alone
        of_lamp[id] = FIRST_LAMP + alone.index(id) if own else MOST_GROUPS - 1
        traced_in[id] = np.ones(3) if own else gain(lamp)
        if own:
            gains[of_lamp[id]] = gain(lamp)
    return LightGroups(gains, of_lamp, traced_in)


def gain(lamp: Lamp) -> Array:
    """(3,): what switch, level, colour temperature and coloured glass make of a lamp's white light."""
    if not lamp.on:
        return np.zeros(3)
    return np.asarray(2.0**lamp.level * np.array(white_light(lamp.kelvin)) * hex_to_linear(lamp.filter))


@lru_cache(maxsize=256)
def white_light(kelvin: float) -> tuple[float, float, float]:
    """Linear Rec. 709 of light of a colour temperature, luminance 1; what lies outside that space is cut."""
    if abs(kelvin - WHITE) < 0.5:
        return (1.0, 1.0, 1.0)
    x, y = chromaticity(kelvin)
    rgb = np.maximum(np.linalg.inv(RGB_TO_XYZ) @ np.array([x / y, 1.0, (1 - x - y) / y]), 0.0)
    r, g, b = (float(v) for v in rgb / float(RGB_TO_XYZ[1] @ rgb))
    return r, g, b


def at_nominal_levels(lighting: Lighting) -> Lighting:
    """The lighting with every light as it is traced: equal ones differ in gains alone."""
    groups = light_groups(lighting)
    plain = {"on": True, "level": 0.0, "kelvin": WHITE, "filter": "#FFFFFF"}
    shared = [id for id, group in groups.of_lamp.items() if list(groups.of_lamp.values()).count(group) > 1]
    as_they_are = {*shared, *(lighting.lamps.keys() - lighting.sources.keys())}
    lamps = {id: lamp if id in as_they_are else lamp.model_copy(update=plain) for id, lamp in lighting.lamps.items()}
    return lighting.model_copy(update={"on": True, "brightness": 1.0, "glows": True, "glow": 0.0, "lamps": lamps})


class CannotBalance(ValueError):
    """The lights cannot be balanced so; the message says why."""


def balanced(
    lighting: Lighting, shares: Mapping[str, float], key: str, ratio: float, all: float = 0.0, backdrop: float = 0.0
) -> Lighting:
    """The lighting with levels at which one lamp gives `ratio` times as much light to the picture as all other lamps
    and the surroundings together; they keep their proportions, and the whole changes by `all` EV.

    The backdrop gets brighter by `backdrop` EV beside the product: surroundings and photos by their own level; a colour
    stays what it is, so there all light gets weaker instead.
    `shares` are those measured in the traced picture, as fractions, by lamp id and "environment". Raises CannotBalance.
    """
    own_level = lighting.backdrop.kind in ("environment", "photo")
    behind = lighting.backdrop
    if own_level:
        behind = behind.model_copy(update={"level": _level(behind.level, 2.0 ** (all + backdrop))})
    else:
        all -= backdrop
    lamp = lighting.sources.get(key)
    main = shares.get(key, 0.0)
    rest = sum(share for name, share in shares.items() if name not in (key, "glow"))
    if lamp is None or main <= 1e-4:
        raise CannotBalance("That lamp gives no light to this picture. Select another one, or switch it on.")
    if rest <= 1e-4:
        raise CannotBalance("There is no other light to balance it with. Add a lamp, or switch the surroundings on.")
    total = (main + rest) * 2.0**all
    up, down = total * ratio / (1 + ratio) / main, total / (1 + ratio) / rest
    lamps = {
        id: one
        if one.kind == "card"
        else one.model_copy(update={"level": _level(one.level, up if id == key else down)})
        for id, one in lighting.lamps.items()
    }
    brightness = min(lighting.brightness * down, MOST_BRIGHTNESS)
    return lighting.model_copy(update={"lamps": lamps, "brightness": brightness, "backdrop": behind})


def _level(level: float, factor: float) -> float:
    return round(float(np.clip(level + np.log2(factor), -12.0, 12.0)), 2)
