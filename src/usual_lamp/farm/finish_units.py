"""What workers make of a still whose light is traced: its survey, and the finished picture.

They read tiles from the database and write files into it, some rows at a time: a large still takes no more room here
than a small one. Between two bands they look whether the still is still wanted.
"""

from __future__ import annotations

import tempfile
from collections.abc import Callable, Iterable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass, replace
from functools import partial
from pathlib import Path
from typing import TypeVar

import numpy as np
from sqlalchemy import select

from usual_lamp.core.camera import Finish
from usual_lamp.core.picture import develop, to_jpeg
from usual_lamp.core.picture.blocks import bands_of, cleaned_bands, is_small
from usual_lamp.core.picture.develop import Effort
from usual_lamp.core.picture.finished import finish_into
from usual_lamp.core.picture.finishing import Clean, Ground
from usual_lamp.core.picture.negative import Negative, write_negative
from usual_lamp.core.picture.survey_file import SurveyFile, write_survey
from usual_lamp.core.scene import Lighting
from usual_lamp.core.trace.group_sums import relit, unpacked
from usual_lamp.core.trace.plan import CHANNELS, TILE, Tile, tiles
from usual_lamp.core.trace.tiled import Means, TiledPicture, sketch_step
from usual_lamp.farm.workshop import workshop
from usual_lamp.service.reviews import touch
from usual_lamp.store import again_when_overtaken, blobs
from usual_lamp.store.tables import Still, StillLight, StillTile

SURVEY_SAMPLES = 4
"""Of each pixel, for coverage and occlusion; the rest is of its middle."""
SURVEYING, CLEANING = "Finding what lies behind each pixel", "Removing the grain"
T = TypeVar("T")


class Unwanted(Exception):
    """The still was paused, stopped, removed or taken over, or its tiles are gone."""


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
class FinishOrder:
    """How a still is to be finished."""

    still_id: str
    attempt: int
    look: Finish
    words: dict[str, str]
    """What its PNG says of itself."""
    ground: Ground | None
    """The linear colour of a backdrop that is to be left out of it."""
    effort: Effort = "best"
    """See `denoise`."""
    survey: str | None = None
    """The file that tells what is bare of a transparent one."""


def finish_unit(order: FinishOrder) -> Finished:
    """A still of its tiles. Raises Unwanted."""
    with workshop.lock:
        workshop.keep_limits()
        inputs = workshop.inputs(order.still_id)
        cut = tiles(inputs.width, inputs.height)
        means_of = lambda number: _means(order.still_id, number, cut[number], inputs.lighting)  # noqa: E731
        return _finished(TiledPicture(inputs.width, inputs.height, means_of), order)


def survey_unit(still_id: str, attempt: int, fingerprint: str) -> str:
    """What lies behind each pixel of a still, see `core.picture.survey_file`: the name of the file. Raises Unwanted."""
    from usual_lamp.core.trace.jobs.still import survey_bands

    with workshop.lock, _folder() as folder:
        workshop.keep_limits()
        world = workshop.world(still_id, fingerprint)
        path = folder / "survey.exr"
        size = world.inputs.width, world.inputs.height
        bands = survey_bands(world, SURVEY_SAMPLES)
        count = 1 if is_small(size) else len(range(0, size[1], TILE))
        write_survey(path, size, _while_wanted(bands, still_id, attempt, count, SURVEYING))
        return _kept(path, "image/x-exr")


def redevelop_unit(order: FinishOrder, negative: str) -> Finished:
    """A still that differs from a finished one in its finish alone, from the negative of that one, by its name."""
    with workshop.lock, _folder() as folder:
        return _developed(folder, blobs.local(workshop.store(), negative), negative, order)


def relight_unit(order: FinishOrder, source_id: str) -> Finished | None:
    """A still made from the kept light of another one that differs from it in the levels of lights alone; None where
    that light is gone, or does not hold under the new levels. Raises Unwanted."""
    with workshop.lock:
        picture = _relit(order.still_id, source_id)
        return None if picture is None else _finished(picture, order)


