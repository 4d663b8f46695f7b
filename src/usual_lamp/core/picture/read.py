"""Pictures that come from outside: read into numbers, or made safe to keep."""

from __future__ import annotations

import io

import numpy as np
from numpy.typing import NDArray
from PIL import Image

from usual_lamp.core.exr import EXR_START, MOST_PIXELS, UnreadablePicture, check_size, exr_of, read_exr
from usual_lamp.core.picture.tone import srgb_encode

LARGEST = 2048
"""Pixels along a side; larger ones are made smaller."""


def safe_png(picture: Image.Image | bytes, most_pixels: int = MOST_PIXELS) -> bytes:
    """The picture as an 8-bit RGBA PNG of at most LARGEST pixels a side, without anything else the file held.

    Raises UnreadablePicture.
    """
    try:
        image = Image.open(io.BytesIO(picture)) if isinstance(picture, bytes) else picture
        check_size(image.width, image.height, most_pixels)
        image = image.convert("RGBA")
    except UnreadablePicture:
        raise
    except Image.DecompressionBombError as error:
        raise UnreadablePicture("The picture has far too many pixels. Make it smaller first.") from error
    except Exception as error:  # whatever a decoder raises on damaged bytes
        raise UnreadablePicture("The picture could not be read. Save it again as PNG or JPEG.") from error
    image.thumbnail((LARGEST, LARGEST), Image.Resampling.LANCZOS)
    return _png(image)


def safe_picture(data: bytes, most_pixels: int = MOST_PIXELS) -> tuple[bytes, str]:
    """What is kept of a picture file, and its media type: OpenEXR stays scene-linear, all else becomes `safe_png`.

    Raises UnreadablePicture.
    """
    if not data.startswith(EXR_START):
        return safe_png(data, most_pixels), "image/png"
    values = read_exr(data, most_pixels)
    step = -(-max(values.shape[:2]) // LARGEST)
    if step > 1:
        height, width = (side // step * step for side in values.shape[:2])
        blocks = values[:height, :width].reshape(height // step, step, width // step, step, 4)
        values = blocks.mean(axis=(1, 3))
    return exr_of(values), "image/x-exr"


def shown_png(data: bytes, color: bool) -> bytes:
    """The picture as a browser can show it: colours encoded as sRGB, plain values as they are."""
    if not data.startswith(EXR_START):
        return data
    values = np.clip(read_picture(data, color), 0.0, 1.0)
    if color:
        values[..., :3] = srgb_encode(values[..., :3])
    return png_of(np.round(values * 255.0).astype(np.uint8))


def smaller_png(data: bytes, side: int) -> bytes:
    """A picture made smaller, to at most so many pixels a side."""
    image = Image.open(io.BytesIO(data))
    image.thumbnail((side, side), Image.Resampling.LANCZOS)
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
    if data.startswith(EXR_START):
        return read_exr(data)
    return linear(np.asarray(Image.open(io.BytesIO(data)).convert("RGBA")), color)


def linear(pixels: NDArray[np.uint8], color: bool) -> NDArray[np.float32]:
    """(H, W, 4) in 0..1 from RGBA pixels: scene-linear where they are a colour, else as they are."""
    values = pixels.astype(np.float32) / 255.0
    if color:
        encoded = values[..., :3]
        values[..., :3] = np.where(encoded <= 0.04045, encoded / 12.92, ((encoded + 0.055) / 1.055) ** 2.4)
    return values
