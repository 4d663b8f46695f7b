"""The first coat: against a hand-made key of plausible finishes, in the style of real bills of materials.

The key is common practice, no published source: which families a maker of machines would give such a part.
"""

from __future__ import annotations

import numpy as np
import pytest

from core.test_scene_history import IDENTITY
from usual_lamp.core.appearance import SHELF, hex_to_linear
from usual_lamp.core.appearance.cad_color import MOST_CHROMA, as_real
from usual_lamp.core.appearance.clues import clues_in
from usual_lamp.core.appearance.color_difference import linear_to_lab
from usual_lamp.core.assembly import Assembly, Face, Occurrence, PartDefinition
from usual_lamp.core.scene import Assign, Scene, SetImported, apply_edit, first_scene
from usual_lamp.core.scene.first_coat import FirstCoat, first_coat
from usual_lamp.core.scene.resolved import ResolvedScene

METAL, PLASTIC, RUBBER, PAINT, GLASS = "metal", "plastic", "rubber", "paint", "glass"
KEY: list[tuple[str, str | None, str | None, set[str]]] = [
    # English
    ("Socket head cap screw M4x16", "Steel 8.8, zinc plated", None, {METAL}),
    ("ISO 4762 - M5 x 20", None, "#808080", {METAL}),
    ("Hex nut ISO 4032 M6", "A2-70", None, {METAL}),
    ("Washer 6.4", None, None, {METAL}),
    ("O-Ring 24x2", "NBR 70", None, {RUBBER}),
    ("Flat gasket", "EPDM", "#202020", {RUBBER}),
    ("Compression spring", "EN 10270-1 SM", None, {METAL}),
    ("Ball bearing 6204", None, "#C0C0C0", {METAL}),
    ("Pump housing", "EN-GJL-250", "#5C88AA", {METAL, PAINT}),
    ("Base plate", "EN AW-6082", "#C8C8C8", {METAL}),
    ("Base plate, black anodised", "EN AW-6082", None, {METAL}),
    ("Front panel", "EN AW-5754, RAL 7016", "#3A4048", {PAINT}),
    ("Valve body", "CuZn39Pb3", "#C0A040", {METAL}),
    ("Bushing", "CuSn8", None, {METAL}),
    ("Busbar", "Cu-ETP, tin plated", None, {METAL}),
    ("Shaft", "42CrMo4", None, {METAL}),
    ("Piston rod", "C45, chrome plated", None, {METAL}),
    ("Spacer", "POM-C", "#F0F0F0", {PLASTIC}),
    ("Gear 24T", "PA66-GF30", "#202020", {PLASTIC}),
    ("Insulator", "PTFE", None, {PLASTIC}),
    ("Cover window", "PMMA", "#CCE0FF", {GLASS}),
    ("Sight glass", "borosilicate glass 3.3", None, {GLASS}),
    ("Display lens", "PC clear", None, {GLASS}),
    ("Housing top", "ABS", "#E6E6E0", {PLASTIC}),
    ("Keypad", "silicone", "#404040", {RUBBER}),
    ("Rubber foot", None, "#303030", {RUBBER}),
    ("Hose 8x12", "EPDM", None, {RUBBER}),
    ("PCB main", "FR4", "#007000", {PLASTIC}),
    ("Circuit board", None, "#106020", {PLASTIC}),
    ("Bracket", "S235JR, powder coated", "#C03020", {PAINT}),
    ("Hose clamp DIN 3017", "1.4301", None, {METAL}),
    ("Dowel pin ISO 8734 4x12", None, None, {METAL}),
    ("Circlip DIN 471-20", None, "#606060", {METAL}),
    ("Handle", "PA6", "#202020", {PLASTIC}),
    ("Heat sink", "Al, black anodised", None, {METAL}),
    ("Knob", None, "#101010", {PLASTIC}),
    ("Turbine wheel", "Ti6Al4V", None, {METAL}),
    ("Connector 4-pole", None, "#303030", {PLASTIC}),
    ("Nozzle", "1.4404, electropolished", None, {METAL}),
    ("Damper foam", "PU foam", None, {RUBBER}),
    ("SocketHead_Screw", None, None, {METAL}),
    # German
    ("Zylinderschraube M6x25", "8.8 verzinkt", None, {METAL}),
    ("Sechskantmutter DIN 934 M8", None, None, {METAL}),
    ("Unterlegscheibe DIN 125", "A2", None, {METAL}),
    ("Sicherungsring DIN 472", None, None, {METAL}),
    ("Druckfeder", "1.4310", None, {METAL}),
    ("Kugellager 608", "100Cr6", None, {METAL}),
    ("Dichtring", "FKM", None, {RUBBER}),
    ("Gehäuse", "AlSi9Cu3 Druckguss", "#909090", {METAL}),
    ("Deckel", "DC01, pulverbeschichtet RAL 9005", "#111111", {PAINT}),
    ("Welle", "X5CrNi18-10", None, {METAL}),
    ("Grundplatte", "S355J2, brüniert", None, {METAL}),
    ("Schauglas", None, "#E0F0FF", {GLASS}),
    ("Gerätefuß", None, None, {RUBBER}),
    ("Schlauch 6x9", "Silikon", None, {RUBBER}),
    ("Leiterplatte", None, None, {PLASTIC}),
    ("Zahnrad z=32", "16MnCr5", None, {METAL}),
    ("Griff", None, "#202020", {PLASTIC}),
    ("Lagerbuchse", "Rotguss RG7", None, {METAL}),
    ("Typenschild", None, None, {METAL}),
    ("Gewindestift", None, None, {METAL}),
    ("Kabel 3x0.75", "PVC", "#202020", {PLASTIC}),
    ("Blech links", "1.4301 gebürstet", None, {METAL}),
    # French
    ("Vis CHc M5", None, None, {METAL}),
    ("Écrou H M8", "acier zingué", None, {METAL}),
    ("Rondelle plate", "inox", None, {METAL}),
    ("Joint torique 20x3", None, None, {RUBBER}),
    ("Ressort de compression", None, None, {METAL}),
    ("Roulement à billes", None, None, {METAL}),
    ("Capot", "aluminium thermolaqué", "#224488", {PAINT}),
    ("Raccord", "laiton nickelé", None, {METAL}),
    ("Tuyau", "caoutchouc", None, {RUBBER}),
    ("Hublot", "verre", None, {GLASS}),
    # Italian
    ("Vite TCEI M6", None, None, {METAL}),
    ("Dado M6", "acciaio zincato", None, {METAL}),
    ("Rondella", None, None, {METAL}),
    ("Guarnizione", None, None, {RUBBER}),
    ("Molla", None, None, {METAL}),
    ("Cuscinetto", None, None, {METAL}),
    ("Coperchio", "ghisa", None, {METAL}),
    ("Raccordo", "ottone", None, {METAL}),
    ("Albero", "acciaio inox", None, {METAL}),
    ("Manopola", None, "#101010", {PLASTIC}),
    # Spanish
    ("Tornillo M8x30", None, None, {METAL}),
    ("Tuerca M8", "acero cincado", None, {METAL}),
    ("Arandela", None, None, {METAL}),
    ("Junta", "goma", None, {RUBBER}),
    ("Muelle", None, None, {METAL}),
    ("Rodamiento", None, None, {METAL}),
    ("Tapa", "polipropileno", None, {PLASTIC}),
    ("Manguera", None, None, {RUBBER}),
    ("Eje", "acero inoxidable", None, {METAL}),
    # what stands against another word, or nearly means something
    ("Spring washer 6", "8.8", None, {METAL}),
    ("Bolt-on cover", "PC/ABS", "#D0D0D0", {PLASTIC}),
    ("Lens holder", "POM black", "#101010", {PLASTIC}),
    ("Seal housing", "EN AW-6061", None, {METAL}),
    ("Glass fibre cover", "PA6-GF30", "#202020", {PLASTIC}),
    ("Steel blue panel", "ABS", "#4F6F8F", {PLASTIC}),
    ("Screw terminal", "PA66", "#008000", {PLASTIC}),
    ("Nutzlast Adapter", "EN AW-7075", None, {METAL}),
]


