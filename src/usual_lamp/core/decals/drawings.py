"""What a drawing is: text, codes and markings, in mm. `drawn` makes pictures of them."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Annotated, Any, Literal

import numpy as np
from pydantic import AfterValidator, BaseModel, ConfigDict, Field

from usual_lamp.core.decals.fonts import OWN, SHIPPED

MOST_TICKS = 500
HexColor = Annotated[str, Field(pattern="^#[0-9A-Fa-f]{6}$")]
Ink = Annotated[HexColor, Field(description="sRGB")]
Plate = Annotated[HexColor | None, Field(description="colour behind; null: nothing")]


INKS = {"glow": "#FFFFFF", "dead_front": "#FFFFFF", "foil": "#DADBDC"}
"""Colours of what is drawn, by finishes that need another than the usual dark one: light of white, foil of bright
metal."""


def _known_font(name: str) -> str:
    if name not in SHIPPED and not name.startswith(OWN):
        raise ValueError(f"there is no font called {name!r}")
    return name


FontName = Annotated[str, Field(max_length=80), AfterValidator(_known_font)]


class _Drawn(BaseModel):
    model_config = ConfigDict(frozen=True, extra="forbid")


class TextDrawing(_Drawn):
    """Text in one or more lines."""

    kind: Literal["text"] = "text"
    text: Annotated[str, Field(min_length=1, max_length=500)] = "TYPE 40"
    font: FontName = "barlow"
    cap_height: Annotated[float, Field(ge=0.2, le=500.0, description="mm, of a capital letter")] = 3.0
    color: Ink = "#14181C"
    align: Literal["left", "center", "right"] = "left"
    line: Annotated[float, Field(ge=0.8, le=4.0, description="distance of lines, in font sizes")] = 1.25
    spacing: Annotated[float, Field(ge=-0.2, le=2.0, description="between letters, in font sizes")] = 0.0


class CodeDrawing(_Drawn):
    """A code that machines read, with its quiet zone."""

    kind: Literal["qr", "code128"] = "qr"
    text: Annotated[str, Field(min_length=1, max_length=300)] = "https://example.org/40"
    module: Annotated[float, Field(ge=0.05, le=20.0, description="mm, of the narrowest bar or square")] = 0.5
    height: Annotated[float, Field(ge=1.0, le=500.0, description="mm, of the bars of a Code 128")] = 10.0
    color: Ink = "#000000"
    behind: Plate = "#FFFFFF"


class MarkingDrawing(_Drawn):
    """A marking by its sign."""

    kind: Literal["arrow", "turning arrow", "warning", "voltage"] = "arrow"
    size: Annotated[float, Field(ge=0.5, le=1000.0, description="mm: length, diameter, or a triangle's side")] = 20.0
    line: Annotated[float, Field(ge=0.02, le=0.4, description="width of an arrow's line, as a share of its size")] = (
        0.12
    )
    sweep: Annotated[float, Field(ge=20.0, le=330.0, description="degrees, of a turning arrow")] = 120.0
    color: Ink = "#14181C"


class ScaleDrawing(_Drawn):
    """Ticks with numbers, along a line or an arc."""

    kind: Literal["scale line", "scale arc"] = "scale arc"
    first: Annotated[float, Field(ge=-1e6, le=1e6)] = 0.0
    last: Annotated[float, Field(ge=-1e6, le=1e6)] = 10.0
    step: Annotated[float, Field(gt=0.0, le=1e6, description="from tick to tick")] = 1.0
    long_every: Annotated[int, Field(ge=1, le=100, description="ticks from one long one to the next")] = 2
    numbers: bool = True
    length: Annotated[float, Field(ge=1.0, le=5000.0, description="mm, along a line")] = 50.0
    radius: Annotated[float, Field(ge=0.5, le=2500.0, description="mm, of an arc, at the foot of its ticks")] = 12.0
    sweep: Annotated[float, Field(ge=5.0, le=360.0, description="degrees, of an arc; open at the bottom")] = 270.0
    tick: Annotated[float, Field(ge=0.1, le=200.0, description="mm, of a long one")] = 2.0
    cap_height: Annotated[float, Field(ge=0.2, le=200.0, description="mm")] = 1.8
    font: FontName = "barlow-narrow"
    color: Ink = "#14181C"


DRAWINGS = (TextDrawing, CodeDrawing, MarkingDrawing, ScaleDrawing)
Drawing = Annotated[TextDrawing | CodeDrawing | MarkingDrawing | ScaleDrawing, Field(discriminator="kind")]
LENGTHS = ("cap_height", "module", "height", "size", "length", "radius", "tick")
"""Fields of drawings that are mm."""


def resized(drawing: Drawing, factor: float) -> Drawing:
    """The drawing at another size, its lengths in round numbers, within their limits."""
    values = drawing.model_dump()
    for name in LENGTHS:
        if name in values:
            low, high = (getattr(limit, side) for limit, side in _limits(drawing, name))
            values[name] = min(max(_round(values[name] * factor), low), high)
    return type(drawing).model_validate(values)


def _limits(drawing: Drawing, name: str) -> Iterator[tuple[Any, str]]:
    limits = type(drawing).model_fields[name].metadata
    for side in ("ge", "le"):
        yield next(one for one in limits if hasattr(one, side)), side


def _round(value: float) -> float:
    """To two digits, in halves where one is enough: 0.35, 3.5, 12."""
    step = 10.0 ** np.floor(np.log10(value)) / 2
    return float(round(round(value / step) * step, 6))
