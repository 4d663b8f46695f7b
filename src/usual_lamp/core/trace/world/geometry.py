"""Parts as triangle meshes in world space, cut so that every piece wears one appearance."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from usual_lamp.core.appearance import Appearance
from usual_lamp.core.appearance.texture import Mapping
from usual_lamp.core.assembly import Mesh
from usual_lamp.core.assembly.contacts import offset_points
from usual_lamp.core.assembly.laying import Laid
from usual_lamp.core.assembly.sharp_edges import Rims, sharp_edges
from usual_lamp.core.scene.ground import FLOOR_REACH
from usual_lamp.core.scene.resolution import TraceInputs, TracePart
from usual_lamp.core.trace.engine import mi

Coordinates = NDArray[np.float32]


class Piece(NamedTuple):
    """Triangles of a part, or of what stands beside."""

    positions: NDArray[np.float32]
    """(V, 3) mm."""
    normals: NDArray[np.float32]
    """(V, 3)."""
    triangles: NDArray[np.uint32]
    """(T, 3)."""
    coordinates: Coordinates | None = None
    """(V, 2) on pictures, where they are needed."""
    rims: Rims | None = None
    """Edges that are rounded for the light."""


class PieceKey(NamedTuple):
    """Names a piece by where it comes from: equal keys are equal triangles, whatever they wear."""

    mesh: str
    matrix: tuple[float, ...] | None
    """None for triangles in the part's own frame, which instances share."""
    faces: tuple[int, ...]
    """The piece's faces, or those it leaves out."""
    is_rest: bool
    mapping: Mapping | None = None
    """Of the pictures that it wears."""
    laid: Laid | None = None
    """How they lie where that was said by hand."""
    offsets: tuple[tuple[int, float], ...] = ()
    """Faces of the part that are moved along their normals, and by how many mm, see `joints`."""
    rounded: bool = False
    """Whether its sharp edges are known, see `rounding`."""


class Worn(NamedTuple):
    """A piece, and what it wears."""

    appearance: int
    key: PieceKey
    pictures: tuple[int, ...]
    """Places among the pictures on its part."""


def cut(
    part: TracePart, appearances: list[Appearance], offsets: tuple[tuple[int, float], ...] = (), rounded: bool = False
) -> Iterator[Worn]:
    """The pieces of a part, each of which wears one appearance and the same pictures; one may turn out empty."""

    def worn(number: int, pictures: tuple[int, ...], faces: Iterable[int], is_rest: bool) -> Worn:
        """The piece that wears an appearance: these faces, or all but them."""
        textures = appearances[number].textures
        mapping = textures[0].mapping if textures else None
        # A decal that follows its face needs that unrolled, however the face's textures lie.
        follows = any(part.pictures[k].by_coordinates for k in pictures)
        if mapping == "machined" or follows:
            mapping = "surface"
        laid = part.laid if mapping == "surface" and not follows else None
        key = PieceKey(part.mesh, part.matrix, tuple(sorted(faces)), is_rest, mapping, laid, offsets, rounded)
        return Worn(number, key, pictures)

    if not part.faces and not part.pictures:
        yield worn(part.appearance, (), (), True)
        return
    everywhere = tuple(k for k, picture in enumerate(part.pictures) if not picture.faces)
    kept = [k for k, picture in enumerate(part.pictures) if picture.faces]
    own = {*part.faces, *(face for k in kept for face in part.pictures[k].faces)}
    yield worn(part.appearance, everywhere, own, True)
    groups: dict[tuple[int, tuple[int, ...]], list[int]] = {}
    for face in sorted(own):
        on = tuple(k for k, picture in enumerate(part.pictures) if not picture.faces or face in picture.faces)
        groups.setdefault((part.faces.get(face, part.appearance), on), []).append(face)
    for (number, pictures), faces in sorted(groups.items()):
        yield worn(number, pictures, faces, False)


def build(key: PieceKey, mesh: Mesh) -> Piece:
    """Return the triangles of a piece, mm: in the world, or in the part's frame where the key has no place."""
    matrix = np.eye(4) if key.matrix is None else np.array(key.matrix).reshape(4, 4)
    positions = mesh.positions @ matrix[:3, :3].T.astype(np.float32) + matrix[:3, 3].astype(np.float32)
    normals = mesh.normals @ np.linalg.inv(matrix[:3, :3]).astype(np.float32)
    normals /= np.maximum(np.linalg.norm(normals, axis=1, keepdims=True), 1e-12)
    if key.offsets:
        exact = positions.astype(np.float64), normals.astype(np.float64)
        positions = offset_points(mesh, *exact, dict(key.offsets)).astype(np.float32)
    wanted = np.full(len(mesh.face_ranges), key.is_rest)
    wanted[list(key.faces)] = not key.is_rest
    rims = sharp_edges(mesh, positions, normals) if key.rounded else None
    own = np.repeat(wanted, mesh.face_ranges[:, 1])
    if rims is not None:
        rims = Rims(rims.rows, rims.around[own])
    triangles = mesh.triangles[own]
    used, flat = np.unique(triangles, return_inverse=True)
    triangles = flat.reshape(-1, 3).astype(np.uint32)
    mirrored = np.linalg.det(matrix[:3, :3]) < 0
    coordinates = None
    if key.mapping is not None:
        # A mesh without any wears the one texel at the origin.
        given = mesh.coordinates if mesh.coordinates is not None else np.zeros((len(positions), 2), np.float32)
        coordinates = given[used]
    return Piece(positions[used], normals[used], triangles[:, ::-1] if mirrored else triangles, coordinates, rims)


def floor_piece(inputs: TraceInputs) -> Piece:
    """A square a hair below the product; triangles like all else, which keeps the ray kernels of one kind."""
    reach = inputs.radius * FLOOR_REACH
    side, along, up = inputs.floor.axes
    foot = np.array(inputs.floor.under(inputs.center)) - up * inputs.radius * 2e-4
    corners = [foot + reach * (i * side + j * along) for i, j in ((-1, -1), (1, -1), (1, 1), (-1, 1))]
    return Piece(
        np.array(corners, np.float32),
        np.tile(up.astype(np.float32), (4, 1)),
        np.array([[0, 1, 2], [0, 2, 3]], np.uint32),
    )


def are_rigid(places: NDArray[np.float64]) -> NDArray[np.bool_]:
    """Which matrices (N, 4, 4) turn, mirror, move and scale evenly, and nothing else: normals then move as points."""
    squared = np.einsum("nji,njk->nik", places[:, :3, :3], places[:, :3, :3])
    even = np.einsum("nii->n", squared) / 3
    off = np.abs(squared - even[:, None, None] * np.eye(3)).max(axis=(1, 2), initial=0.0)
    return np.asarray((off <= 1e-5 * even) & (even > 0))


def mesh_shape(piece: Piece) -> mi.Mesh:
    """What rays are tested against; all else of a hit is read from `triangles`."""
    positions, triangles = piece.positions, piece.triangles
    mesh = mi.Mesh("part", len(positions), len(triangles))
    params = mi.traverse(mesh)
    params["vertex_positions"] = mi.Float(np.ascontiguousarray(positions, np.float32).ravel())
    params["faces"] = mi.UInt32(np.ascontiguousarray(triangles, np.uint32).ravel())
    params.update()
    return mesh