def built(lines: list[tuple[str, str | None, str | None]], opacity: float = 1.0, size: float = 1.0) -> Assembly:
    """An assembly of blocks with these names, materials and colours."""
    definitions = {
        f"d{k}": PartDefinition(
            key=f"d{k}", name=name, mesh="m", shape=None, triangles=12, solids=1, volume=1.0 + k, area=6.0 + k,
            bounds=((0, 0, 0), (size, size, size)), color=hex_to_linear(color) if color else None, opacity=opacity,
            material=material,
        )
        for k, (name, material, color) in enumerate(lines)
    }  # fmt: skip
    nodes = [
        Occurrence(uid=f"p{k}", name=definition.name, placement=IDENTITY, definition=f"d{k}")
        for k, definition in enumerate(definitions.values())
    ]
    return Assembly(name="Made up", chord=0.1, angle=0.3, definitions=definitions, occurrences=nodes)


def coated(assembly: Assembly, scene: Scene | None = None) -> FirstCoat:
    return first_coat(ResolvedScene(assembly, scene or first_scene(assembly, "a")))


def test_names_materials_and_standards_get_plausible_finishes() -> None:
    """At least 80 percent of the parts that something is said of get a plausible family, at most 3 percent a wrong one
    with high certainty."""
    found = coated(built([line[:3] for line in KEY]))
    worn = {uid: coat for coat in found.coats for uid in coat.uids}
    right, surely_wrong, missed = 0, [], []
    for k, (name, material, _, families) in enumerate(KEY):
        coat = worn.get(f"p{k}")
        if coat is not None and coat.appearance.family in families:
            right += 1
        else:
            missed.append((name, material, coat and (coat.appearance.name, coat.sure, coat.why)))
            if coat is not None and coat.sure >= 0.75:
                surely_wrong.append(name)
    assert right / len(KEY) >= 0.8, missed
    assert len(surely_wrong) / len(KEY) <= 0.03, (surely_wrong, missed)


