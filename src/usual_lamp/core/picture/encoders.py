"""Finished pictures as files: PNG, JPEG, WebP and TIFF. PNG and TIFF are written row by row."""

from __future__ import annotations

import io
import zlib
from collections.abc import Iterable, Iterator
from typing import BinaryIO, Literal

import numpy as np
from numpy.typing import NDArray
from PIL import Image as PillowImage
from PIL import ImageCms

from usual_lamp.core.picture.png_file import Pixels, write_png
from usual_lamp.core.sandbox.unusable import Unusable

Form = Literal["png", "png16", "jpeg", "webp", "tiff", "exr"]
STRIP = 16
"""Rows that are packed together in a TIFF."""
WEBP_SIDE, WEBP_PIXELS = 16383, 64_000_000
"""Pixels that a WebP can have on a side, and that are packed into one: its encoder needs many times their room."""


class TooLarge(Unusable, ValueError):
    """A picture that files of that kind cannot hold; the message says which can."""


def to_png(pixels: Pixels, words: dict[str, str] | None = None) -> bytes:
    """PNG of (H, W, 3 or 4) pixels, 8 or 16 bits a channel, tagged as sRGB; `words` become text chunks."""
    stream = io.BytesIO()
    write_png(stream, (pixels.shape[1], pixels.shape[0]), [pixels], words or {})
    return stream.getvalue()


def to_jpeg(pixels: Pixels, quality: int = 88) -> bytes:
    """JPEG of (H, W, 3) pixels in sRGB, 8 bits a channel; without a profile, which means sRGB."""
    import simplejpeg

    return bytes(simplejpeg.encode_jpeg(np.ascontiguousarray(pixels), quality=quality, colorspace="RGB"))


def smaller_jpeg(data: bytes, side: int) -> bytes:
    """A JPEG made smaller, to at most so many pixels a side."""
    image = PillowImage.open(io.BytesIO(data))
    # The decoder leaves out what twice the size does not need, which is most of its work.
    image.draft("RGB", (2 * side, 2 * side))
    image.thumbnail((side, side), PillowImage.Resampling.LANCZOS)
    return to_jpeg(np.asarray(image.convert("RGB")), 85)


def to_webp(pixels: NDArray[np.uint8], quality: int = 90) -> bytes:
    """WebP of (H, W, 3 or 4) pixels, 8 bits a channel, with an sRGB profile. Raises TooLarge."""
    require_webp(pixels.shape[1], pixels.shape[0])
    stream = io.BytesIO()
    PillowImage.fromarray(pixels).save(stream, "WEBP", quality=quality, method=4, icc_profile=srgb_profile())
    return stream.getvalue()


def require_webp(width: int, height: int) -> None:
    """Raises TooLarge for a picture that no WebP is made of."""
    if max(width, height) > WEBP_SIDE or width * height > WEBP_PIXELS:
        raise TooLarge(
            f"{width} x {height} pixels are too many for WebP: {WEBP_PIXELS // 10**6} million, and {WEBP_SIDE} on a "
            "side, are the most. Download it as PNG, JPEG or TIFF."
        )


def write_tiff(file: BinaryIO, size: tuple[int, int], rows: Iterable[Pixels], kind: type, channels: int) -> None:
    """Write a TIFF of that width and height, deflated, with an sRGB profile and straight alpha, where 4 channels.

    `rows` are parts of the picture from the top, (n, width, channels) each, of 8 or 16 bits a channel. Raises OSError.
    """
    import tifffile

    width, height = size
    tifffile.imwrite(
        file,
        _strips(rows),
        shape=(height, width, channels),
        dtype=kind,
        rowsperstrip=STRIP,
        photometric="rgb",
        compression="zlib",
        iccprofile=srgb_profile(),
        extrasamples=["unassalpha"] if channels == 4 else None,
        metadata=None,
    )


def _strips(rows: Iterable[Pixels]) -> Iterator[bytes]:
    """The rows again, STRIP at a time and packed; fewer at the end."""
    rest: Pixels | None = None
    for part in rows:
        whole = part if rest is None else np.concatenate([rest, part])
        even = len(whole) // STRIP * STRIP
        yield from (zlib.compress(whole[k : k + STRIP].tobytes()) for k in range(0, even, STRIP))
        rest = whole[even:]
    if rest is not None and len(rest):
        yield zlib.compress(rest.tobytes())


def srgb_profile() -> bytes:
    """The ICC profile of sRGB."""
    return ImageCms.ImageCmsProfile(ImageCms.createProfile("sRGB")).tobytes()
