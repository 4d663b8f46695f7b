"""Where decals reach: faces that they are kept to, other parts that they run across, the far side of a wall."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest

from core.decal_bodies import box, tube
from core.test_decals import decal
from core.test_layers import ABOVE, EVEN
from core.test_trace import appearance, color, square, world
from usual_lamp.core.assembly import Mesh
from usual_lamp.core.scene import first_scene
from usual_lamp.core.scene.decal_carrying import carried
from usual_lamp.core.scene.decal_faces import across, crossings, face_beneath
from usual_lamp.core.scene.picture_on_part import PictureOnPart
from usual_lamp.core.scene.resolved import ResolvedScene
from usual_lamp.core.scene.wrapping import unrolled
from usual_lamp.core.trace.world.world import World

RED = (0.6, 0.05, 0.05)


def traced(meshes: dict, pictures: dict, wear: list, samples: int = 16, maps: np.ndarray = EVEN) -> np.ndarray:
    """From straight above, 40 x 40 pixels of 1 mm, with a picture all in red on parts by place."""
    w = world(meshes, wear, ABOVE, maps, (40, 40))
    parts = [part.model_copy(update={"pictures": pictures.get(k, ())}) for k, part in enumerate(w.inputs.parts)]
    picture = np.ones((4, 4, 4), np.float32)
    picture[..., :3] = RED
    inputs = w.inputs.model_copy(update={"parts": parts})
    return color(World(inputs, w.mesh_of, maps, lambda *_: picture), samples) / 100


def test_one_that_is_kept_to_a_face_leaves_the_others_alone() -> None:
    halves = replace(square(30.0), face_ranges=np.array([[0, 1], [1, 1]], np.uint32))
    on = PictureOnPart(picture="p", printed=True, center=(0, 0, 0), right=(1, 0, 0), up=(0, 1, 0), width=24, height=24)
    matt = appearance(specular_weight=0.0, base_color=(0.5, 0.5, 0.5))
    whole, one, other = (
        traced({"a": halves}, {0: (on.model_copy(update={"faces": faces}),)}, [matt]) for faces in ((), (0,), (1,))
    )
    red = [seen[..., 1] < 0.2 for seen in (whole, one, other)]
    assert 400 < red[0].sum() < 700
    # The two triangles share the square's diagonal.
    assert not (red[1] & red[2]).any() and red[1].sum() == pytest.approx(red[0].sum() / 2, rel=0.1)
    assert abs(int((red[1] | red[2]).sum()) - int(red[0].sum())) < 40


def test_print_on_the_far_side_of_glass_is_seen_through_it() -> None:
    """What ink behind glass sends back (J. L. Saunderson, J. Opt. Soc. Am. 32, 1942), with k1 = 0.04 mirrored by the
    wall outside and k2 = 0.596 inside, for an index of 1.5. The plate is thin, so that nothing gets out at its rim."""
    glass = appearance(transmission_weight=1.0, specular_roughness=0.0, specular_ior=1.5)
    plate = box(60.0, 60.0, 0.4)
    on = decal("part", center=(0, 0, 0.2), width=60.0, height=60.0, depth=0.1)
    behind = across(plate, on)
    assert behind.center == pytest.approx((0, 0, -0.2)) and behind.mirrored and behind.plain.axes()[2][2] == -1
    back = across(plate, behind)
    assert back.center == pytest.approx(on.center) and not back.mirrored and back.right == pytest.approx(on.right)
    seen = traced({"a": plate}, {0: behind.laid()}, [glass], 256)[16:24, 16:24].mean(axis=(0, 1))
    k1, k2 = 0.04, 0.596
    expected = k1 + (1 - k1) * (1 - k2) * np.array(RED) / (1 - k2 * np.array(RED))
    np.testing.assert_allclose(seen, expected, rtol=0.02)
    bare = traced({"a": plate}, {}, [glass], 16)[20, 20]
    assert bare[1] > 0.9, "without it, one looks through"


def test_on_a_tube_the_far_side_is_its_bore() -> None:
    outer, inner = tube(20.0, 40.0), tube(17.0, 40.0, inside=True)
    both = Mesh(
        positions=np.r_[outer.positions, inner.positions],
        normals=np.r_[outer.normals, inner.normals],
        triangles=np.r_[outer.triangles, inner.triangles + len(outer.positions)].astype(np.uint32),
        face_ranges=np.array([[0, 512], [512, 512]], np.uint32),
        edges=np.zeros((0, 2, 3), np.float32),
    )
    on = decal("part", center=(0, -20, 3), right=(1, 0, 0), up=(0, 0, 1), turn=20.0, wrap={"radius": 20.0})
    assert face_beneath(both, on.plain) == 0
    behind = across(both, on)
    assert behind.wrap.radius == pytest.approx(-17.0, abs=0.02) and behind.center == pytest.approx(
        (0, -17, 3), abs=0.02
    )
    assert behind.turn == -20 and face_beneath(both, behind.plain) == 1
    with pytest.raises(LookupError, match="no wall"):
        across(square(20.0), decal("part", center=(0, 0, 0)))
    with pytest.raises(LookupError, match="no face"):
        face_beneath(both, decal("part", center=(0, -30, 0), right=(1, 0, 0), up=(0, 0, 1)).plain)


@pytest.mark.parametrize("mirrors", [False, True])
@pytest.mark.parametrize("wrap", [None, {"radius": 8.0, "along": "right", "taper": 20.0}])
def test_across_parts_it_is_one_picture(mirrors: bool, wrap: dict | None) -> None:
    """A point has the same place in the picture, whichever part's frame it is told in."""
    on = decal("part", center=(3, 1, 2), right=(1, 0, 0.2), up=(0, 1, 0), turn=35.0, wrap=wrap).plain
    turned = np.linalg.qr(np.random.default_rng(3).normal(size=(3, 3)))[0] * 2.5
    if (np.linalg.det(turned) < 0) is not mirrors:
        turned[:, 0] *= -1
    matrix = np.eye(4)
    matrix[:3, :3], matrix[:3, 3] = turned, (5, -6, 7)
    there = on.seen_from(matrix)
    points = np.random.default_rng(4).uniform(-3, 6, (20, 3))
    moved = points @ turned.T + matrix[:3, 3]

    def places(picture: PictureOnPart, at: np.ndarray) -> np.ndarray:
        """Shares of the picture from the left and from below, and how far off in shares of its depth."""
        lies = decal("part", **picture.model_dump(include={"center", "right", "up", "turn", "mirrored"}), wrap=None)
        center, axes = np.array(picture.center), picture.axes(turned=False)
        if picture.radius:
            wrapped = {"radius": picture.radius, "along": picture.along, "taper": picture.taper}
            at = unrolled(at, center, axes, decal("part", wrap=wrapped).wrap)
        right, up, out = lies.plain.axes()
        side = -1 if picture.mirrored else 1
        away = (at - center) @ np.stack([side * right, up, out], axis=1)
        return away / [picture.width, picture.height, picture.depth]

    np.testing.assert_allclose(places(there, moved), places(on, points), atol=2e-3)