BEARING, WHEEL = "SingleRowCappedDeepGrooveBallBearing-M8-16-5", "XtremeSolidVWheelAssembly"
SCREW = "SocketHeadCapScrew(M2-0.4, 16.00, iso4762)"
FOREIGN: list[tuple[str, str, str | None, set[str]]] = [
    # The CAx forum's as1 and dm1: sub-assembly, part, colour
    ("rod-assembly", "nut", "#FF0000", {METAL}),
    ("rod-assembly", "rod", "#FF8000", {METAL}),
    ("nut-bolt-assembly", "bolt", "#0000FF", {METAL}),
    ("l-bracket-assembly", "l-bracket", "#00FF00", {METAL, PAINT}),
    ("l-bracket assembly", "l-bracket", None, {METAL, PAINT}),
    ("as1", "plate", "#CCFF00", {METAL, PAINT}),
    # cq-electronics: a single-board computer and its holder on a rail
    ("rpi__pcb_substrate", "rpi__pcb_substrate_part", "#EEE9BE", {PLASTIC}),
    ("rpi__pcb_solder_mask_top", "rpi__pcb_solder_mask_top_part", "#00CD00", {PLASTIC}),
    ("rpi__ethernet_port", "rpi__ethernet_port_part", "#C0CDCD", {METAL}),
    ("rpi__usb_controller", "rpi__usb_controller_part", "#404040", {PLASTIC}),
    ("rpi__bcm2837", "rpi__bcm2837_part", "#404040", {PLASTIC}),
    ("header__base", "header__base_part", "#262626", {PLASTIC}),
    ("header__pin_0-3", "header__pin_0-0_part", "#FFD700", {METAL}),
    ("pitray_clip__bracket", "pitray_clip__bracket_part", "#FAFAFA", {METAL, PAINT}),
    ("pitray_clip__din_clip", "pitray_clip__din_clip_part", "#262626", {PLASTIC}),
    ("rail", "rail_part", None, {METAL}),
    # bd_warehouse: a bearing block, and a linear axis with its gantry
    ("pillow_block", "pillow_block 1", "#008080", {METAL, PAINT, PLASTIC}),
    ("SingleRowDeepGrooveBallBearing-M8-22-7", "InnerRace", "#C0BEBB", {METAL}),
    ("SingleRowDeepGrooveBallBearing-M8-22-7", "Roller", "#C0BEBB", {METAL}),
    (SCREW, "body", "#E8EDEF", {METAL}),
    (SCREW, "thread", None, {METAL}),
    ("CBeam Assembly", "CBeamLinearRailx250", "#F5F6F6", {METAL}),
    ("CBeam Assembly", "CBeamEndMount", "#000000", {METAL, PAINT}),
    ("CBeam Assembly", "8mm lead screw x 285.9 1", "#D6D1CB", {METAL}),
    ("StepperMotor-Nema23", "StepperMotor-Nema23 1", "#020202", {METAL, PAINT}),
    ("CBeam End Assembly", "FlexibleCoupler-8mm", "#F5F6F6", {METAL}),
    ("CBeam End Assembly", "AluminumSpacer-40mm", "#F5F6F6", {METAL}),
    ("CBeam End Assembly", "LowProfileScrew(M5-0.8, 25.00)", "#2A2A2A", {METAL}),
    (BEARING, "OuterRace", "#C0BEBB", {METAL}),
    (BEARING, "Cap", "#000000", {METAL, RUBBER}),
    ("XLargeCBeamGantry", "CBeamGantryPlateXLarge", "#000000", {METAL, PAINT}),
    ("AcmeAntiBacklashNutBlock8mmAssembly", "AcmeAntiBacklashNutBlock8mm", "#000000", {PLASTIC}),
    ("AcmeAntiBacklashNutBlock8mmAssembly", "HexNut(M5-0.8, iso4032)", "#E8EDEF", {METAL}),
    (WHEEL, "ShimWasher-10x5x1", "#F5F6F6", {METAL}),
    (WHEEL, "EccentricSpacer-6mm", "#F5F6F6", {METAL}),
    # build123d: a bearing unit and a rod end
    ("unit", "cast_bearing_unit", "#4C6377", {METAL, PAINT}),
    ("rod_end", "rod_end 2", "#F0F8FF", {METAL}),
]


