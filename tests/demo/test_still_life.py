"""The picture of what surfaces can do can be made at any time."""

from __future__ import annotations

from pathlib import Path

import numpy as np
from demo.still_life import main
from PIL import Image

from demo import help_pictures


def test_the_picture_of_surfaces_is_made(tmp_path: Path) -> None:
    main(str(tmp_path / "surfaces.png"), samples=4, width=440)
    picture = np.asarray(Image.open(tmp_path / "surfaces.png").convert("RGB")).astype(int)
    assert picture.shape == (224, 440, 3)
    red, green, blue = np.moveaxis(picture, 2, 0)
    assert ((green > red + 60) & (green > blue + 40)).mean() > 2e-4, "the lit ball"
    assert ((red > blue + 50) & (red > 120) & (green > blue + 25)).mean() > 5e-3, "gold"


def test_pairs_that_explain_settings_are_made_and_differ(tmp_path: Path) -> None:
    """Two of them, with few samples; the rest is made by the same lines."""
    help_pictures.main(tmp_path, ["base_metalness", "glare"], lambda take: help_pictures.picture(take, samples=2))
    for name in ("base_metalness", "glare"):
        low, high = (np.asarray(Image.open(tmp_path / f"{name}-{end}.webp"), float) for end in ("low", "high"))
        assert low.shape == high.shape == (198, 264, 3)
        assert np.abs(low - high).mean() > 2.0


def test_every_topic_of_the_page_has_its_pair() -> None:
    page = Path(__file__).parents[2] / "frontend/src/ui/help"
    words = (page / "help.ts").read_text()
    assert {file.name for file in page.glob("*.webp")} == {
        f"{n}-{e}.webp" for n in help_pictures.PAIRS for e in ("low", "high")
    }
    assert all(f"  {name}:" in words for name in help_pictures.PAIRS)
