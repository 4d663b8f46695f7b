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
PictureKey = tuple[str, bool]
"""A picture's content hash, and whether it is a colour."""
LEVELS = 14
"""Of a picture, each half as wide as the one before: enough for 8,192 texels a side."""


class Atlas:
    """Texels of some pictures, one after the other, each with its coarser levels behind it."""

    def __init__(self, wanted: set[PictureKey], picture_of: PictureOf, before: Atlas | None = None) -> None:
        """What another one has already is taken over from there."""
        self.sizes: dict[PictureKey, tuple[int, int]] = dict(before.sizes) if before else {}
        """Texels across and down."""
        texels = [before.texels.numpy().reshape(-1, 4)] if before else []
        rows = [*(before.rows if before else ())]
        start = sum(map(len, texels))
        for key in sorted(wanted - self.sizes.keys()):
            image = _bled(np.ascontiguousarray(picture_of(*key), np.float32))
            self.sizes[key] = (image.shape[1], image.shape[0])
            row = np.zeros(LEVELS, np.uint32)
            for level, coarse in enumerate(coarser(image)):
                row[level:] = start
                texels.append(coarse.reshape(-1, 4))
                start += len(texels[-1])
            rows.append(row)
        self.numbers = {key: number for number, key in enumerate(self.sizes)}
        self.rows: list[NDArray[np.uint32]] = rows
        """Where each level of a picture starts, by its number."""
        self.texels: mi.Float = settled(np.concatenate(texels))
        self.bytes = 16 * start
        self.starts = mi.UInt32(aligned(np.concatenate(rows)))
        dr.make_opaque(self.starts)

    def has(self, wanted: set[PictureKey]) -> bool:
        """Whether all of these are in it."""
        return wanted <= self.sizes.keys()


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