def test_assemblies_that_nobody_here_made_get_plausible_finishes() -> None:
    """Names, sub-assemblies and colours as they stand in public files and as open libraries write them, with a key by
    hand (common practice, no published source). The table of clues was extended while looking at these: others will do
    worse. Shapes are left out; with them, rollers and screws are surer."""
    made = built([(name, None, color) for _, name, color, _ in FOREIGN])
    tree = [Occurrence(uid="top", name="Product", placement=IDENTITY)]
    for k, ((above, *_), part) in enumerate(zip(FOREIGN, made.occurrences, strict=True)):
        tree.append(Occurrence(uid=f"s{k}", name=above, placement=IDENTITY, parent="top"))
        tree.append(part.model_copy(update={"parent": f"s{k}"}))
    made = Assembly.model_validate(made.model_dump() | {"occurrences": [one.model_dump() for one in tree]})
    worn = {uid: coat for coat in coated(made).coats for uid in coat.uids}
    off = {
        name: (coat.appearance.name, coat.sure, coat.why) if (coat := worn.get(f"p{k}")) else None
        for k, (_, name, _, families) in enumerate(FOREIGN)
        if (coat := worn.get(f"p{k}")) is None or coat.appearance.family not in families
    }
    assert len(off) <= 0.1 * len(FOREIGN), off
    assert not [found for found in off.values() if found is not None and found[1] >= 0.75], off


