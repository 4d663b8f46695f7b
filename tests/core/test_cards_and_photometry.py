"""Cards by configuration factors, fields of bulbs, and photometric files against the tables in them."""

from __future__ import annotations

import math

import numpy as np
import pytest

from core.test_lamps import ABOVE, DARK, ORIGIN, UP, rectangle_factor
from core.test_trace import LOOK_DOWN, MATT, NEAR, UNIFORM, appearance, color, sphere, square, world
from usual_lamp.core.light import lamps
from usual_lamp.core.light.arranging import Stand, photometric_lamp
from usual_lamp.core.light.lamp_shapes import illuminance
from usual_lamp.core.light.lit_map import with_cards
from usual_lamp.core.light.photometry import UnreadablePhotometry, read_photometry
from usual_lamp.core.scene import Backdrop, Lighting
from usual_lamp.core.scene.light_groups import light_groups

MATT_PLATE = appearance(**MATT)
HEAD = "IESNA:LM-63-2002\n[TEST] made up\n[LUMINAIRE] Bench light\nTILT=NONE\n"
TWO_PLANES = HEAD + "1 2000 2.0 4 2 1 2 0.1 0.1 0\n0.5 1.0 20\n0 30 60 90\n0 90\n1000 800 300 0\n1000, 400 100 0\n"


def card(surface: str, **more) -> lamps.Card:
    return lamps.Card(name="card", width=40, height=30, surface=surface, position=(0, 0, 10), target=(0, 0, 0), **more)


def lamp_of(text: str) -> lamps.PhotometricLamp:
    stand = Stand(np.zeros(3), 100.0, 0.0, np.array([0.0, -500.0, 100.0]))
    return photometric_lamp(read_photometry(text.encode()), stand)


@pytest.mark.parametrize(("surface", "sends"), [("black", 0.015), ("grey", 0.18), ("white", 0.85)])
def test_a_card_keeps_light_off_and_sends_light_back(surface: str, sends: float) -> None:
    """Over an element in even light L it takes the share F of the sky (Howell B-3, four times) and puts its own light
    there: lit by the half space beneath it, less the plate's small part, it sends back ρL."""
    w = world({"plate": square(0.5)}, [MATT_PLATE], LOOK_DOWN, UNIFORM, lamps={"a": card(surface)})
    factor = 4 * rectangle_factor(20, 15, 10)
    assert color(w, 1024)[7:9, 7:9].mean() == pytest.approx(50 * (1 - factor + factor * sends), rel=0.03)


def test_a_card_is_mirrored_and_only_seen_where_asked() -> None:
    silver = appearance(base_metalness=1.0, base_color=(1, 1, 1), specular_color=(1, 1, 1), specular_roughness=0.0)
    dark = Backdrop(kind="plain", bottom="#000000")
    over = world({"plate": square(5)}, [silver], LOOK_DOWN, UNIFORM, lamps={"a": card("black")})
    assert color(over, 16).mean() < 4, "the camera looks through it, and sees it in the mirror"
    found = []
    for seen in (False, True):
        before = card("white", seen=seen).model_copy(update={"position": (0, -30, 0), "width": 100, "height": 100})
        w = world({"ball": sphere()}, [MATT_PLATE], NEAR, UNIFORM, lamps={"a": before}, backdrop=dark)
        found.append(color(w, 32)[0, 0].mean())
    assert found[0] == 0 and found[1] == pytest.approx(85, rel=0.1)
    gone = world({"plate": square(0.5)}, [MATT_PLATE], LOOK_DOWN, UNIFORM, lamps={"a": card("black", on=False)})
    assert color(gone, 256)[7:9, 7:9].mean() == pytest.approx(50, rel=0.02)


def test_cards_take_no_group_and_show_in_the_shaded_light() -> None:
    many = {f"c{k}": card("white") for k in range(9)} | {"key": lamps.PointLamp(name="key", position=(0, 0, 9))}
    groups = light_groups(Lighting(lamps=many))
    assert groups.of_lamp == {"key": 2} and groups.kept == 4
    above = with_cards(UNIFORM, [card("black")], np.zeros(3))
    assert above[0].max() < 2 and above[-1].min() == 100


