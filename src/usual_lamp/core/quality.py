"""The three qualities of a still, as samples per pixel before denoising."""

from __future__ import annotations

from typing import Literal

Quality = Literal["coarse", "fair", "fine"]
MOST_SAMPLES = 2048
"""Where a still that was asked for by its grain ends at the latest."""
SAMPLES: dict[Quality, int] = {"coarse": 16, "fair": 64, "fine": 256}
CLEAN = 0.05
"""Noise before denoising, relative to the light, that is not seen after it (by eye)."""
