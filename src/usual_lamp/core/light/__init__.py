"""What gives light: surroundings as high-dynamic-range maps, computed here, and lamps. cd/m², mm, directions z-up."""

from usual_lamp.core.light.catalogue import LIGHTINGS, Panel, Surroundings
from usual_lamp.core.light.lamps import Lamp, Level
from usual_lamp.core.light.surroundings import directions, irradiance, known_surroundings, surroundings_map

__all__ = [
    "LIGHTINGS",
    "Lamp",
    "Level",
    "Panel",
    "Surroundings",
    "directions",
    "irradiance",
    "known_surroundings",
    "surroundings_map",
]
