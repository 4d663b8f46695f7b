"""Decals that follow their face: where they lie on the sheet that it unrolls to, and in the traced picture."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from core.decal_bodies import box, tube
from core.test_decals import decal
from core.test_layers import EVEN
from core.test_trace import appearance, color, sphere, world
from usual_lamp.core.assembly import Mesh
from usual_lamp.core.assembly.laying import mapped
from usual_lamp.core.camera import Camera
from usual_lamp.core.scene.decal import Decal
from usual_lamp.core.scene.decal_carrying import Carried, followed
from usual_lamp.core.scene.sheets import on_sheet
from usual_lamp.core.trace.world.world import World

BEFORE = Camera(position=(12, -120, 18), target=(0, -20, 0), focal_length=90)


def traced(mesh: Mesh, on: Decal, wear: dict | None = None) -> np.ndarray:
    """The mesh with a chart of four colours on its first face, 60 x 60 pixels."""
    w = world({"body": mesh}, [appearance(specular_weight=0.0, base_color=(0.5, 0.5, 0.5))], BEFORE, EVEN, (60, 60))
    chart = np.ones((64, 64, 4), np.float32)
    chart[..., :3] = 0.0
    chart[:32, :, 0] = chart[:, :32, 1] = chart[16:48, 16:48, 2] = 1.0
    laid = tuple(one.model_copy(update={"faces": (0,)}) for one in on.laid())
    part = w.inputs.parts[0].model_copy(update={"pictures": laid})
    inputs = w.inputs.model_copy(update={"parts": [part]})
    return color(World(inputs, w.mesh_of, EVEN, lambda *_: chart), 32) / 100


@pytest.mark.parametrize("taper", [0.0, 20.0])
def test_along_a_cylinder_or_cone_it_lies_as_one_that_is_wrapped(taper: float) -> None:
    """Both are developed, so both are true to length; they are worked out in two ways."""
    body, steep = tube(20.0, 60.0, taper=taper), np.radians(taper)
    lies = dict(center=(0, -20, 0), right=(1, 0, 0), up=(0, -np.sin(steep), np.cos(steep)), width=26.0, height=18.0)
    wrapped = decal("part", wrap={"radius": 20.0, "taper": taper}, turn=25.0, depth=2.0, **lies)
    sheet = on_sheet(mapped(body, None), 0, "face", wrapped)
    along = Decal.model_validate(wrapped.model_dump() | {"wrap": None, "sheet": sheet})
    one, other = traced(body, wrapped), traced(body, along)
    assert (one[..., 0] < 0.05).sum() > 100, "the chart is in the picture"
    assert np.abs(one - other).mean() < 0.01
    with pytest.raises(ValueError, match="not both"):
        Decal.model_validate(wrapped.model_dump() | {"sheet": sheet})


def test_on_a_flat_face_it_lies_where_it_lay_and_is_not_mirrored() -> None:
    plate = box(60.0, 40.0, 4.0)
    for face, center, right, up in (
        (5, (7, 3, 2), (0.6, 0.8, 0), (-0.8, 0.6, 0)),
        (4, (7, 3, -2), (1, 0, 0), (0, -1, 0)),
    ):
        on = decal("part", center=center, right=right, up=up)
        unrolled = mapped(plate, None)
        here = on_sheet(unrolled, face, "top", on)
        for way, angle in ((on.right, 0.0), (on.up, 90.0)):
            moved = on.model_copy(update={"center": tuple(np.add(on.center, np.array(way) * 3.0))})
            step = np.subtract(on_sheet(unrolled, face, "top", moved).at, here.at)
            turned = np.radians(here.along + angle)
            assert step == pytest.approx(3.0 * np.array([np.cos(turned), np.sin(turned)]), abs=1e-3)


def band(half: float) -> Mesh:
    """What lies within a height of the equator of a ball with a radius of 20 mm."""
    ball = sphere(20.0, 96)
    near = (np.abs(ball.positions[ball.triangles][..., 2]) < half).all(axis=1)
    triangles = ball.triangles[near]
    return replace(ball, triangles=triangles, face_ranges=np.array([[0, len(triangles)]], np.uint32))


def test_on_a_ball_it_is_as_wide_as_its_arc() -> None:
    """Laid straight, a picture 30 mm wide looks as wide; along the surface, as the chord of an arc of 30 mm."""
    zone, lies = band(9.0), dict(center=(0, -20, 0), right=(1, 0, 0), up=(0, 0, 1), depth=25.0)
    on = decal("part", width=30.0, height=10.0, **lies)
    along = Decal.model_validate(on.model_dump() | {"sheet": on_sheet(mapped(zone, None), 0, "face", on)})
    bare = traced(zone, on.model_copy(update={"opacity": 0.0}))
    straight, bent = (traced(zone, one) for one in (on, along))
    covered = [(np.abs(seen - bare).max(axis=-1) > 0.1)[28:32].sum(axis=1).mean() for seen in (straight, bent)]
    assert covered[1] / covered[0] == pytest.approx(20 * np.sin(15.0 / 20.0) / 15.0, abs=0.04)
    middle = (slice(24, 36), slice(20, 40))
    assert np.abs(straight - bent)[middle].mean() < 0.1, "the right way round and upright"


@pytest.mark.parametrize("center", [(0, 0, 2), (0, 0, -2), (30, 0, 0), (-30, 0, 0), (0, 20, 0), (0, -20, 0)])
def test_a_sheet_that_is_seen_from_behind_says_so(center: tuple[float, float, float]) -> None:
    """Width and height of a decal run on the sheet as on the surface, whichever way the face is unrolled."""
    plate, axis = box(60.0, 40.0, 4.0), int(np.abs(center).argmax())
    out = np.eye(3)[axis] * np.sign(center[axis])
    right = np.roll(np.abs(out), 1)
    on = decal("part", center=center, right=tuple(right), up=tuple(np.cross(out, right)), width=3.0, height=2.0)
    face = 2 * axis + (center[axis] > 0)
    unrolled = mapped(plate, None)
    sheet = on_sheet(unrolled, face, "face", on)
    (laid,) = on.model_copy(update={"sheet": sheet}).laid()
    across, along, _ = laid.axes()
    for way, on_it in ((right, across), (np.cross(out, right), along)):
        moved = on.model_copy(update={"center": tuple(np.array(center) + way)})
        step = np.subtract(on_sheet(unrolled, face, "face", moved).at, sheet.at)
        assert step == pytest.approx(on_it[:2], abs=1e-3)


def test_it_goes_on_along_the_face_that_a_revision_has() -> None:
    names = ["a", "b", "c", "d", "bottom", "top"]
    on = decal("part", center=(5, 0, 2), width=10.0, height=5.0, depth=0.5)
    before, after = box(60.0, 40.0, 4.0), box(80.0, 40.0, 4.0)
    on = on.model_copy(update={"sheet": on_sheet(mapped(before, None), 5, "old top", on)})
    found = followed(after, mapped(after, None), Carried("kept", on), names)
    assert found.fate == "moved" and found.decal.sheet.face == "top"
    assert followed(before, mapped(before, None), Carried("kept", on), [*names[:5], "old top"]).fate == "kept"
    away = on.model_copy(update={"center": (500.0, 0.0, 2.0)})
    assert followed(after, mapped(after, None), Carried("kept", away), names).decal.waits
