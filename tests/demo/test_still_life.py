"""The picture of what surfaces can do can be made at any time."""

from __future__ import annotations

from pathlib import Path

import numpy as np
from demo.still_life import main
from PIL import Image


def test_the_picture_of_surfaces_is_made(tmp_path: Path) -> None:
    main(str(tmp_path / "surfaces.png"), samples=2)
    picture = np.asarray(Image.open(tmp_path / "surfaces.png").convert("RGB")).astype(int)
    assert picture.shape == (560, 1100, 3)
    red, green, blue = np.moveaxis(picture, 2, 0)
    assert ((green > red + 60) & (green > blue + 40)).mean() > 2e-4, "the lit ball"
    assert ((red > blue + 50) & (red > 120) & (green > blue + 25)).mean() > 5e-3, "gold"