@pytest.mark.parametrize(
    ("name", "sample"),
    [
        ("Piston rod, chrome plated", "chrome-plated"),
        ("Bracket, yellow zinc", "zinc-yellow"),
        ("Bracket, yellow chromated", "zinc-yellow"),
        ("EN AW-6082 brushed", "steel-brushed"),
        ("DIN 9021 8.4", "zinc-plated"),
        ("DIN 90210", None),
        ("Television", None),
        ("部品 12", None),
        ("", None),
    ],
)
def test_the_first_word_that_says_something_decides(name: str, sample: str | None) -> None:
    found = clues_in(name)
    assert (found[0].sample if found else None) == sample


def test_every_sample_that_a_clue_names_is_on_the_shelf() -> None:
    from usual_lamp.core.appearance.clues import GROUPS

    assert {sample for _, lines in GROUPS for _, sample, _ in lines} <= set(SHELF)


def test_a_colour_is_kept_where_the_finish_has_one_and_left_where_it_has_none() -> None:
    made = built(
        [
            ("Cover", "ABS", "#3060A0"),
            ("Body", "brass", "#00FF00"),
            ("Panel", "EN AW-6082, anodised", "#B02020"),
            ("Pane", "PMMA", "#40A0FF"),
        ]
    )
    cover, body, panel, pane = sorted(coated(made).coats, key=lambda coat: coat.uids[0])
    hue = lambda color: float(np.degrees(np.arctan2(*linear_to_lab(np.array([color]))[0][[2, 1]])))  # noqa: E731
    assert hue(cover.appearance.params.base_color) == pytest.approx(hue(hex_to_linear("#3060A0")), abs=6)
    assert body.appearance == SHELF["brass-turned"] and "only a mark" in body.why
    assert panel.appearance.family == "metal" and panel.appearance.params.base_color[0] > 0.2
    assert pane.appearance.params.transmission_weight > 0.5 and "tinted" in pane.why


@pytest.mark.parametrize(
    ("name", "color", "sample"),
    [
        ("Screw M4", "#E0B030", "zinc-yellow"),
        ("Screw M4", "#202020", "steel-black"),
        ("Dowel pin", "#FFD700", "brass-polished"),
        ("header__pin_0-0_part", "#FFAD00", "gold-plated"),
        ("Contact pin", "#B8B8B8", "tin-plated"),
        ("Connector, 4 pins", "#181818", "abs-graphite"),
        ("rpi__pcb_solder_mask_top_part", "#00CD00", "board-green"),
        ("Circuit board", "#2040C0", "board-blue"),
        ("Circuit board", "#C02020", "board-red"),
        ("Circuit board", "#101010", "board-black"),
        ("rpi__pcb_substrate_part", "#EEE8BE", "board-bare"),
        ("usb_controller_part", "#404040", "chip-black"),
        ("rpi__ethernet_port_part", "#C0CDCD", "nickel-plated"),
        ("header__base_part", "#262626", "abs-black"),
        ("cast_bearing_unit", "#30506A", "satin-grey"),
        ("Bearing housing", "#909090", "iron-cast"),
        ("StepperMotor-Nema17 2", "#C0C0C0", "aluminium-machined"),
        ("StepperMotor-Nema17 1", "#020202", "matt-black"),
        ("Gear motor", "#3060A0", "matt-black"),
    ],
)
def test_electronics_and_golden_metals_are_told_by_name_and_colour(name: str, color: str, sample: str) -> None:
    """Common practice, no published source; three of the names are those of an open library of electronic parts."""
    (coat,) = coated(built([(name, None, color)])).coats
    assert coat.appearance.id.startswith(sample) or coat.appearance == SHELF[sample], coat


