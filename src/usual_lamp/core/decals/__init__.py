"""Drawings for decals: text, codes and markings in mm, made into pictures; and vector files made safe."""

from usual_lamp.core.decals.drawings import (
    CodeDrawing,
    Drawing,
    MarkingDrawing,
    ScaleDrawing,
    TextDrawing,
    resized,
)
from usual_lamp.core.decals.drawn import Drawn, draw
from usual_lamp.core.decals.sheets import CannotDraw

__all__ = [
    "CannotDraw",
    "CodeDrawing",
    "Drawing",
    "Drawn",
    "MarkingDrawing",
    "ScaleDrawing",
    "TextDrawing",
    "draw",
    "resized",
]
