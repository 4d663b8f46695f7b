"""A scene resolved: what every part wears and why, what is shown, and how far that reaches.

It is made once from an assembly, a scene and a look, and then follows the scene: `after` works out anew what a change
touches, and nothing else. Whoever asks what a part comes down to asks here.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from functools import cached_property
from typing import Any

import numpy as np
from numpy.typing import NDArray

from usual_lamp.core.assembly import Assembly, Occurrence
from usual_lamp.core.scene.decal import Decal
from usual_lamp.core.scene.document import Scene
from usual_lamp.core.scene.levels import Resolved, Resolver
from usual_lamp.core.scene.picture_on_part import PictureOnPart
from usual_lamp.core.scene.touched import touched

Array = NDArray[np.float64]


@dataclass(frozen=True)
class Bounds:
    """The box round all that is shown, mm, in the frame of the review."""

    low: Array
    high: Array

    @property
    def size(self) -> Array:
        """Extent along x, y and z."""
        return self.high - self.low

    @property
    def center(self) -> Array:
        """Return the middle of the box."""
        return (self.low + self.high) / 2

    @property
    def radius(self) -> float:
        """Half of the diagonal."""
        return float(np.linalg.norm(self.size)) / 2


class ResolvedScene:
    """A scene resolved in one look, by default the one that is shown. Not to be changed."""

    def __init__(
        self,
        assembly: Assembly,
        scene: Scene,
        look: str | None = None,
        worn: dict[str, Resolved] | None = None,
        traced: dict[str, Any] | None = None,
    ) -> None:
        """`worn` and `traced` are what is known already, see `after`."""
        self.assembly, self.scene, self.look = assembly, scene, look or scene.look
        self.resolver = Resolver(assembly, scene, self.look)
        self.worn = worn if worn is not None else {part.uid: self.resolver.resolve(part) for part in assembly.parts()}
        """Of every part, shown or not, by uid."""
        self.traced: dict[str, Any] = traced if traced is not None else {}
        """Parts as the tracer got them last, by uid; kept by whoever makes trace inputs, over all steps together."""

    def after(self, scene: Scene) -> tuple[ResolvedScene, set[str]]:
        """The same assembly in a changed scene, in the look that is shown there, and the parts that differ in it."""
        uids = touched(self.assembly, self.scene, scene, self.look)
        if uids is not None and not uids:
            return ResolvedScene(self.assembly, scene, worn=self.worn, traced=self.traced), set()
        after = ResolvedScene(self.assembly, scene, worn=dict(self.worn), traced=self.traced)
        changed = set()
        for uid in self.worn if uids is None else uids:
            found = after.resolver.resolve(self.assembly.by_uid[uid])
            laid_anew = after.resolver.laid.get(uid) != self.resolver.laid.get(uid)
            if laid_anew or found != self.worn[uid]:
                after.worn[uid] = found
                changed.add(uid)
        return after, changed

    @cached_property
    def pictures_on(self) -> dict[str, tuple[PictureOnPart, ...]]:
        """What decals lay on parts, by uid, the uppermost last."""
        found: dict[str, tuple[PictureOnPart, ...]] = {}
        for decal in self.scene.decals.values():
            if decal.on and not decal.waits and decal.look in (None, self.look):
                for uid, laid in self._laid_by(decal):
                    found[uid] = (*found.get(uid, ()), *laid)
        return found

    def _laid_by(self, decal: Decal) -> Iterator[tuple[str, tuple[PictureOnPart, ...]]]:
        """What a decal lays on its part, and on others that it runs across, each in its frame."""
        part, world = self.assembly.by_uid.get(decal.part), self.assembly.world
        if part is None or part.definition is None:
            return
        laid = decal.laid()
        kept_to = (decal.sheet.face,) if decal.sheet else decal.faces
        if kept_to:
            known = {face.signature: index for index, face in enumerate(self.assembly.definition_of(part).faces)}
            faces = tuple(sorted(known[signature] for signature in kept_to if signature in known))
            own = tuple(one.model_copy(update={"faces": faces}) for one in laid) if faces else ()
        else:
            own = laid
        yield decal.part, own
        for uid in () if decal.sheet else decal.also:
            if uid in world and uid != decal.part:
                away = np.linalg.inv(world[uid]) @ world[decal.part]
                yield uid, tuple(one.seen_from(away) for one in laid)

    @cached_property
    def shown(self) -> list[Occurrence]:
        """Parts that are neither hidden nor suppressed, in the order of the tree."""
        return [part for part in self.assembly.parts() if part.uid not in self.scene.states]

    @cached_property
    def bounds(self) -> Bounds | None:
        """How far what is shown reaches; None when that is nothing."""
        if not self.shown:
            return None
        low, high = self.assembly.boxes(self.shown)
        return Bounds(low.min(axis=0), high.max(axis=0))
