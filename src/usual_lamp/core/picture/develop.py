"""Layers to a picture without grain."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from functools import partial
from typing import Literal, NamedTuple

import numpy as np
import pyoidn
import scipy  # its parts are loaded when they are first used
from numpy.typing import NDArray

from usual_lamp.core.camera import Finish, exposure_scale
from usual_lamp.core.light.surroundings import LUMINANCE, REFERENCE_EV
from usual_lamp.core.picture.finishing import GREY, Clean, finish
from usual_lamp.core.picture.tone import Image


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


def shrunk(image: Image, step: int) -> Image:
    """The means of blocks of `step` by `step` pixels, (H, W, C), without what is left over at the edges: a quick look
    that costs a part to denoise, and has less grain."""
    if step == 1:
        return image
    height, width, channels = image.shape
    down, across = height // step, width // step
    # Whole lines are added first: numpy is slow where what it adds lies apart.
    lines = image[: down * step].reshape(down, step, width, channels).sum(axis=1, dtype=np.float32)
    found = lines[:, : across * step : step].copy()
    for k in range(1, step):
        found += lines[:, k : across * step : step]
    return found / np.float32(step * step)


SAME = 1e-5
"""Of the light of a pixel: a smaller difference is one of rounding."""


def cleaned(
    layers: Layers, clean: Callable[[Image], Image], clean_backdrop: Callable[[Image], Image] | None = None
) -> Clean:
    """Clean colour and backdrop, by the same means if no other is given for the backdrop."""
    color = clean(layers.color)
    if layers.backdrop is None or not layers.backdrop.any():
        return Clean(color, None)
    behind = (clean_backdrop or clean)(layers.backdrop)
    # Where nothing but the backdrop is met there is no grain, and nothing to be guessed. Where nothing but the floor
    # is, what the two pictures without grain differ by is no light: beside outlines it would be specks.
    alone, empty = _with_nothing(layers)
    if clean_backdrop is not None:
        behind = _without_halo(behind, alone, _on_floor(layers, alone))
    behind[empty] = layers.backdrop[empty]
    color[alone] = behind[alone]
    scale = np.float32(exposure_scale(REFERENCE_EV))
    return Clean(np.maximum(color - behind, 0.0), np.maximum(behind, 0.0) * scale)


def _with_nothing(layers: Layers) -> tuple[NDArray[np.bool_], NDArray[np.bool_]]:
    """(H, W) each: where nothing but the backdrop and the floor that stands for it is met, and where no floor is."""
    assert layers.backdrop is not None
    alone = (np.abs(layers.color - layers.backdrop) <= SAME * layers.color).all(axis=2)
    return alone, alone & ~layers.normal.any(axis=2)


MOST_MEMORY = 1000
"""MB that the network may take: larger pictures are denoised in overlapping tiles, with the same result. At 3840 x 2160
its process takes 1.8 GB at its peak, and 1.16 times the CPU time that it takes with 4.0 GB (one run)."""
HALO, BEYOND = 3, 7
"""Pixels beside an outline that denoising may brighten, and so many further out tell how bright the backdrop is."""
ALIKE = 0.01
"""Of albedo and normal: how much a floor may differ from itself."""
DARK = 1e-8
"""cd/m² that count as no light."""
BORDER = 16
"""Pixels mirrored round a picture while it is denoised, or its edge would come out too bright."""


def _on_floor(layers: Layers, alone: NDArray[np.bool_]) -> NDArray[np.bool_]:
    """(H, W): where the floor is seen, and nothing before it, by what it is like where it is seen `alone`. It may
    mirror the product there, in some pixels and not in those beside them."""
    bare = alone & (np.linalg.norm(layers.normal, axis=2) > 1 - ALIKE)
    if not bare.any():
        return bare
    up = layers.normal[bare].mean(axis=0)
    least, most = layers.albedo[bare].min(axis=0) - ALIKE, layers.albedo[bare].max(axis=0) + ALIKE
    in_color = ((layers.albedo >= least) & (layers.albedo <= most)).all(axis=2)
    return np.asarray(in_color & (np.linalg.norm(layers.normal - up, axis=2) < ALIKE))


def _without_halo(behind: Image, alone: NDArray[np.bool_], on_floor: NDArray[np.bool_]) -> Image:
    """The backdrop, where it is seen `alone`, beside outlines no brighter than a little further out; (H, W) both.
    Where the floor mirrors something is no outline."""
    inner = alone & scipy.ndimage.binary_erosion(alone | on_floor, iterations=HALO, border_value=1)
    further = np.where(inner[..., None], behind, 0.0)
    size = 2 * (HALO + BEYOND) + 1
    most = np.stack([scipy.ndimage.maximum_filter(further[..., k], size) for k in range(3)], axis=2)
    beside = (alone & ~inner)[..., None] & (most > 0)
    return np.asarray(np.where(beside, np.minimum(behind, most), behind), np.float32)


def _guides(layers: Layers) -> tuple[Image, Image]:
    """Albedo and normal, in their ranges."""
    return np.clip(layers.albedo, 0.0, 1.0), np.clip(layers.normal, -1.0, 1.0)


def _bordered(image: Image) -> Image:
    return np.pad(image, ((BORDER, BORDER), (BORDER, BORDER), (0, 0)), mode="reflect")


def _without_border(image: Image) -> Image:
    return np.ascontiguousarray(image[BORDER:-BORDER, BORDER:-BORDER])


class Scales(NamedTuple):
    """By how much light is scaled for the network, where it does not see the whole picture."""

    color: float
    backdrop: float | None
    """None where there is no backdrop."""


def scales_of(sketch: Layers) -> Scales:
    """For a picture of which this is the whole, as small as one likes: to middle grey, by the logarithmic mean of its
    luminance, as the network does by itself (E. Reinhard et al., "Photographic Tone Reproduction", 2002, equation 1).
    """

    def scale(light: Image) -> float:
        """Of one picture."""
        luminance = light @ LUMINANCE
        seen = luminance[luminance > DARK]
        return GREY / float(np.exp(np.log(seen).mean())) if seen.size else 1.0

    behind = sketch.backdrop
    return Scales(scale(sketch.color), scale(behind) if behind is not None and behind.any() else None)


Effort = Literal["live", "quick", "best"]
NETWORKS = {
    "live": (pyoidn.OIDN_QUALITY_FAST, pyoidn.OIDN_QUALITY_FAST),
    "quick": (pyoidn.OIDN_QUALITY_BALANCED, pyoidn.OIDN_QUALITY_FAST),
    "best": (pyoidn.OIDN_QUALITY_HIGH, pyoidn.OIDN_QUALITY_BALANCED),
}
"""By effort, for the light and for the backdrop, which holds soft shadows at most."""


def denoise(layers: Layers, effort: Effort = "best", scales: Scales | None = None) -> Clean:
    """The picture without grain (Open Image Denoise); guides are cleaned first, then trusted, but `live`. Part of a
    picture comes with the `scales` of the whole.

    `quick` takes two thirds of the CPU time of `best`; on the demo of 16 samples its FLIP is 1.05 times that.
    """
    if layers.backdrop is not None and layers.backdrop.any() and _with_nothing(layers)[1].all():
        return cleaned(layers, np.copy)  # as blocks of large pictures often are
    albedo, normal = (_bordered(guide) for guide in _guides(layers))
    if effort != "live":
        albedo, normal = _filter("albedo", albedo), _filter("normal", normal)
    guides = {"albedo": albedo, "normal": normal}

    def clean(image: Image, quality: int, scale: float | None) -> Image:
        """One picture (H, W, 3) without grain, by a network of that quality."""
        return _without_border(_filter("color", _bordered(image), guides, quality, scale))

    light, backdrop = (
        partial(clean, quality=network, scale=scale)
        for network, scale in zip(NETWORKS[effort], scales or (None, None), strict=True)
    )
    return cleaned(layers, light, backdrop)


def _filter(
    name: str,
    image: Image,
    guides: dict[str, Image] | None = None,
    quality: int = pyoidn.OIDN_QUALITY_FAST,
    scale: float | None = None,
) -> Image:
    """Run one filter; a fresh device each time keeps memory low between pictures."""
    result = np.zeros_like(image)
    with pyoidn.Device() as device:
        device.commit()
        with pyoidn.Filter(device, "RT") as job:
            for slot, data in {name: image, **(guides or {}), "output": result}.items():
                job.set_image(slot, data, pyoidn.OIDN_FORMAT_FLOAT3)
            job.set_int("quality", quality)
            job.set_int("maxMemoryMB", MOST_MEMORY)
            if guides is not None:
                job.set_bool("hdr", True)
                job.set_bool("cleanAux", quality != pyoidn.OIDN_QUALITY_FAST)
                if scale is not None:
                    job.set_float("inputScale", scale)
            job.commit()
            job.execute()
        problem = device.get_error()
    if problem:
        raise RuntimeError(f"denoising failed: {problem}")
    return result


def without_grain(values: Image, normal: Image) -> Image:
    """One number for each pixel, (H, W) in 0..1, without grain; edges are where the normal, (H, W, 3), has them."""
    grey = _bordered(np.repeat(values[..., None], 3, axis=2).astype(np.float32))
    guides = {"albedo": np.ones_like(grey), "normal": _bordered(np.clip(normal, -1.0, 1.0))}
    return np.clip(_without_border(_filter("color", grey, guides))[..., 0], 0.0, 1.0)


class FastDenoiser:
    """`denoise(layers, "live")` for pictures of one size, again and again.

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
        return cleaned(layers, self._clean)

    def _clean(self, image: Image) -> Image:
        np.copyto(self._slots["color"], _bordered(image))
        self._filter.execute()
        if problem := self._device.get_error():
            raise RuntimeError(f"denoising failed: {problem}")
        return _without_border(self._result)


def develop(layers: Layers, look: Finish, quality: Literal["none", "fast", "high"] = "high") -> NDArray[np.uint8]:
    """(H, W, 3) sRGB bytes."""
    if quality == "none":
        return finish(cleaned(layers, np.copy), look)
    return finish(denoise(layers, "live" if quality == "fast" else "best"), look)
