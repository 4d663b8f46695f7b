"""STEP (AP203, AP214, AP242) to an XCAF document and from there to an assembly tree. Runs in the child process."""

from __future__ import annotations

import hashlib
import re
from collections import Counter
from dataclasses import dataclass, field
from pathlib import Path

import numpy as np
from OCP.collections import Sequence_TDF_Label
from OCP.IFSelect import IFSelect_ReturnStatus
from OCP.Quantity import Quantity_ColorRGBA
from OCP.STEPCAFControl import STEPCAFControl_Reader
from OCP.TCollection import TCollection_AsciiString, TCollection_ExtendedString
from OCP.TDataStd import TDataStd_Name
from OCP.TDF import TDF_Label, TDF_Tool
from OCP.TDocStd import TDocStd_Document
from OCP.TopLoc import TopLoc_Location
from OCP.TopoDS import TopoDS_Shape
from OCP.XCAFDoc import (
    XCAFDoc_ColorTool,
    XCAFDoc_ColorType,
    XCAFDoc_DocumentTool,
    XCAFDoc_ShapeTool,
)

from usual_lamp.core.assembly import Occurrence
from usual_lamp.core.intake import census
from usual_lamp.core.intake.formats import MILLIMETRES, UnreadableFile
from usual_lamp.core.intake.label_facts import LabelFacts
from usual_lamp.core.intake.step_text import StepText

Color = tuple[float, float, float]


@dataclass
class Definition:
    """A leaf shape label of the document, before tessellation."""

    key: str
    name: str
    label: TDF_Label
    shape: TopoDS_Shape
    color: Color | None
    opacity: float = 1.0
    material: str | None = None
    layers: list[str] = field(default_factory=list)
    properties: dict[str, str] = field(default_factory=dict)
    sub_colors: list[tuple[TopoDS_Shape, Color]] = field(default_factory=list)


@dataclass
class Tree:
    """What a document holds: definitions, the nodes that place them, and words on what was left out."""

    definitions: dict[str, Definition]
    occurrences: list[Occurrence]
    warnings: list[str]


WRITTEN = {**MILLIMETRES, "µm": 0.001, "foot": 304.8, "mil": 0.0254}
"""mm in the units that a STEP file may be written in."""
REFERENCE = re.compile(rb"#(\d+)")
DEFINITION = re.compile(rb"#(\d+)\s*=")
SET_ASIDE = re.compile(rb"'[^']*'|/\*.*?\*/", re.DOTALL)
"""Text in quotes and comments; what stands in them refers to nothing."""


CONVERSION = re.compile(rb"CONVERSION_BASED_UNIT\s*\(\s*'((?i:INCH|FOOT|MIL))(?i:ES|S)?'")
BLANKS = np.frombuffer(b" \t\n\r\f\v", np.uint8)
MOST_DIGITS = 18
"""Of an entity's number."""


def check_end(path: Path) -> None:
    """Refuse an ISO 10303-21 exchange structure that is cut off, before the kernel sees it. Raises UnreadableFile."""
    with path.open("rb") as file:
        file.seek(max(0, path.stat().st_size - 4096))
        tail = file.read()
    if b"END-ISO-10303-21" not in tail:
        raise UnreadableFile("The STEP file is cut off: its end mark is missing. Export or copy it again.")


def dangling_references(path: Path, limit: int = 64 * 2**20) -> list[int]:
    """Entity numbers that are referred to but never defined. Files above `limit` bytes are not scanned."""
    if path.stat().st_size > limit:
        return []
    data = path.read_bytes()
    # Nearly all files refer to nothing that is missing, quotes and comments counted as well: that is seen quickly.
    if not _seem_missing(data):
        return []
    text = SET_ASIDE.sub(b"", data)
    missing = set(REFERENCE.findall(text)) - set(DEFINITION.findall(text))
    return sorted(map(int, missing))


