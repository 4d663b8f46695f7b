"""What stands in the OpenEXR file of a finished still beside its picture."""

import json

import numpy as np
import OpenEXR
import pytest

from farm.finished import SIZE, next_still
from usual_lamp.core.camera import exposure_scale
from usual_lamp.core.light.surroundings import REFERENCE_EV
from usual_lamp.core.scene.resolution import DEFAULT_SHOT, TraceInputs
from usual_lamp.core.trace.kinds_of_light import LAYERS
from usual_lamp.farm.still_run import StillRun
from usual_lamp.service import still_files, still_light, stills
from usual_lamp.service.still_files import ExrWish
from usual_lamp.store.tables import Still


def test_the_lights_of_a_still_are_layers_of_its_exr(store, client, still) -> None:
    """They add up to all light, within what denoising and half numbers take."""
    StillRun(store, client, still, lambda: False).run()
    path = store.cache / "layers.exr"
    path.write_bytes(still_files.file_of(store, still.id, "exr").opened().read())
    with OpenEXR.File(str(path), separate_channels=True) as file:
        found = {name: np.asarray(channel.pixels) for name, channel in file.channels().items()}
    lights = [name for name in found if name.startswith("light of ") and name.endswith(".G")]
    assert {"light of Key.G", "light of surroundings.G", "light of glow.G"} <= set(lights)
    on_product = found["backdrop.G"] < 0.01
    total = sum(found[name][on_product].mean() for name in lights)
    assert total == pytest.approx(found["light.G"][on_product].mean(), rel=0.03)
    assert found["albedo.R"].max() <= 1.01 and np.abs(found["normal.B"]).max() <= 1.01


def test_depth_positions_and_mattes_stand_in_its_exr(store, client, still) -> None:
    stills.move(store, still.id, "stop")
    stills.take(store, still.review_id, DEFAULT_SHOT, "coarse", SIZE, grain=0.5)
    still = next_still(store)
    StillRun(store, client, still, lambda: False).run()
    path = store.cache / "seen.exr"
    path.write_bytes(still_files.file_of(store, still.id, "exr").opened().read())
    with OpenEXR.File(str(path), separate_channels=True) as file:
        found = {name: np.asarray(channel.pixels) for name, channel in file.channels().items()}
        parts = json.loads(file.header()["parts"])
        worn = json.loads(file.header()["appearances"])
    numbers = np.unique(found["part.Y"][found["part.Y"] >= 0])
    assert len(numbers) and {str(int(n)) for n in numbers} <= set(parts)
    assert {str(int(n)) for n in np.unique(found["appearance.Y"]) if n >= 0} <= set(worn)
    camera = TraceInputs.model_validate_json(still.inputs).camera
    on = found["part.Y"] >= 0
    points = np.stack([found[f"position.{axis}"][on] for axis in "XYZ"], axis=1)
    x, y, depth = camera.project(points, SIZE[0] / SIZE[1]).T
    rows, columns = np.nonzero(on)
    np.testing.assert_allclose((x + 1) / 2 * SIZE[0] - 0.5, columns, atol=0.02)
    np.testing.assert_allclose((1 - y) / 2 * SIZE[1] - 0.5, rows, atol=0.02)
    np.testing.assert_allclose(depth, found["depth.Y"][on], rtol=1e-4)
    assert (found["alpha.Y"][on] > 0).mean() > 0.9


def test_light_by_kind_stands_in_its_exr_and_adds_up(store, client, still) -> None:
    stills.move(store, still.id, "stop")
    made = stills.take(store, still.review_id, DEFAULT_SHOT, "coarse", SIZE, by_kind=True)
    StillRun(store, client, next_still(store), lambda: False).run()

    def layers(id: str, wish: ExrWish = ExrWish()) -> dict[str, np.ndarray]:
        path = store.cache / "kinds.exr"
        path.write_bytes(still_files.file_of(store, id, "exr", exr=wish).opened().read())
        with OpenEXR.File(str(path)) as file:
            return {name: np.asarray(channel.pixels) for name, channel in file.channels().items()}

    found = layers(made)
    kinds = sum(found[f"kind_{name}"] for name in LAYERS)
    # Taking grain away keeps the light as a whole. The backdrop stands there as it is recorded.
    clean = found["light"] + found["backdrop"] / exposure_scale(REFERENCE_EV)
    np.testing.assert_allclose(kinds.mean(axis=(0, 1)), clean.mean(axis=(0, 1)), rtol=0.02)
    assert 0 <= found["shadow"].min() < found["shadow"].max() <= 1.001
    assert found["depth.Y"].shape == (SIZE[1], SIZE[0]), "a coarse one has the rest as well"
    np.testing.assert_allclose(found["light_raw"].mean(), found["light"].mean(), rtol=0.02)
    some = layers(made, ExrWish(frozenset({"raw", "seen"}), half=True))
    assert {*some} >= {"light_raw", "depth.Y", "part.Y"} and not any(
        n.startswith(("kind", "light of", "alb")) for n in some
    )
    assert (some["light_raw"].dtype, some["RGB"].dtype, some["depth.Y"].dtype) == (np.float16, np.float16, np.float32)
    np.testing.assert_allclose(some["light_raw"], found["light_raw"], rtol=1e-3, atol=1e-3)
    assert {*layers(made, ExrWish(frozenset()))} == {"RGB", "light", "backdrop"}
    # Lights at other levels are another light by kind, which was not traced; the same light finished otherwise is not.
    lighting = still_light.lighting_of(store, made)
    dimmed = still_light.relight(store, made, lighting.model_copy(update={"brightness": lighting.brightness / 2}))
    StillRun(store, client, next_still(store), lambda: False).run()
    assert not any(name.startswith("kind_") for name in layers(dimmed))
    again = stills.take(store, still.review_id, DEFAULT_SHOT, "coarse", SIZE, by_kind=True)
    with store.begin() as session:
        assert session.get(Still, again).relit_of == made
    StillRun(store, client, next_still(store), lambda: False).run()
    np.testing.assert_array_equal(layers(again)["kind_emission"], found["kind_emission"])
