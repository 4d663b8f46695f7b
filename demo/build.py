"""Assembles the dosing pump and writes it as STEP AP242: `python -m demo.build OUT.step [--second]`."""

from __future__ import annotations

import sys
from collections.abc import Callable
from dataclasses import dataclass, field
from pathlib import Path

from OCP.gp import gp_Ax1, gp_Dir, gp_Pnt, gp_Trsf, gp_Vec
from OCP.IFSelect import IFSelect_ReturnStatus
from OCP.Interface import Interface_Static
from OCP.Quantity import Quantity_Color, Quantity_ColorRGBA, Quantity_TypeOfColor
from OCP.STEPCAFControl import STEPCAFControl_Writer
from OCP.STEPControl import STEPControl_StepModelType
from OCP.TCollection import TCollection_ExtendedString, TCollection_HAsciiString
from OCP.TDataStd import TDataStd_Name, TDataStd_NamedData
from OCP.TDF import TDF_Label
from OCP.TDocStd import TDocStd_Document
from OCP.TopLoc import TopLoc_Location
from OCP.TopoDS import TopoDS_Shape
from OCP.XCAFDoc import XCAFDoc_ColorType, XCAFDoc_DocumentTool

from demo import part_list
from demo import pump_parts as parts

Place = tuple[float, float, float]


@dataclass
class Part:
    """A definition and where it goes. `front`: built on +z, stood up to look towards the front."""

    name: str
    make: Callable[[], TopoDS_Shape]
    color: str
    places: list[Place] = field(default_factory=lambda: [(0.0, 0.0, 0.0)])
    front: bool = False
    opacity: float = 1.0
    hidden: bool = False


@dataclass
class Group:
    name: str
    children: list[Part | Group]


def head_places(depth: float, points: list[tuple[float, float]]) -> list[Place]:
    """Places on the pump head, depth in front of the case."""
    return [(parts.HEAD_X + x, parts.FRONT - depth, parts.HEAD_Z + y) for x, y in points]


def panel_places(depth: float, points: list[tuple[float, float]]) -> list[Place]:
    return [(parts.PANEL_X + x, parts.FRONT - depth, parts.PANEL_Z + y) for x, y in points]


CENTRE = [(0.0, 0.0)]


