"""The shaded picture in the browser computes a few things that the core decides: both from the same numbers.

The file that the front end's tests read holds what the core says today.
"""

from __future__ import annotations

import json
from itertools import product

import numpy as np

from public_files import ROOT
from usual_lamp.core.appearance.texture import Texture
from usual_lamp.core.camera import Camera, exposure_scale
from usual_lamp.core.scene import Decal, Placement
from usual_lamp.core.scene.wrapping import unrolled
from usual_lamp.core.trace.world.pictures import texture_axes

FILE = ROOT / "frontend/src/viewport/core.numbers.json"
POINTS = [(0.0, 0.0, 20.0), (60.0, -40.0, 5.0), (-35.0, 80.0, 90.0)]
ASPECT = 1.5


def projections() -> list[dict]:
    found = []
    for parallel, (shift, roll) in product((False, True), (((0.0, 0.0), 0.0), ((5.0, -3.0), 0.0), ((5.0, -3.0), 20.0))):
        camera = Camera(
            position=(-150, -320, 190), target=(10, 0, 30), focal_length=60, parallel=parallel, shift=shift, roll=roll
        )
        seen = camera.project(np.array(POINTS), ASPECT)[:, :2]
        found.append({"camera": camera.model_dump(mode="json"), "seen": np.round(seen, 6).tolist()})
    return found


def placements() -> list[dict]:
    made = [
        Placement(turn=(0, 0, 90), pivot=(10, 0, 0)),
        Placement(shift=(5, -6, 7), turn=(20, -35, 130), pivot=(1, 2, 3)),
    ]
    return [{"placement": p.model_dump(mode="json"), "matrix": np.round(p.matrix, 9).tolist()} for p in made]


def textures() -> list[dict]:
    """Where a place on the surface, in mm, lies in the picture: shares from the left and from above."""
    found = []
    for turn, offset in ((0.0, (0.0, 0.0)), (30.0, (12.0, -5.0))):
        texture = Texture(picture="made:oak", mapping="surface", width=80, height=40, offset=offset, turn=turn)
        to_u, to_v = texture_axes(texture)
        at = [(0.0, 0.0), (17.0, 4.0), (-6.0, 31.0)]
        shares = [[float(np.dot(axis, (x, y, 0.0, 1.0))) for axis in (to_u, to_v)] for x, y in at]
        found.append({"texture": texture.model_dump(mode="json"), "at": at, "shares": np.round(shares, 9).tolist()})
    return found


def decals() -> list[dict]:
    """Where points of a part lie on a decal, in mm from its middle along its width and height."""
    found = []
    at = np.array([(4.0, -19.5, 2.0), (-12.0, -16.0, -3.0), (15.0, 13.0, 1.0), (1.0, -20.0, 6.0)])
    round_ones = ((20.0, "up", 0.0), (-20.0, "right", 0.0), (20.0, "up", 25.0), (-20.0, "right", -40.0))
    for turn, wrap in ((0.0, None), (30.0, None), (40.0, round_ones[0]), *((0.0, one) for one in round_ones)):
        lies = dict(center=(0, -20, 0), right=(1, 0, 0), up=(0, 0, 1), width=30, height=12, turn=turn)
        if wrap and wrap[0] < 0:
            lies["right"] = (-1, 0, 0)
        around = {"radius": wrap[0], "along": wrap[1], "taper": wrap[2]} if wrap else None
        decal = Decal.model_validate(dict(name="Label", picture="c" * 64, part="part", wrap=around) | lies)
        center = np.array(decal.center)
        flat = unrolled(at, center, decal.plain.axes(turned=False), decal.wrap) if decal.wrap else at
        across, along, _ = decal.plain.axes()
        places = [[float((point - center) @ across), float((point - center) @ along)] for point in flat]
        found.append(
            {"decal": decal.model_dump(mode="json"), "at": at.tolist(), "places": np.round(places, 9).tolist()}
        )
    return found


def said() -> dict:
    return {
        "aspect": ASPECT,
        "points": POINTS,
        "projections": projections(),
        "placements": placements(),
        "textures": textures(),
        "decals": decals(),
        "exposures": [{"ev": ev, "scale": float(f"{exposure_scale(ev):.9g}")} for ev in (-2.0, 9.3, 15.0)],
    }


def test_what_the_front_end_is_held_against_is_what_the_core_says() -> None:
    """Written anew by running this file, then `npm run fix`."""
    assert json.loads(FILE.read_text()) == json.loads(json.dumps(said()))


if __name__ == "__main__":
    FILE.write_text(json.dumps(said()) + "\n")
