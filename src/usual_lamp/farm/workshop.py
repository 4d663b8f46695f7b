"""What a worker has at hand: the database, its limits, the last few scenes that it built, and sums of tiles.

Units of the same still then cost only their tracing.
"""

from __future__ import annotations

import threading
from collections import OrderedDict
from functools import partial
from typing import TYPE_CHECKING

import numpy as np
from numpy.typing import NDArray

from usual_lamp.core.picture.read import read_picture
from usual_lamp.farm.held_tiles import HeldTiles

if TYPE_CHECKING:
    from usual_lamp.core.trace.world.kept import Kept

KEPT_WORLDS = 2


class Workshop:
    """Per-process state of a worker: one tracer, one lock, a few built scenes, sums of tiles."""

    def __init__(self) -> None:
        self.lock = threading.Lock()
        self.worlds: OrderedDict[str, object] = OrderedDict()
        self.kept: Kept | None = None
        """What these share, and the next ones: the stills of a review are mostly of the same parts."""
        self.tiles = HeldTiles()
        self.sketch: object = None
        """See `sketches.sketch_of`."""
        self._store: object = None
        self._limits: object = None

    def store(self):  # type: ignore[no-untyped-def]
        from usual_lamp.store import Store

        if self._store is None:
            self._store = Store.from_environment()
        return self._store

    def keep_limits(self, share: float = 1.0) -> None:
        """Before a unit: cores (or a share of them) and memory as the settings say now."""
        from usual_lamp.farm.limits import Limits

        if self._limits is None:
            self._limits = Limits(self.store())
        self._limits.apply(share)  # type: ignore[attr-defined]
        if self._limits.memory_is_short():  # type: ignore[attr-defined]
            self.worlds.clear()
            self.kept = None
            self.tiles.clear()

    def inputs(self, still_id: str):  # type: ignore[no-untyped-def]
        from usual_lamp.core.scene.resolution import TraceInputs
        from usual_lamp.store.tables import Still

        with self.store().begin() as session:
            still = session.get(Still, still_id)
            if still is None:
                raise LookupError(f"still {still_id} is gone")
            return TraceInputs.model_validate_json(still.inputs)

    def world(self, still_id: str, fingerprint: str):  # type: ignore[no-untyped-def]
        from usual_lamp.core.trace.world.kept import Kept
        from usual_lamp.core.trace.world.world import World
        from usual_lamp.service import meshes

        if fingerprint in self.worlds:
            self.worlds.move_to_end(fingerprint)
            return self.worlds[fingerprint]
        while len(self.worlds) >= KEPT_WORLDS:
            self.worlds.popitem(last=False)
        store = self.store()
        self.kept = self.kept or Kept(partial(meshes.read, store))
        world = World(
            self.inputs(still_id),
            self.kept.mesh_of,
            picture_of=self.picture,
            mapped_of=partial(meshes.read_mapped, store),
            kept=self.kept,
        )
        self.worlds[fingerprint] = world
        return world

    def picture(self, key: str, color: bool) -> NDArray[np.float32]:
        from usual_lamp.store import blobs

        return read_picture(blobs.read(self.store(), key), color)


workshop = Workshop()
