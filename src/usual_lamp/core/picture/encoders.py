"""Finished pictures as files: PNG, JPEG, WebP and TIFF."""

from __future__ import annotations

import io
from typing import Literal

import numpy as np
from numpy.typing import NDArray
from PIL import Image as PillowImage
from PIL import ImageCms
from PIL.PngImagePlugin import PngInfo

Form = Literal["png", "png16", "jpeg", "webp", "tiff", "exr"]
Pixels = NDArray[np.uint8] | NDArray[np.uint16]
SRGB_CHUNK = b"\x00"
"""Of a PNG: perceptual intent (ISO/IEC 15948, 11.3.3.5)."""


def to_png(pixels: Pixels, words: dict[str, str] | None = None) -> bytes:
    """PNG of (H, W, 3 or 4) pixels, 8 or 16 bits a channel, tagged as sRGB; `words` become text chunks."""
    if pixels.dtype == np.uint16:
        return _deep_png(pixels, words or {})
    info = PngInfo()
    info.add(b"sRGB", SRGB_CHUNK)
    for key, value in (words or {}).items():
        info.add_text(key, value)
    stream = io.BytesIO()
    PillowImage.fromarray(pixels).save(stream, "PNG", pnginfo=info, compress_level=6)
    return stream.getvalue()


def _deep_png(pixels: Pixels, words: dict[str, str]) -> bytes:
    import png

    height, width, channels = pixels.shape
    plain = io.BytesIO()
    writer = png.Writer(width, height, greyscale=False, alpha=channels == 4, bitdepth=16, compression=6)
    writer.write_packed(plain, (row.astype(">u2").tobytes() for row in pixels.reshape(height, -1)))
    plain.seek(0)
    head, *rest = png.Reader(plain).chunks()
    texts = [(b"tEXt", f"{key}\0{value}".encode("latin-1", "replace")) for key, value in words.items()]
    tagged = io.BytesIO()
    png.write_chunks(tagged, [head, (b"sRGB", SRGB_CHUNK), *texts, *rest])
    return tagged.getvalue()


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


def to_webp(pixels: Pixels, quality: int = 90) -> bytes:
    """WebP of (H, W, 3 or 4) pixels, 8 bits a channel, with an sRGB profile."""
    stream = io.BytesIO()
    PillowImage.fromarray(pixels).save(stream, "WEBP", quality=quality, method=4, icc_profile=srgb_profile())
    return stream.getvalue()


def to_tiff(pixels: Pixels) -> bytes:
    """TIFF of (H, W, 3 or 4) pixels, 8 or 16 bits a channel, deflated, with an sRGB profile and straight alpha."""
    import tifffile

    stream = io.BytesIO()
    tifffile.imwrite(
        stream,
        pixels,
        photometric="rgb",
        compression="zlib",
        iccprofile=srgb_profile(),
        extrasamples=["unassalpha"] if pixels.shape[2] == 4 else None,
        metadata=None,
    )
    return stream.getvalue()


def srgb_profile() -> bytes:
    """The ICC profile of sRGB."""
    return ImageCms.ImageCmsProfile(ImageCms.createProfile("sRGB")).tobytes()
