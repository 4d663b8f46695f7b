"""What a check asks about, and what it answers."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from functools import cached_property
from typing import Literal, NamedTuple

import numpy as np
from numpy.typing import NDArray
from pydantic import BaseModel, Field

from usual_lamp.core.assembly import Assembly, Mesh, Occurrence
from usual_lamp.core.scene.document import Lighting, Scene
from usual_lamp.core.scene.edits import Edit
from usual_lamp.core.scene.resolution import shown_in
from usual_lamp.core.scene.resolved import ResolvedScene
from usual_lamp.core.scene.shot import Shot
from usual_lamp.core.scene.sight import SightAnswer

Array = NDArray[np.float64]
CheckKind = Literal[
    "untouched", "never visible", "twice in one place", "clipped glow", "floor", "inside", "focus", "facets",
    "soft decal", "soft texture", "open glass", "open mesh", "exposure", "backdrop", "size", "frame", "stance", "noise",
]  # fmt: skip


class Fix(BaseModel):
    """What mends it in one click: an edit, or something that the desk does."""

    words: str = Field(description="on the button, begins with a verb")
    edit: Edit | None = None
    action: Literal["first coat", "tessellate", "noise"] | None = None


class Check(BaseModel):
    """Something about a shot that a person may want to mend before a still."""

    kind: CheckKind
    title: str
    number: str = Field(description="what was found, in words with the number behind it")
    uids: list[str] = Field([], description="the parts it is about")
    fix: Fix | None = None
    silenced: bool = False


class Noise(NamedTuple):
    """What a finished still of a shot had left, relative to its light, and after how many samples a pixel."""

    left: float
    samples: int


@dataclass(frozen=True)
class Ready:
    """A shot of a resolved scene, as the checks ask for it."""

    resolved: ResolvedScene
    shot_id: str
    mesh_of: Callable[[str], Mesh]
    """By name."""
    texels: dict[str, tuple[int, int]]
    """Pixels of the pictures of decals and textures, by content hash."""
    sight: SightAnswer | None = None
    """Who can be seen, where that is known."""
    metered: float | None = None
    """EV that the traced light of the product asks for, where it is known."""
    noise: Noise | None = None
    """Of the latest still of the shot, where there is one."""

    @property
    def scene(self) -> Scene:
        """The document of the review."""
        return self.resolved.scene

    @property
    def assembly(self) -> Assembly:
        """All models, arranged."""
        return self.resolved.assembly

    @cached_property
    def shot(self) -> Shot:
        """The shot that is asked about."""
        return self.scene.shots[self.shot_id]

    @property
    def aspect(self) -> float:
        """Width over height."""
        return self.shot.width / self.shot.height

    @cached_property
    def lighting(self) -> Lighting:
        """What lights the shot."""
        return self.scene.lighting_of(self.shot)

    @property
    def lit_by(self) -> str:
        """Id of that lighting."""
        own = self.shot.lighting
        return own if own in self.scene.lightings else self.scene.lit_by

    @cached_property
    def parts(self) -> list[Occurrence]:
        """What this shot shows."""
        return shown_in(self.resolved, self.shot)

    @cached_property
    def boxes(self) -> tuple[Array, Array]:
        """Lower and upper corners of the boxes of `parts`, (N, 3) mm."""
        return self.assembly.boxes(self.parts)

    @cached_property
    def corners(self) -> Array:
        """(N, 8, 3) corners of the boxes, mm."""
        low, high = self.boxes
        picks = np.array([[i & 1, i >> 1 & 1, i >> 2 & 1] for i in range(8)], bool)
        return np.where(picks[None], high[:, None], low[:, None])

    @cached_property
    def projected(self) -> Array:
        """(N, 8, 3): the corners in the frame (x and y in -1..1) and their depth in mm."""
        return self.shot.camera.project(self.corners.reshape(-1, 3), self.aspect).reshape(-1, 8, 3)

    @cached_property
    def in_frame(self) -> NDArray[np.bool_]:
        """(N,) whether a part's box reaches into the frame, before the camera."""
        seen = self.projected
        before = seen[..., 2].max(axis=1) > 0
        low, high = seen[..., :2].min(axis=1), seen[..., :2].max(axis=1)
        # A box that reaches behind the camera may lie anywhere in the frame.
        around = seen[..., 2].min(axis=1) <= 0
        return np.asarray(before & (around | (np.all(high > -1, axis=1) & np.all(low < 1, axis=1))))

    @cached_property
    def seen(self) -> list[Occurrence]:
        """Parts in the frame."""
        return [part for part, inside in zip(self.parts, self.in_frame, strict=True) if inside]

    @property
    def size(self) -> float:
        """mm, the diagonal of all that is shown."""
        return 2 * self.resolved.bounds.radius if self.resolved.bounds else 0.0
