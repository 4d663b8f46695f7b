"""A finished picture as files: to hand over, to look at, to list, and to develop again."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from PIL import Image as Pictures

from usual_lamp.core.camera import Finish
from usual_lamp.core.picture.encoders import to_jpeg, to_png
from usual_lamp.core.picture.finishing import Clean, finish, finish_on_nothing

COVER_SIZE = (480, 360)


@dataclass(frozen=True)
class Finished:
    """A finished still."""

    png: bytes
    jpeg: bytes
    """To look at."""
    small: bytes
    """JPEG, for the list of reviews."""
    negative: bytes
    """See `core.picture.negative`."""


def files_of(
    clean: Clean, look: Finish, words: dict[str, str], ground: tuple[float, float, float] | None, negative: bytes
) -> Finished:
    """The files of a picture without grain, its PNG with `words` in it.

    With `ground`, the linear colour of a backdrop that is to be left out, the PNG is transparent.
    """
    pixels = finish(clean, look)
    small = Pictures.fromarray(pixels)
    small.thumbnail(COVER_SIZE, Pictures.Resampling.LANCZOS)
    kept = pixels if ground is None else finish_on_nothing(clean, look, ground)
    return Finished(to_png(kept, words), to_jpeg(pixels, 92), to_jpeg(np.asarray(small), 88), negative)