def _seem_missing(data: bytes) -> bool:
    """Whether some number behind a # is never followed by an equals sign, wherever it stands."""
    raw = np.frombuffer(data + b"\0", np.uint8)
    first = np.flatnonzero(raw == ord("#")) + 1
    place, number = first.copy(), np.zeros(len(first), np.int64)
    inside = np.arange(len(first))  # of a number
    for _ in range(MOST_DIGITS):
        digit = raw[place[inside]] - np.uint8(ord("0"))  # what comes before 0 wraps round to a large one
        inside, digit = inside[digit < 10], digit[digit < 10]
        if not len(inside):
            break
        number[inside] = 10 * number[inside] + digit
        place[inside] += 1
    written = place > first
    blank = np.flatnonzero(np.isin(raw[place], BLANKS))
    while len(blank):
        place[blank] += 1
        blank = blank[np.isin(raw[place[blank]], BLANKS)]
    defined = written & (raw[place] == ord("="))
    return not np.isin(number[written], number[defined]).all()


def empty_document(written: float = 1.0, meant: float = 1.0) -> TDocStd_Document:
    """A document that counts in mm, for a file whose unit (mm) is another one than it says, where `meant` differs.

    The kernel takes lengths from the file's unit to that of the document, which is why the latter is the one to bend.
    """
    document = TDocStd_Document(TCollection_ExtendedString("intake"))
    XCAFDoc_DocumentTool.SetLengthUnit_s(document, 0.001 * written / meant)
    return document


def read(path: Path, unit: str = "as written") -> tuple[TDocStd_Document, list[str], str]:
    """Read and transfer a STEP file; returns the document, warnings and the length unit, `unit` or the file's own.

    Raises UnreadableFile when nothing usable, or not everything, came across.
    """
    check_end(path)
    own = length_unit(path)
    written = WRITTEN.get(own, 1.0)
    document = empty_document(written, MILLIMETRES.get(unit, written))
    reader = STEPCAFControl_Reader()
    reader.SetColorMode(True)
    reader.SetNameMode(True)
    reader.SetLayerMode(True)
    reader.SetMetaMode(True)
    if reader.ReadFile(str(path)) != IFSelect_ReturnStatus.IFSelect_RetDone:
        raise UnreadableFile("The STEP file has a syntax error and could not be read. Export it again.")
    roots = reader.ChangeReader().NbRootsForTransfer()
    if roots == 0:
        raise UnreadableFile("The STEP file holds no product with a shape.")
    if not reader.Transfer(document):
        raise UnreadableFile("The shapes in the STEP file could not be built. Export it again.")
    warnings = census.complaints_of(reader.ChangeReader().WS())
    warnings += census.compare(census.step_census(path), census.arrived(document))
    dangling = dangling_references(path)
    if dangling:
        shown = ", ".join(f"#{number}" for number in dangling[:5])
        points = "1 reference points" if len(dangling) == 1 else f"{len(dangling)} references point"
        warnings.append(f"{points} to nothing ({shown}): the file is damaged.")
    return document, warnings, own if unit == "as written" else unit


def length_unit(path: Path) -> str:
    """The file's own length unit in words, for the report; the geometry is always converted to mm."""
    with path.open("rb") as file:
        text = file.read(64 * 2**20)
    # Keywords are in capitals (ISO 10303-21): plain words are looked for first, which takes a hundredth of the time.
    start = text.find(b"CONVERSION_BASED_UNIT")
    found = CONVERSION.search(text, start) if start >= 0 else None
    if found:
        return found.group(1).decode().lower()
    found = re.search(rb"SI_UNIT\s*\(\s*(\.\w+\.|\$)\s*,\s*\.METRE\.\s*\)", text)
    prefixes = {b".MILLI.": "mm", b".CENTI.": "cm", b"$": "m", b".MICRO.": "µm"}
    return prefixes.get(found.group(1), "mm") if found else "mm"


