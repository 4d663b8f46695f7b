"""Colours from CAD: how different they look, who has them, what stands in for them."""

from __future__ import annotations

import colour
import numpy as np
import pytest

from public_files import step_file
from usual_lamp.core.appearance import SHELF, from_cad, hex_to_linear
from usual_lamp.core.appearance.color_difference import ciede2000, linear_to_lab
from usual_lamp.core.appearance.suggestions import WORDS, in_color, suggestion
from usual_lamp.core.intake import IntakeResult, take_in
from usual_lamp.core.scene import SetImported, apply_edit, first_scene, resolve_part
from usual_lamp.core.scene.imported_colors import imported_colors, nearly_alike
from usual_lamp.core.scene.resolved import ResolvedScene

SHARMA = [
    ((50, 2.6772, -79.7751), (50, 0, -82.7485), 2.0425),
    ((50, 3.1571, -77.2803), (50, 0, -82.7485), 2.8615),
    ((50, 2.8361, -74.0200), (50, 0, -82.7485), 3.4412),
    ((50, -1.3802, -84.2814), (50, 0, -82.7485), 1.0000),
    ((50, 0, 0), (50, -1, 2), 2.3669),
    ((50, -1, 2), (50, 0, 0), 2.3669),
    ((50, 2.49, -0.001), (50, -2.49, 0.0009), 7.1792),
    ((50, 2.49, -0.001), (50, -2.49, 0.0011), 7.2195),
    ((50, 2.5, 0), (73, 25, -18), 27.1492),
    ((50, 2.5, 0), (61, -5, 29), 22.8977),
    ((50, 2.5, 0), (56, -27, -3), 31.9030),
    ((50, 2.5, 0), (58, 24, 15), 19.4535),
    ((2.0776, 0.0795, -1.1350), (0.9033, -0.0636, -0.5514), 0.9082),
]
"""Of the test pairs of Sharma, Wu and Dalal (2005), table 1, written down from memory: those that turn on the hue's
wrap-around, on grey, and on large differences."""


@pytest.mark.parametrize("one,two,difference", SHARMA)
def test_ciede2000_gives_the_published_pairs(one, two, difference) -> None:
    assert ciede2000(np.array([one]), np.array([two]))[0] == pytest.approx(difference, abs=5e-5)


def test_ciede2000_and_lab_agree_with_an_independent_library() -> None:
    random = np.random.default_rng(1)
    one = random.uniform([0, -100, -100], [100, 100, 100], (2000, 3))
    two = one + random.normal(0, 20, one.shape)
    assert np.abs(ciede2000(one, two) - colour.difference.delta_E_CIE2000(one, two)).max() < 1e-9
    linear = random.random((200, 3))
    white = colour.CCS_ILLUMINANTS["CIE 1931 2 Degree Standard Observer"]["D65"]
    expected = colour.XYZ_to_Lab(colour.RGB_to_XYZ(linear, "sRGB"), white)
    assert np.abs(linear_to_lab(linear) - expected).max() < 0.02


def test_colours_of_the_public_assembly_and_a_stand_in(as1: IntakeResult) -> None:
    scene = first_scene(as1.assembly, "rev")
    rows = imported_colors(ResolvedScene(as1.assembly, scene))
    assert [len(row.uids) for row in rows] == [8, 6, 2, 1, 1] and sum(len(row.uids) for row in rows) == 18
    bolts, steel = next(row for row in rows if row.name == "bolt"), SHELF["steel-machined"]
    assert bolts.suggestion == steel
    edit = SetImported(imported={bolts.id: steel.id}, define={steel.id: steel})
    changed, back = apply_edit(scene, edit, [])
    worn = {part.name: resolve_part(as1.assembly, changed, part) for part in as1.assembly.parts()}
    assert worn["bolt"].appearance == steel and worn["bolt"].why == "stands for a colour from CAD"
    assert worn["rod"].why == "from CAD"
    assert apply_edit(changed, back, [])[0] == scene
    stripped, _ = apply_edit(changed, SetImported(imported={row.id: None for row in rows}), [])
    assert {resolve_part(as1.assembly, stripped, part).why for part in as1.assembly.parts()} == {"nothing yet"}
    group = next(node for node in as1.assembly.occurrences if node.name == "rod-assembly")
    bare, _ = apply_edit(scene, SetImported(imported={}, stripped=frozenset([group.uid])), [])
    whys = {part.name: resolve_part(as1.assembly, bare, part).why for part in as1.assembly.below(group.uid)}
    assert whys == {"nut": "nothing yet", "rod": "nothing yet"}, "one sub-assembly alone"


