"""From which side an assembly shows most: there, as a rule, are its displays, knobs and holes.

Eight three-quarter views are looked at from outside. Each part that shows counts the more, the more faces it has: a
cover with cut-outs says more than a plain back.
"""

from __future__ import annotations

from collections.abc import Callable
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from usual_lamp.core.assembly.mesh import Mesh
from usual_lamp.core.assembly.model import Assembly, Occurrence
from usual_lamp.core.assembly.visibility import Placed, Sight

Array = NDArray[np.float64]
USUAL = -29.0
"""Degrees from the front, of the three-quarter view that is taken where no other shows plainly more."""
AZIMUTHS = (USUAL, -USUAL, *(side + turn for turn in (180.0, 90.0, -90.0) for side in (USUAL, -USUAL)))
PLAINLY = 1.2
"""Times what the usual view shows, that another must show to be taken."""
MOST_TRIANGLES = 600_000
"""Of all definitions together; larger ones cost more to look at than the guess is worth."""
ACROSS = 160
"""Rays."""
LEAST = 0.002
"""Share of the view; what shows less says nothing of how light the product is."""


class Looked(NamedTuple):
    """What was seen of an assembly."""

    azimuth: float
    """Degrees from the front, + to the right, of the view that shows most."""
    shares: dict[str, float]
    """How much of that view each part has, by uid; what has less than LEAST is left out."""


def looked_at(assembly: Assembly, mesh_of: dict[str, Mesh], toward: Callable[[float], Array]) -> Looked | None:
    """Return the view that shows most, and what it shows; None if it was not looked for. `mesh_of` holds the
    definitions' meshes by key; `toward` gives the unit direction to the viewer at an azimuth (degrees, 0 is the front,
    + to the right)."""
    hidden = set(assembly.hidden_in_cad())
    parts = [part for part in assembly.parts() if part.uid not in hidden and part.definition in mesh_of]
    if not parts or sum(len(mesh.triangles) for mesh in mesh_of.values()) > MOST_TRIANGLES:
        return None
    sight = Sight([Placed(mesh_of[part.definition or ""], assembly.world[part.uid], False) for part in parts])
    azimuth = _best(assembly, parts, sight, toward) if len(parts) > 1 else USUAL
    shares = sight.shares_from(toward(azimuth), ACROSS)
    return Looked(azimuth, {parts[number].uid: round(share, 4) for number, share in shares.items() if share >= LEAST})


def _best(assembly: Assembly, parts: list[Occurrence], sight: Sight, toward: Callable[[float], Array]) -> float:
    worth = np.log2(2.0 + np.array([len(assembly.definition_of(part).faces) for part in parts]))
    shows = [float(worth[list(sight.first_from(toward(azimuth), ACROSS))].sum()) for azimuth in AZIMUTHS]
    best = int(np.argmax(shows))
    return AZIMUTHS[best] if shows[best] > PLAINLY * shows[0] else USUAL
