"""The negative of a still: its light without grain, and its backdrop apart, from which any exposure is developed.

As an OpenEXR file of half numbers: the light relative to white at the reference exposure, the backdrop as it is shown.
"""

from __future__ import annotations

import numpy as np

from usual_lamp.core.camera import Finish, exposure_scale
from usual_lamp.core.exr import Channel, channels_of, channels_to_exr, layers_of
from usual_lamp.core.light.surroundings import REFERENCE_EV
from usual_lamp.core.picture.finishing import Clean
from usual_lamp.core.picture.tone import Image

MOST = np.float32(65000.0)
"""Of a half number. Light that is so much above white is white at any exposure that a person sets."""


def to_negative(clean: Clean) -> bytes:
    """Return the file."""
    light = np.minimum(clean.color * np.float32(exposure_scale(REFERENCE_EV)), MOST)
    layers = {"light": light} | ({} if clean.backdrop is None else {"backdrop": clean.backdrop})
    if clean.bare is not None:
        layers["bare"] = np.repeat(clean.bare[..., None].astype(np.float32), 3, axis=2)
    return channels_to_exr(channels_of(layers, np.float16))


def from_negative(data: bytes) -> Clean:
    """The light, true to half numbers. Raises UnreadablePicture for bytes that are no negative."""
    layers = layers_of(data)
    bare = layers["bare"][..., 0] > 0.5 if "bare" in layers else None
    return Clean(layers["light"] / np.float32(exposure_scale(REFERENCE_EV)), layers.get("backdrop"), bare)


def to_scene_linear(
    clean: Clean,
    look: Finish,
    more: dict[str, Image],
    seen: dict[str, Channel],
    words: dict[str, str],
    half: bool = False,
) -> bytes:
    """OpenEXR for compositing: R, G, B as `look` exposes and balances it, linear and without a tone curve, 1 is white;
    beside it the light alone in cd/m², the backdrop, further layers by name, and single channels of what is `seen`;
    with `words` in the header. Layers are float numbers, or `half` ones, which hold up to 65,000."""
    exposed = np.maximum(clean.color @ look.matrix().T.astype(np.float32), 0.0)
    backdrop = np.zeros_like(exposed) if clean.backdrop is None else clean.backdrop
    layers: dict[str, Image] = {"": exposed + backdrop, "light": clean.color, "backdrop": backdrop} | more
    if half:
        layers = {name: np.clip(values, -MOST, MOST) for name, values in layers.items()}
    return channels_to_exr(channels_of(layers, np.float16 if half else np.float32) | seen, words)
