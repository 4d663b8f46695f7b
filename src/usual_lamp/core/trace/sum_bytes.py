"""Sums of a tile as bytes, exactly, for as long as it is traced: without what is 0.

More than half of the colours of sums by group of lights are: a pixel shows the floor or something else, and no pixel
each light. Finished stills keep theirs rounded and compressed, see `group_sums.packed`.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

Sums = NDArray[np.float32]
COLOUR = np.dtype("V12")
"""Three numbers of four bytes."""


def to_bytes(sums: Sums) -> bytes:
    """Of sums (H, W, channels), three channels for each of at most 255 colours."""
    numbers = np.ascontiguousarray(sums, "<f4").reshape(-1, 3)
    there = (numbers[:, 0] != 0) | (numbers[:, 1] != 0) | (numbers[:, 2] != 0)
    bits = np.packbits(there).tobytes()
    # One byte more than a multiple of four, which tells it from what the version before wrote.
    head = bytes([sums.shape[2] // 3]) + bits + bytes(-len(bits) % 4)
    return b"".join((head, numbers.view(COLOUR)[:, 0][there].tobytes()))


def from_bytes(data: bytes, height: int, width: int) -> Sums:
    """Sums (height, width, channels), to be added to. Bytes of the version before are the numbers as they are."""
    if len(data) % 4 == 0:
        return np.frombuffer(data, "<f4").reshape(height, width, -1).astype(np.float32)
    count = height * width * data[0]
    size = -(-count // 8)
    there = np.unpackbits(np.frombuffer(data, np.uint8, size, 1), count=count).view(bool)
    numbers = np.zeros((count, 3), "<f4")
    numbers[there] = np.frombuffer(data, "<f4", offset=1 + size + -size % 4).reshape(-1, 3)
    return numbers.astype(np.float32, copy=False).reshape(height, width, -1)
