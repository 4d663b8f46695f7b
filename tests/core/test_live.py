"""The live picture: what the desk shows traced is what a still would show, however it came to be."""

from __future__ import annotations

import numpy as np
import pytest

from usual_lamp.core.appearance import SHELF
from usual_lamp.core.assembly import Mesh
from usual_lamp.core.scene import Assign, Lighting, apply_edit, first_scene, trace_inputs
from usual_lamp.core.scene.resolution import DEFAULT_SHOT, TraceInputs
from usual_lamp.core.trace.engine import ALIGNED, dr, mi, settled
from usual_lamp.core.trace.jobs.ahead import kernel_with, likely_next, wearing
from usual_lamp.core.trace.jobs.live import LivePicture
from usual_lamp.core.trace.plan import WHOLE, Region, Tile
from usual_lamp.core.trace.surface.table import Four
from usual_lamp.core.trace.transport.tiles import trace_block
from usual_lamp.core.trace.world.world import World

SIZE = (64, 48)


@pytest.fixture(scope="module")
def mesh_of(as1):
    return lambda key: Mesh.from_bytes(as1.blobs[key].read_bytes())


@pytest.fixture(scope="module")
def inputs(as1) -> TraceInputs:
    """as1 with a brass rod, a clear plate and lit nuts, so that every kind of surface is there."""
    assembly = as1.assembly
    uids = {part.uid for part in assembly.parts()}
    scene = first_scene(assembly, "rev", (640, 480))
    for name, sample in (("rod", "brass-turned"), ("plate", "polycarbonate-clear"), ("nut", "lit-green")):
        found = {part.uid: sample for part in assembly.parts() if part.name == name}
        scene, _ = apply_edit(scene, Assign(assignments=found, define={sample: SHELF[sample]}), uids)
    # No lamps: a picture relit holds the noise of how samples were shared out between lights when it was traced.
    return trace_inputs(assembly, scene, scene.shots[DEFAULT_SHOT], SIZE).model_copy(update={"lighting": Lighting()})


def changed(inputs: TraceInputs, sample: str = "", **params) -> TraceInputs:
    """The same inputs with other parameters for one appearance."""
    appearances = [
        a.model_copy(update={"params": a.params.model_copy(update=params)}) if a.id == sample else a
        for a in inputs.appearances
    ]
    return inputs.model_copy(update={"appearances": appearances})


def lit(inputs: TraceInputs, **lighting) -> TraceInputs:
    return inputs.model_copy(update={"lighting": inputs.lighting.model_copy(update=lighting)})


def from_beneath(inputs: TraceInputs) -> TraceInputs:
    x, y, z = inputs.camera.position
    return inputs.model_copy(update={"camera": inputs.camera.model_copy(update={"position": (x, y, -z - 50.0)})})


def traced(picture: LivePicture, samples: int) -> np.ndarray:
    """Mean colour once at least that many samples are there."""
    while picture.samples < samples or picture.rows:
        picture.step()
    return picture.picture()[..., :3] / picture.samples


def still(inputs: TraceInputs, mesh_of, samples: int) -> np.ndarray:
    return trace_block(World(inputs, mesh_of), Tile(0, 0, *SIZE), 0, samples)[..., :3] / samples


