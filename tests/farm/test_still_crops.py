"""A part of a finished still: the same pixels as a still of its own, or traced anew at full size."""

from io import BytesIO

import numpy as np
import OpenEXR
import pytest
from PIL import Image

from farm.finished import SIZE, next_still, pixels_of
from usual_lamp.core.scene import SetShot
from usual_lamp.core.scene.resolution import DEFAULT_SHOT, TraceInputs
from usual_lamp.farm.still_run import StillRun
from usual_lamp.service import editing, still_crops, still_files, stills
from usual_lamp.service.errors import Refused
from usual_lamp.service.reviews import require, scene_of
from usual_lamp.store.tables import Still

MIDDLE = (0.25, 0.0, 0.75, 1.0)


def exr(store, id: str) -> dict[str, np.ndarray]:
    path = store.cache / f"{id}.exr"
    path.write_bytes(still_files.file_of(store, id, "exr").opened().read())
    with OpenEXR.File(str(path), separate_channels=True) as file:
        return {name: np.asarray(channel.pixels) for name, channel in file.channels().items()}


def test_a_part_has_the_pixels_of_the_whole_and_is_as_current(store, client, still) -> None:
    stills.move(store, still.id, "stop")
    stills.take(store, still.review_id, DEFAULT_SHOT, "coarse", SIZE, grain=0.5)
    still = next_still(store)
    StillRun(store, client, still, lambda: False).run()
    part = still_crops.crop(store, still.id, MIDDLE)
    whole = pixels_of(store, still.id)
    # The light is kept as half numbers: a step of 255 in some pixels.
    np.testing.assert_allclose(pixels_of(store, part), whole[:, 75:225], atol=1)
    small = np.asarray(Image.open(BytesIO(still_files.file_of(store, part, "webp").opened().read())))
    assert small.shape[:2] == (64, 150)
    seen, all_of_it = exr(store, part), exr(store, still.id)
    np.testing.assert_array_equal(seen["part.Y"], all_of_it["part.Y"][:, 75:225])
    on = seen["part.Y"] >= 0
    np.testing.assert_allclose(seen["position.X"][on], all_of_it["position.X"][:, 75:225][on], atol=0.01)

    smaller = still_crops.crop(store, part, (0.2, 0.0, 0.8, 1.0))
    np.testing.assert_allclose(pixels_of(store, smaller), whole[:, 105:195], atol=1)
    lines = {line.id: line for line in stills.list_stills(store, still.review_id)}
    assert [(lines[id].width, lines[id].current, lines[id].light_kept) for id in (part, smaller)] == [
        (150, True, False),
        (90, True, False),
    ]
    with store.begin() as session:
        shot = scene_of(require(session, still.review_id)).shots[DEFAULT_SHOT]
    change = shot.model_copy(update={"exposure": shot.exposure + 1})
    editing.edit(store, still.review_id, SetShot(id=DEFAULT_SHOT, shot=change))
    assert not any(line.current for line in stills.list_stills(store, still.review_id))
    for region, words in (((0.0, 0.0, 0.1, 1.0), "64 x 64"), ((0.4, 0.0, 0.4, 1.0), "64 x 64")):
        with pytest.raises(Refused, match=words):
            still_crops.crop(store, still.id, region)


def test_a_part_that_is_traced_anew_shows_the_same(store, client, still) -> None:
    with pytest.raises(Refused, match="cannot be cropped"):
        still_crops.crop(store, still.id, MIDDLE)
    StillRun(store, client, still, lambda: False).run()
    part = still_crops.anew(store, still.id, MIDDLE)
    StillRun(store, client, next_still(store), lambda: False).run()
    with store.begin() as session:
        row = session.get(Still, part)
        assert (row.width, row.height, row.state) == (300, 128, "done")
        seen = TraceInputs.model_validate_json(row.inputs).camera
    assert seen.focal_length == pytest.approx(2 * TraceInputs.model_validate_json(still.inputs).camera.focal_length)
    again = pixels_of(store, part).reshape(64, 2, 150, 2, 3).mean(axis=(1, 3))
    assert np.abs(again - pixels_of(store, still.id)[:, 75:225]).mean() < 6
    (line,) = [line for line in stills.list_stills(store, still.review_id) if line.id == part]
    assert line.current and line.can_go_on
    inner = still_crops.crop(store, part, (0.0, 0.0, 0.5, 1.0))
    (line,) = [line for line in stills.list_stills(store, still.review_id) if line.id == inner]
    assert line.current and (line.width, line.height) == (150, 128) and SIZE == (300, 64)
