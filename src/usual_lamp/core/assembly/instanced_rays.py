"""Rays against parts that share meshes, through Embree's C interface: each mesh is built once, parts are instances.

The `embreex` package brings the library but its Python classes know no instances, and building six million triangles
costs more than all the rays that are asked of them. Names and numbers below are those of Embree 4's `rtcore` headers.
"""

from __future__ import annotations

import ctypes
from collections.abc import Sequence
from functools import lru_cache
from pathlib import Path
from typing import Any

import embreex
import numpy as np
from numpy.typing import NDArray

from usual_lamp.core.assembly.mesh import Mesh

Array = NDArray[np.float64]
TRIANGLES, INSTANCE = 0, 121
INDEX, VERTEX = 0, 1
UINT3, FLOAT3, FLOAT3X4_ROWS = 0x5003, 0x9003, 0x9134
PACKET = 16
"""Rays that are traced together."""
RAY, HIT = 12, 10
"""Rows of PACKET numbers: origin, near, direction, time, far, mask, id, flags; normal, u, v, primitive, geometry and
instance, with room for what later versions add."""
FAR, MASK, TRIANGLE_ID, INSTANCE_ID = 8, 9, RAY + 5, RAY + 7


@lru_cache(maxsize=1)
def _embree() -> tuple[ctypes.CDLL, int]:
    """The library and a device. Raises OSError where the package has no library beside it."""
    folder = Path(embreex.__file__).parent.parent / "embreex.libs"
    found = next(iter(sorted(folder.glob("libembree4*.so*"))), None)
    if found is None:
        raise OSError(f"Embree's library is not in {folder}")
    lib = ctypes.CDLL(str(found))
    pointer, number = ctypes.c_void_p, ctypes.c_uint
    for name, result, arguments in (
        ("rtcNewDevice", pointer, [ctypes.c_char_p]),
        ("rtcNewScene", pointer, [pointer]),
        ("rtcNewGeometry", pointer, [pointer, ctypes.c_int]),
        (
            "rtcSetSharedGeometryBuffer",
            None,
            [pointer, ctypes.c_int, number, ctypes.c_int, pointer, *[ctypes.c_size_t] * 3],
        ),
        ("rtcSetGeometryInstancedScene", None, [pointer, pointer]),
        ("rtcSetGeometryTransform", None, [pointer, number, ctypes.c_int, pointer]),
        ("rtcCommitGeometry", None, [pointer]),
        ("rtcAttachGeometry", number, [pointer, pointer]),
        ("rtcReleaseGeometry", None, [pointer]),
        ("rtcCommitScene", None, [pointer]),
        ("rtcReleaseScene", None, [pointer]),
        ("rtcIntersect16", None, [pointer] * 4),
        ("rtcOccluded16", None, [pointer] * 4),
    ):
        function = getattr(lib, name)
        function.restype, function.argtypes = result, arguments
    return lib, lib.rtcNewDevice(None)


class _Owned:
    """A scene of the library, released with this object."""

    def __init__(self) -> None:
        self.lib, self.device = _embree()
        self.scene: Any = self.lib.rtcNewScene(self.device)

    def _attach(self, geometry: Any) -> None:
        self.lib.rtcCommitGeometry(geometry)
        self.lib.rtcAttachGeometry(self.scene, geometry)
        self.lib.rtcReleaseGeometry(geometry)

    def __del__(self) -> None:
        self.lib.rtcReleaseScene(self.scene)


class MeshScene(_Owned):
    """The triangles of one mesh."""

    def __init__(self, mesh: Mesh) -> None:
        super().__init__()
        # Embree reads four numbers a corner: one row more keeps it within the array.
        self.corners = np.zeros((len(mesh.positions) + 1, 3), np.float32)
        self.corners[:-1] = mesh.positions
        self.triangles = np.ascontiguousarray(mesh.triangles, np.uint32)
        geometry = self.lib.rtcNewGeometry(self.device, TRIANGLES)
        share = self.lib.rtcSetSharedGeometryBuffer
        share(geometry, VERTEX, 0, FLOAT3, self.corners.ctypes.data, 0, 12, len(mesh.positions))
        share(geometry, INDEX, 0, UINT3, self.triangles.ctypes.data, 0, 12, len(self.triangles))
        self._attach(geometry)
        self.lib.rtcCommitScene(self.scene)


