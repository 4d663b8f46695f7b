"""Layers to a finished picture.

The backdrop, and the floor that stands for it, are colours of the picture: they are laid beneath what exposure, white
balance and tone curve make of the light, as bright as they are shaded. So white is white in every picture.
"""

from __future__ import annotations

import io
from collections.abc import Callable
from dataclasses import dataclass
from functools import partial
from typing import Literal

import numpy as np
import pyoidn
from numpy.typing import NDArray
from PIL import Image as PillowImage
from PIL.PngImagePlugin import PngInfo

from usual_lamp.core.camera import Finish, exposure_scale
from usual_lamp.core.light.surroundings import REFERENCE_EV
from usual_lamp.core.picture.tone import Image, srgb_encode, tone_map


@dataclass(frozen=True)
class Layers:
    """Means per pixel, (H, W, 3) each: colour in cd/m² (linear Rec. 709), albedo 0..1, world normal, and of the
    colour what is the backdrop's, which is recorded at the reference exposure."""

    color: Image
    albedo: Image
    normal: Image
    backdrop: Image | None = None
    """None where none was told apart."""

    @staticmethod
    def from_sums(sums: NDArray[np.float32], counts: NDArray[np.integer] | int) -> Layers:
        """From summed samples (H, W, 12) and the samples of each pixel (scalar or (H, W)); 0 samples stay black."""
        count = np.maximum(np.asarray(counts, np.float32), 1.0)
        mean = np.asarray(sums / (count[..., None] if count.ndim else count), np.float32)
        return Layers(*(np.ascontiguousarray(mean[..., k : k + 3]) for k in (0, 3, 6, 9)))

    def halved(self) -> Layers:
        """At half the size, for a quick look: a quarter of the cost to denoise, and half the grain."""
        height, width = (n // 2 * 2 for n in self.color.shape[:2])

        def shrink(image: Image) -> Image:
            """The means of blocks of two by two pixels."""
            blocks = image[:height, :width].reshape(height // 2, 2, width // 2, 2, 3)
            return np.ascontiguousarray(blocks.mean(axis=(1, 3), dtype=np.float32))

        behind = None if self.backdrop is None else shrink(self.backdrop)
        return Layers(shrink(self.color), shrink(self.albedo), shrink(self.normal), behind)


@dataclass(frozen=True)
class Clean:
    """A picture without grain, (H, W, 3) each."""

    color: Image
    """cd/m², linear Rec. 709, without the backdrop."""
    backdrop: Image | None
    """As it is shown, linear 0..1: in its colour, and darker where it is shaded or covered."""

    @staticmethod
    def of(
        layers: Layers, clean: Callable[[Image], Image], clean_backdrop: Callable[[Image], Image] | None = None
    ) -> Clean:
        """Clean colour and backdrop, by the same means if no other is given for the backdrop."""
        color = clean(layers.color)
        if layers.backdrop is None or not layers.backdrop.any():
            return Clean(color, None)
        behind = (clean_backdrop or clean)(layers.backdrop)
        # Where nothing but the backdrop is met there is no grain, and nothing to be guessed.
        bare = ~layers.normal.any(axis=2) & (np.abs(layers.color - layers.backdrop) <= 1e-6 * layers.color).all(axis=2)
        behind[bare], color[bare] = layers.backdrop[bare], layers.backdrop[bare]
        scale = np.float32(exposure_scale(REFERENCE_EV))
        return Clean(np.maximum(color - behind, 0.0), np.maximum(behind, 0.0) * scale)


BORDER = 16
"""Pixels mirrored round a picture while it is denoised, or its edge would come out too bright."""


def _guides(layers: Layers) -> tuple[Image, Image]:
    """Albedo and normal, in their ranges."""
    return np.clip(layers.albedo, 0.0, 1.0), np.clip(layers.normal, -1.0, 1.0)


def _bordered(image: Image) -> Image:
    return np.pad(image, ((BORDER, BORDER), (BORDER, BORDER), (0, 0)), mode="reflect")


def _without_border(image: Image) -> Image:
    return np.ascontiguousarray(image[BORDER:-BORDER, BORDER:-BORDER])


def denoise(layers: Layers, fast: bool = False) -> Clean:
    """The picture without grain (Open Image Denoise); guides are cleaned first, then trusted."""
    albedo, normal = (_bordered(guide) for guide in _guides(layers))
    if not fast:
        albedo, normal = _filter("albedo", albedo), _filter("normal", normal)
    guides = {"albedo": albedo, "normal": normal}

    def clean(image: Image, quality: int) -> Image:
        """One picture (H, W, 3) without grain, by a network of that quality."""
        return _without_border(_filter("color", _bordered(image), guides, quality))

    if fast:
        return Clean.of(layers, partial(clean, quality=pyoidn.OIDN_QUALITY_FAST))
    # A backdrop holds soft shadows at most: the large network would cost as much again and show nothing.
    high, balanced = (partial(clean, quality=q) for q in (pyoidn.OIDN_QUALITY_HIGH, pyoidn.OIDN_QUALITY_BALANCED))
    return Clean.of(layers, high, balanced)


def _filter(
    name: str, image: Image, guides: dict[str, Image] | None = None, quality: int = pyoidn.OIDN_QUALITY_FAST
) -> Image:
    """Run one filter; a fresh device each time keeps memory low between pictures."""
    result = np.zeros_like(image)
    with pyoidn.Device() as device:
        device.commit()
        with pyoidn.Filter(device, "RT") as job:
            for slot, data in {name: image, **(guides or {}), "output": result}.items():
                job.set_image(slot, data, pyoidn.OIDN_FORMAT_FLOAT3)
            job.set_int("quality", quality)
            if guides is not None:
                job.set_bool("hdr", True)
                job.set_bool("cleanAux", quality != pyoidn.OIDN_QUALITY_FAST)
            job.commit()
            job.execute()
        problem = device.get_error()
    if problem:
        raise RuntimeError(f"denoising failed: {problem}")
    return result


class FastDenoiser:
    """`denoise(layers, fast=True)` for pictures of one size, again and again.

    The filter is kept, which saves about a third of the time of a frame and costs some memory.
    """

    def __init__(self, height: int, width: int) -> None:
        self.shape = (height, width)
        shape = (height + 2 * BORDER, width + 2 * BORDER, 3)
        self._slots = {name: np.zeros(shape, np.float32) for name in ("color", "albedo", "normal")}
        self._result = np.zeros(shape, np.float32)
        self._device = pyoidn.Device()
        self._device.commit()
        self._filter = pyoidn.Filter(self._device, "RT")
        for slot, data in {**self._slots, "output": self._result}.items():
            self._filter.set_image(slot, data, pyoidn.OIDN_FORMAT_FLOAT3)
        self._filter.set_bool("hdr", True)
        self._filter.set_int("quality", pyoidn.OIDN_QUALITY_FAST)
        self._filter.commit()

    def __call__(self, layers: Layers) -> Clean:
        """Raises RuntimeError when the denoiser fails."""
        for name, guide in zip(("albedo", "normal"), _guides(layers), strict=True):
            np.copyto(self._slots[name], _bordered(guide))
        return Clean.of(layers, self._clean)

    def _clean(self, image: Image) -> Image:
        np.copyto(self._slots["color"], _bordered(image))
        self._filter.execute()
        if problem := self._device.get_error():
            raise RuntimeError(f"denoising failed: {problem}")
        return _without_border(self._result)


def develop(layers: Layers, look: Finish, quality: Literal["none", "fast", "high"] = "high") -> NDArray[np.uint8]:
    """(H, W, 3) sRGB bytes."""
    if quality == "none":
        return finish(Clean.of(layers, np.copy), look)
    return finish(denoise(layers, fast=quality == "fast"), look)


BAND = 20000
"""Pixels that are finished together."""


def finish(clean: Clean, look: Finish) -> NDArray[np.uint8]:
    """Exposure, white and tone curve of the light, and the backdrop beneath it: (H, W, 3) sRGB bytes."""
    color = clean.color
    matrix = look.matrix().T.astype(np.float32)
    pixels = np.empty(color.shape, np.uint8)
    # Band by band, which stays in the processor's cache: a third of the time of the whole at once.
    rows = max(1, BAND // max(1, color.shape[1]))
    for first in range(0, len(color), rows):
        exposed = np.maximum(color[first : first + rows], 0.0) @ matrix
        shown = tone_map(np.maximum(exposed, 0.0), look.tone)
        if clean.backdrop is not None:
            shown = shown + clean.backdrop[first : first + rows]
        encoded = srgb_encode(shown)
        pixels[first : first + rows] = np.round(encoded * 255.0)
    return pixels


def finish_on_nothing(clean: Clean, look: Finish, ground: tuple[float, float, float]) -> NDArray[np.uint8]:
    """The picture without its backdrop, which is plain in the linear colour `ground`: (H, W, 4), with straight alpha.

    Programs compose encoded values, so alpha is what makes shadow, reflection and glass come out right over `ground`
    itself; over other colours they are as near as one alpha for three channels can be.
    """
    solid = finish(clean, look).astype(np.float32) / 255.0
    below = srgb_encode(np.asarray(ground, np.float32)[None, None])
    if clean.backdrop is None:
        keeps = np.zeros(solid.shape[:2], np.float32)
    else:
        shown = srgb_encode(np.clip(clean.backdrop, 0.0, np.asarray(ground, np.float32)))
        keeps = (shown.sum(axis=2) / np.maximum(below.sum(), 1e-6)).clip(0.0, 1.0)
    # So much at least that no channel of what lies above is negative, or above white.
    darker, brighter = 1.0 - solid / np.maximum(below, 1e-6), (solid - below) / np.maximum(1.0 - below, 1e-6)
    alpha = np.maximum(1.0 - keeps, np.maximum(darker, brighter).max(axis=2)).clip(0.0, 1.0)
    over = np.clip(solid - below * (1.0 - alpha[..., None]), 0.0, alpha[..., None])
    color = np.where(alpha[..., None] > 0, over / np.maximum(alpha[..., None], 1e-6), 0.0)
    found = np.concatenate([color, alpha[..., None]], axis=2)
    return np.asarray(np.round(found * 255.0), np.uint8)


def to_png(pixels: NDArray[np.uint8], words: dict[str, str] | None = None) -> bytes:
    """sRGB-tagged PNG; `words` become text chunks."""
    info = PngInfo()
    info.add(b"sRGB", b"\x00")
    for key, value in (words or {}).items():
        info.add_text(key, value)
    stream = io.BytesIO()
    PillowImage.fromarray(pixels).save(stream, "PNG", pnginfo=info, compress_level=6)
    return stream.getvalue()


def to_jpeg(pixels: NDArray[np.uint8], quality: int = 88) -> bytes:
    """Return (H, W, 3) sRGB pixels as JPEG."""
    import simplejpeg

    return bytes(simplejpeg.encode_jpeg(np.ascontiguousarray(pixels), quality=quality, colorspace="RGB"))