def test_one_kernel_wherever_numpy_puts_the_numbers() -> None:
    """Reads in packets are compiled for round addresses only: the same numbers elsewhere would be another kernel."""
    room = np.arange(256, dtype=np.float32)
    kernels = set()
    for start in range(ALIGNED // 4):
        data = settled(room[start : start + 128])
        with dr.scoped_set_flag(dr.JitFlag.KernelHistory, True):
            dr.kernel_history_clear()
            found = dr.gather(Four, data, dr.arange(mi.UInt32, 32))
            dr.eval(found)
            kernels |= {entry["hash"] for entry in dr.kernel_history() if entry["type"] == dr.KernelType.JIT}
        np.testing.assert_array_equal(np.array(found).T.ravel(), room[start : start + 128])
    assert len(kernels) == 1


def test_equals_the_still_of_the_same_samples(inputs, mesh_of) -> None:
    picture = LivePicture(mesh_of)
    assert picture.follow(inputs) and not picture.follow(inputs)
    found = traced(picture, 10)
    np.testing.assert_allclose(found, still(inputs, mesh_of, picture.samples), rtol=2e-4, atol=0.02)


@pytest.mark.parametrize("region", [WHOLE, Region(0.1, 0.1, 0.55, 0.6)])
def test_a_sketch_is_part_of_the_first_pass(inputs, mesh_of, region) -> None:
    picture = LivePicture(mesh_of)
    picture.follow(inputs, region)
    sketch = picture.sketch()[..., :3]
    found = traced(picture, 1)
    area = picture.area
    expected = still(inputs, mesh_of, 1)[area.y : area.y + area.height, area.x : area.x + area.width]
    np.testing.assert_allclose(found, expected, rtol=2e-4, atol=0.02)
    np.testing.assert_array_equal(sketch, found[::2, ::2])


def test_after_any_change_it_is_as_if_built_anew(inputs, mesh_of) -> None:
    picture = LivePicture(mesh_of)
    steps = [
        inputs,
        changed(inputs, "brass-turned", base_color=(0.1, 0.2, 0.8), specular_roughness=0.5),
        lit(inputs, turn=70.0, brightness=1.6),
        lit(inputs, turn=70.0, brightness=0.7),
        inputs.model_copy(update={"parts": inputs.parts[2:]}),
        lit(inputs, surroundings="overcast", floor=False),
        from_beneath(inputs),
        inputs,
    ]
    for step in steps:
        picture.follow(step)
        np.testing.assert_allclose(traced(picture, 2), still(step, mesh_of, picture.samples), rtol=2e-4, atol=0.02)


def with_another(inputs: TraceInputs, like: str, **params) -> TraceInputs:
    """The same inputs with one more appearance, on the first part."""
    old = next(a for a in inputs.appearances if a.id == like)
    new = old.model_copy(update={"id": "another", "params": old.params.model_copy(update=params)})
    first = inputs.parts[0].model_copy(update={"appearance": len(inputs.appearances), "faces": {}})
    return inputs.model_copy(update={"appearances": [*inputs.appearances, new], "parts": [first, *inputs.parts[1:]]})


def test_everyday_changes_compile_nothing(inputs, mesh_of) -> None:
    picture = LivePicture(mesh_of)
    picture.follow(inputs)
    traced(picture, 4)
    without_lit = [part for part in inputs.parts if inputs.appearances[part.appearance].id != "lit-green"]
    without_clear = [part for part in inputs.parts if inputs.appearances[part.appearance].id != "polycarbonate-clear"]
    nearer = inputs.camera.model_copy(update={"focal_length": 120.0, "parallel": True})
    steps = [
        changed(inputs, "brass-turned", base_color=(0.1, 0.2, 0.8)),
        changed(inputs, "brass-turned", specular_roughness=0.6),
        lit(inputs, turn=70.0),
        lit(inputs, brightness=1.6),
        with_another(inputs, "brass-turned", base_color=(0.3, 0.3, 0.3)),
        inputs.model_copy(update={"parts": without_lit}),
        inputs.model_copy(update={"parts": without_clear}),
        inputs.model_copy(update={"camera": nearer}),
        from_beneath(inputs),
    ]
    with dr.scoped_set_flag(dr.JitFlag.KernelHistory, True):
        dr.kernel_history_clear()
        for step in steps:
            picture.follow(step)
            traced(picture, 4)
        kernels = [entry for entry in dr.kernel_history() if entry["type"] == dr.KernelType.JIT]
    assert len(kernels) > len(steps)
    # A kernel that is neither in memory nor on disk has to be compiled.
    assert [entry["hash"] for entry in kernels if not entry["cache_hit"] and not entry["cache_disk"]] == []
    assert sum(not entry["cache_hit"] for entry in kernels) <= 3, "and next to nothing is even loaded"


def test_a_region_is_that_part_of_the_whole(inputs, mesh_of) -> None:
    picture = LivePicture(mesh_of)
    picture.follow(inputs)
    whole = traced(picture, 2)
    region = Region(0.25, 0.5, 0.75, 1.0)
    assert picture.follow(inputs, region)
    part = traced(picture, 2)
    assert part.shape[:2] == (24, 32)
    np.testing.assert_allclose(part, whole[24:, 16:48], rtol=2e-4, atol=0.02)
    with pytest.raises(ValueError, match="inside"):
        picture.follow(inputs, Region(0.9, 0.9, 1.9, 1.9))
    assert picture.follow(inputs, WHOLE)


def test_reported_grain_is_the_error_that_is_there(inputs, mesh_of) -> None:
    """Within 20 percent of the error against a picture of many more samples, which leaves under two percent open."""
    truth = still(inputs, mesh_of, 1024)
    picture = LivePicture(mesh_of)
    picture.follow(inputs)
    for samples in (8, 32):
        found = traced(picture, samples)
        error = float(np.sqrt(np.mean((found - truth) ** 2)) / truth.mean())
        assert picture.grain() == pytest.approx(error, rel=0.2)


def test_what_was_moved_often_does_not_pile_up(inputs, mesh_of, monkeypatch) -> None:
    monkeypatch.setattr("usual_lamp.core.trace.world.world.SPARE_TRIANGLES", 0)
    world = World(inputs, mesh_of)
    held = lambda: world.triangles.count(world.triangles.names())  # noqa: E731
    seen = held()
    for step in range(1, 6):
        up = np.eye(4)
        up[2, 3] = step
        moved = [
            part.model_copy(update={"matrix": tuple((up @ np.reshape(part.matrix, (4, 4))).ravel())})
            for part in inputs.parts
        ]
        world.change(inputs.model_copy(update={"parts": moved}))
        assert held() <= 2 * seen
    world.change(inputs)
    anew = World(inputs, mesh_of)
    np.testing.assert_array_equal(*(trace_block(w, Tile(0, 0, *SIZE), 0, 1) for w in (world, anew)))


def test_which_kernels_come_next_is_foretold(inputs, mesh_of) -> None:
    world = World(inputs, mesh_of)
    samples = likely_next(world, SHELF.values())
    foretold = [kernel_with(world, sample) for sample in samples]
    assert 5 < len(set(foretold)) == len(samples) and kernel_with(world) not in foretold
    # Brass, clear, lit and plain are there already: nothing that is only coloured otherwise needs another kernel.
    assert not {"steel-machined", "abs-graphite", "lit-amber"} & {sample.id for sample in samples}
    for sample, kernel in zip(samples, foretold, strict=True):
        assert kernel_with(World(wearing(inputs, sample), mesh_of, picture_of=None)) == kernel, sample.id
