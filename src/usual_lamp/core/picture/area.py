"""A part of a picture, by its pixels."""

from __future__ import annotations

from typing import NamedTuple


class Area(NamedTuple):
    """A rectangle of a picture, in pixels from the top left; `right` and `bottom` are outside."""

    left: int
    top: int
    right: int
    bottom: int

    def grown(self, by: int, size: tuple[int, int]) -> Area:
        """With so many pixels more on each side, as far as a picture of that width and height has them."""
        width, height = size
        return Area(
            max(0, self.left - by), max(0, self.top - by), min(width, self.right + by), min(height, self.bottom + by)
        )

    def inside(self, around: Area) -> tuple[slice, slice]:
        """Its rows and columns in a picture of another area, which holds it."""
        rows = slice(self.top - around.top, self.bottom - around.top)
        return rows, slice(self.left - around.left, self.right - around.left)

    @property
    def size(self) -> tuple[int, int]:
        """Width and height, px."""
        return self.right - self.left, self.bottom - self.top
