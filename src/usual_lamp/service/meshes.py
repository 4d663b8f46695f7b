"""Meshes by name: as they are, cut by a plane, coarse, or with coordinates in mm for pictures.

What is made of a mesh is worked out once, by whoever asks first, and kept beside it on disk: unrolling the faces of an
assembly takes seconds, and the desk, the lamp and every still ask for the same.
"""

from __future__ import annotations

import hashlib
from collections.abc import Callable
from pathlib import Path

from usual_lamp.core.assembly import Mesh
from usual_lamp.core.assembly.coarse import coarse
from usual_lamp.core.assembly.cutting import cut_by_name
from usual_lamp.core.assembly.laying import Laid, mapped
from usual_lamp.core.assembly.mesh import MeshBlockError
from usual_lamp.service.errors import NotFound
from usual_lamp.store import Store, blobs

UNROLLED = "unrolled4"
"""The number grows when meshes are unrolled in another way."""


def read(store: Store, name: str) -> Mesh:
    """A mesh, cut where its name says so. Raises BlobMissing, and NotFound for what is no mesh."""
    return _cut(name, lambda whole: _mesh(blobs.read(store, whole)))


def coarse_file(store: Store, name: str) -> Path:
    """Of the mesh's stand-in with few triangles."""
    return _made(store, name, "coarse", coarse)


def mapped_file(store: Store, name: str, how: Laid | None) -> Path:
    """Of the mesh with coordinates in mm, see `laying.mapped`."""
    ending = f"laid-{hashlib.sha256(repr(how).encode()).hexdigest()[:16]}" if how else UNROLLED
    return _made(store, name, ending, lambda mesh: mapped(mesh, how))


def read_mapped(store: Store, name: str, how: Laid | None) -> Mesh:
    """The same with coordinates in mm, which a cut does not change."""
    return _cut(name, lambda whole: _mesh(mapped_file(store, whole, how).read_bytes()))


def _cut(name: str, mesh_of: Callable[[str], Mesh]) -> Mesh:
    try:
        return cut_by_name(name, mesh_of)
    except ValueError as error:
        raise NotFound("This is no mesh.") from error


def _made(store: Store, name: str, ending: str, make: Callable[[Mesh], Mesh]) -> Path:
    return blobs.made_from(store, name, ending, lambda data: make(_mesh(data)).to_bytes())


def _mesh(data: bytes) -> Mesh:
    try:
        return Mesh.from_bytes(data)
    except MeshBlockError as error:
        raise NotFound("This is no mesh.") from error