def test_the_parts_that_it_runs_across_get_it_and_others_do_not(as1) -> None:
    first, second, third = [part.uid for part in as1.assembly.parts()][:3]
    scene = first_scene(as1.assembly, "rev")
    face = as1.assembly.definition_of(as1.assembly.by_uid[first]).faces[2].signature

    def on(**more) -> dict:
        label = {"a": decal(first, **more)}
        return ResolvedScene(as1.assembly, scene.model_copy(update={"decals": label})).pictures_on

    laid = on(also=(second, "gone"))
    assert set(laid) == {first, second} and third not in laid
    away = np.linalg.inv(as1.assembly.world[second]) @ as1.assembly.world[first]
    center = away[:3, :3] @ np.array([1, 2, 3]) + away[:3, 3]
    assert laid[second][0].center == pytest.approx(center) and laid[first][0].faces == ()
    assert on(faces=(face, "gone"))[first][0].faces == (2,)
    assert on(faces=("gone",))[first] == ()
    assert on(finish={"kind": "dead_front", "lit": False})[first] == ()


def test_a_dead_front_shows_only_while_it_is_lit() -> None:
    matt = appearance(specular_weight=0.0, base_color=(0.02, 0.02, 0.02))
    lies = dict(center=(0, 0, 0), width=24.0, height=24.0)
    lit, unlit, bare = (
        traced({"a": square(30.0)}, {0: laid}, [matt])[20, 20]
        for laid in (
            decal("part", finish={"kind": "dead_front", "light": 200.0}, **lies).laid(),
            decal("part", finish={"kind": "dead_front", "lit": False}, **lies).laid(),
            (),
        )
    )
    np.testing.assert_allclose(unlit, bare)
    np.testing.assert_allclose(lit - bare, 2.0 * np.array(RED), rtol=0.02)


def test_one_kept_to_a_face_goes_on_with_the_face_that_is_there_now() -> None:
    on = decal("part", center=(0, 0, 1.5), width=10.0, height=5.0, depth=0.5, faces=("old top",))
    plate, names = box(60.0, 60.0, 3.0), ["a", "b", "c", "d", "bottom", "top"]
    same = carried(plate, on, [*names[:5], "old top"])
    assert same.fate == "kept" and same.decal == on
    new = carried(plate, on, names)
    assert new.fate == "moved" and new.decal.faces == ("top",) and new.shift == 0
    both = carried(plate, on.model_copy(update={"faces": ("a", "gone")}), names)
    assert both.decal.faces == ("a",), "of several, those stay that are still there"
    thicker = carried(box(60.0, 60.0, 5.0), on, names)
    assert thicker.decal.faces == ("top",) and thicker.decal.center[2] == pytest.approx(2.5)


def test_a_line_crosses_what_looks_its_way() -> None:
    up = np.array([0.0, 0.0, 1.0])
    far, _ = crossings(box(10.0, 10.0, 4.0), np.array([1.0, 1.5, 7.0]), up, up)
    assert far == pytest.approx([-5.0])
    far, triangles = crossings(box(10.0, 10.0, 4.0), np.array([1.0, 1.5, 7.0]), up, -up)
    assert far == pytest.approx([-9.0]) and 8 <= triangles[0] < 10


def test_ink_between_glass_and_its_seat_is_seen() -> None:
    """Glass that lies on a dark plate is pressed onto it, but where it carries ink; that is seen as without the plate,
    and on top of the plate where the glass lies on it with its other face."""
    seat, glass = square(60.0), appearance(transmission_weight=1.0, specular_roughness=0.0, specular_ior=1.5)
    dark = appearance(specular_weight=0.0, base_color=(0.02, 0.02, 0.02))
    plate = box(60.0, 60.0, 0.4)
    plate.positions[:, 2] += 0.2
    on = decal("part", center=(0, 0, 0.4), width=60.0, height=60.0, depth=0.1)
    behind = across(plate, on)
    found = [
        traced(meshes, {0: laid}, wear, 64)[18:22, 18:22].mean(axis=(0, 1))
        for meshes, wear, laid in (
            ({"a": plate, "seat": seat}, [glass, dark], behind.laid()),
            ({"a": plate}, [glass], behind.laid()),
            ({"a": plate, "seat": seat}, [glass, dark], ()),
        )
    ]
    np.testing.assert_allclose(found[0], found[1], rtol=0.03)
    assert found[2][0] < 0.1, "without ink one sees the seat"