def label_name(label: TDF_Label) -> str:
    """Return the name of a label; empty if it has none."""
    if not label.IsAttribute(TDataStd_Name.GetID_s()):
        return ""
    name = TDataStd_Name()
    label.FindAttribute(TDataStd_Name.GetID_s(), name)
    return str(name.Get().ToExtString()).strip()


KERNEL_WORDS = {"SOLID", "COMPOUND", "COMPSOLID", "SHELL", "FACE", "OPEN_SHELL", "CLOSED_SHELL", "MANIFOLD_SOLID_BREP"}
UUID = re.compile(r"[0-9a-f]{8}(-[0-9a-f]{4}){3}-[0-9a-f]{12}", re.IGNORECASE)
"""What exporters write for a name where nobody gave one."""


def given_name(*names: str) -> str:
    """The first that somebody gave; empty if nobody did."""
    return next((name for name in names if not _is_made_up(name)), "")


def _is_made_up(name: str) -> bool:
    return not name or name.startswith("=>") or name.upper() in KERNEL_WORDS or bool(UUID.fullmatch(name))


def label_rgba(label: TDF_Label) -> tuple[Color, float] | None:
    """A label's own colour (linear) and opacity."""
    color = Quantity_ColorRGBA()
    for kind in (XCAFDoc_ColorType.XCAFDoc_ColorSurf, XCAFDoc_ColorType.XCAFDoc_ColorGen):
        if XCAFDoc_ColorTool.GetColor_s(label, kind, color):
            rgb = color.GetRGB()
            return (rgb.Red(), rgb.Green(), rgb.Blue()), float(color.Alpha())
    return None


def label_color(label: TDF_Label) -> Color | None:
    """Return a label's own colour (linear Rec. 709)."""
    found = label_rgba(label)
    return found[0] if found else None


def matrix(location: TopLoc_Location) -> list[float]:
    """Return a location as 4 x 4 numbers, row by row, mm."""
    transform = location.Transformation()
    rows = [[transform.Value(row, column) for column in (1, 2, 3, 4)] for row in (1, 2, 3)]
    return [value for row in rows for value in row] + [0.0, 0.0, 0.0, 1.0]


IDENTITY = [1.0, 0, 0, 0, 0, 1.0, 0, 0, 0, 0, 1.0, 0, 0, 0, 0, 1.0]


