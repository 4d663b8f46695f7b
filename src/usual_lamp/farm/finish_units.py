"""What workers make of a still whose light is traced: its survey and its light without grain, block by block, files of
all of it, and the finished picture.

They read tiles from the database and write blocks and files into it. None of it takes long, and what one unit needs of
memory does not grow with the still.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace
from functools import partial
from pathlib import Path
from typing import Literal

import numpy as np
from sqlalchemy import select
from sqlalchemy.dialects.mysql import insert

from usual_lamp.core.camera import Finish
from usual_lamp.core.exr import join_files
from usual_lamp.core.picture import develop, to_jpeg
from usual_lamp.core.picture.blocks import MARGIN, blocks_of, cleaned_block, is_small, rows_of_blocks
from usual_lamp.core.picture.develop import Effort, Scales, scales_of
from usual_lamp.core.picture.finished import finish_into
from usual_lamp.core.picture.finishing import Ground
from usual_lamp.core.picture.negative import Negative, write_negative
from usual_lamp.core.picture.survey_file import SurveyFile, write_survey
from usual_lamp.core.scene import Lighting
from usual_lamp.core.trace.group_sums import relit, unpacked
from usual_lamp.core.trace.plan import CHANNELS, Tile, tiles
from usual_lamp.core.trace.tiled import Means, TiledPicture, sketch_step
from usual_lamp.farm.tile_units import TilesGone, read_tile
from usual_lamp.farm.workshop import workshop
from usual_lamp.store import again_when_overtaken, blobs
from usual_lamp.store.tables import StillBlock, StillLight

SURVEY_SAMPLES = 4
"""Of each pixel, for coverage and occlusion; the rest is of its middle."""
Kind = Literal["light", "survey"]


@dataclass(frozen=True)
class Finished:
    """A finished still: files in the database, by name, and what there is to look at."""

    picture: str
    """PNG."""
    negative: str
    """See `core.picture.negative`."""
    jpeg: bytes
    small: bytes
    """JPEG, for the list of reviews."""


@dataclass(frozen=True)
class CleanOrder:
    """What the light without grain of a still is made of."""

    still_id: str
    source: str | None
    """The finished still whose kept light it is made of, under its own levels; None: its own tiles."""
    samples: int
    effort: Effort
    """See `denoise`."""
    scales: Scales | None
    """Of the whole, where it is cleaned in several blocks."""
    survey: str | None
    """The file that tells what is bare, where its PNG is transparent."""


def clean_unit(order: CleanOrder, number: int) -> None:
    """A block of a still without grain, into the database. Raises TilesGone."""
    with workshop.lock, blobs.folder(workshop.store()) as folder:
        workshop.keep_limits()
        picture = _picture(order.still_id, order.source)
        if picture is None:
            raise TilesGone
        if not is_small(picture.size):
            workshop.tiles.clear()  # the room is needed
        area = blocks_of(picture.size)[number]
        clean = cleaned_block(picture.size, area, picture.layers, order.scales, order.effort)
        if order.survey is not None:
            clean = replace(clean, bare=SurveyFile(blobs.local(workshop.store(), order.survey)).bare(area))
        path = folder / "light.exr"
        write_negative(path, clean)
        _keep_block(order.still_id, "light", number, order.samples, path.read_bytes())


def survey_unit(still_id: str, fingerprint: str, number: int) -> None:
    """What lies behind each pixel of a block of a still, see `core.picture.survey_file`, into the database."""
    from usual_lamp.core.trace.jobs.still import surveyed

    with workshop.lock, blobs.folder(workshop.store()) as folder:
        workshop.keep_limits()
        world = workshop.world(still_id, fingerprint)
        size = world.inputs.width, world.inputs.height
        area = blocks_of(size)[number]
        around = area.grown(MARGIN, size)
        path = folder / "survey.exr"
        write_survey(path, surveyed(world, around, SURVEY_SAMPLES), area.inside(around))
        _keep_block(still_id, "survey", number, 0, path.read_bytes())


def join_unit(still_id: str, kind: Kind, size: tuple[int, int]) -> str:
    """The blocks of a still as one file: its name. Raises TilesGone."""
    with workshop.lock, blobs.folder(workshop.store()) as folder:
        path = folder / "joined.exr"

        files = [_block_file(folder, still_id, kind, number) for number in range(len(blocks_of(size)))]
        if is_small(size):
            files[0].rename(path)
        else:
            join_files(path, size, [[files[number] for number in row] for row in rows_of_blocks(size)])
        return blobs.hand_in(workshop.store(), path, "image/x-exr")


def develop_unit(negative: str, look: Finish, words: dict[str, str], ground: Ground | None) -> Finished:
    """A still from its negative, by name, its PNG with `words` in it and without its backdrop where that is to be left
    out."""
    with workshop.lock, blobs.folder(workshop.store()) as folder:
        drawn = folder / "picture.png"
        with drawn.open("wb") as file:
            seen = finish_into(file, Negative(blobs.local(workshop.store(), negative)), look, words, ground)
        return Finished(blobs.hand_in(workshop.store(), drawn, "image/png"), negative, seen.jpeg, seen.small)


def relit_unit(still_id: str, source_id: str, look: Finish) -> tuple[bytes, Scales] | None:
    """A quick look, as JPEG, at a still that differs from a finished one in the levels of lights alone, and how bright
    it is; None where the light of that is gone, or does not hold under the new levels. Raises TilesGone."""
    with workshop.lock:
        picture = _picture(still_id, source_id)
        if picture is None:
            return None
        sketch = picture.sketch(sketch_step(*picture.size))
        return to_jpeg(develop(sketch, look, "fast")), scales_of(sketch)


@again_when_overtaken
def _keep_block(still_id: str, kind: Kind, number: int, samples: int, data: bytes) -> None:
    with workshop.store().begin() as session:
        row = insert(StillBlock).values(still_id=still_id, kind=kind, number=number, samples=samples, data=data)
        session.execute(row.on_duplicate_key_update(samples=row.inserted.samples, data=row.inserted.data))


def _block_file(folder: Path, still_id: str, kind: Kind, number: int) -> Path:
    """A block that was kept, as a file. Raises TilesGone."""
    with workshop.store().begin() as session:
        row = session.get(StillBlock, (still_id, kind, number))
    if row is None:
        raise TilesGone
    path = folder / f"{number}.exr"
    path.write_bytes(row.data)
    return path


def _picture(still_id: str, source_id: str | None) -> TiledPicture | None:
    """A still as it is traced, or of the light of another one; None where that does not hold."""
    inputs = workshop.inputs(still_id)
    if source_id is not None:
        return _relit(inputs.lighting, source_id)
    cut = tiles(inputs.width, inputs.height)
    return TiledPicture(
        inputs.width, inputs.height, lambda number: _means(still_id, number, cut[number], inputs.lighting)
    )


def _means(still_id: str, number: int, tile: Tile, lighting: Lighting) -> Means:
    """Those of a tile that is traced. Raises TilesGone."""
    found = read_tile(still_id, number, tile)
    whole = found.sums if found.sums.shape[2] == CHANNELS else relit(found.sums, lighting, None)
    return np.asarray(whole / np.float32(max(1, found.samples)), np.float32)


def _relit(lighting: Lighting, source_id: str) -> TiledPicture | None:
    """The picture of a finished still under other levels; None where its light is gone or does not hold for them."""
    from usual_lamp.core.trace.jobs.relight import can_relight, floor_ratio, floor_under

    workshop.keep_limits()
    source = workshop.inputs(source_id)
    cut = tiles(source.width, source.height)
    with workshop.store().begin() as session:
        known = session.scalars(select(StillLight.tile).where(StillLight.still_id == source_id)).all()
    if len(known) < len(cut):
        return None
    shade_of: Callable[[Tile], Means] | None = None
    if source.lighting.floor and lighting != source.lighting:
        world = workshop.world(source_id, source.fingerprint())
        if not can_relight(world, lighting):
            return None
        floor = floor_under(world, lighting)
        shade_of = None if floor is None else partial(floor_ratio, world, floor)

    def means_of(number: int) -> Means:
        """Of a tile. Raises TilesGone."""
        with workshop.store().begin() as session:
            row = session.scalar(
                select(StillLight.means).where(StillLight.still_id == source_id, StillLight.tile == number)
            )
        if row is None:
            raise TilesGone
        tile = cut[number]
        return relit(unpacked(row, tile.height, tile.width), lighting, shade_of(tile) if shade_of else None)

    return TiledPicture(source.width, source.height, means_of)
