"""What a desk asks of a lamp session and what it gets. No tracer is needed to ask, so this imports none."""

from __future__ import annotations

from dataclasses import dataclass

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
    """Of each light in the picture, see `relight.shares`."""
    remark: str | None = None
    """What is wrong with the picture, though it could be traced."""
