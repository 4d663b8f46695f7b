"""The assembly: part definitions, their occurrences, meshes and faces. Lengths in mm, colours scene-linear."""

from usual_lamp.core.assembly.mesh import Mesh
from usual_lamp.core.assembly.model import Assembly, Face, Occurrence, PartDefinition

__all__ = ["Assembly", "Face", "Mesh", "Occurrence", "PartDefinition"]
