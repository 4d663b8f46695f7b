"""The texels of all pictures of a world, with coarser levels of each for what is small in the picture."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass

import numpy as np
import scipy
from numpy.typing import NDArray

from usual_lamp.core.trace.engine import aligned, dr, mi, unwritten

PictureOf = Callable[[str, bool], NDArray[np.float32]]
"""Content hash, and whether it is a colour, to (H, W, 4): scene-linear colour (or a value in all three, or a normal as
in tangent-space maps) and coverage; row 0 is the top."""
PictureKey = tuple[str, bool]
"""A picture's content hash, and whether it is a colour."""
LEVELS = 14
"""Of a picture, each half as wide as the one before: enough for 8,192 texels a side."""
SPARE_TEXELS = 200 * 2**20 // 16
"""Room for more, beyond what is wanted at first: some dozens of usual pictures, or two of the largest."""


@dataclass(frozen=True)
class Levels:
    """A picture with its coarser levels."""

    size: tuple[int, int]
    """Texels across and down of the finest."""
    starts: NDArray[np.uint32]
    """Where each of the `LEVELS` starts; those beyond the coarsest start where it does."""
    texels: NDArray[np.float32]
    """(N, 4) of all levels."""

    def __len__(self) -> int:
        return len(self.texels)


class Room:
    """Memory for texels. What was put in is never changed, so that atlases that grew from each other share one."""

    def __init__(self, texels: int) -> None:
        self.numbers = unwritten((texels, 4), np.dtype(np.float32))
        self.filled = 0

    def fits(self, texels: int) -> bool:
        """Whether there is room for so many more."""
        return self.filled + texels <= len(self.numbers)

    def put(self, levels: Levels) -> Levels:
        """Put in a picture behind all others; the same one, read from there."""
        start, self.filled = self.filled, self.filled + len(levels)
        self.numbers[start : self.filled] = levels.texels
        return Levels(levels.size, levels.starts - levels.starts[0] + start, self.numbers[start : self.filled])


class Atlas:
    """Texels of some pictures, one after the other, each with its coarser levels behind it."""

    room: Room
    pictures: dict[PictureKey, Levels]

    def __init__(self, wanted: set[PictureKey], picture_of: PictureOf, before: Atlas | None = None) -> None:
        """What another one has is taken over from there: all of it, where there is room for the rest behind it."""
        had = before.pictures if before else {}
        coming = {key: leveled(picture_of(*key)) for key in sorted(wanted - had.keys())}
        room = before.room if before else None
        if room is None or not room.fits(sum(map(len, coming.values()))):
            coming |= {key: had[key] for key in sorted(wanted & had.keys())}
            had, room = {}, Room(sum(map(len, coming.values())) + SPARE_TEXELS)
        self.room = room
        self.pictures = had | {key: room.put(levels) for key, levels in coming.items()}
        self.numbers = {key: number for number, key in enumerate(self.pictures)}
        self.texels = mi.Float(room.numbers[: room.filled].ravel())
        self.starts = mi.UInt32(aligned(np.concatenate([levels.starts for levels in self.pictures.values()])))
        """Where each level of a picture starts, `LEVELS` after `LEVELS` by its number."""
        dr.make_opaque(self.texels, self.starts)

    def has(self, wanted: set[PictureKey]) -> bool:
        """Whether all of these are in it."""
        return wanted <= self.pictures.keys()


def leveled(image: NDArray[np.float32]) -> Levels:
    """A picture (H, W, 4) made ready to be read at any size."""
    all_levels = [level.reshape(-1, 4) for level in coarser(_bled(np.ascontiguousarray(image, np.float32)))]
    ends = np.cumsum([0, *map(len, all_levels)])
    starts = ends[np.minimum(np.arange(LEVELS), len(all_levels) - 1)].astype(np.uint32)
    return Levels((image.shape[1], image.shape[0]), starts, np.concatenate(all_levels))


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