def test_what_is_drawn_in_pieces_is_what_its_sub_assembly_is_called() -> None:
    """Names of an open library: a socket head cap screw is a body and a thread, a bearing races and balls."""
    made = built([("thread", None, "#E8EAEA"), ("OuterRace", None, "#C0C0C0"), ("thing", None, None)])
    tree = [Occurrence(uid="top", name="Screwdriver bits", placement=IDENTITY)]
    for k, (name, part) in enumerate(
        zip(
            ("SocketHeadCapScrew(M2-0.4, 16.00)", "BallBearing-M8-22-7", "Screw assembly"),
            made.occurrences,
            strict=True,
        )
    ):
        tree.append(Occurrence(uid=f"s{k}", name=name, placement=IDENTITY, parent="top"))
        tree.append(part.model_copy(update={"parent": f"s{k}"}))
    made = Assembly.model_validate(made.model_dump() | {"occurrences": [one.model_dump() for one in tree]})
    found = coated(made)
    worn = {uid: coat for coat in found.coats for uid in coat.uids}
    assert worn["p0"].appearance == SHELF["zinc-plated"] and "part of “SocketHeadCapScrew" in worn["p0"].why
    assert worn["p1"].appearance == SHELF["steel-polished"]
    assert [one.uids for one in found.open] == [["p2"]]


def test_what_a_material_says_is_not_changed_by_a_golden_colour() -> None:
    (coat,) = coated(built([("Screw", "stainless steel", "#E0B030")])).coats
    assert coat.appearance == SHELF["steel-machined"]


def test_colours_alone_give_bare_metal_plastic_or_paint_and_toys_lose_their_glare() -> None:
    found = coated(built([("a1", None, "#A8A8A8"), ("a2", None, "#00FF00")])).coats
    grey, green = sorted(found, key=lambda coat: coat.uids[0])
    assert grey.appearance.family == "metal" and "grey in CAD" in grey.why
    lab = linear_to_lab(np.array([as_real(hex_to_linear("#00FF00"))]))[0]
    assert np.hypot(*lab[1:]) <= MOST_CHROMA + 1
    assert np.degrees(np.arctan2(lab[2], lab[1])) == pytest.approx(136, abs=6), "its hue (sRGB green: 136 degrees)"
    assert green.sure < 0.5 and green.appearance.family in ("paint", "plastic")
    (clear,) = coated(built([("a3", None, "#80C0FF")], opacity=0.4)).coats
    assert clear.appearance.params.transmission_weight > 0.5 and clear.sure >= 0.7


def test_what_nothing_is_known_of_is_left_and_what_was_given_is_not_touched() -> None:
    made = built([("SOLID", None, None), ("SOLID", None, None), ("Screw", None, None), ("Screw", None, None)])
    scene = first_scene(made, "a")
    given = Assign(assignments={"p2": "oak"}, define={"oak": SHELF["oak"]})
    scene, _ = apply_edit(scene, given, made.by_uid)
    found = coated(made, scene)
    assert [(one.name, one.uids) for one in found.open] == [("SOLID", ["p0", "p1"])]
    assert [coat.uids for coat in found.coats] == [["p3"]]


def test_stand_ins_for_cad_colours_and_colours_face_by_face_are_left_as_they_are() -> None:
    made = built([("Screw", None, "#808080"), ("Screw, marked", None, "#FF0000")])
    marked = made.definitions["d1"]
    marked.faces = [Face(kind="plane", signature=f"s{k}", area=1.0, color=(0, 0, 1.0) if k else None) for k in range(2)]
    scene = first_scene(made, "a")
    (color,) = {one.id for one in [ResolvedScene(made, scene).worn["p0"].appearance]}
    settled, _ = apply_edit(scene, SetImported(imported={color: "oak"}, define={"oak": SHELF["oak"]}), made.by_uid)
    assert [coat.uids for coat in coated(made, scene).coats] == [["p0"]]
    found = coated(made, settled)
    assert found.coats == [] and [one.uids for one in found.open] == [["p1"]]


