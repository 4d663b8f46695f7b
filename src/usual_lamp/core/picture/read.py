"""Pictures that come from outside: read into numbers, or made safe to keep."""

from __future__ import annotations

import io
import tempfile
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

import numpy as np
from numpy.typing import NDArray
from PIL import Image

from usual_lamp.core.picture.tone import srgb_encode
from usual_lamp.core.sandbox.unusable import Unusable

LARGEST = 2048
"""Pixels along a side; larger ones are made smaller."""
MOST_PIXELS = 40_000_000
"""Above this a picture is refused before it is unpacked."""
MOST_CHANNELS = 8


EXR_START = bytes((0x76, 0x2F, 0x31, 0x01))
"""What OpenEXR files begin with."""


class UnreadablePicture(Unusable, ValueError):
    """The bytes are no picture that can be used; the message says why."""


def _check_size(width: int, height: int, most_pixels: int) -> None:
    if width * height > most_pixels:
        raise UnreadablePicture(
            f"The picture has {width} x {height} pixels, and at most {most_pixels / 1e6:.0f} million are taken. "
            "Make it smaller first."
        )


def safe_png(picture: Image.Image | bytes, most_pixels: int = MOST_PIXELS) -> bytes:
    """The picture as an 8-bit RGBA PNG of at most LARGEST pixels a side, without anything else the file held.

    Raises UnreadablePicture.
    """
    try:
        image = Image.open(io.BytesIO(picture)) if isinstance(picture, bytes) else picture
        _check_size(image.width, image.height, most_pixels)
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
    values = _read_exr(data, most_pixels)
    step = -(-max(values.shape[:2]) // LARGEST)
    if step > 1:
        height, width = (side // step * step for side in values.shape[:2])
        blocks = values[:height, :width].reshape(height // step, step, width // step, step, 4)
        values = blocks.mean(axis=(1, 3))
    return _write_exr(values), "image/x-exr"


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
        return _read_exr(data)
    return linear(np.asarray(Image.open(io.BytesIO(data)).convert("RGBA")), color)


def linear(pixels: NDArray[np.uint8], color: bool) -> NDArray[np.float32]:
    """(H, W, 4) in 0..1 from RGBA pixels: scene-linear where they are a colour, else as they are."""
    values = pixels.astype(np.float32) / 255.0
    if color:
        encoded = values[..., :3]
        values[..., :3] = np.where(encoded <= 0.04045, encoded / 12.92, ((encoded + 0.055) / 1.055) ** 2.4)
    return values


@contextmanager
def _exr_file(data: bytes = b"") -> Iterator[str]:
    """OpenEXR's library reads and writes named files only."""
    with tempfile.TemporaryDirectory(prefix="usual-lamp-") as folder:
        path = Path(folder) / "picture.exr"
        if data:
            path.write_bytes(data)
        yield str(path)


def _read_exr(data: bytes, most_pixels: int = MOST_PIXELS) -> NDArray[np.float32]:
    """(H, W, 4) of an OpenEXR file's first part; grey where it has one channel, covered where it has no alpha."""
    import OpenEXR

    try:
        with _exr_file(data) as path:
            with OpenEXR.File(path, header_only=True) as head:
                low, high = head.header()["dataWindow"]
                channels = len(head.header()["channels"])
            width, height = (int(high[k]) - int(low[k]) + 1 for k in range(2))
            _check_size(width, height, most_pixels)
            if channels > MOST_CHANNELS:
                raise UnreadablePicture(f"The picture has {channels} channels; at most {MOST_CHANNELS} are taken.")
            with OpenEXR.File(path, separate_channels=True) as file:
                found = {name: np.asarray(channel.pixels, np.float32) for name, channel in file.channels().items()}
    except UnreadablePicture:
        raise
    except Exception as error:  # whatever the library raises on damaged bytes
        raise UnreadablePicture("The OpenEXR file could not be read. Save it again, with channels R, G, B.") from error
    grey = found.get("Y", next(iter(found.values()), None))
    if grey is None or ("Y" not in found and len(found) > 1 and not {"R", "G", "B"} <= set(found)):
        raise UnreadablePicture("The OpenEXR file has no channels R, G, B and none called Y.")
    full = np.ones_like(grey)
    values = np.stack([found.get("R", grey), found.get("G", grey), found.get("B", grey), found.get("A", full)], axis=-1)
    return np.nan_to_num(values, nan=0.0, posinf=65504.0, neginf=0.0)


def _write_exr(values: NDArray[np.float32]) -> bytes:
    import OpenEXR

    header = {"compression": OpenEXR.ZIP_COMPRESSION, "type": OpenEXR.scanlineimage}
    with _exr_file() as path:
        pixels = np.ascontiguousarray(values.astype(np.float16))
        with OpenEXR.File(header, {"RGBA": pixels}) as file:
            file.write(path)
        return Path(path).read_bytes()
