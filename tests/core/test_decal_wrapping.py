"""Decals round cylinders and cones: which faces are such, what is wrapped, and where a grid in mm is seen."""

from __future__ import annotations

from dataclasses import replace

import cv2
import numpy as np
import pytest
import trimesh

from core.decal_bodies import tube
from core.test_decals import UP, decal
from core.test_layers import EVEN
from core.test_trace import appearance, color, square, world
from usual_lamp.core.assembly import Mesh
from usual_lamp.core.camera import Camera
from usual_lamp.core.scene.decal_placing import placed
from usual_lamp.core.scene.picture_on_part import PictureOnPart
from usual_lamp.core.scene.wrapping import round_face
from usual_lamp.core.trace.world.world import World


@pytest.mark.parametrize("inside", [False, True])
def test_a_round_face_is_known_by_its_mesh(inside: bool) -> None:
    found = round_face(tube(15.0, 40.0, inside=inside), 0)
    assert found.radius == pytest.approx(15.0, rel=1e-3) and abs(found.axis[2]) == pytest.approx(1, abs=1e-6)
    assert found.outward is not inside and round_face(square(20.0), 0) is None
    front = np.array([0.0, -1.0, 0.0]) * (-1 if inside else 1)
    lies = placed(tube(15.0, 40.0, inside=inside), 0, np.eye(4), np.array([0.0, -15.0, 0.0]), front, UP, 4.0)
    assert lies["wrap"] == {"radius": pytest.approx(-15.0 if inside else 15.0, rel=1e-3), "along": "up", "taper": 0}
    assert lies["up"] == pytest.approx((0, 0, 1), abs=1e-6)


def test_a_wide_label_on_a_tube_is_as_wide_as_is_seen_at_once() -> None:
    front = np.array([0.0, -1.0, 0.0])
    lies = placed(tube(15.0, 200.0), 0, np.eye(4), np.array([0.0, -15.0, 0.0]), front, UP, aspect=8.0)
    assert lies["wrap"] is not None and lies["width"] == pytest.approx(0.6 * np.pi * 15, rel=0.01)
    again = placed(tube(15.0, 200.0), 0, np.eye(4), np.array([0.0, -15.0, 9.0]), front, UP, 8.0, (lies["width"], 3.0))
    assert again["wrap"] == lies["wrap"], "with its size it stays wrapped"


@pytest.mark.parametrize("inside", [False, True])
@pytest.mark.parametrize("taper", [20.0, -35.0])
def test_a_tapered_face_is_known_by_its_mesh(inside: bool, taper: float) -> None:
    """Half of it is seen as well as all; what is clicked above the middle lies there, along the slope."""
    whole = tube(15.0, 20.0, inside=inside, taper=taper)
    part = replace(whole, face_ranges=np.array([[0, 40]], np.uint32))
    for mesh in (whole, part):
        found = round_face(mesh, 0)
        assert np.degrees(found.taper) == pytest.approx(abs(taper), abs=0.02) and found.outward is not inside
        assert found.axis[2] == pytest.approx(np.sign(taper), abs=1e-4)
        apex = found.point - found.axis * found.radius / np.tan(found.taper)
        assert apex == pytest.approx((0, 0, -15 / np.tan(np.radians(taper))), abs=0.05)
    steep, sign = np.radians(taper), -1 if inside else 1
    radius = 15 + 5 * np.tan(steep)
    front = np.array([0, -np.cos(steep), -np.sin(steep)]) * sign
    lies = placed(whole, 0, np.eye(4), np.array([0.0, -radius, 5.0]), front, UP, 4.0)
    wrap = {"radius": pytest.approx(sign * radius, rel=1e-3), "along": "up", "taper": pytest.approx(taper, abs=0.02)}
    assert lies["wrap"] == wrap
    assert lies["up"] == pytest.approx((0, -np.sin(steep), np.cos(steep)), abs=1e-3)
    assert np.cross(lies["right"], lies["up"]) == pytest.approx(front, abs=1e-3)


def test_what_is_no_cone_is_not_taken_for_one() -> None:
    ball = trimesh.creation.icosphere(subdivisions=4, radius=15.0)
    mesh = Mesh(
        positions=ball.vertices.astype(np.float32),
        normals=(ball.vertices / 15.0).astype(np.float32),
        triangles=ball.faces.astype(np.uint32),
        face_ranges=np.array([[0, len(ball.faces)], [0, 30]], np.uint32),
        edges=np.zeros((0, 2, 3), np.float32),
    )
    assert round_face(mesh, 0) is None and round_face(mesh, 1) is None


GRID = 5.0
"""mm between the lines of the test picture."""
CONE = 25.0
"""Degrees, half angle."""
FILM = 36.0
"""mm, the width that focal lengths are for."""


