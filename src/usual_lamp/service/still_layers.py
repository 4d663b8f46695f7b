"""What a still has kept beside its picture, as channels of an OpenEXR file, some rows at a time."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Literal, get_args

import numpy as np
from numpy.typing import NDArray
from sqlalchemy import func, select
from sqlalchemy.orm import Session

from usual_lamp.core.camera import Camera
from usual_lamp.core.exr import Channel, channels_of
from usual_lamp.core.picture.survey_file import SurveyFile, matte_words
from usual_lamp.core.scene import Lighting, Scene
from usual_lamp.core.scene.resolution import TraceInputs, shown_in
from usual_lamp.core.scene.resolved import ResolvedScene
from usual_lamp.core.trace.group_sums import kinds, layers, relit, unpacked
from usual_lamp.core.trace.plan import tiles
from usual_lamp.service.errors import NotFound
from usual_lamp.service.reviews import arranged_assembly
from usual_lamp.store import Store, blobs
from usual_lamp.store.tables import Still, StillLight

LayerGroup = Literal["raw", "lights", "kinds", "surface", "seen"]
"""The light with its grain; that of each lamp; light by kind; albedo and normal that the grain is removed by; and
depth, position, normals, coverage, occlusion and mattes."""


@dataclass(frozen=True)
class ExrWish:
    """What an OpenEXR file is to hold beside the picture, its light and its backdrop, where the still has kept it."""

    groups: frozenset[LayerGroup] = frozenset(get_args(LayerGroup))
    half: bool = False
    """Light as half numbers, true to 0.05 percent and half as large; depth, position and mattes stay as they are."""


@dataclass(frozen=True)
class KeptLayers:
    """Of one still."""

    store: Store
    groups: frozenset[LayerGroup]
    size: tuple[int, int]
    """Width and height, px."""
    camera: Camera
    lighting: Lighting
    names: dict[str, str]
    """Of the lamps, by id."""
    lender: str | None
    """The still whose light it is, or None where that is gone."""
    as_traced: bool
    """Its lights are at the levels that were traced."""
    survey: SurveyFile | None
    words: dict[str, str] = field(default_factory=dict)
    """For the file's header: what the numbers of the mattes stand for."""

    def rows(self, first: int, last: int) -> dict[str, Channel]:
        """Rows [first, last) of all channels, (n, W) each. Raises NotFound where light has gone meanwhile."""
        found: dict[str, Channel] = {}
        if self.lender is not None:
            found |= channels_of(self._light(self._means(first, last)), np.float32)
        if self.survey is not None:
            found |= self.survey.channels(self.camera, first, last)
        return found

    def _light(self, means: NDArray[np.float32]) -> dict[str, NDArray[np.float32]]:
        """Layers, (n, W, 3) each."""
        named = layers(means, self.lighting, self.names)
        surface = {"albedo": named.pop("albedo"), "normal": named.pop("normal")}
        found = (named if "lights" in self.groups else {}) | (surface if "surface" in self.groups else {})
        if not self.as_traced:
            return found  # the rest is that of the levels that were traced
        if "raw" in self.groups:
            whole = relit(means, self.lighting, None)
            found["light_raw"] = whole[..., 0:3] - whole[..., 9:12]
        return found | (kinds(means) if "kinds" in self.groups else {})

    def _means(self, first: int, last: int) -> NDArray[np.float32]:
        """The kept light of rows, (n, W, channels)."""
        cut = tiles(*self.size)
        inside = {k: tile for k, tile in enumerate(cut) if tile.y < last and tile.y + tile.height > first}
        means: NDArray[np.float32] | None = None
        for number, tile in inside.items():
            with self.store.begin() as session:
                row = session.scalar(
                    select(StillLight.means).where(StillLight.still_id == self.lender, StillLight.tile == number)
                )
            if row is None:
                raise NotFound("The light of this still is not kept any more. Download it without layers of light.")
            block = unpacked(row, tile.height, tile.width)
            if means is None:
                means = np.empty((last - first, self.size[0], block.shape[2]), np.float32)
            top, bottom = max(first, tile.y), min(last, tile.y + tile.height)
            means[top - first : bottom - first, tile.x : tile.x + tile.width] = block[top - tile.y : bottom - tile.y]
        assert means is not None
        return means


def kept_layers(store: Store, session: Session, still: Still, groups: frozenset[LayerGroup]) -> KeptLayers:
    """Those of a still, of the groups that are asked for and that it has kept."""
    inputs = TraceInputs.model_validate_json(still.inputs)
    lender = None if groups <= {"seen"} else _lender(session, still)
    kept = still.survey if "seen" in groups else None
    return KeptLayers(
        store=store,
        groups=groups,
        size=(still.width, still.height),
        camera=inputs.camera,
        lighting=inputs.lighting,
        names=_lamp_names(still, inputs.lighting),
        lender=lender.id if lender else None,
        as_traced=lender is not None and lender.fingerprint == still.fingerprint,
        survey=SurveyFile(blobs.local(store, kept)) if kept else None,
        words=_matte_words(store, session, still, inputs) if kept else {},
    )


def _lender(session: Session, still: Still) -> Still | None:
    """The still that has all of its light."""
    lender = still if still.light_kept else session.get(Still, still.relit_of or "")
    if lender is None:
        return None
    count = session.scalar(select(func.count()).select_from(StillLight).where(StillLight.still_id == lender.id))
    return lender if (count or 0) >= len(tiles(still.width, still.height)) else None


def _lamp_names(still: Still, lighting: Lighting) -> dict[str, str]:
    """By id, as they were called in the scene that it was taken of."""
    scene = Scene.model_validate_json(still.scene) if still.scene else None
    known = {id: lamp.name for one in scene.lightings.values() for id, lamp in one.lamps.items()} if scene else {}
    return {id: known.get(id, id) for id in lighting.lamps}


def _matte_words(store: Store, session: Session, still: Still, inputs: TraceInputs) -> dict[str, str]:
    """What the numbers of its mattes stand for."""
    names: list[str] = []
    scene = Scene.model_validate_json(still.scene) if still.scene else None
    if scene and still.shot_id in scene.shots:
        resolved = ResolvedScene(arranged_assembly(store, session, scene), scene, still.look)
        names = [part.name for part in shown_in(resolved, scene.shots[still.shot_id])]
    return matte_words(names, [worn.name for worn in inputs.appearances])
