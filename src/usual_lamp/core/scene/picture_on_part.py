"""Pictures laid on parts by projection, sized in mm in the part's own frame."""

from __future__ import annotations

from typing import Annotated, Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import BaseModel, ConfigDict, Field

Vector = tuple[float, float, float]
Wrapped = Literal["up", "right"]
Target = Literal["color", "roughness", "opacity", "bump", "normal", "emission"]


class PictureOnPart(BaseModel):
    """A picture projected straight along the normal of a rectangle that lies in the part's frame."""

    model_config = ConfigDict(frozen=True, allow_inf_nan=False)

    picture: str = Field(description="content hash of the picture")
    target: Target = "color"
    center: Vector
    right: Vector = Field(description="direction of the picture's width")
    up: Vector = Field(description="direction of its height, made square to `right`")
    width: Annotated[float, Field(gt=0, description="mm")]
    height: Annotated[float, Field(gt=0, description="mm")]
    turn: float = Field(0.0, description="degrees, counter-clockwise as seen from the front")
    printed: bool = Field(False, description="a colour covers metal and clear material, as print does")
    foil: bool = Field(False, description="a colour is that of bare metal")
    by_coverage: bool = Field(False, description="a bump is as high as the picture is opaque, not as it is bright")
    value: float | None = Field(
        None, description="a roughness in place of the picture's; of an emission, cd/m² of what is white in it"
    )
    mirrored: bool = Field(False, description="left and right exchanged")
    repeat: bool = False
    radius: float = Field(0.0, description="mm, of the cylinder it is wrapped round; negative inside; 0: it lies flat")
    along: Wrapped = Field("up", description="the direction that lies along the axis, or along the slope of a cone")
    taper: float = Field(0.0, description="degrees, half angle of a cone that widens towards `along`")
    depth: Annotated[float, Field(gt=0, description="mm in front of and behind the rectangle")] = 1e6
    front_only: bool = Field(False, description="only on surfaces that face the rectangle's front")
    strength: float = Field(1.0, description="bump: mm from black to white; else the share of the picture")
    by_coordinates: bool = Field(
        False, description="its rectangle lies in the coordinates of unrolled faces, mm, in place of the part's frame"
    )
    faces: tuple[int, ...] = Field((), description="faces of the part that it is kept to; none: all")

    def axes(self, turned: bool = True) -> NDArray[np.float64]:
        """(3, 3) rows: right, up and out, unit and square, with or without its turn. Raises ValueError for directions
        that are parallel."""
        right = np.asarray(self.right) / np.linalg.norm(self.right)
        out = np.cross(right, self.up)
        length = float(np.linalg.norm(out))
        if not length > 1e-9:
            raise ValueError("The directions of a picture's width and height must differ.")
        out = out / length
        up = np.cross(out, right)
        angle = np.radians(self.turn if turned else 0.0)
        return np.stack([np.cos(angle) * right + np.sin(angle) * up, np.cos(angle) * up - np.sin(angle) * right, out])

    def seen_from(self, matrix: NDArray[np.float64]) -> PictureOnPart:
        """The same picture in another frame; `matrix` (4, 4) leads there from its own, and turns, mirrors, moves and
        scales evenly."""
        turn, scale = matrix[:3, :3], float(np.cbrt(abs(np.linalg.det(matrix[:3, :3]))))
        mirrors = np.linalg.det(turn) < 0
        # Its front stays its front: what mirrors exchanges left and right.
        side = -1.0 if mirrors else 1.0
        lengths = {name: getattr(self, name) * scale for name in ("width", "height", "depth", "radius")}
        if self.target == "bump":
            lengths["strength"] = self.strength * scale
        return self.model_copy(
            update={
                **lengths,
                "center": _vector(matrix[:3, :3] @ self.center + matrix[:3, 3]),
                "right": _vector(side * (turn @ self.right) / scale),
                "up": _vector(turn @ self.up / scale),
                "turn": side * self.turn,
                "taper": (side if self.along == "right" else 1.0) * self.taper,
                "mirrored": self.mirrored != bool(mirrors),
                "faces": (),
            }
        )


def _vector(values: NDArray[np.float64]) -> Vector:
    x, y, z = (float(v) for v in values)
    return x, y, z
