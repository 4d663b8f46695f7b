"""The surroundings that ship with the application: soft panels of light, rooms, skies, and measured panoramas."""

from __future__ import annotations

from dataclasses import dataclass

from usual_lamp.core.light.rooms import Room, Sky, Window


@dataclass(frozen=True)
class Panel:
    """A soft-edged rectangular light; angles in degrees, seen from the product; luminance relative."""

    azimuth: float
    elevation: float
    width: float
    height: float
    luminance: float
    softness: float = 6.0
    tint: tuple[float, float, float] = (1.0, 1.0, 1.0)


@dataclass(frozen=True)
class Surroundings:
    """A built-in environment: its label, and a room, a sky or a gradient with panels of light before it."""

    label: str
    scene: Room | Sky | None = None
    panorama: str | None = None
    """A measured one, by its file's name."""
    panels: tuple[Panel, ...] = ()
    zenith: float = 0.0
    horizon: float = 0.0
    """Luminance of the gradient between the panels, relative."""
    listed: bool = True
    """False for those that are no longer chosen from, but light the reviews that use them."""


WARM, COOL = (1.0, 0.95, 0.88), (0.93, 0.97, 1.0)

LIGHTINGS: dict[str, Surroundings] = {
    "panels": Surroundings(
        "Two panels and a rim",
        panels=(
            Panel(48, 46, 58, 40, 17.0, 6, WARM),
            Panel(-72, 22, 13, 62, 8.5, 4, COOL),
            Panel(-160, 40, 90, 13, 20.0, 4),
            Panel(128, 30, 26, 46, 5.0, 8),
            Panel(0, 88, 360, 20, 3.2, 10),
        ),
        zenith=0.75,
        horizon=0.55,
    ),
    "shiny": Surroundings(
        "Table top for shiny parts",
        panels=(
            Panel(62, 34, 62, 66, 9.0, 30, WARM),
            Panel(-66, 34, 46, 66, 6.5, 26, COOL),
            Panel(176, 46, 130, 20, 9.0, 12),
            Panel(0, 90, 360, 30, 6.0, 26),
            Panel(-4, 16, 26, 44, 0.35, 8),
        ),
        zenith=0.5,
        horizon=0.18,
    ),
    "matt": Surroundings(
        "Table top for matt parts",
        panels=(
            Panel(58, 50, 34, 34, 44.0, 6, WARM),
            Panel(-150, 34, 60, 16, 30.0, 4, COOL),
            Panel(-64, 26, 50, 50, 2.2, 16),
        ),
        zenith=0.9,
        horizon=0.6,
    ),
    "clear": Surroundings(
        "Table top for clear parts",
        panels=(
            Panel(180, 24, 116, 52, 9.0, 3),
            Panel(52, 44, 18, 62, 13.0, 3),
            Panel(-58, 30, 10, 66, 8.0, 2, COOL),
            Panel(0, 90, 360, 18, 4.0, 6),
        ),
        zenith=0.35,
        horizon=0.12,
    ),
    "tunnel": Surroundings(
        "Light tunnel",
        panels=(
            *(Panel(side, 34, 14, 56, 12.0, 3) for side in (-128.0, -52.0, 52.0, 128.0)),
            Panel(90, 58, 150, 9, 14.0, 2),
            Panel(-90, 58, 150, 9, 14.0, 2),
            Panel(0, 90, 360, 14, 5.0, 6),
        ),
        zenith=0.5,
        horizon=0.3,
    ),
    "overcast": Surroundings(
        "Overcast window",
        panels=(
            Panel(-62, 30, 22, 52, 12.0, 3, COOL),
            Panel(-36, 30, 22, 52, 12.0, 3, COOL),
            Panel(110, 20, 70, 60, 1.6, 18, WARM),
            Panel(170, 60, 90, 26, 3.2, 12),
        ),
        zenith=1.5,
        horizon=0.7,
    ),
    "overhead": Surroundings(
        "Large overhead panel",
        panels=(
            Panel(0, 82, 360, 44, 9.5, 5),
            Panel(12, 12, 120, 18, 1.5, 10),
            Panel(-150, 26, 50, 34, 3.4, 8, COOL),
        ),
        zenith=0.7,
        horizon=0.5,
    ),
    "workshop": Surroundings(
        "Bright workshop",
        scene=Room(
            (12.0, 16.0, 4.2),
            (
                *(Window("ceiling", x, y, 0.035, 0.3, 60.0, COOL) for x in (-0.6, -0.2, 0.2, 0.6) for y in (-0.5, 0.3)),
                Window("right", -0.1, 0.1, 0.24, 0.75, 9.0, COOL),
            ),
            walls=(0.78, 0.78, 0.76),
            ground=(0.32, 0.34, 0.33),
            at=(1.0, -1.0),
        ),
    ),
    "hall": Surroundings(
        "Assembly hall",
        scene=Room(
            (36.0, 60.0, 11.0),
            (
                *(
                    Window("ceiling", x, y, 0.03, 0.02, 420.0)
                    for x in (-0.75, -0.25, 0.25, 0.75)
                    for y in (-0.6, -0.2, 0.2, 0.6)
                ),
                *(Window("ceiling", x, 0.0, 0.07, 0.85, 10.0, COOL) for x in (-0.5, 0.5)),
                Window("back", 0.2, -0.4, 0.25, 0.5, 12.0, COOL),
            ),
            walls=(0.55, 0.56, 0.58),
            ceiling=(0.45, 0.45, 0.46),
            at=(-3.0, -8.0),
        ),
    ),
    "office": Surroundings(
        "Office with windows",
        scene=Room(
            (7.0, 9.0, 2.9),
            (
                *(Window("left", y, 0.2, 0.17, 0.52, 26.0, COOL) for y in (-0.66, -0.2, 0.26, 0.72)),
                *(Window("ceiling", 0.35, y, 0.1, 0.16, 8.0, WARM) for y in (-0.5, 0.4)),
            ),
            walls=(0.75, 0.72, 0.67),
            ground=(0.3, 0.26, 0.22),
            at=(-1.0, -0.6),
        ),
    ),
    "stand": Surroundings(
        "Exhibition stand",
        scene=Room(
            (10.0, 8.0, 5.5),
            (
                *(Window("ceiling", x, y, 0.035, 0.045, 520.0, WARM) for x in (-0.7, 0.0, 0.7) for y in (-0.55, 0.15)),
                Window("back", 0.0, 0.1, 0.75, 0.55, 3.4),
                Window("right", 0.2, 0.2, 0.4, 0.2, 7.0, COOL),
            ),
            walls=(0.16, 0.16, 0.17),
            ceiling=(0.06, 0.06, 0.06),
            ground=(0.25, 0.24, 0.23),
            at=(0.5, -1.0),
        ),
    ),
    "cloudy": Surroundings(
        "Overcast sky",
        scene=Sky((4.0, -0.7), (0.0, -1.0, 0.0), (40.0, 50.0), (0.97, 1.0, 1.04), (0.95, 0.97, 1.0)),
    ),
    "field": Surroundings(
        "Open field, sunny",
        scene=Sky(
            (-1.0, -0.32),
            (10.0, -3.0, 0.45),
            (55.0, 42.0),
            (0.42, 0.68, 1.25),
            (0.95, 1.02, 1.1),
            (1.2, 1.1, 0.95),
            (2.5, 900.0),
        ),
    ),
    "dusk": Surroundings(
        "Dusk yard",
        scene=Sky(
            (-1.0, -0.25),
            (4.0, -2.2, 0.3),
            (-64.0, 12.0),
            (0.42, 0.52, 0.85),
            (1.0, 0.8, 0.66),
            (1.5, 1.0, 0.6),
            (6.0, 14.0),
        ),
        panels=(Panel(64, 44, 9, 9, 120.0, 2, (1.0, 0.84, 0.62)), Panel(150, 30, 7, 7, 120.0, 2, (1.0, 0.8, 0.55))),
    ),
    "night": Surroundings(
        "Night with lamps",
        panels=(
            Panel(40, 52, 9, 9, 300.0, 2, (1.0, 0.85, 0.62)),
            Panel(-48, 40, 8, 8, 210.0, 2, (1.0, 0.85, 0.62)),
            Panel(-140, 34, 22, 9, 130.0, 2, (0.75, 0.88, 1.0)),
            Panel(130, 30, 8, 8, 170.0, 2, (1.0, 0.85, 0.62)),
        ),
        zenith=0.12,
        horizon=0.3,
    ),
    "flat": Surroundings("Empty flat, measured", panorama="apartment"),
    "square": Surroundings("City square, measured", panorama="city"),
    "ballroom": Surroundings("Ballroom with lamps, measured", panorama="hall", listed=False),
    "machines": Surroundings("Machine laboratory, measured", panorama="lab"),
    "clouds": Surroundings("Sea and clouds, measured", panorama="sky"),
    "umbrella": Surroundings("Umbrella light, measured", panorama="studio"),
    "harbour": Surroundings("Harbour in the evening, measured", panorama="sunset"),
    "gradient": Surroundings("Gradient from above", zenith=4.0, horizon=0.5),
    "even": Surroundings("Even light from all sides", zenith=1.0, horizon=1.0),
}
"""By the name that documents keep; in the order in which they are shown."""
