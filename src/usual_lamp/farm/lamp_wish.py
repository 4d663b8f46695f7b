"""What a desk asks of a lamp session and what it gets. No tracer is needed to ask, so this imports none."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from usual_lamp.core.camera import Camera
from usual_lamp.core.trace.plan import Region


@dataclass(frozen=True)
class Wish:
    """What a desk wants to see."""

    review: str
    seq: int
    """Of the scene, at least."""
    shot: str
    camera: Camera
    width: int
    height: int
    region: Region
    paused: bool
    look: str | None = None
    """The one that is shown if None."""
    lighting: str | None = None
    """A lighting by id; that of the shot if None."""
    surroundings: str | None = None
    """In place of those of the lighting."""
    shows: Literal["picture", "luminance"] = "picture"
    """The finished picture, or its luminance in false colours."""
    aside: bool = False
    """Whether all others go first."""


@dataclass(frozen=True)
class Frame:
    """A traced picture, or what stands in its way."""

    token: str
    wish: Wish
    jpeg: bytes
    samples: int = 0
    grain: float | None = None
    message: str | None = None
    shares: dict[str, float] | None = None
    """Of each light in the picture, see `group_sums.shares`."""
    outline: tuple[float, str, float] | None = None
    """Share of the product's outline that is lost against what is behind it, on which side, and by how many EV the
    product is brighter."""
    metered: float | None = None
    """EV that a meter proposes for the product."""
    scale: tuple[float, float] | None = None
    """cd/m² at both ends of the false colours."""
    remark: str | None = None
    """What is wrong with the picture, though it could be traced."""