@pytest.mark.parametrize("form", ["plane", "cylinder", "bore", "cone", "funnel"])
def test_a_grid_in_mm_is_seen_where_it_lies(form: str) -> None:
    """A cross every 5 mm, on a plane and by true arc length round a cylinder or a cone, against OpenCV's projection."""
    per_mm, half, pixels, radius = 20, 12.5, 200, 20.0
    at = (np.arange(int(2 * half * per_mm)) + 0.5) / per_mm - half
    line = np.abs((at + GRID / 2) % GRID - GRID / 2) < 0.25
    picture = np.ones((len(at), len(at), 4), np.float32)
    picture[line, :, :3] = picture[:, line, :3] = 0.0
    lies = dict(center=(0, -radius, 0), right=(1, 0, 0), up=(0, 0, 1), width=2 * half, height=2 * half, depth=2.0)
    body, place = square(30.0), np.array([6.0, -120.0, 14.0])
    if form == "plane":
        body.positions[:] = body.positions[:, [0, 2, 1]] - [0, radius, 0]
        body.normals[:] = (0, -1, 0)
    elif form == "cylinder":
        body, lies["radius"] = tube(radius, 60.0), radius
    elif form in ("cone", "funnel"):
        taper = CONE if form == "cone" else -CONE
        steep = np.radians(taper)
        body = tube(radius, 60.0, taper=taper, sides=1024)
        lies |= dict(radius=radius, taper=taper, up=(0, -np.sin(steep), np.cos(steep)))
    else:
        # Seen from inside of it, against +y: its picture runs the other way round.
        body, place = tube(radius, 60.0, inside=True), np.array([2.0, 17.0, 4.0])
        lies |= dict(radius=-radius, right=(-1, 0, 0))
    camera = Camera(position=tuple(place), target=(0, -radius, 0), focal_length=120 if form != "bore" else 40)
    wear = appearance(specular_weight=0.0, base_color=(1.0, 1.0, 1.0))
    w = world({"body": body}, [wear], camera, EVEN, (pixels, pixels))
    on = PictureOnPart(picture="p", printed=True, front_only=True, **lies)
    part = w.inputs.parts[0].model_copy(update={"pictures": (on,)})
    made = World(w.inputs.model_copy(update={"parts": [part]}), w.mesh_of, EVEN, lambda *_: picture)
    seen = color(made, 16)[..., 0]
    dark = np.clip(1 - seen / np.median(seen), 0, 1)
    across, up = (v.ravel() for v in np.meshgrid(np.arange(-2, 3) * GRID, np.arange(-2, 3) * GRID))
    turn = across / radius
    points = np.c_[across, 0 * up - radius, up]
    if form in ("cylinder", "bore"):
        points = np.c_[radius * np.sin(turn), -radius * np.cos(turn), up]
    elif form != "plane":
        # A sector of paper rolled up: from its tip, the point lies so far and at such an angle.
        tip = radius / np.sin(steep)
        far, fan = np.hypot(across, tip + up), np.arctan(across / (tip + up))
        turn, slant = fan / np.sin(steep), far * np.sign(tip)
        ring = slant * np.sin(steep)
        height = (slant - tip) * np.cos(steep)
        points = np.c_[ring * np.sin(turn), -ring * np.cos(turn), height]
    for x, y in projected(camera, points, pixels):
        if not (8 < x < pixels - 8 and 8 < y < pixels - 8):
            continue
        # The middle of the dark cross within 6 pixels, by its two lines.
        left, top = int(x) - 6, int(y) - 6
        patch = dark[top : top + 13, left : left + 13]
        found = [
            start + float(line @ (np.arange(13) + 0.5)) / line.sum()
            for start, line in ((left, _above(patch.sum(axis=0))), (top, _above(patch.sum(axis=1))))
        ]
        assert found == pytest.approx((x, y), abs=1.0)


def _above(line: np.ndarray) -> np.ndarray:
    """What stands out of a row of sums."""
    return np.clip(line - 0.5 * (np.median(line) + line.max()), 0, None)


def projected(camera: Camera, points: np.ndarray, pixels: int) -> np.ndarray:
    """Pixels of points by OpenCV's pinhole camera."""
    right, up, forward = (np.asarray(v) for v in camera.basis())
    rotation = np.stack([right, -up, forward])
    focal = camera.focal_length / FILM * pixels
    matrix = np.array([[focal, 0, pixels / 2], [0, focal, pixels / 2], [0, 0, 1.0]])
    shift = -rotation @ np.asarray(camera.position)
    found, _ = cv2.projectPoints(points, cv2.Rodrigues(rotation)[0], shift, matrix, None)
    return found.reshape(-1, 2)


def test_a_decal_that_would_go_more_than_half_round_lies_flat() -> None:
    at = (np.eye(4), np.array([0.0, -4.0, 0.0]), np.array([0.0, -1.0, 0.0]), UP)
    edge = tube(4.0, 40.0)
    assert placed(edge, 0, *at, 2.0, size=(12.0, 6.0))["wrap"] is not None, "12 mm of 25 mm round"
    assert placed(edge, 0, *at, 2.0, size=(13.0, 6.0))["wrap"] is None
    lying = (np.eye(4), *at[1:3], np.array([1.0, 0.0, 0.0]))
    assert placed(edge, 0, *lying, 2.0, size=(30.0, 12.0), snap=False)["wrap"]["along"] == "right"


def test_a_decal_that_was_dragged_onto_a_cylinder_is_wrapped_along_its_axis() -> None:
    """Its height or its width lies along the axis, whichever is nearer to how it stood."""
    mesh, spot, front = tube(15.0, 60.0), np.array([0.0, -15.0, 0.0]), np.array([0.0, -1.0, 0.0])
    for up, along in (((0.2, 0, 1), "up"), ((1, 0, 0.2), "right")):
        lies = placed(mesh, 0, np.eye(4), spot, front, np.array(up, float), 2.0, (8.0, 4.0), snap=False)
        assert lies["wrap"]["along"] == along and (lies["width"], lies["height"]) == (8.0, 4.0)
        axis = np.array(lies[along])
        assert abs(axis[2]) == pytest.approx(1.0, abs=1e-6)
        decal("part", **lies)
    wide = placed(mesh, 0, np.eye(4), spot, front, UP, 100.0)
    assert wide["width"] <= 0.6 * 2 * np.pi * 15.0 + 0.1, "never more than goes round"
