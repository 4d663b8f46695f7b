"""A plain background made clear: what goes, what stays, and what edges look like on another colour."""

from __future__ import annotations

import io

import numpy as np
import pytest
from PIL import Image

from usual_lamp.core.exr import UnreadablePicture
from usual_lamp.core.picture.clearing import without_background


def ring(size: int = 96, times: int = 8) -> np.ndarray:
    """(size, size) share of each pixel that a ring covers, smooth at its edges."""
    y, x = (np.mgrid[: size * times, : size * times] + 0.5) / times - size / 2
    far = np.hypot(x, y)
    covered = ((far > 20) & (far < 36)).astype(float)
    return covered.reshape(size, times, size, times).mean(axis=(1, 3))


def srgb(linear: np.ndarray) -> np.ndarray:
    return np.where(linear <= 0.0031308, 12.92 * linear, 1.055 * np.maximum(linear, 1e-9) ** (1 / 2.4) - 0.055)


def logo(paper: float = 1.0) -> bytes:
    """A dark blue ring on paper, mixed in linear light."""
    share = ring()[..., None]
    mixed = share * np.array([0.02, 0.05, 0.3]) + (1 - share) * paper
    file = io.BytesIO()
    Image.fromarray(np.round(srgb(mixed) * 255).astype(np.uint8)).save(file, "PNG")
    return file.getvalue()


def read(png: bytes) -> np.ndarray:
    return np.asarray(Image.open(io.BytesIO(png)), float) / 255


@pytest.mark.parametrize("inside", [False, True])
def test_the_background_goes_and_what_it_encloses_on_request(inside: bool) -> None:
    found = read(without_background(logo(), 10.0, inside))
    assert found[2, 2, 3] == 0 and found[48, 76, 3] == 1
    assert found[48, 48, 3] == (0 if inside else 1)
    outer = np.hypot(*(np.mgrid[:96, :96] - 47.5)) > 28
    np.testing.assert_allclose(found[..., 3][outer], ring()[outer], atol=0.06)


def test_edges_hold_no_paper() -> None:
    """Laid on black, a pixel at the edge is the ring's colour by its share, without the white that was mixed in."""
    found = read(without_background(logo(), 10.0, inside=True))
    linear = np.where(found[..., :3] <= 0.04045, found[..., :3] / 12.92, ((found[..., :3] + 0.055) / 1.055) ** 2.4)
    on_black = linear * found[..., 3:]
    np.testing.assert_allclose(on_black, ring()[..., None] * [0.02, 0.05, 0.3], atol=0.03)


def test_what_cannot_be_cleared_is_said() -> None:
    with pytest.raises(UnreadablePicture, match="Nothing would be left"):
        without_background(logo(), 200.0)
    clear = io.BytesIO()
    Image.new("RGBA", (8, 8), (0, 0, 0, 0)).save(clear, "PNG")
    with pytest.raises(UnreadablePicture, match="clear already"):
        without_background(clear.getvalue(), 10.0)
