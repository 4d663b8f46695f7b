"""Stills that wait or are interrupted, and the pictures of finished ones."""

from io import BytesIO

import numpy as np
import pytest
from PIL import Image

from usual_lamp.farm.asking import Lost
from usual_lamp.farm.leases import claim
from usual_lamp.farm.still_run import StillRun
from usual_lamp.store import blobs
from usual_lamp.store.tables import Still

SIZE = (300, 64)


def next_still(store) -> Still:
    with store.begin() as session:
        found = claim(session, Still)
        assert found is not None
        return found


def pixels_of(store, id: str) -> np.ndarray:
    with store.begin() as session:
        picture = session.get(Still, id).picture
    return np.asarray(Image.open(BytesIO(blobs.read(store, picture))).convert("RGB"), np.float64)


def interrupt(run: StillRun) -> None:
    """Let it trace until it has taken something, and the unit after that come to its end, which may hold the still."""
    run.closing = lambda: bool(run.counts.any())
    with pytest.raises(Lost):
        run.run()
    # The one thread of the tests' worker comes to this when it is done with what it was at.
    run.client.submit(int, pure=False).result(timeout=60)
