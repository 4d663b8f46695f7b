"""A part of a finished still at its full size, to look at: large ones are shown smaller otherwise."""

from __future__ import annotations

from functools import lru_cache
from pathlib import Path

from usual_lamp.core.picture import to_jpeg
from usual_lamp.core.picture.area import Area
from usual_lamp.core.picture.finishing import encoded_area, halos_of
from usual_lamp.core.picture.lens_effects import Halos
from usual_lamp.core.picture.negative import Negative
from usual_lamp.service.errors import NotFound, Refused
from usual_lamp.service.stills import finish_of
from usual_lamp.store import Store, blobs
from usual_lamp.store.tables import Still

MOST_PIXELS = 24_000_000
"""Of a part that is shown at once."""


def detail(store: Store, still_id: str, area: Area) -> bytes:
    """An area of a finished still, in its pixels, as JPEG. Raises NotFound, Refused."""
    with store.begin() as session:
        still = session.get(Still, still_id)
        if still is None or still.negative is None:
            raise NotFound("The light of this still is not kept.")
        name, look, size = still.negative, finish_of(still), (still.width, still.height)
    within = area.grown(0, size)  # no further than the picture goes
    across, down = within.size
    if across < 1 or down < 1 or across * down > MOST_PIXELS:
        raise Refused(f"Ask for a part of the picture, of at most {MOST_PIXELS // 10**6} megapixels.")
    path = blobs.local(store, name)
    return to_jpeg(encoded_area(Negative(path), look, within, _halos(path) if look.glare else None), 92)


@lru_cache(maxsize=4)
def _halos(path: Path) -> Halos:
    """What glare makes of the light of a negative, all of which has to be read for it."""
    return halos_of(Negative(path))
