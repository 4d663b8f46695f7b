"""A picture's plain background made clear, by its colour: what a logo on white needs to become a decal."""

from __future__ import annotations

import io

import numpy as np
import scipy
from numpy.typing import NDArray
from PIL import Image

from usual_lamp.core.appearance.color_difference import linear_to_lab
from usual_lamp.core.exr import UnreadablePicture
from usual_lamp.core.picture.read import linear, png_of
from usual_lamp.core.picture.tone import srgb_encode

EDGE = 2
"""Pixels beside what is cleared in which colours may be mixed with the background's."""


def without_background(png: bytes, tolerance: float, inside: bool = False) -> bytes:
    """The picture, as PNG, with what is like its border clear: within so many steps of L*a*b* (CIE 1976) of the
    border's median colour, and joined to the border, or with `inside` also what is enclosed.

    Along the edge of what is left, colours are freed of the background that is mixed into them. Raises
    UnreadablePicture where nothing would be left, or nothing is cleared.
    """
    pixels = np.asarray(Image.open(io.BytesIO(png)).convert("RGBA"))
    values = linear(pixels, color=True)
    border = np.concatenate([values[0], values[-1], values[:, 0], values[:, -1]])
    opaque = border[border[:, 3] > 0.5]
    if not len(opaque):
        raise UnreadablePicture("The border of this picture is clear already.")
    behind = np.median(opaque[:, :3], axis=0)
    seen = linear_to_lab(values[..., :3].reshape(-1, 3).astype(np.float64))
    distance = np.linalg.norm(seen - linear_to_lab(behind[None].astype(np.float64)), axis=1).reshape(pixels.shape[:2])
    alike = (distance <= tolerance) & (values[..., 3] > 0)
    if not inside:
        alike = _joined_to_border(alike)
    if alike.all() or not alike.any():
        raise UnreadablePicture("Nothing would be left of the picture, or nothing goes. Change the tolerance.")
    grown = scipy.ndimage.binary_dilation
    beside = np.where(alike, grown(~alike), grown(alike, iterations=EDGE))
    share = np.where(beside, _covered(values[..., :3], behind, alike, beside), np.where(alike, 0.0, 1.0))
    freed = behind + (values[..., :3] - behind) / np.maximum(share, 0.05)[..., None]
    color = np.where(beside[..., None], np.clip(freed, 0.0, 1.0), values[..., :3])
    made = np.concatenate([srgb_encode(color), (values[..., 3] * share)[..., None]], axis=-1)
    return png_of(np.round(np.clip(made, 0.0, 1.0) * 255.0).astype(np.uint8))


def _joined_to_border(alike: NDArray[np.bool_]) -> NDArray[np.bool_]:
    regions, _ = scipy.ndimage.label(alike)
    border = np.unique(np.concatenate([regions[0], regions[-1], regions[:, 0], regions[:, -1]]))
    return np.asarray(np.isin(regions, border[border > 0]))


def _covered(
    color: NDArray[np.float32], behind: NDArray[np.floating], alike: NDArray[np.bool_], beside: NDArray[np.bool_]
) -> NDArray[np.float64]:
    """How much of a pixel at the edge is picture: its way from the background's colour towards that of the nearest
    pixel well inside of the picture."""
    well_inside = ~alike & ~beside
    if not well_inside.any():
        return np.ones(alike.shape)
    nearest = scipy.ndimage.distance_transform_edt(~well_inside, return_distances=False, return_indices=True)
    full = color[nearest[0], nearest[1]] - behind
    length = np.maximum(np.einsum("ijk,ijk->ij", full, full), 1e-6)
    return np.asarray(np.clip(np.einsum("ijk,ijk->ij", color - behind, full) / length, 0.0, 1.0))