def test_faces_with_colours_of_their_own_follow_too(tmp_path) -> None:
    """io1-cm-214 of the public CAx files has coloured faces."""
    found = take_in(step_file("cax-if/io1-cm-214.stp"), tmp_path, quality="coarse").assembly
    scene = first_scene(found, "rev")
    rows = imported_colors(ResolvedScene(found, scene))
    own = [row for row in rows if row.faces]
    assert own
    brass = SHELF["brass-turned"]
    edit = SetImported(imported={row.id: brass.id for row in rows}, define={brass.id: brass})
    changed, _ = apply_edit(scene, edit, [])
    part = found.by_uid[own[0].uids[0]]
    worn = resolve_part(found, changed, part)
    assert {worn.appearance, *worn.faces.values()} <= {brass, resolve_part(found, scene, part).appearance} | {brass}
    assert brass in {worn.appearance, *worn.faces.values()}


def test_nearly_alike_colours_gather_round_the_most_used(as1: IntakeResult) -> None:
    scene = first_scene(as1.assembly, "rev")
    rows = imported_colors(ResolvedScene(as1.assembly, scene))
    template = rows[0]

    def row(color: tuple[float, float, float], count: int, opacity: float = 1.0):
        look = from_cad(color, opacity)
        return template.model_copy(update={"id": look.id, "appearance": look, "uids": ["u"] * count})

    grey, near, far = row((0.2, 0.2, 0.2), 9), row((0.21, 0.2, 0.2), 4), row((0.5, 0.2, 0.2), 2)
    clear = row((0.2, 0.2, 0.2), 1, 0.3)
    assert nearly_alike([grey, near, far, clear], 5.0) == [[grey.id, near.id]]
    assert nearly_alike([grey, near, far], 60.0) == [[grey.id, near.id, far.id]]
    settled = near.model_copy(update={"stands_in": "brass-turned"})
    assert nearly_alike([grey, settled], 5.0) == []


def test_suggestions_know_the_words_of_the_trade() -> None:
    words = {
        "Steel 8.8, zinc plated": "steel-machined", "CuZn39Pb3": "brass-turned", "X5CrNi18-10 1.4301": "steel-machined",
        "ABS, dark grey": "abs-graphite", "EPDM 70": "rubber-black", "EN AW-6082": "aluminium-blasted",
        "AlMgSi powder coated RAL 7016": "powder-slate", "Polycarbonate": "polycarbonate-clear",
        "silicone tube": "silicone-milky", "Motor 24 V": None, "": None,
    }  # fmt: skip
    assert {word: suggestion(word) for word in words} == words
    assert {sample for _, sample in WORDS} <= SHELF.keys()
    assert suggestion(None, "M8 nut") == "steel-machined"


def test_a_suggestion_keeps_the_colour_that_cad_gave() -> None:
    cyan, black, blue = hex_to_linear("#00E0E0"), hex_to_linear("#101010"), hex_to_linear("#1040C0")
    lit = in_color(SHELF["lit-green"], cyan)
    assert lit.params.emission_color == pytest.approx((0.0, 1.0, 1.0), abs=0.01) and lit.name == "Lit, #00E0E0"
    assert lit.params.emission_luminance == SHELF["lit-green"].params.emission_luminance
    assert max(in_color(SHELF["polycarbonate-clear"], black).params.transmission_color) < 0.01
    for sample in ("anodised-orange", "paint-red", "powder-slate", "abs-graphite"):
        seen = in_color(SHELF[sample], blue)
        assert seen.params.base_color == blue and seen.id != sample
        assert seen.params.specular_roughness == SHELF[sample].params.specular_roughness
    brassy = hex_to_linear("#D8B060")
    assert in_color(SHELF["brass-turned"], brassy) == SHELF["brass-turned"], "bare metal has the colour of the metal"
    assert in_color(SHELF["steel-machined"], blue) == SHELF["steel-machined"]
    assert in_color(SHELF["aluminium-blasted"], black, SHELF["anodised-orange"]).name == "Anodised, #101010"
    red = SHELF["paint-red"]
    assert in_color(red, red.params.base_color) == red
