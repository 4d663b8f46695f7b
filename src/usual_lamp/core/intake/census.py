"""What a file with exact surfaces says it holds, against what came across: no partial read passes for a whole one.

The file is counted by its own text (STEP: ISO 10303-21; IGES 5.3: directory and terminate sections; BREP: the list of
shapes), and the CAD kernel's own complaints are heeded. Runs in the child process.
"""

from __future__ import annotations

import re
from collections import Counter
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from OCP.BRepCheck import BRepCheck_Analyzer
from OCP.collections import IndexedMap_TopoDS_Shape_TopTools_ShapeMapHasher as ShapeMap
from OCP.collections import Sequence_TDF_Label
from OCP.Interface import Interface_CheckIterator
from OCP.TDocStd import TDocStd_Document
from OCP.TopAbs import TopAbs_ShapeEnum
from OCP.TopExp import TopExp
from OCP.TopoDS import TopoDS_Shape
from OCP.XCAFDoc import XCAFDoc_DocumentTool, XCAFDoc_ShapeTool

LARGEST = 64 * 2**20
"""Bytes of a file whose text is counted."""
STEP_KINDS = {
    b"NEXT_ASSEMBLY_USAGE_OCCURRENCE": "occurrences",
    b"MANIFOLD_SOLID_BREP": "solids",
    b"BREP_WITH_VOIDS": "solids",
    b"FACETED_BREP": "solids",
    b"ADVANCED_FACE": "faces",
    b"FACE_SURFACE": "faces",
}
STEP_ENTITY = re.compile(rb"=\s*(" + b"|".join(STEP_KINDS) + rb")\s*\(")
IGES_KINDS = {143: "faces", 144: "faces", 510: "faces", 186: "solids", 408: "occurrences", 308: "definitions"}
AGAIN = "Compare it with CAD, or export it again."


@dataclass(frozen=True)
class Census:
    """How many of each there are; None where that is not known."""

    occurrences: int | None = None
    solids: int | None = None
    faces: int | None = None


def step_census(path: Path) -> Census:
    """By the file's text; nothing is known of very large files."""
    if path.stat().st_size > LARGEST:
        return Census()
    found = Counter(STEP_KINDS[name] for name in STEP_ENTITY.findall(path.read_bytes()))
    return Census(found["occurrences"], found["solids"], found["faces"])


def iges_census(path: Path) -> tuple[Census, list[str]]:
    """By the directory section, and words on lines that the terminate section counts and that are not there."""
    found: Counter[str] = Counter()
    lines: Counter[str] = Counter()
    promised: dict[str, int] = {}
    with path.open("rb") as file:
        for raw in file:
            line = raw.decode("latin-1").rstrip("\r\n")
            section = line[72:73]
            lines[section] += 1
            if section == "D" and lines["D"] % 2 == 1 and line[:8].strip().isdigit():
                found[IGES_KINDS.get(int(line[:8]), "")] += 1
            if section == "T":
                promised = {kind: int(number) for kind, number in re.findall(r"([SGDP])\s*(\d+)", line[:32])}
    words = [
        f"the file should have {count} lines in section {kind} and has {lines[kind]}"
        for kind, count in promised.items()
        if lines[kind] != count
    ]
    return Census(found["occurrences"] or None, found["solids"], found["faces"]), words


def brep_census(path: Path) -> Census:
    """By the list of shapes of a text file; nothing is known of a binary one."""
    data = path.read_bytes()
    at = data.find(b"\nTShapes ")
    if at < 0 or path.stat().st_size > LARGEST:
        return Census()
    kinds = Counter(re.findall(rb"^(So|Fa)\s*$", data[at:], re.MULTILINE))
    return Census(None, kinds[b"So"], kinds[b"Fa"])


def arrived(document: TDocStd_Document) -> Census:
    """Of a document: placed components, and the solids and faces of all shapes, each once."""
    tool = XCAFDoc_DocumentTool.ShapeTool_s(document.Main())
    labels = Sequence_TDF_Label()
    tool.GetShapes(labels)
    placed, shapes = 0, list[TopoDS_Shape]()
    for index in range(1, len(labels) + 1):
        label = labels.Value(index)
        if XCAFDoc_ShapeTool.IsAssembly_s(label):
            placed += int(XCAFDoc_ShapeTool.NbComponents_s(label, False))
        elif XCAFDoc_ShapeTool.IsSimpleShape_s(label):
            shapes.append(XCAFDoc_ShapeTool.GetShape_s(label))
    return count(shapes, placed)


def count(shapes: list[TopoDS_Shape], placed: int | None = None) -> Census:
    """Solids and faces of some shapes, each once, beside what is known of how often they are placed."""
    solids, faces = ShapeMap(), ShapeMap()
    for shape in shapes:
        TopExp.MapShapes_s(shape, TopAbs_ShapeEnum.TopAbs_SOLID, solids)
        TopExp.MapShapes_s(shape, TopAbs_ShapeEnum.TopAbs_FACE, faces)
    return Census(placed, solids.Size(), faces.Size())


def compare(there: Census, came: Census) -> list[str]:
    """Words on what the file holds and did not come across."""
    lost = []
    for what, words in (("occurrences", "placed parts"), ("solids", "solids"), ("faces", "faces")):
        have, got = getattr(there, what), getattr(came, what)
        if have is not None and got is not None and got < have:
            lost.append(f"{have - got} of {have} {words}")
    return [f"Missing: {' and '.join(lost)} of the file did not come across. {AGAIN}"] if lost else []


def complaints(checks: Interface_CheckIterator, doing: str) -> list[str]:
    """Words on what the kernel calls a failure; warnings of its own are about style."""
    number = 0
    checks.Start()
    while checks.More():
        number += int(checks.Value().NbFails())
        checks.Next()
    errors = "1 error" if number == 1 else f"{number} errors"
    words = f"The CAD kernel reports {errors} while {doing} this file: something may be missing. {AGAIN}"
    return [words] if number else []


def complaints_of(session: Any) -> list[str]:
    """All that a reader's work session complains of, in reading and in building."""
    read = complaints(session.ModelCheckList(), "reading")
    return read or complaints(session.TransferReader().LastCheckList(), "building the shapes of")


def doubts(shape: TopoDS_Shape) -> list[str]:
    """Words on a shape whose faces, edges and points contradict each other."""
    if BRepCheck_Analyzer(shape).IsValid():
        return []
    return [f"Its faces, edges and points do not fit together: the file may be damaged. {AGAIN}"]
