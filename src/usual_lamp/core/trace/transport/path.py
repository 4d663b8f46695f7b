"""A path on its way through the scene, and what it has met: the state of the integrator's loop."""

from __future__ import annotations

from dataclasses import dataclass, field

from usual_lamp.core.trace.engine import dr, mi
from usual_lamp.core.trace.sampler import PixelSampler
from usual_lamp.core.trace.transport.book import Book
from usual_lamp.core.trace.transport.interior import Interior, Wall


@dataclass
class GroupSums:
    """Light by group, at nominal levels, where it is kept so: one sum for each group, or none at all."""

    light: list[mi.Color3f] = field(default_factory=list)
    floor: list[mi.Color3f] = field(default_factory=list)
    """What of the floor that stands for the backdrop each group lights."""

    @staticmethod
    def opened(count: int, lanes: int) -> GroupSums:
        """Return empty sums."""
        return GroupSums(*([dr.zeros(mi.Color3f, lanes) for _ in range(count)] for _ in range(2)))


@dataclass
class Path:
    """One path per lane: the loop state (a Dr.Jit pytree)."""

    active: mi.Bool
    ray: mi.Ray3f
    near: mi.PreliminaryIntersection3f
    """What the ray meets."""
    sampler: PixelSampler
    beta: mi.Color3f
    light: mi.Color3f
    """cd/m²; the backdrop, where it is seen, as at the reference exposure and a brightness of 1."""
    backdrop: mi.Color3f
    """What of the light is the backdrop's, or the floor's that stands for it."""
    albedo: mi.Color3f
    normal: mi.Vector3f
    depth: mi.UInt32
    """Surfaces met."""
    scatterings: mi.UInt32
    kind: mi.UInt32
    """Of the first event, see `book`."""
    open: mi.Bool
    """Still on the camera's side: only clear walls so far."""
    guide: mi.Color3f
    """Colour of the mirrors on the way to what guides the denoiser; 0 once that is found."""
    from_floor: mi.Bool
    """Last scattered by the floor's mirror lobe."""
    floor_seen: mi.Bool
    """That floor was seen directly."""
    matt: mi.Bool
    """First scattered by the matt lobe of the floor as it is seen: further light shows how it is lit."""
    last_point: mi.Point3f
    last_density: mi.Float
    """Of the last scattering, per steradian; 0 when no light sampling competes."""
    tint: mi.Color3f
    """Backdrop here over backdrop at the bottom: colours the floor like what lies behind it."""
    walking: mi.Bool
    """Within a dense body."""
    body: mi.UInt32
    """Appearance of that body."""
    steps: mi.UInt32
    """Of walks, and passages through clear walls and cut-outs."""
    interior: Interior
    book: Book
    floor_gain: mi.Color3f
    """What light is multiplied by that a path brings to the matt lobe of the floor as it is seen; else 1."""
    groups: GroupSums


@dataclass
class Hit:
    """What a path has met."""

    si: mi.SurfaceInteraction3f
    valid: mi.Bool
    on_floor: mi.Bool
    leaving: mi.Bool
    """A walk that has reached its body's wall from within."""
    index: mi.UInt32
    """Appearance there."""
    wall: Wall | None
    """Of a clear solid, where such may nest."""

    @property
    def on_part(self) -> mi.Bool:
        """Whether a part was hit, and not the floor."""
        return self.valid & ~self.on_floor

    def agrees(self, d: mi.Vector3f, local: mi.Vector3f, direction: mi.Vector3f) -> mi.Bool:
        """Whether a direction lies on the same side of the shading and of the true surface, for who comes along `d`."""
        beside = dr.dot(self.si.n, direction) * dr.dot(self.si.n, d) < 0
        return (local.z > 0) == (beside ^ self.leaving)
