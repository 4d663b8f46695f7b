"""The three qualities of a still, as samples per pixel before denoising."""

from __future__ import annotations

from typing import Literal

Quality = Literal["coarse", "fair", "fine"]
SAMPLES: dict[Quality, int] = {"coarse": 16, "fair": 64, "fine": 256}
