"""Pictures that come from outside: read into numbers, or made safe to keep."""

from __future__ import annotations

import io

import numpy as np
from numpy.typing import NDArray
from PIL import Image

LARGEST = 2048
"""Pixels along a side; larger ones are made smaller."""
MOST_PIXELS = 150_000_000
"""Above this a picture is refused before it is unpacked."""


class UnreadablePicture(ValueError):
    """The bytes are no picture that can be used; the message says why."""


def safe_png(picture: Image.Image | bytes) -> bytes:
    """The picture as an 8-bit RGBA PNG of at most LARGEST pixels a side, without anything else the file held.

    Raises UnreadablePicture.
    """
    try:
        image = Image.open(io.BytesIO(picture)) if isinstance(picture, bytes) else picture
        if image.width * image.height > MOST_PIXELS:
            raise UnreadablePicture(f"The picture has {image.width} x {image.height} pixels. Make it smaller first.")
        image = image.convert("RGBA")
    except UnreadablePicture:
        raise
    except Image.DecompressionBombError as error:
        raise UnreadablePicture("The picture has far too many pixels. Make it smaller first.") from error
    except Exception as error:  # whatever a decoder raises on damaged bytes
        raise UnreadablePicture("The picture could not be read. Save it again as PNG or JPEG.") from error
    image.thumbnail((LARGEST, LARGEST), Image.Resampling.LANCZOS)
    return _png(image)


def png_of(pixels: NDArray[np.uint8]) -> bytes:
    """PNG of (H, W, 4) pixels."""
    return _png(Image.fromarray(pixels, "RGBA"))


def _png(image: Image.Image) -> bytes:
    found = io.BytesIO()
    image.save(found, "PNG", compress_level=4)
    return found.getvalue()


def read_picture(data: bytes, color: bool) -> NDArray[np.float32]:
    """(H, W, 4): scene-linear colour by IEC 61966-2-1, or the plain values; and coverage. Row 0 is the top."""
    return linear(np.asarray(Image.open(io.BytesIO(data)).convert("RGBA")), color)


def linear(pixels: NDArray[np.uint8], color: bool) -> NDArray[np.float32]:
    """(H, W, 4) in 0..1 from RGBA pixels: scene-linear where they are a colour, else as they are."""
    values = pixels.astype(np.float32) / 255.0
    if color:
        encoded = values[..., :3]
        values[..., :3] = np.where(encoded <= 0.04045, encoded / 12.92, ((encoded + 0.055) / 1.055) ** 2.4)
    return values