class Instances(_Owned):
    """Meshes, each placed by a 4 x 4 matrix (mm); answers by the number of the placement."""

    def __init__(self, placed: Sequence[tuple[MeshScene, Array]]) -> None:
        super().__init__()
        self.meshes = [mesh for mesh, _ in placed]
        for mesh, matrix in placed:
            geometry = self.lib.rtcNewGeometry(self.device, INSTANCE)
            self.lib.rtcSetGeometryInstancedScene(geometry, mesh.scene)
            rows = np.ascontiguousarray(matrix[:3], np.float32)
            self.lib.rtcSetGeometryTransform(geometry, 0, FLOAT3X4_ROWS, rows.ctypes.data)
            self._attach(geometry)
        self.lib.rtcCommitScene(self.scene)

    def first(self, origins: Array, directions: Array) -> NDArray[np.int64]:
        """(N,) which one each ray meets first; -1 for none."""
        packets = _packets(origins, directions, None)
        self._run(self.lib.rtcIntersect16, packets)
        found = packets.view(np.int32)[:, INSTANCE_ID].ravel()[: len(origins)]
        return found.astype(np.int64)

    def hits(self, origins: Array, directions: Array, far: Array) -> tuple[NDArray[np.int64], Array]:
        """(N,) which triangle of its mesh each ray meets first, nearer than `far`; -1 for none. And the way, mm."""
        packets = _packets(origins, directions, far)
        self._run(self.lib.rtcIntersect16, packets)
        found = packets.view(np.int32)
        triangle = np.where(found[:, INSTANCE_ID] >= 0, found[:, TRIANGLE_ID], -1).ravel()[: len(origins)]
        return triangle.astype(np.int64), packets[:, FAR].ravel()[: len(origins)].astype(np.float64)

    def blocked(self, origins: Array, directions: Array, far: Array | None = None) -> NDArray[np.bool_]:
        """(N,) whether anything lies on each ray, nearer than `far` (mm) where that is given."""
        packets = _packets(origins, directions, far)
        self._run(self.lib.rtcOccluded16, packets)
        return np.asarray(packets[:, FAR].ravel()[: len(origins)] < 0)

    def _run(self, trace: Any, packets: NDArray[np.float32]) -> None:
        valid = np.full(PACKET + 16, -1, np.int32)
        mask = valid.ctypes.data + (-valid.ctypes.data) % 64
        start, step = packets.ctypes.data, packets.strides[0]
        for k in range(len(packets)):
            trace(mask, self.scene, start + k * step, None)


def _packets(origins: Array, directions: Array, far: Array | None) -> NDArray[np.float32]:
    """(N / PACKET, RAY + HIT, PACKET), aligned as the library asks; rays that fill up the last packet end at once."""
    count = -(-len(origins) // PACKET)
    size = count * (RAY + HIT) * PACKET
    room = np.zeros(size + 16, np.float32)
    first = (-room.ctypes.data) % 64 // 4
    packets = room[first : first + size].reshape(count, RAY + HIT, PACKET)
    every = np.zeros((8, count * PACKET), np.float32)
    every[:3, : len(origins)], every[4:7, : len(origins)] = origins.T, directions.T
    packets[:, :8] = every.reshape(8, count, PACKET).swapaxes(0, 1)
    reach = np.full(count * PACKET, -1.0, np.float32)
    reach[: len(origins)] = np.inf if far is None else far
    packets[:, FAR] = reach.reshape(count, PACKET)
    whole = packets.view(np.uint32)
    whole[:, MASK] = whole[:, RAY + 5 :] = 0xFFFFFFFF
    return packets
