"""Small modelling vocabulary over Open CASCADE. Lengths in mm; every function returns a new shape."""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence

from OCP.BRep import BRep_Builder
from OCP.BRepAlgoAPI import BRepAlgoAPI_Cut, BRepAlgoAPI_Fuse
from OCP.BRepBuilderAPI import (
    BRepBuilderAPI_MakeEdge,
    BRepBuilderAPI_MakeFace,
    BRepBuilderAPI_MakePolygon,
    BRepBuilderAPI_MakeWire,
    BRepBuilderAPI_Transform,
)
from OCP.BRepFilletAPI import BRepFilletAPI_MakeFillet
from OCP.BRepOffsetAPI import BRepOffsetAPI_MakePipe
from OCP.BRepPrimAPI import BRepPrimAPI_MakeBox, BRepPrimAPI_MakePrism, BRepPrimAPI_MakeRevol
from OCP.collections import Array1_gp_Pnt
from OCP.GeomAPI import GeomAPI_PointsToBSpline
from OCP.gp import gp_Ax1, gp_Ax2, gp_Circ, gp_Dir, gp_Pnt, gp_Trsf, gp_Vec
from OCP.NCollection import NCollection_String
from OCP.StdPrs import StdPrs_BRepFont, StdPrs_BRepTextBuilder
from OCP.TopAbs import TopAbs_ShapeEnum
from OCP.TopExp import TopExp_Explorer
from OCP.TopoDS import TopoDS, TopoDS_Compound, TopoDS_Edge, TopoDS_Shape

Point = tuple[float, float, float]
EdgeTest = Callable[[Point, Point], bool]
FONT = "/usr/share/fonts/truetype/dejavu/DejaVuSans-Bold.ttf"


def box(low: Point, size: Point) -> TopoDS_Shape:
    return BRepPrimAPI_MakeBox(gp_Pnt(*low), *size).Shape()


def edges(shape: TopoDS_Shape) -> list[TopoDS_Edge]:
    explorer, found = TopExp_Explorer(shape, TopAbs_ShapeEnum.TopAbs_EDGE), []
    while explorer.More():
        edge = TopoDS.Edge(explorer.Current())
        if not any(edge.IsSame(other) for other in found):
            found.append(edge)
        explorer.Next()
    return found


def ends(edge: TopoDS_Edge) -> tuple[Point, Point]:
    from OCP.BRepAdaptor import BRepAdaptor_Curve

    curve = BRepAdaptor_Curve(edge)
    a, b = curve.Value(curve.FirstParameter()), curve.Value(curve.LastParameter())
    return (a.X(), a.Y(), a.Z()), (b.X(), b.Y(), b.Z())


def fillet(shape: TopoDS_Shape, radius: float, which: EdgeTest = lambda a, b: True) -> TopoDS_Shape:
    """Round the edges whose end points pass the test."""
    maker = BRepFilletAPI_MakeFillet(shape)
    for edge in edges(shape):
        if which(*ends(edge)):
            maker.Add(radius, edge)
    return maker.Shape()


def along(axis: int) -> EdgeTest:
    """Straight edges parallel to an axis (0 = x, 1 = y, 2 = z)."""
    others = [k for k in range(3) if k != axis]
    return lambda a, b: all(abs(a[k] - b[k]) < 1e-6 for k in others) and abs(a[axis] - b[axis]) > 1e-6


def at(axis: int, value: float) -> EdgeTest:
    """Edges that lie in a plane across an axis."""
    return lambda a, b: abs(a[axis] - value) < 1e-6 and abs(b[axis] - value) < 1e-6


def cut(shape: TopoDS_Shape, *tools: TopoDS_Shape) -> TopoDS_Shape:
    for tool in tools:
        shape = BRepAlgoAPI_Cut(shape, tool).Shape()
    return shape


def fuse(shape: TopoDS_Shape, *others: TopoDS_Shape) -> TopoDS_Shape:
    for other in others:
        maker = BRepAlgoAPI_Fuse(shape, other)
        maker.SimplifyResult()
        shape = maker.Shape()
    return shape


def compound(shapes: Sequence[TopoDS_Shape]) -> TopoDS_Shape:
    result, builder = TopoDS_Compound(), BRep_Builder()
    builder.MakeCompound(result)
    for shape in shapes:
        builder.Add(result, shape)
    return result


def moved(shape: TopoDS_Shape, x: float = 0.0, y: float = 0.0, z: float = 0.0) -> TopoDS_Shape:
    transform = gp_Trsf()
    transform.SetTranslation(gp_Vec(x, y, z))
    return BRepBuilderAPI_Transform(shape, transform, True).Shape()


