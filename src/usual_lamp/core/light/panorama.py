"""Measured panoramas: radiance maps that ship with the application, and files that come from outside.

A panorama is latitude-longitude, twice as wide as high, row 0 at the zenith. Its middle column is put at the front.
"""

from __future__ import annotations

import re
from collections.abc import Callable
from functools import lru_cache
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray

from usual_lamp.core.exr import EXR_START, UnreadablePicture, exr_of, read_exr

FOLDER = Path(__file__).with_name("panoramas")
WIDEST, KEPT = 8192, 4096
"""Pixels: the widest panorama that is read, and how wide it is kept."""
BRIGHTEST = 65504.0
"""The largest number of a half float."""
RADIANCE_START = (b"#?RADIANCE", b"#?RGBE")
"""What Radiance HDR files begin with."""
Values = NDArray[np.float32]


@lru_cache(maxsize=4)
def shipped(name: str) -> Values:
    """(H, 2H, 3) of a panorama that ships with the application."""
    found = read_exr((FOLDER / f"{name}.exr").read_bytes())[..., :3]
    return np.maximum(found, 0.0)


def decode(request: dict[str, Any], say: Callable[..., None]) -> dict[str, Any]:
    """Write the file `source` as `panorama` into the job's folder, as OpenEXR; its size and what was odd about it.

    Raises UnreadablePicture.
    """
    values, notes = usable(read(Path(request["source"]).read_bytes()))
    (Path(request["folder"]) / "panorama").write_bytes(exr_of(values))
    return {"width": values.shape[1], "height": values.shape[0], "notes": notes}


def read(data: bytes) -> Values:
    """(H, W, 3) of an OpenEXR or Radiance HDR file, as it is. Raises UnreadablePicture."""
    if data.startswith(EXR_START):
        return read_exr(data, WIDEST * WIDEST // 2, clean=False)[..., :3]
    if data.startswith(RADIANCE_START):
        return read_radiance(data)
    raise UnreadablePicture("This is no panorama: surroundings come as OpenEXR (.exr) or Radiance HDR (.hdr) files.")


def usable(values: Values) -> tuple[Values, list[str]]:
    """The panorama with finite, positive numbers and at most KEPT wide, and notes on what was mended.

    Raises UnreadablePicture where it is no latitude-longitude panorama, or all black.
    """
    height, width = values.shape[:2]
    if width > WIDEST:
        raise UnreadablePicture(f"The panorama is {width} pixels wide, and at most {WIDEST} are read. Shrink it.")
    if height < 16 or abs(width - 2 * height) > 0.02 * width:
        raise UnreadablePicture(
            f"The picture is {width} x {height}. A latitude-longitude panorama is twice as wide as it is high. "
            "Convert it first, for example from a cube map or a mirror ball."
        )
    notes = []
    wrong, negative = int((~np.isfinite(values)).any(axis=2).sum()), int((values < 0).any(axis=2).sum())
    if wrong:
        notes.append(f"{wrong:,} pixels held no number and count as black.")
    if negative:
        notes.append(f"{negative:,} pixels were negative and count as black.")
    values = np.nan_to_num(np.where(values > 0, values, 0), nan=0.0, posinf=BRIGHTEST, neginf=0.0)
    peak = float(values.max(initial=0.0))
    if peak <= 0:
        raise UnreadablePicture("The panorama is black. Export it again with its radiance values.")
    at_peak = int((values.max(axis=2) >= peak * 0.999).sum())
    if at_peak > 0.0005 * width * height:
        notes.append(
            f"{at_peak:,} pixels are equally bright at the top: the highlights were clipped, so that the light is "
            "softer than in the place itself."
        )
    if peak <= 1.0:
        notes.append("No pixel is brighter than 1: this may be an ordinary picture and not a measured panorama.")
    step = -(-width // KEPT)
    if step > 1:
        rows, columns = height // step, width // step
        values = values[: rows * step, : columns * step].reshape(rows, step, columns, step, 3).mean(axis=(1, 3))
        notes.append(f"Kept at {columns} x {rows} pixels.")
    if peak > BRIGHTEST:
        values = values * (BRIGHTEST / peak)
    return np.asarray(values, np.float32), notes


def read_radiance(data: bytes) -> Values:
    """(H, W, 3) of a Radiance picture (G. Ward, "Real Pixels", Graphics Gems II, 1991; the format's own description).

    Raises UnreadablePicture.
    """
    broken = UnreadablePicture("The Radiance HDR file ends too early or is damaged. Export it again.")
    head, _, rest = data.partition(b"\n\n")
    line, _, body = rest.partition(b"\n")
    found = re.fullmatch(rb"-Y (\d{1,6}) \+X (\d{1,6})\s*", line)
    if found is None or b"32-bit_rle_rgbe" not in head:
        raise UnreadablePicture("Only Radiance HDR files in RGBE, rows from the top, are read. Convert it first.")
    height, width = int(found[1]), int(found[2])
    if not (0 < width <= WIDEST * 2 and 0 < height <= WIDEST):
        raise UnreadablePicture(f"The panorama is {width} x {height} pixels, which is too large.")
    buffer = np.frombuffer(body, np.uint8)
    rgbe = np.empty((height, width, 4), np.uint8)
    place = 0
    try:
        for row in range(height):
            start = buffer[place : place + 4].tolist()
            if 8 <= width < 32768 and start == [2, 2, width >> 8, width & 255]:
                place = _unpack(buffer, place + 4, rgbe[row])
            else:
                rgbe[row] = buffer[place : place + 4 * width].reshape(width, 4)
                place += 4 * width
    except (IndexError, ValueError) as error:
        raise broken from error
    scale = np.where(rgbe[..., 3] > 0, np.exp2(rgbe[..., 3].astype(np.float32) - 136.0), 0.0)
    return np.asarray((rgbe[..., :3] + np.float32(0.5)) * scale[..., None], np.float32)


def _unpack(buffer: NDArray[np.uint8], place: int, row: NDArray[np.uint8]) -> int:
    """One row of four run-length coded channels into `row` (W, 4); the place after it."""
    width = len(row)
    for channel in range(4):
        at = 0
        while at < width:
            count = int(buffer[place])
            if count > 128:
                count -= 128
                row[at : at + count, channel] = buffer[place + 1]
                place += 2
            else:
                if count == 0:
                    raise ValueError("an empty run")
                row[at : at + count, channel] = buffer[place + 1 : place + 1 + count]
                place += 1 + count
            at += count
        if at != width:
            raise ValueError("a run beyond the row")
    return place