class TreeBuilder:
    """Walks the XCAF labels; one Definition per leaf label, one Occurrence per placed node."""

    def __init__(self, document: TDocStd_Document, text: StepText, title: str = "") -> None:
        """`title` is for a model whose file gives the whole no name."""
        self.title = title
        self.facts, self.text = LabelFacts(document, text.properties), text
        self.tool = XCAFDoc_DocumentTool.ShapeTool_s(document.Main())
        self.definitions: dict[str, Definition] = {}
        self.labels: dict[str, Definition] = {}
        self.occurrences: list[Occurrence] = []
        self.empty: Counter[str] = Counter()

    def build(self) -> Tree:
        """Walk all free shapes and return the tree."""
        roots = Sequence_TDF_Label()
        self.tool.GetFreeShapes(roots)
        for index in range(1, len(roots) + 1):
            label = roots.Value(index)
            location = XCAFDoc_ShapeTool.GetShape_s(label).Location()
            placement = IDENTITY if location.IsIdentity() else matrix(location)
            self._place(label, label, None, f"/{index}", placement)
        warnings = [
            f"{name}: {count} empty {'item' if count == 1 else 'items'} skipped"
            for name, count in sorted(self.empty.items())
        ]
        return Tree(self.definitions, self.occurrences, warnings)

    def _place(
        self, label: TDF_Label, target: TDF_Label, parent: str | None, path: str, placement: list[float]
    ) -> None:
        definition = None
        if not XCAFDoc_ShapeTool.IsAssembly_s(target):
            definition = self._definition(target)
            if definition is None:
                self.empty[label_name(target) or "unnamed part"] += 1
                return
        names = (label_name(target), label_name(label))
        # The place in the tree is spelled as it always was: parts are found again by it.
        path = f"{path}:{next((n for n in names if n and not n.startswith('=>')), 'Unnamed')}"
        name = given_name(*names) or self._name_after(parent)
        if definition is not None and not given_name(definition.name):
            definition.name = name
        own_layers = definition.layers if definition else self.facts.layers(target)
        uid = "p" + hashlib.sha256(path.encode()).hexdigest()[:12]
        node = Occurrence(
            uid=uid,
            parent=parent,
            name=name,
            placement=placement,
            definition=definition.key if definition else None,
            color=label_color(label) if label is not target else None,
            hidden_in_cad=not (XCAFDoc_ColorTool.IsVisible_s(label) and XCAFDoc_ColorTool.IsVisible_s(target)),
            layers=sorted({*self.facts.layers(label), *own_layers}),
            properties=self.facts.properties(label) if label is not target else {},
        )
        self.occurrences.append(node)
        if definition is not None:
            return
        if node.color is None:
            node.color = label_color(target)
        self._place_children(target, uid, path)

    def _name_after(self, parent: str | None) -> str:
        """For a node that nobody named: the title, or the name of what it lies in and its number there."""
        if parent is None and self.title:
            return self.title
        above = next((node for node in self.occurrences if node.uid == parent), None)
        if above is None or above.name == "Unnamed":
            return "Unnamed"
        return f"{above.name} {1 + sum(node.parent == parent for node in self.occurrences)}"

    def _place_children(self, target: TDF_Label, uid: str, path: str) -> None:
        before = len(self.occurrences)
        components = Sequence_TDF_Label()
        XCAFDoc_ShapeTool.GetComponents_s(target, components)
        for index in range(1, len(components) + 1):
            component = components.Value(index)
            referred = TDF_Label()
            if not XCAFDoc_ShapeTool.GetReferredShape_s(component, referred):
                self.empty[label_name(component) or "unnamed part"] += 1
                continue
            location = XCAFDoc_ShapeTool.GetLocation_s(component)
            self._place(component, referred, uid, f"{path}/{index}", matrix(location))
        if len(self.occurrences) == before:
            self.empty[self.occurrences.pop().name] += 1

    def _definition(self, label: TDF_Label) -> Definition | None:
        """The definition of a leaf label, made at its first use; None when it has no faces."""
        from OCP.TopAbs import TopAbs_ShapeEnum
        from OCP.TopExp import TopExp_Explorer

        entry = TCollection_AsciiString()
        TDF_Tool.Entry_s(label, entry)
        known = self.labels.get(entry.ToCString())
        if known is not None:
            return known
        shape = XCAFDoc_ShapeTool.GetShape_s(label)
        if shape.IsNull() or not TopExp_Explorer(shape, TopAbs_ShapeEnum.TopAbs_FACE).More():
            return None
        shape = shape.Located(TopLoc_Location())
        key = f"d{len(self.definitions) + 1}"
        color, opacity = label_rgba(label) or (None, 1.0)
        found = Definition(key, label_name(label) or "Unnamed", label, shape, color, opacity)
        found.sub_colors, found.layers = self._sub_colors(label), self.facts.layers(label)
        found.material = self.text.materials.get(found.name)
        found.properties = self.text.products.get(found.name, {}) | self.facts.properties(label)
        self.definitions[key] = found
        self.labels[entry.ToCString()] = found
        return found

    @staticmethod
    def _sub_colors(label: TDF_Label) -> list[tuple[TopoDS_Shape, Color]]:
        subs = Sequence_TDF_Label()
        XCAFDoc_ShapeTool.GetSubShapes_s(label, subs)
        colored = []
        for index in range(1, len(subs) + 1):
            color = label_color(subs.Value(index))
            if color is not None:
                colored.append((XCAFDoc_ShapeTool.GetShape_s(subs.Value(index)), color))
        return colored