def turned(shape: TopoDS_Shape, degrees: float, axis: Point = (0, 1, 0), about: Point = (0, 0, 0)) -> TopoDS_Shape:
    transform = gp_Trsf()
    transform.SetRotation(gp_Ax1(gp_Pnt(*about), gp_Dir(*axis)), math.radians(degrees))
    return BRepBuilderAPI_Transform(shape, transform, True).Shape()


def turned_part(profile: Sequence[tuple[float, float]]) -> TopoDS_Shape:
    """Revolve a closed (radius, height) profile about z."""
    polygon = BRepBuilderAPI_MakePolygon()
    for radius, height in profile:
        polygon.Add(gp_Pnt(radius, 0, height))
    polygon.Close()
    face = BRepBuilderAPI_MakeFace(polygon.Wire()).Face()
    return BRepPrimAPI_MakeRevol(face, gp_Ax1(gp_Pnt(0, 0, 0), gp_Dir(0, 0, 1))).Shape()


def disc(radius: float, height: float, edge: float = 0.0, bore: float = 0.0) -> TopoDS_Shape:
    """A cylinder on z with bevelled rims, optionally bored."""
    e = edge
    outer = (
        [(radius - e, 0), (radius, e), (radius, height - e), (radius - e, height)]
        if e
        else [(radius, 0), (radius, height)]
    )
    return turned_part([(bore, 0), *outer, (bore, height)])


def prism(points: Sequence[tuple[float, float]], height: float) -> TopoDS_Shape:
    """Extrude a closed polygon in the xy plane along z."""
    polygon = BRepBuilderAPI_MakePolygon()
    for x, y in points:
        polygon.Add(gp_Pnt(x, y, 0))
    polygon.Close()
    face = BRepBuilderAPI_MakeFace(polygon.Wire()).Face()
    return BRepPrimAPI_MakePrism(face, gp_Vec(0, 0, height)).Shape()


def regular(sides: int, across_flats: float) -> list[tuple[float, float]]:
    radius = across_flats / 2 / math.cos(math.pi / sides)
    return [
        (
            radius * math.cos(2 * math.pi * (k + 0.5) / sides),
            radius * math.sin(2 * math.pi * (k + 0.5) / sides),
        )
        for k in range(sides)
    ]


def plate(width: float, height: float, thickness: float, corner: float, edge: float = 0.0) -> TopoDS_Shape:
    """A plate in the xy plane, centred, corners rounded, front rim (at +z) rounded."""
    shape = fillet(box((-width / 2, -height / 2, 0), (width, height, thickness)), corner, along(2))
    return fillet(shape, edge, at(2, thickness)) if edge else shape


def tube(path: Sequence[Point], radius: float, start: Point) -> TopoDS_Shape:
    """Sweep a circle along a smooth curve through points; `start` is the direction at the first."""
    places = Array1_gp_Pnt(1, len(path))
    for index, point in enumerate(path, 1):
        places.SetValue(index, gp_Pnt(*point))
    curve = GeomAPI_PointsToBSpline(places, 3, 8).Curve()
    spine = BRepBuilderAPI_MakeWire(BRepBuilderAPI_MakeEdge(curve).Edge()).Wire()
    circle = gp_Circ(gp_Ax2(gp_Pnt(*path[0]), gp_Dir(*start)), radius)
    profile = BRepBuilderAPI_MakeWire(BRepBuilderAPI_MakeEdge(circle).Edge()).Wire()
    return BRepOffsetAPI_MakePipe(spine, BRepBuilderAPI_MakeFace(profile).Face()).Shape()


def text(words: str, size: float, height: float = 0.25) -> TopoDS_Shape:
    """Raised letters in the xy plane, centred on x, standing on y = 0."""
    font = StdPrs_BRepFont()
    if not font.Init(NCollection_String(FONT), size, 0):
        raise RuntimeError(f"the font {FONT} is missing: install Debian's package fonts-dejavu-core")
    flat = StdPrs_BRepTextBuilder().Perform(font, NCollection_String(words))
    solid = BRepPrimAPI_MakePrism(flat, gp_Vec(0, 0, height)).Shape()
    from OCP.Bnd import Bnd_Box
    from OCP.BRepBndLib import BRepBndLib

    bounds = Bnd_Box()
    BRepBndLib.Add_s(solid, bounds)
    low, high = bounds.CornerMin(), bounds.CornerMax()
    return moved(solid, -(low.X() + high.X()) / 2, -low.Y(), 0)