def pump() -> Group:
    """The whole product, two levels of sub-assemblies deep."""
    rollers = parts.roller_places()
    rotor = Group(
        "Rotor assembly",
        [
            Part("Rotor", parts.rotor, "#E0612A", head_places(17.4, CENTRE), front=True),
            Part("Roller", parts.roller, "#C9CCCE", head_places(7.0, rollers), front=True),
            Part("Roller pin", parts.roller_pin, "#B9BDC0", head_places(22.0, rollers), front=True),
            Part(
                "Screw M4 x 12",
                lambda: parts.socket_screw(4.0, 12),
                "#D0D2D3",
                head_places(22.4, CENTRE),
                front=True,
            ),
        ],
    )
    head = Group(
        "Pump head",
        [
            Part("Head body, cast", parts.head_body, "#C4C7C9", head_places(0, CENTRE), front=True),
            Part("Wear plate", parts.wear_plate, "#3A3D40", head_places(5.1, CENTRE), front=True),
            rotor,
            Part("Hose 6 x 9", parts.hose, "#EDE5D3", head_places(12.5, CENTRE), front=True),
            Part(
                "Hose barb",
                parts.hose_barb,
                "#D9B45A",
                [(parts.HEAD_X + x, parts.FRONT - 12.5, parts.HEAD_Z + 64) for x in (-19, 19)],
            ),
            Part("Head cover", parts.head_cover, "#E8F2F3", head_places(24.2, CENTRE), front=True, opacity=0.15),
            Part(
                "Screw M4 x 16",
                lambda: parts.socket_screw(4.0, 16),
                "#D0D2D3",
                head_places(29.4, parts.cover_screw_places()),
                front=True,
            ),
            Part("Port marks", parts.port_print, "#2B2E31", head_places(24.0, [(0, 54.5)]), front=True),
        ],
    )
    case = Group(
        "Case",
        [
            Part("Case front, cast", parts.case_front, "#7493AD"),
            Part("Case back, cast", parts.case_back, "#7493AD"),
            Part("Seam gasket", parts.seam_gasket, "#2A2C2E"),
            Part("Base plate", parts.base_plate, "#2F3235"),
            Part("Foot", parts.foot, "#26282A", [(x, y, -5.0) for x in (-68.0, 68.0) for y in (-36.0, 36.0)]),
            Part("Nameplate", parts.nameplate, "#D5D7D8", [(-28.0, parts.FRONT, 11.0)], front=True),
        ],
    )
    panel_screws = [(x, y) for x in (-20.0, 20.0) for y in (-56.5, 57.5)]
    control = Group(
        "Control panel",
        [
            Part("Panel", parts.panel, "#34373B", panel_places(0, CENTRE), front=True),
            Part("Panel print", parts.panel_print, "#E9E9E6", panel_places(4.5, CENTRE), front=True),
            Part("Display bezel", parts.bezel, "#1E2022", panel_places(4.5, [(0, 31)]), front=True),
            Part("Display glass", parts.display_glass, "#0C0E10", panel_places(2.4, [(0, 31)]), front=True),
            Part("Display segments", parts.segments, "#7FE3F5", panel_places(3.2, [(0, 31)]), front=True),
            Part("Status lens", parts.status_lens, "#3DF06A", panel_places(4.6, [(-13.5, 11)]), front=True),
            Part("Status ring", parts.status_ring, "#C9CCCE", panel_places(4.5, [(-13.5, 11)]), front=True),
            Part("Button, prime", parts.push_button, "#E4E4E1", panel_places(4.5, [(-10.5, -4.5)]), front=True),
            Part("Button, start", parts.push_button, "#E0612A", panel_places(4.5, [(10.5, -4.5)]), front=True),
            Group(
                "Knob",
                [
                    Part("Knob body", parts.knob_body, "#222426", panel_places(4.8, [(0, -33.5)]), front=True),
                    Part("Knob cap", parts.knob_cap, "#C9CCCE", panel_places(18.8, [(0, -33.5)]), front=True),
                    Part("Knob mark", parts.knob_mark, "#E0612A", panel_places(18.8, [(0, -33.5)]), front=True),
                ],
            ),
            Part(
                "Screw M3 x 8",
                lambda: parts.socket_screw(3.0, 8),
                "#D0D2D3",
                panel_places(4.5, panel_screws),
                front=True,
            ),
        ],
    )
    board = [(x, y) for x in (-31.0, 31.0) for y in (-23.0, 23.0)]
    drive = Group(
        "Drive",
        [
            Part("Motor 24 V", parts.motor, "#8D9093", [(parts.HEAD_X, -32.0, 88.0)]),
            Part("Gear, 18 teeth", lambda: parts.gear(18, 1.0, 8), "#C8B37A", [(parts.HEAD_X, -32.0, 74.0)]),
            Part(
                "Gear, 36 teeth",
                lambda: parts.gear(36, 1.0, 8),
                "#C8B37A",
                [(parts.HEAD_X, -32.0 + 27.0, 74.0)],
            ),
            Part("Motor bracket", parts.bracket, "#9A9DA0", [(parts.HEAD_X, -20.0, 40.0)]),
            Part("Circuit board", parts.circuit_board, "#3F7A4C", [(30.0, 12.0, 30.0)]),
            Part(
                "Capacitor",
                parts.capacitor,
                "#4B6EA8",
                [(12.0, 12.0, 31.6), (26.0, 12.0, 31.6), (40.0, 12.0, 31.6)],
            ),
            Part("Standoff", parts.standoff, "#C8B37A", [(30 + x, 12 + y, 18.0) for x, y in board]),
            Part(
                "Board screw M3 x 8",
                lambda: parts.socket_screw(3.0, 8),
                "#D0D2D3",
                [(30 + x, 12 + y, 31.6) for x, y in board],
            ),
        ],
    )
    shipping = Group(
        "Shipping aids",
        [
            Part(
                "Transport lock",
                parts.transport_lock,
                "#FF00C8",
                [(-100.0, -40.0, 10.0), (100.0, -40.0, 10.0)],
                hidden=True,
            ),
            Part("Lifting jig", parts.lifting_jig, "#FFE000", [(0.0, 0.0, 175.0)], hidden=True),
        ],
    )
    return Group("Dosing pump DP-40", [case, head, control, drive, shipping])


