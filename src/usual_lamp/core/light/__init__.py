"""Surroundings as high-dynamic-range maps, computed here. Luminances in cd/m², directions z-up."""

from usual_lamp.core.light.surroundings import LIGHTINGS, Panel, Surroundings, directions, irradiance, surroundings_map

__all__ = ["LIGHTINGS", "Panel", "Surroundings", "directions", "irradiance", "surroundings_map"]
