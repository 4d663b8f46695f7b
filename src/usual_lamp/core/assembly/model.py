"""The assembly tree as one plain document (a manifest); geometry is referred to by content hash.

Units: mm. Placements are 4 x 4 row-major, column-vector convention, relative to the parent.
Colours are linear-light Rec. 709 triples, as a CAD file gives them.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from functools import cached_property
from typing import Any, Literal, Self

import numpy as np
from numpy.typing import NDArray
from pydantic import BaseModel, ConfigDict, Field

from usual_lamp.core.assembly.outline import unpacked

Color = tuple[float, float, float]
Matrix = NDArray[np.float64]


class Face(BaseModel):
    """One face of a definition's exact shape, in the order of the mesh's face ranges."""

    model_config = ConfigDict(frozen=True)

    kind: str = Field(description="plane, cylinder, cone, sphere, torus or free")
    signature: str = Field(description="16 hex digits of surface kind, parameters, area and centroid")
    area: float = Field(description="mm², exact")
    center: Color = Field((0.0, 0.0, 0.0), description="of the area, mm, in the definition's frame")
    color: Color | None = None


class PartDefinition(BaseModel):
    """A shape that one or many occurrences place."""

    key: str
    name: str
    mesh: str = Field(description="sha256 of the mesh block")
    shape: str | None = Field(description="sha256 of the exact shape (binary BREP); none in a mesh file")
    triangles: int
    solids: int
    volume: float = Field(description="mm³, exact; 0 for an open shape")
    area: float = Field(description="mm², exact")
    bounds: tuple[Color, Color]
    color: Color | None = None
    opacity: float = 1.0
    faces: list[Face] = []
    outline: str = Field("", description="points on its convex hull, packed; see `outline`")
    chord: float | None = Field(None, description="asked of its tessellation, mm; the assembly's unless set")
    angle: float | None = Field(None, description="asked of its tessellation, radians; the assembly's unless set")
    deviation: float | None = Field(None, description="measured: farthest the triangles lie from the surface, mm")
    defects: list[str] = Field([], description="what was wrong with a mesh as it came, in words")
    material: str | None = Field(None, description="as the file calls it")
    properties: dict[str, str] = Field({}, description="whatever else the file says of it")
    pictures: dict[Literal["color", "roughness", "opacity", "normal"], str] = Field(
        {}, description="sha256 of the pictures that a mesh file lays on it, by what they drive"
    )
    finish: dict[str, float | list[float] | bool] = Field(
        {}, description="OpenPBR parameters that a mesh file states for it, by their names"
    )


class Occurrence(BaseModel):
    """A node of the tree: a part when it has a definition, else a sub-assembly."""

    uid: str
    parent: str | None = None
    name: str
    placement: list[float] = Field(min_length=16, max_length=16)
    definition: str | None = None
    color: Color | None = None
    hidden_in_cad: bool = False
    layers: list[str] = []
    properties: dict[str, str] = {}
    model: str = Field("model-1", description="the model of the review it belongs to")


class Assembly(BaseModel):
    """Everything an intake found. `occurrences` lists parents before their children."""

    name: str
    source_units: str = "mm"
    chord: float = Field(description="asked chord tolerance of the tessellation, mm")
    angle: float = Field(description="asked angle tolerance of the tessellation, radians")
    definitions: dict[str, PartDefinition]
    occurrences: list[Occurrence]
    warnings: list[str] = []
    facing: float | None = Field(
        None, description="degrees from the front, of the side that shows most; null: not looked for"
    )
    shows: dict[str, float] = Field({}, description="shares of the picture from there that parts have, by uid")
    variants: list[str] = Field([], description="of materials, that the file offers by name")
    variant: str | None = Field(None, description="the one that was taken; the file's plain materials if none")

    def model_copy(self, *, update: Mapping[str, Any] | None = None, deep: bool = False) -> Self:
        """As pydantic's, without what was worked out from the fields before they changed."""
        made = super().model_copy(update=update, deep=deep)
        for name in made.__dict__.keys() - type(self).model_fields.keys():
            del made.__dict__[name]
        return made

    @cached_property
    def kept(self) -> dict[str, Any]:
        """For whoever works something out of an assembly and wants to keep it as long as that: by a name of their own.
        A changed copy begins without."""
        return {}

    @cached_property
    def by_uid(self) -> dict[str, Occurrence]:
        """Return all nodes by their uid."""
        return {occurrence.uid: occurrence for occurrence in self.occurrences}

    @cached_property
    def world(self) -> dict[str, Matrix]:
        """Placement of every occurrence in the model's frame."""
        world: dict[str, Matrix] = {}
        for node in self.occurrences:
            local = np.array(node.placement, dtype=np.float64).reshape(4, 4)
            world[node.uid] = local if node.parent is None else world[node.parent] @ local
        return world

    def renamed(self, uids: dict[str, str]) -> Assembly:
        """The same tree with other uids; those that are not named stay."""

        def called(uid: str) -> str:
            """The uid that a node has afterwards."""
            return uids.get(uid, uid)

        nodes = [
            node.model_copy(update={"uid": called(node.uid), "parent": node.parent and called(node.parent)})
            for node in self.occurrences
        ]
        shows = {called(uid): share for uid, share in self.shows.items()}
        return self.model_copy(update={"occurrences": nodes, "shows": shows})

    def below(self, uid: str) -> list[Occurrence]:
        """The parts at or below a node, in the tree's order."""
        inside = {uid}
        for node in self.occurrences:
            if node.parent in inside:
                inside.add(node.uid)
        return [part for part in self.parts() if part.uid in inside]

    def only(self, uid: str) -> Assembly:
        """The tree below one node alone, standing where it stood; definitions that nothing uses any more go."""
        inside = {uid}
        for node in self.occurrences:
            if node.parent in inside:
                inside.add(node.uid)
        top = self.by_uid[uid].model_copy(update={"parent": None, "placement": self.world[uid].ravel().tolist()})
        nodes = [top if node.uid == uid else node for node in self.occurrences if node.uid in inside]
        used = {node.definition for node in nodes}
        kept = {key: definition for key, definition in self.definitions.items() if key in used}
        return self.model_copy(update={"occurrences": nodes, "definitions": kept})

    def parts(self) -> Iterator[Occurrence]:
        """Yield the nodes that have geometry, in the order of the tree."""
        return (node for node in self.occurrences if node.definition is not None)

    def definition_of(self, part: Occurrence) -> PartDefinition:
        """Return the definition of a part. Raises KeyError for a node without geometry."""
        assert part.definition is not None, f"{part.uid} is a sub-assembly"
        return self.definitions[part.definition]

    def ancestors(self, uid: str) -> Iterator[Occurrence]:
        """The sub-assemblies a node lies in, innermost first."""
        parent = self.by_uid[uid].parent
        while parent is not None:
            node = self.by_uid[parent]
            yield node
            parent = node.parent

    def hidden_in_cad(self) -> list[str]:
        """Parts that the CAD file saved as hidden, themselves or through a sub-assembly."""
        hidden: set[str] = set()
        # Parents stand before children.
        for node in self.occurrences:
            if node.hidden_in_cad or node.parent in hidden:
                hidden.add(node.uid)
        return [part.uid for part in self.parts() if part.uid in hidden]

    @cached_property
    def _corners(self) -> dict[str, Matrix]:
        return {}

    def corners(self, part: Occurrence) -> Matrix:
        """Points around a part in the model's frame, (N, 3) mm: the corners of its box, or where it stands askew, so
        that its box would reach too far, points of its hull.
        """
        known = self._corners.get(part.uid)
        if known is None:
            known = self._corners[part.uid] = self._corners_of(part)
        return known

    @cached_property
    def _boxes(self) -> tuple[dict[str, int], Matrix]:
        """Each part's row in the table of boxes, and the table, (N, 2, 3)."""
        corners = [self.corners(part) for part in self.parts()]
        table = np.array([(points.min(axis=0), points.max(axis=0)) for points in corners]).reshape(-1, 2, 3)
        return {part.uid: row for row, part in enumerate(self.parts())}, table

    def boxes(self, parts: Sequence[Occurrence]) -> tuple[Matrix, Matrix]:
        """Lower and upper corners of the boxes of parts, (N, 3) each, mm in the model's frame."""
        rows, table = self._boxes
        found = table[[rows[part.uid] for part in parts]]
        return found[:, 0], found[:, 1]

    def _corners_of(self, part: Occurrence) -> Matrix:
        definition, matrix = self.definition_of(part), self.world[part.uid]
        if definition.outline and not _is_square(matrix):
            return np.asarray(unpacked(definition.outline) @ matrix[:3, :3].T + matrix[:3, 3])
        low, high = np.array(definition.bounds)
        picks = np.array([[(i >> k) & 1 for k in range(3)] for i in range(8)])
        corners = np.where(picks, high, low)
        return np.asarray(corners @ matrix[:3, :3].T + matrix[:3, 3])


def _is_square(matrix: Matrix) -> bool:
    """Whether it turns by quarter turns only, which take boxes to boxes."""
    return bool((np.sort(np.abs(matrix[:3, :3]), axis=1)[:, :2] < 1e-6).all())
