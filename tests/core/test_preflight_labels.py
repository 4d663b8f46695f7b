"""Preflight proposes to stand a model so that its labels are read, and says when print stands on its head."""

from __future__ import annotations

import numpy as np
import pytest

from core.test_first_coat import built
from core.test_preflight import found_of, painted, parts
from usual_lamp.core.assembly import Assembly
from usual_lamp.core.assembly.outline import outermost
from usual_lamp.core.scene import Decal, Placement, Scene, SetDecals, SetModels, apply_edit, arranged
from usual_lamp.core.scene.preflight import Check, Noise

SIZE = np.array([4.0, 2.0, 3.0])
"""mm of a box: wide, deep, high."""


def box() -> Assembly:
    """One box with its lower corner at the origin."""
    made = built([("Case", None, "#808080")])
    corners = np.array([(x, y, z) for x in (0, 1) for y in (0, 1) for z in (0, 1)]) * SIZE
    bounds = {"outline": outermost(corners), "bounds": ((0, 0, 0), tuple(SIZE)), "volume": float(SIZE.prod())}
    made.definitions["d0"] = made.definitions["d0"].model_copy(update=bounds)
    return made


def printed(made: Assembly, **more: object) -> Scene:
    """The box with a label on its front, upright in its own frame unless something else is said."""
    label = {"center": (2, 0, 1.5), "right": (1, 0, 0), "up": (0, 0, 1), "width": 2, "height": 1, **more}
    decal = Decal.model_validate({"name": "Type", "picture": "ab" * 32, "part": "p0", **label})
    return apply_edit(painted(made), SetDecals(decals={"d": decal}), made.by_uid)[0]


def turned(made: Assembly, scene: Scene, *turn: float) -> tuple[Scene, list[Check]]:
    """The scene with its model turned about x, y and z (degrees), and what is said of its stance."""
    use = scene.models["model-1"].model_copy(update={"placement": Placement(turn=turn)})  # type: ignore[arg-type]
    made_so, _ = apply_edit(scene, SetModels(models={"model-1": use}), made.by_uid)
    return made_so, found_of("stance", arranged(made_so, {"model-1": made}), made_so, texels={"ab" * 32: (900, 450)})


def up_after(made: Assembly, scene: Scene, check: Check) -> np.ndarray:
    """Where the box's own z points once the fix is taken."""
    assert check.fix is not None and check.fix.edit is not None
    mended, _ = apply_edit(scene, check.fix.edit, made.by_uid)
    return arranged(mended, {"model-1": made}).world["p0"][:3, 2]


@pytest.mark.parametrize("turn", [(0.0, 180.0, 0.0), (0.0, 150.0, 0.0), (0.0, 90.0 + 30.0, 0.0), (0.0, 40.0, 0.0)])
def test_a_model_is_set_down_so_that_its_print_is_upright(turn: tuple[float, float, float]) -> None:
    made = box()
    scene, (check,) = turned(made, printed(made), *turn)
    assert up_after(made, scene, check) == pytest.approx((0, 0, 1), abs=1e-6)
    assert check.title == ("Its print is upside down" if turn[1] == 180 else "It would tip over")


def test_print_that_was_turned_says_where_its_top_is() -> None:
    made = box()
    scene, (check,) = turned(made, printed(made, turn=180.0), 0.0, 0.0, 0.0)
    assert up_after(made, scene, check) == pytest.approx((0, 0, -1), abs=1e-6)


def test_print_that_is_upright_or_lies_face_up_is_left_alone() -> None:
    made = box()
    assert turned(made, printed(made), 0.0, 0.0, 90.0)[1] == []
    face_up = printed(made, center=(2, 1, 3), up=(0, 1, 0))
    assert turned(made, face_up, 0.0, 0.0, 0.0)[1] == []
    assert turned(made, painted(made), 0.0, 180.0, 0.0)[1] == [], "without print, nothing tells its top"


def test_a_part_called_a_label_is_not_laid_face_down() -> None:
    """A box with a nameplate on its largest side comes on edge; the nearest side would hide the plate."""
    made = box()
    plate = built([("Case", None, "#808080"), ("Nameplate", None, "#F0F0F0")])
    plate.definitions["d0"] = made.definitions["d0"]
    corners = np.array([(x, y, z) for x in (1, 3) for y in (-0.002, 0) for z in (1, 2)])
    bounds = {"outline": outermost(corners), "bounds": ((1, -0.002, 1), (3, 0, 2)), "volume": 0.004}
    plate.definitions["d1"] = plate.definitions["d1"].model_copy(update=bounds)
    scene, (check,) = turned(plate, painted(plate), 40.0, 0.0, 0.0)
    assert up_after(plate, scene, check) == pytest.approx((0, 0, 1), abs=1e-6)
    # The front is tipped down further than that: the box rests on it, were it not for the plate.
    scene, (check,) = turned(plate, painted(plate), 65.0, 0.0, 0.0)
    assert up_after(plate, scene, check) == pytest.approx((0, 0, 1), abs=1e-6)


def test_noise_that_will_be_left_is_told_with_the_samples_it_needs() -> None:
    made = parts()
    (check,) = found_of("noise", made, painted(made), noise=Noise(0.3, 16))
    assert check.number.startswith("about 15% after 64 samples; 576 bring it down to 5%")
    assert check.fix is not None and check.fix.action == "noise"
    assert found_of("noise", made, painted(made), noise=Noise(0.12, 16)) == []
    assert found_of("noise", made, painted(made)) == []


def test_a_part_called_a_label_is_not_set_on_its_head() -> None:
    """A panel with a plate on its front, tipped forward: its narrow foot is no side to rest on."""
    made = built([("Panel", None, "#808080"), ("Name plate", None, "#F0F0F0")])
    corners = np.array([(0, 0, 4), (4, 0, 4), (0, 1, 4), (4, 1, 4), (0, 0, 0.4), (4, 0, 0.4), (2, 0.5, 0)])
    case = {"outline": outermost(corners), "bounds": ((0, 0, 0), (4, 1, 4)), "volume": 12.0}
    made.definitions["d0"] = made.definitions["d0"].model_copy(update=case)
    flat = {"bounds": ((1, -0.002, 2), (3, 0, 3)), "volume": 0.004, "outline": ""}
    made.definitions["d1"] = made.definitions["d1"].model_copy(update=flat)
    scene, (check,) = turned(made, painted(made), 0.0, 0.0, 0.0)
    assert up_after(made, scene, check)[2] > -0.5