def test_colours_on_a_few_faces_are_marks_on_what_the_rest_is() -> None:
    """A housing with a red face of a tenth of its area; and one whose exporter coloured every face alike."""
    made = built([("Housing", "ABS", None), ("Knob", None, None), ("Case", "ABS", "#D0D0D0")])
    for key, colors in (
        ("d0", [None, (0.5, 0.0, 0.0)]),
        ("d1", [(0.0, 0.1, 0.4)] * 2),
        ("d2", [None, (0.0, 0.0, 0.5)]),
    ):
        made.definitions[key].faces = [
            Face(kind="plane", signature=f"{key}-{k}", area=area, color=color)
            for k, (area, color) in enumerate(zip((9.0, 1.0), colors, strict=True))
        ]
    scene = first_scene(made, "a")
    found = coated(made, scene)
    assert found.open == []
    own = {coat.uids[0]: coat for coat in found.coats if "face by face" not in coat.why}
    marks = {coat.uids[0]: coat for coat in found.coats if "face by face" in coat.why}
    assert own["p0"].appearance == SHELF["abs-grey"] and own["p1"].appearance.id.startswith("textured-black-")
    assert [marks[uid].keys for uid in ("p0", "p2")] == [["p0#d0-1"], ["p2#d2-1"]] and "p1" not in marks
    given = found.edit("standard")
    assert given is not None
    after, _ = apply_edit(scene, given, made.by_uid)
    worn = ResolvedScene(made, after).worn
    r, g, b = worn["p0"].faces[1].params.base_color
    assert r > 3 * max(g, b) and worn["p0"].appearance == SHELF["abs-grey"]
    done = first_coat(ResolvedScene(made, after))
    assert done.coats == [] and done.edit("standard") is None


def test_a_part_that_says_nothing_gets_what_one_of_the_same_shape_is_called() -> None:
    made = built([("Foot, rubber", None, None), ("SOLID", None, "#909090"), ("COMPOUND", None, "#909090")])
    made.definitions["d1"] = made.definitions["d1"].model_copy(update={"volume": 1.0, "area": 6.0})
    found = coated(made)
    worn = {uid: coat for coat in found.coats for uid in coat.uids}
    assert worn["p1"].appearance.family == "rubber" and "same shape as “Foot, rubber”" in worn["p1"].why
    assert worn["p1"].sure < worn["p0"].sure
    assert "p2" not in worn or worn["p2"].appearance.family == "metal"


def test_same_parts_get_it_by_one_key_and_all_of_it_is_one_edit() -> None:
    made = built([("Screw", None, None), ("Cover", "ABS", "#3060A0")])
    more = [Occurrence(uid=f"q{k}", name="Screw", placement=IDENTITY, definition="d0") for k in range(3)]
    made = made.model_copy(update={"occurrences": [*made.occurrences, *more]})
    made = Assembly.model_validate(made.model_dump())
    scene = first_scene(made, "a")
    found = coated(made, scene)
    edit = found.edit("standard")
    assert edit is not None and sorted(edit.assignments) == ["=p0", "p1"]
    after, back = apply_edit(scene, edit, made.by_uid)
    worn = ResolvedScene(made, after).worn
    assert all(worn[uid].why == "same part" for uid in ("p0", "q0", "q2"))
    assert first_coat(ResolvedScene(made, after)).coats == []
    assert apply_edit(after, back, made.by_uid)[0] == scene


def test_a_material_that_contradicts_makes_it_less_sure() -> None:
    plain, mixed = coated(built([("Ring", "NBR", None), ("Ring", "brass / NBR", None)])).coats
    assert plain.sure > 0.8
    assert mixed.uids != plain.uids
