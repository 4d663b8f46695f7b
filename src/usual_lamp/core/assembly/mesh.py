"""Triangle meshes and their block format.

A mesh block is an immutable byte string: `ULM1`, a uint32 header length, a JSON header that names each
array with its type, shape and offset, then the arrays, little-endian and 4-byte aligned. A browser can view
them without copying. Equal meshes give equal bytes, so the hash of a block tells meshes apart.
"""

from __future__ import annotations

import hashlib
import json
import struct
from dataclasses import dataclass, fields

import numpy as np
from numpy.typing import NDArray

MAGIC = b"ULM1"


class MeshBlockError(ValueError):
    """The bytes are not a mesh block."""


@dataclass(frozen=True)
class Mesh:
    """One definition's triangles, faces kept apart (no vertex is shared between two faces)."""

    positions: NDArray[np.float32]
    """(V, 3) mm."""
    normals: NDArray[np.float32]
    """(V, 3) unit, from the exact surface."""
    triangles: NDArray[np.uint32]
    """(T, 3) vertex indices, counter-clockwise seen from outside."""
    face_ranges: NDArray[np.uint32]
    """(F, 2) first triangle and count of each face."""
    edges: NDArray[np.float32]
    """(E, 2, 3) mm, segments where the surface has a visible crease or ends."""
    coordinates: NDArray[np.float32] | None = None
    """(V, 2) where on its pictures a vertex lies, as a mesh file gives it; v grows upwards."""

    def to_bytes(self) -> bytes:
        """Return the mesh as a block, see `from_bytes`."""
        header, body, offset = {}, [], 0
        for field in fields(self):
            values = getattr(self, field.name)
            if values is None:
                continue
            array = np.ascontiguousarray(values)
            header[field.name] = {"type": array.dtype.str[1:], "shape": array.shape, "offset": offset}
            body.append(array.tobytes())
            offset += array.nbytes
        text = json.dumps(header, separators=(",", ":")).encode()
        text += b" " * (-len(text) % 4)
        return MAGIC + struct.pack("<I", len(text)) + text + b"".join(body)

    @staticmethod
    def from_bytes(block: bytes) -> Mesh:
        """Raises MeshBlockError when the bytes are not a whole mesh block."""
        if block[:4] != MAGIC:
            raise MeshBlockError("not a mesh block")
        (length,) = struct.unpack_from("<I", block, 4)
        start = 8 + length
        try:
            header = json.loads(block[8:start])
            arrays = {
                name: np.frombuffer(
                    block, "<" + spec["type"], int(np.prod(spec["shape"])), start + spec["offset"]
                ).reshape(spec["shape"])
                for name, spec in header.items()
            }
            return Mesh(**arrays)
        except (ValueError, KeyError, TypeError) as error:
            raise MeshBlockError(f"damaged mesh block: {error}") from error

    def of_face(self, face: int) -> Mesh:
        """One face alone, without creases."""
        first, count = (int(number) for number in self.face_ranges[face])
        own = self.triangles[first : first + count]
        start, stop = (int(own.min()), int(own.max()) + 1) if count else (0, 0)
        return Mesh(
            self.positions[start:stop],
            self.normals[start:stop],
            own - np.uint32(start),
            np.array([[0, count]], np.uint32),
            np.zeros((0, 2, 3), np.float32),
            None if self.coordinates is None else self.coordinates[start:stop],
        )

    def volume(self) -> float:
        """Enclosed volume by the divergence theorem, mm³ (meaningful for closed meshes)."""
        a, b, c = np.moveaxis(self.positions[self.triangles].astype(np.float64), 1, 0)
        return float(np.einsum("ij,ij->", a, np.cross(b, c)) / 6.0)

    def area(self) -> float:
        """Surface area, mm²."""
        a, b, c = np.moveaxis(self.positions[self.triangles].astype(np.float64), 1, 0)
        return float(np.linalg.norm(np.cross(b - a, c - a), axis=1).sum() / 2.0)


def content_hash(data: bytes) -> str:
    """Return the sha256 of some bytes, as 64 hex digits."""
    return hashlib.sha256(data).hexdigest()
