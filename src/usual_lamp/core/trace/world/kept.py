"""What the worlds of one process share: triangles, how meshes were machined, which parts touch, texels of pictures, how
surroundings are sampled.

Each of these takes a tenth of a second or more of the first picture of a scene, and depends on content alone.
"""

from __future__ import annotations

import copy
from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray

from usual_lamp.core.assembly import Mesh
from usual_lamp.core.assembly.cutting import whole_name
from usual_lamp.core.light import irradiance
from usual_lamp.core.light.surroundings import MapWish, shrunk
from usual_lamp.core.scene.floor_plane import LEVEL
from usual_lamp.core.scene.frozen import Triple
from usual_lamp.core.trace.world.atlas import Atlas, PictureKey, PictureOf
from usual_lamp.core.trace.world.geometry import Piece, PieceKey
from usual_lamp.core.trace.world.joints import Joints
from usual_lamp.core.trace.world.lights import EnvironmentMap
from usual_lamp.core.trace.world.placements import Machining, machining

SkyKey = tuple[MapWish, str, int]
"""Surroundings, what lies below their horizon, and how wide they are."""
SMALL = 256
"""Pixels across a map from which is worked out what a tilted floor gets."""
LIGHTINGS = 3
"""Surroundings over backdrops that are kept, of about 60 MB each."""
MOST_TRIANGLES = 1_500_000
"""Of pieces, of some 100 bytes each."""


class Sky:
    """A map of what surrounds the product (H, W, 3 in cd/m², at a brightness of 1), and what follows from it."""

    def __init__(self, above: NDArray[np.float32], below: NDArray[np.float64] | None) -> None:
        """`below` is what the lower half is filled with; None where the map is taken as it is."""
        self.upwards = np.maximum(irradiance(above, (0, 0, 1)), 1e-6)
        self.map = above
        if below is not None:
            self.map = above.copy()
            self.map[above.shape[0] // 2 :] = below
        self._surroundings = EnvironmentMap(self.map)
        self._small: NDArray[np.floating] | None = None

    def on_floor(self, up: Triple, turn: float) -> NDArray[np.float64]:
        """(3,) lx on a floor with this normal, from the map turned by so many degrees: all of what stands above it."""
        if up == LEVEL:
            return self.upwards
        if self._small is None:
            self._small = shrunk(self.map, SMALL)
        angle = np.radians(-turn)
        x, y, z = up
        back = (x * np.cos(angle) - y * np.sin(angle), x * np.sin(angle) + y * np.cos(angle), z)
        return np.maximum(irradiance(self._small, back), 1e-6)

    def surroundings(self) -> EnvironmentMap:
        """To be turned and dimmed by whoever asked."""
        return copy.copy(self._surroundings)


class Kept:
    """Kept by name; a mesh's name says what it holds."""

    def __init__(self, mesh_of: Callable[[str], Mesh]) -> None:
        self.mesh_of = mesh_of
        self.joints = Joints(mesh_of)
        self._machinings: dict[str, Machining] = {}
        self._triangles: dict[str, int] = {}
        self._skies: dict[SkyKey, Sky] = {}
        self._atlas: Atlas | None = None
        self._pieces: dict[PieceKey, Piece] = {}
        self._in_pieces = 0

    def machining(self, mesh: str) -> Machining:
        """How a mesh was machined, before it was cut if it is."""
        mesh = whole_name(mesh)
        if mesh not in self._machinings:
            self._machinings[mesh] = machining(self.mesh_of(mesh))
        return self._machinings[mesh]

    def triangles(self, mesh: str) -> int:
        """How many a mesh has."""
        if mesh not in self._triangles:
            self._triangles[mesh] = len(self.mesh_of(mesh).triangles)
        return self._triangles[mesh]

    def piece(self, key: PieceKey, make: Callable[[], Piece]) -> Piece:
        """Of a mesh; all are let go of when they are too many."""
        if key not in self._pieces:
            if self._in_pieces > MOST_TRIANGLES:
                self._pieces, self._in_pieces = {}, 0
            self._pieces[key] = make()
            self._in_pieces += len(self._pieces[key].triangles)
        return self._pieces[key]

    def atlas(self, wanted: set[PictureKey], picture_of: PictureOf) -> Atlas:
        """One that has these pictures, and others that were asked for before as long as there is room."""
        if self._atlas is None or not self._atlas.has(wanted):
            self._atlas = Atlas(wanted, picture_of, self._atlas)
        return self._atlas

    def forget(self) -> None:
        """Let go of what takes much room and can be made again."""
        self._pieces, self._in_pieces = {}, 0
        self._atlas, self._skies = None, {}

    def sky(self, key: SkyKey, make: Callable[[], Sky]) -> Sky:
        """Of surroundings over a backdrop, by the names of both."""
        if key not in self._skies:
            if len(self._skies) >= LIGHTINGS:
                del self._skies[next(iter(self._skies))]
            self._skies[key] = make()
        return self._skies[key]
