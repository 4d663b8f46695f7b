"""Sums of a picture by group of lights, and the picture that they give under any levels: nothing is traced for it.

`tiles.trace_groups` makes them. Finished stills keep them packed.
"""

from __future__ import annotations

import zlib

import numpy as np
from numpy.typing import NDArray

from usual_lamp.core.camera import exposure_scale
from usual_lamp.core.light.surroundings import LUMINANCE, REFERENCE_EV
from usual_lamp.core.scene.document import Lighting
from usual_lamp.core.scene.light_groups import light_groups
from usual_lamp.core.trace.kinds_of_light import DIRECT, LAYERS, shadow
from usual_lamp.core.trace.plan import CHANNELS

Sums = NDArray[np.float32]
GUIDES = 9
"""Channels before those of the groups: albedo, normal and the backdrop itself."""


OF_KINDS = 3 * (len(LAYERS) + len(DIRECT))
"""Channels of light by kind, under the levels that it was traced with. No multiple of six, which is what each group
has: so the number of channels tells whether they are there."""


def channels(groups: int, by_kind: bool = False) -> int:
    """Channels of sums that keep so many groups, and the light by kind or not, see `tiles.trace_groups`."""
    return GUIDES + 6 * groups + OF_KINDS * by_kind


def groups_in(sums: Sums) -> int:
    """How many groups such sums keep."""
    return (sums.shape[2] - GUIDES) // 6 - OF_KINDS // 6 * has_kinds(sums)


def has_kinds(sums: Sums) -> bool:
    """Whether they keep the light by kind as well."""
    return (sums.shape[2] - GUIDES) % 6 != 0


def kinds(sums: Sums) -> dict[str, Sums]:
    """Layers of a picture's means by kind of light, (H, W, 3) each in cd/m², with their grain, and the shadow on what
    is seen first: 1 where nothing stands in the way of any light. Nothing where they are not kept."""
    if not has_kinds(sums):
        return {}
    kept = np.split(sums[..., -OF_KINDS:], OF_KINDS // 3, axis=2)
    named = dict(zip((f"kind_{name}" for name in LAYERS), kept, strict=False))
    return named | {"shadow": shadow(*kept[len(LAYERS) :])}


def relit(sums: Sums, lighting: Lighting, floor: NDArray[np.float32] | None) -> Sums:
    """The sums of a picture as `tiles.trace_block` gives them, (H, W, CHANNELS), under the lighting's levels; `floor`
    is from `floor_ratio`."""
    groups = groups_in(sums)
    gains = light_groups(lighting).gains[:groups].astype(np.float32)
    result = np.empty((*sums.shape[:2], CHANNELS), np.float32)
    result[..., 3:9] = sums[..., 0:6]
    kept = sums[..., GUIDES : channels(groups)].reshape(*sums.shape[:2], 2, groups, 3)
    lit = np.einsum("hwgc,gc->hwc", kept[:, :, 1], gains, optimize=True)
    if floor is not None:
        lit *= floor
    result[..., 9:12] = sums[..., 6:9] + lit
    result[..., 0:3] = result[..., 9:12] + np.einsum("hwgc,gc->hwc", kept[:, :, 0], gains, optimize=True)
    return result


def shares(sums: Sums, lighting: Lighting) -> dict[str, float]:
    """Share of each light in the picture's light, the backdrop apart: "environment", "glow", and lamps by id; lamps
    that share a group have one share together."""
    groups = groups_in(sums)
    found = light_groups(lighting)
    total = sums[..., GUIDES : GUIDES + 3 * groups].reshape(-1, groups, 3).sum(axis=0, dtype=np.float64)
    power = (total * found.gains[:groups]) @ LUMINANCE
    part = power / max(float(power.sum()), 1e-30)
    named = {"environment": 0, "glow": 1} | found.of_lamp
    return {name: float(part[min(group, groups - 1)]) for name, group in named.items()}


MOST_KEPT = 24_000_000
"""Pixels times groups up to which a still keeps its lights apart: full HD with eight groups, 4K with two."""
CUT_BITS = 1
"""Bits of a half number's ten that are rounded away when it is packed: what is left is true to 0.15 percent, which an
even floor needs to keep its colour."""


MOST_ASKED_FOR = 200_000_000
"""The same where somebody asks for light by kind: 7680 x 4320 with six groups."""


def can_be_kept(width: int, height: int, groups: int, asked: bool = False) -> bool:
    """Whether a still of that size is small enough to keep its lights apart, as a matter of course or because somebody
    `asked` for it."""
    return width * height * groups <= (MOST_ASKED_FOR if asked else MOST_KEPT)


def packed(sums: Sums, samples: int) -> bytes:
    """The means of sums (H, W, `channels`) over so many samples, as compressed half numbers relative to white."""
    means = sums / np.float32(max(1, samples))
    means[..., 6:] *= np.float32(exposure_scale(REFERENCE_EV))
    bits = np.clip(means, -65000.0, 65000.0).astype(np.float16).view(np.uint16).astype(np.uint32)
    bits = ((bits + (1 << CUT_BITS >> 1)) >> CUT_BITS << CUT_BITS).astype("<u2")
    # Channel by channel, high bytes apart from low ones: equal things lie together.
    planes = np.moveaxis(bits, -1, 0).reshape(-1).view(np.uint8).reshape(-1, 2).T
    return zlib.compress(planes.tobytes(), 1)


def unpacked(data: bytes, height: int, width: int) -> Sums:
    """The means that were packed, (height, width, `channels`). Raises ValueError for data of another size."""
    planes = np.frombuffer(zlib.decompress(data), np.uint8).reshape(2, -1).T
    bits = np.ascontiguousarray(planes).view("<u2").reshape(-1, height, width)
    means = np.moveaxis(bits.view(np.float16), 0, -1).astype(np.float32)
    means[..., 6:] /= np.float32(exposure_scale(REFERENCE_EV))
    return means


def layers(sums: Sums, lighting: Lighting, names: dict[str, str]) -> dict[str, Sums]:
    """Layers of a picture's means, (H, W, 3) each: albedo, normal, and in cd/m² what each group of lights gives under
    the lighting's levels, with its grain; named after the lamps by `names` (by id)."""
    groups = groups_in(sums)
    found = light_groups(lighting)
    kept = sums[..., GUIDES : channels(groups)].reshape(*sums.shape[:2], 2, groups, 3).sum(axis=2)
    called = {0: "surroundings", 1: "glow"}
    for id, group in found.of_lamp.items():
        place = min(group, groups - 1)
        called[place] = f"{called[place]} and {names[id]}" if place in called else names[id]
    result = {"albedo": sums[..., 0:3], "normal": sums[..., 3:6]}
    for group, name in called.items():
        if group < groups:
            # Dots part layers from channels.
            result[f"light of {name}".replace(".", " ")] = kept[:, :, group] * found.gains[group].astype(np.float32)
    return result