def test_a_field_of_bulbs_gives_what_they_give_together() -> None:
    field = lamps.FieldLamp(**ABOVE | {"columns": 5, "rows": 4, "spacing": 30.0, "jitter": 0.0, "colors": ("#FFFFFF",)})
    expected = sum(
        field.lumen / (4 * math.pi) * 1.0 / (1 + x * x + y * y) ** 1.5
        for x in (np.arange(5) - 2) * 0.03
        for y in (np.arange(4) - 1.5) * 0.03
    )
    assert illuminance(field, ORIGIN, UP)[0] == pytest.approx(expected, rel=1e-3)
    w = world({"plate": square(5)}, [MATT_PLATE], LOOK_DOWN, DARK, lamps={"a": field})
    assert color(w, 512).mean() == pytest.approx(0.5 * expected / math.pi, rel=0.03)


@pytest.mark.parametrize(
    ("tilted", "turned", "candela"),
    [(0, 0, 1000), (30, 0, 800), (45, 0, 550), (30, 90, 400), (30, 180, 800), (30, 45, 600)],
)
def test_a_photometric_lamp_gives_its_table(tilted: float, turned: float, candela: float) -> None:
    """Candela times multiplier and ballast factor (2.0 x 0.5), linear between angles, over distance squared."""
    new = lamp_of(TWO_PLANES)
    at_first = illuminance(new, np.array([new.target]))[0] * 2.0**new.level
    assert at_first == pytest.approx(1800, rel=0.05), "as bright as a table's light, wherever it was put"
    lamp = new.model_copy(update={"position": (0.0, 0.0, 1000.0), "target": (0.0, 0.0, 0.0), "level": 0.0})
    side, up, _ = lamp.frame()
    around = math.cos(math.radians(turned)) * side + math.sin(math.radians(turned)) * up
    place = 1000 * math.tan(math.radians(tilted)) * around
    expected = candela * math.cos(math.radians(tilted)) ** 3
    assert illuminance(lamp, place[None], UP)[0] == pytest.approx(expected, rel=0.015)
    moved = lamp.model_copy(update={"position": tuple(lamp.position - place), "target": tuple(-place)})
    w = world({"plate": square(5)}, [MATT_PLATE], LOOK_DOWN, DARK, lamps={"a": moved})
    assert color(w, 128).mean() == pytest.approx(0.5 * expected / math.pi, rel=0.02)


def test_symmetric_and_large_tables() -> None:
    mirrored = HEAD + "1 -1 1 2 3 1 2 0 0 0 1 1 9\n0 90\n90 180 270\n5 1\n7 2\n9 3\n"
    found = lamp_of(mirrored)
    ways = [(math.cos(math.radians(turn)), math.sin(math.radians(turn)), 1e-9) for turn in (90, 180, 270, 0)]
    np.testing.assert_allclose(found.intensity(np.array(ways)), [1, 2, 3, 2], rtol=1e-5)
    angles = " ".join(str(v / 2) for v in range(181))
    around = " ".join(str(v) for v in range(0, 361, 10))
    rows = "\n".join(" ".join("100" for _ in range(181)) for _ in range(37))
    big = read_photometry((HEAD + f"1 -1 1 181 37 1 2 0 0 0 1 1 9\n{angles}\n{around}\n{rows}").encode())
    assert big.candela.size <= lamps.MOST_CANDELA and "thinned" in big.notes[0]
    assert read_photometry(TWO_PLANES.replace("TILT=NONE", "TILT=INCLUDE\n1\n2\n0 90\n1 1").encode()).notes


@pytest.mark.parametrize(
    ("text", "message"),
    [
        ("%PDF-1.4", "no TILT line"),
        (HEAD + "1 2000 1 4", "ends too early"),
        (TWO_PLANES.replace(" 4 2 1 2", " 4 2 3 2"), "type C"),
        (TWO_PLANES.replace("0 30 60 90", "0 60 30 90"), "do not grow"),
        (TWO_PLANES.replace("800", "many"), "words among the numbers"),
        (TWO_PLANES.replace("800", "nan"), "no numbers"),
        (TWO_PLANES.replace("800", "-800"), "negative"),
        (TWO_PLANES.replace(" 4 2 1 2", " 9999999 2 1 2"), "make no sense"),
        (" " * (1 << 20) + "x", "larger than 1 MB"),
    ],
)
def test_broken_photometric_files_say_what_is_wrong(text: str, message: str) -> None:
    with pytest.raises(UnreadablePhotometry, match=message):
        read_photometry(text.encode())
