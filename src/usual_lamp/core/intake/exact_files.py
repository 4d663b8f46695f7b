"""Files with exact surfaces to an XCAF document: STEP (see `step`), IGES and BREP. Runs in the child process."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from OCP.BinTools import BinTools
from OCP.BRep import BRep_Builder
from OCP.BRepBuilderAPI import BRepBuilderAPI_Transform
from OCP.BRepTools import BRepTools
from OCP.collections import IndexedMap_TopoDS_Shape_TopTools_ShapeMapHasher as ShapeMap
from OCP.collections import Sequence_TDF_Label
from OCP.gp import gp_Pnt, gp_Trsf
from OCP.IFSelect import IFSelect_ReturnStatus
from OCP.IGESCAFControl import IGESCAFControl_Reader
from OCP.IGESData import IGESData_IGESEntity, IGESData_IGESModel
from OCP.TCollection import TCollection_ExtendedString
from OCP.TDataStd import TDataStd_Name
from OCP.TDocStd import TDocStd_Document
from OCP.TopAbs import TopAbs_ShapeEnum
from OCP.TopExp import TopExp
from OCP.TopoDS import TopoDS_Shape
from OCP.XCAFDoc import XCAFDoc_DocumentTool, XCAFDoc_ShapeTool

from usual_lamp.core.intake import census, step
from usual_lamp.core.intake.first_look import HEAD, hopeless
from usual_lamp.core.intake.formats import EXACT, MILLIMETRES, UnreadableFile

Read = tuple[TDocStd_Document, list[str], str]


def read(path: Path, unit: str, say: Callable[..., None]) -> Read:
    """The document, warnings and the file's unit in words, or `unit` where that is not "as written".

    Raises UnreadableFile.
    """
    with path.open("rb") as file:
        if problem := hopeless(path.name, file.read(HEAD)):
            raise UnreadableFile(problem)
    kind = EXACT[path.suffix.lower()]
    say(progress=0.05, stage=f"reading the {kind} file")
    if kind == "STEP":
        return step.read(path, unit)
    return _iges(path, unit) if kind == "IGES" else _brep(path, unit)


def _iges(path: Path, unit: str) -> Read:
    reader = IGESCAFControl_Reader()
    reader.SetColorMode(True)
    reader.SetNameMode(True)
    reader.SetLayerMode(True)
    if reader.ReadFile(str(path)) != IFSelect_ReturnStatus.IFSelect_RetDone:
        raise UnreadableFile("The IGES file has a syntax error and could not be read. Export it again.")
    model = reader.WS().Model()
    written = model.GlobalSection().UnitValue() if isinstance(model, IGESData_IGESModel) else 1.0
    document = step.empty_document(written, MILLIMETRES.get(unit, written))
    if not reader.Transfer(document):
        raise UnreadableFile("The shapes in the IGES file could not be built. Export it again, as STEP if you can.")
    _put_on_levels(reader, document)
    there, warnings = census.iges_census(path)
    warnings = [f"{words[0].upper()}{words[1:]}: it is damaged. {census.AGAIN}" for words in warnings]
    warnings += census.complaints_of(reader.WS()) + census.compare(there, census.arrived(document))
    own = next((name for name, value in MILLIMETRES.items() if abs(value - written) < 1e-6), "mm")
    return document, warnings, own if unit == "as written" else unit


def _put_on_levels(reader: IGESCAFControl_Reader, document: TDocStd_Document) -> None:
    """Layers of each part: the levels (field 5 of the directory, IGES 5.3, 2.2.4.4.5) of what it is made of.

    The kernel's reader puts on layers only what is a part of its own, and files often hold faces alone.
    """
    layers = XCAFDoc_DocumentTool.LayerTool_s(document.Main())
    shapes = XCAFDoc_DocumentTool.ShapeTool_s(document.Main())
    transfer = reader.WS().TransferReader()
    free = Sequence_TDF_Label()
    shapes.GetFreeShapes(free)
    for index in range(1, len(free) + 1):
        label, made_of = free.Value(index), ShapeMap()
        whole = XCAFDoc_ShapeTool.GetShape_s(label)
        made_of.Add(whole)
        for kind in (TopAbs_ShapeEnum.TopAbs_SOLID, TopAbs_ShapeEnum.TopAbs_SHELL, TopAbs_ShapeEnum.TopAbs_FACE):
            TopExp.MapShapes_s(whole, kind, made_of)
        entities = (transfer.EntityFromShapeResult(made_of.FindKey(k), -1) for k in range(1, made_of.Size() + 1))
        levels = {entity.Level() for entity in entities if isinstance(entity, IGESData_IGESEntity)}
        for level in sorted(level for level in levels if level > 0):
            layers.SetLayer(label, TCollection_ExtendedString(str(level)))


def _brep(path: Path, unit: str) -> Read:
    shape = TopoDS_Shape()
    read = False
    try:
        read = BRepTools.Read_s(shape, str(path), BRep_Builder())
        if not read or shape.IsNull():
            read = BinTools.Read_s(shape, str(path))
    except Exception:  # the kernel's own errors, by many names
        read = False
    if not read or shape.IsNull():
        raise UnreadableFile("The BREP file could not be read: it is damaged or none. Export it again.")
    warnings = census.doubts(shape) + census.compare(census.brep_census(path), census.count([shape]))
    if unit == "as written":
        warnings.append("The file names no unit: millimetres were taken.")
    elif MILLIMETRES[unit] != 1.0:
        scaling = gp_Trsf()
        scaling.SetScale(gp_Pnt(0, 0, 0), MILLIMETRES[unit])
        shape = BRepBuilderAPI_Transform(shape, scaling, True).Shape()
    document = step.empty_document()
    label = XCAFDoc_DocumentTool.ShapeTool_s(document.Main()).AddShape(shape, True)
    TDataStd_Name.Set_s(label, TCollection_ExtendedString(path.stem))
    return document, warnings, "mm" if unit == "as written" else unit
