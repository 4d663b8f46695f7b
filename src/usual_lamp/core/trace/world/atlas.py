"""The texels of all pictures of a world, with coarser levels of each for what is small in the picture."""

from __future__ import annotations

from collections.abc import Callable, Iterator

import numpy as np
import scipy
from numpy.typing import NDArray

from usual_lamp.core.trace.engine import aligned, dr, mi, settled

PictureOf = Callable[[str, bool], NDArray[np.float32]]
"""Content hash, and whether it is a colour, to (H, W, 4): scene-linear colour (or a value in all three, or a normal as
in tangent-space maps) and coverage; row 0 is the top."""
LEVELS = 14
"""Of a picture, each half as wide as the one before: enough for 8,192 texels a side."""


class Atlas:
    """Texels of some pictures, one after the other, each with its coarser levels behind it."""

    def __init__(self, wanted: set[tuple[str, bool]], picture_of: PictureOf) -> None:
        self.wanted = wanted
        self.sizes: dict[tuple[str, bool], tuple[int, int]] = {}
        """Texels across and down."""
        self.numbers = {key: number for number, key in enumerate(sorted(wanted))}
        texels, starts, start = [], np.zeros((len(wanted), LEVELS), np.uint32), 0
        for key, number in self.numbers.items():
            image = _bled(np.ascontiguousarray(picture_of(*key), np.float32))
            self.sizes[key] = (image.shape[1], image.shape[0])
            for level, coarse in enumerate(coarser(image)):
                starts[number, level:] = start
                texels.append(coarse.reshape(-1, 4))
                start += len(texels[-1])
        self.texels = settled(np.concatenate(texels))
        self.starts = mi.UInt32(aligned(starts.ravel()))
        dr.make_opaque(self.starts)


def coarser(image: NDArray[np.float32]) -> Iterator[NDArray[np.float32]]:
    """A picture (H, W, 4), and its halves as means of four texels, the colours by their coverage, down to one texel."""
    for _ in range(LEVELS):
        yield image
        if max(image.shape[:2]) == 1:
            return
        padded = np.pad(image, [(0, image.shape[0] % 2), (0, image.shape[1] % 2), (0, 0)], mode="edge")
        four = np.stack([padded[i::2, j::2] for i in (0, 1) for j in (0, 1)])
        cover = four[..., 3:]
        weight = np.where(cover.sum(axis=0) > 0, cover, 1.0)
        image = np.concatenate([(four[..., :3] * weight).sum(axis=0) / weight.sum(axis=0), cover.mean(axis=0)], axis=2)


def _bled(image: NDArray[np.float32]) -> NDArray[np.float32]:
    """A picture (H, W, 4) whose clear texels have the colours of what lies beside them: between texels they count."""
    clear = image[..., 3] <= 0
    if not clear.any() or clear.all():
        return image
    nearest = scipy.ndimage.distance_transform_edt(clear, return_distances=False, return_indices=True)
    found = image.copy()
    found[clear, :3] = image[nearest[0][clear], nearest[1][clear], :3]
    return found
