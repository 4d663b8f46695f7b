"""A finished picture as files: to hand over, to look at, and to list."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from typing import BinaryIO

import numpy as np
from numpy.typing import NDArray
from PIL import Image as Pictures

from usual_lamp.core.camera import Finish
from usual_lamp.core.picture.encoders import to_jpeg
from usual_lamp.core.picture.finishing import Ground, Light, encoded_rows
from usual_lamp.core.picture.png_file import write_png

COVER_SIZE = (480, 360)
LOOKED_AT = 7680
"""Pixels on a side of the picture to look at: a larger still is shown smaller, by a whole number."""

Bytes = NDArray[np.uint8]


@dataclass(frozen=True)
class Seen:
    """A finished still to look at, as JPEG."""

    jpeg: bytes
    small: bytes
    """For the list of reviews."""


def finish_into(png: BinaryIO, light: Light, look: Finish, words: dict[str, str], ground: Ground | None) -> Seen:
    """Write a picture as PNG with `words` in it, and return what there is to look at.

    With `ground`, the linear colour of a backdrop that is to be left out, the PNG is transparent. Raises OSError.
    """
    shown = Shrunk(-(-max(light.size) // LOOKED_AT))
    opaque = shown.passing(encoded_rows(light, look, np.uint8))
    if ground is None:
        write_png(png, light.size, opaque, words)
    else:
        write_png(png, light.size, encoded_rows(light, look, np.uint8, ground), words)
        for _ in opaque:
            pass
    pixels = shown.picture()
    small = Pictures.fromarray(pixels)
    small.thumbnail(COVER_SIZE, Pictures.Resampling.LANCZOS)
    return Seen(to_jpeg(pixels, 92), to_jpeg(np.asarray(small), 88))


class Shrunk:
    """A picture made smaller by a whole number while its rows go by; what is left over at the edges is left out."""

    def __init__(self, step: int) -> None:
        self.step = step
        self._parts: list[Bytes] = []
        self._rest: Bytes | None = None

    def passing(self, rows: Iterable[Bytes]) -> Iterator[Bytes]:
        """The same rows, (n, W, 3) each, from the top."""
        for part in rows:
            self._take(part)
            yield part

    def _take(self, part: Bytes) -> None:
        if self.step == 1:
            self._parts.append(part)
            return
        whole = part if self._rest is None else np.concatenate([self._rest, part])
        down, across = len(whole) // self.step, whole.shape[1] // self.step
        blocks = whole[: down * self.step, : across * self.step].reshape(down, self.step, across, self.step, 3)
        self._parts.append(np.asarray(blocks.mean(axis=(1, 3), dtype=np.float32) + 0.5, np.uint8))
        self._rest = whole[down * self.step :]

    def picture(self) -> Bytes:
        """All that went by, (H / step, W / step, 3)."""
        return np.concatenate(self._parts)