class Writer:
    """Turns the part list into an XCAF document; a shape made twice by the same function is one definition."""

    def __init__(self) -> None:
        self.document = TDocStd_Document(TCollection_ExtendedString("pump"))
        XCAFDoc_DocumentTool.SetLengthUnit_s(self.document, 0.001)
        self.shapes = XCAFDoc_DocumentTool.ShapeTool_s(self.document.Main())
        self.colors = XCAFDoc_DocumentTool.ColorTool_s(self.document.Main())
        self.materials = XCAFDoc_DocumentTool.MaterialTool_s(self.document.Main())
        self.layers = XCAFDoc_DocumentTool.LayerTool_s(self.document.Main())
        self.numbers: dict[str, str] = {}

    def add(self, node: Part | Group) -> list[tuple[TDF_Label, TopLoc_Location]]:
        if isinstance(node, Part):
            return self._add_part(node)
        label = self.shapes.NewShape()
        self._name(label, node.name)
        for child in node.children:
            for definition, place in self.add(child):
                component = self.shapes.AddComponent(label, definition, place)
                self._name(component, child.name)
        return [(label, TopLoc_Location())]

    def _add_part(self, part: Part) -> list[tuple[TDF_Label, TopLoc_Location]]:
        label = self.shapes.AddShape(part.make(), False)
        self._name(label, part.name)
        channels = [int(part.color[i : i + 2], 16) / 255 for i in (1, 3, 5)]
        color = Quantity_Color(*channels, Quantity_TypeOfColor.Quantity_TOC_sRGB)
        self.colors.SetColor(label, Quantity_ColorRGBA(color, part.opacity), XCAFDoc_ColorType.XCAFDoc_ColorSurf)
        self._describe(label, part.name)
        if part.hidden:
            self.colors.SetVisibility(label, False)
        return [(label, location(place, part.front)) for place in part.places]

    def _describe(self, label: TDF_Label, name: str) -> None:
        """Number, layer and material as the part list has them."""
        facts = TDataStd_NamedData.Set_s(label)
        number = part_list.number(name, self.numbers)
        facts.SetString(TCollection_ExtendedString("Part number"), TCollection_ExtendedString(number))
        self.layers.SetLayer(label, TCollection_ExtendedString(part_list.layer(name)))
        material = part_list.material(name)
        if material:
            words = [TCollection_HAsciiString(text) for text in (material, "", "", "")]
            self.materials.SetMaterial(label, words[0], words[1], 0.0, words[2], words[3])

    @staticmethod
    def _name(label: TDF_Label, name: str) -> None:
        TDataStd_Name.Set_s(label, TCollection_ExtendedString(name))

    def write(self, path: Path) -> None:
        self.shapes.UpdateAssemblies()
        # The parameter exists only once a writer has been made; the next writer then obeys it.
        STEPCAFControl_Writer()
        if not Interface_Static.SetCVal_s("write.step.schema", "AP242DIS"):
            raise RuntimeError("this Open CASCADE cannot write AP242")
        writer = STEPCAFControl_Writer()
        writer.SetColorMode(True)
        writer.SetNameMode(True)
        writer.SetLayerMode(True)
        writer.SetMaterialMode(True)
        writer.SetMetadataMode(True)
        writer.Transfer(self.document, STEPControl_StepModelType.STEPControl_AsIs)
        if writer.Write(str(path)) != IFSelect_ReturnStatus.IFSelect_RetDone:
            raise RuntimeError(f"{path} could not be written")


def location(place: Place, front: bool) -> TopLoc_Location:
    transform = gp_Trsf()
    if front:
        transform.SetRotation(gp_Ax1(gp_Pnt(0, 0, 0), gp_Dir(1, 0, 0)), 1.5707963267948966)
    transform.SetTranslationPart(gp_Vec(*place))
    return TopLoc_Location(transform)


def main() -> None:
    target = Path(sys.argv[1])
    target.parent.mkdir(parents=True, exist_ok=True)
    tree = pump()
    if "--second" in sys.argv[2:]:
        from demo.second_revision import revised

        tree = revised(tree)
    writer = Writer()
    writer.add(tree)
    writer.write(target)


if __name__ == "__main__":
    # As a module, so that its classes are the ones that others import from it.
    from demo import build

    build.main()