def relit_preview_unit(still_id: str, source_id: str, look: Finish) -> bytes | None:
    """A quick look at the same, as JPEG."""
    with workshop.lock:
        picture = _relit(still_id, source_id)
        return None if picture is None else to_jpeg(develop(picture.sketch(sketch_step(*picture.size)), look, "fast"))


def _finished(picture: TiledPicture, order: FinishOrder) -> Finished:
    """Without grain into a negative, and from that into a PNG."""
    bands: Iterable[Clean] = cleaned_bands(picture.size, picture.layers, picture.sketch, order.effort)
    if order.survey is not None and order.ground is not None:
        bands = _with_bare(bands, picture.size, SurveyFile(blobs.local(workshop.store(), order.survey)))
    with _folder() as folder:
        path = folder / "negative.exr"
        count = len(bands_of(picture.size))
        write_negative(path, picture.size, _while_wanted(bands, order.still_id, order.attempt, count, CLEANING))
        return _developed(folder, path, _kept(path, "image/x-exr"), order)


def _developed(folder: Path, path: Path, negative: str, order: FinishOrder) -> Finished:
    drawn = folder / "picture.png"
    with drawn.open("wb") as file:
        seen = finish_into(file, Negative(path), order.look, order.words, order.ground)
    return Finished(_kept(drawn, "image/png"), negative, seen.jpeg, seen.small)


def _with_bare(bands: Iterable[Clean], size: tuple[int, int], survey: SurveyFile) -> Iterator[Clean]:
    for band, rows in zip(bands, bands_of(size), strict=True):
        yield replace(band, bare=survey.bare(*rows))


@contextmanager
def _folder() -> Iterator[Path]:
    """A folder for files that are being made, where there is room for what is kept as well."""
    with tempfile.TemporaryDirectory(dir=workshop.store().cache, prefix="request-") as folder:
        yield Path(folder)


def _kept(path: Path, media_type: str) -> str:
    """A file in the database. Whoever tidies up leaves it alone for a while."""
    with workshop.store().begin() as session:
        return blobs.put_file(session, path, media_type)


def _while_wanted(bands: Iterable[T], still_id: str, attempt: int, count: int, doing: str) -> Iterator[T]:
    """The bands, as long as somebody waits for them; of several, it is said how many are done. Raises Unwanted."""
    for number, band in enumerate(bands):
        _tell(still_id, attempt, f"{doing}: {100 * number // count} %" if count > 1 else None)
        yield band


@again_when_overtaken
def _tell(still_id: str, attempt: int, message: str | None) -> None:
    with workshop.store().begin() as session:
        still = session.get(Still, still_id, with_for_update=message is not None)
        if still is None or (still.state, still.attempt) != ("running", attempt):
            raise Unwanted
        if message is not None:
            still.message = message
            touch(session, still.review_id)


def _means(still_id: str, number: int, tile: Tile, lighting: Lighting) -> Means:
    """Those of a tile that is traced. Raises Unwanted."""
    with workshop.store().begin() as session:
        row = session.get(StillTile, (still_id, number))
    if row is None:
        raise Unwanted
    sums = np.frombuffer(row.sums, "<f4").reshape(tile.height, tile.width, -1)
    whole = sums if sums.shape[2] == CHANNELS else relit(sums, lighting, None)
    return np.asarray(whole / np.float32(max(1, row.samples)), np.float32)


def _relit(still_id: str, source_id: str) -> TiledPicture | None:
    """The picture of a finished still under the levels of another one."""
    from usual_lamp.core.trace.jobs.relight import can_relight, floor_ratio, floor_under

    workshop.keep_limits()
    lighting, source = workshop.inputs(still_id).lighting, workshop.inputs(source_id)
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
        """Of a tile. Raises Unwanted."""
        with workshop.store().begin() as session:
            row = session.scalar(
                select(StillLight.means).where(StillLight.still_id == source_id, StillLight.tile == number)
            )
        if row is None:
            raise Unwanted
        tile = cut[number]
        return relit(unpacked(row, tile.height, tile.width), lighting, shade_of(tile) if shade_of else None)

    return TiledPicture(source.width, source.height, means_of)
