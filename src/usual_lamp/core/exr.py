"""OpenEXR files from outside: read into numbers, and written."""

from __future__ import annotations

import tempfile
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray

from usual_lamp.core.sandbox.unusable import Unusable

MOST_PIXELS = 40_000_000
"""Above this a picture is refused before it is unpacked."""
MOST_CHANNELS = 8


EXR_START = bytes((0x76, 0x2F, 0x31, 0x01))
"""What OpenEXR files begin with."""


Channel = NDArray[Any]


class UnreadablePicture(Unusable, ValueError):
    """The bytes are no picture that can be used; the message says why."""


def check_size(width: int, height: int, most_pixels: int) -> None:
    """Raises UnreadablePicture for a picture of too many pixels."""
    if width * height > most_pixels:
        raise UnreadablePicture(
            f"The picture has {width} x {height} pixels, and at most {most_pixels / 1e6:.0f} million are taken. "
            "Make it smaller first."
        )


@contextmanager
def _exr_file(data: bytes = b"") -> Iterator[str]:
    """OpenEXR's library reads and writes named files only."""
    with tempfile.TemporaryDirectory(prefix="usual-lamp-") as folder:
        path = Path(folder) / "picture.exr"
        if data:
            path.write_bytes(data)
        yield str(path)


def read_exr(data: bytes, most_pixels: int = MOST_PIXELS, clean: bool = True) -> NDArray[np.float32]:
    """(H, W, 4) of an OpenEXR file's first part; grey where it has one channel, covered where it has no alpha.
    Not `clean`: with numbers as they are, also such as are none. Raises UnreadablePicture."""
    import OpenEXR

    try:
        with _exr_file(data) as path:
            with OpenEXR.File(path, header_only=True) as head:
                low, high = head.header()["dataWindow"]
                channels = len(head.header()["channels"])
            width, height = (int(high[k]) - int(low[k]) + 1 for k in range(2))
            check_size(width, height, most_pixels)
            if channels > MOST_CHANNELS:
                raise UnreadablePicture(f"The picture has {channels} channels; at most {MOST_CHANNELS} are taken.")
            with OpenEXR.File(path, separate_channels=True) as file:
                found = {name: np.asarray(channel.pixels, np.float32) for name, channel in file.channels().items()}
    except UnreadablePicture:
        raise
    except Exception as error:  # whatever the library raises on damaged bytes
        raise UnreadablePicture("The OpenEXR file could not be read. Save it again, with channels R, G, B.") from error
    grey = found.get("Y", next(iter(found.values()), None))
    if grey is None or ("Y" not in found and len(found) > 1 and not {"R", "G", "B"} <= set(found)):
        raise UnreadablePicture("The OpenEXR file has no channels R, G, B and none called Y.")
    full = np.ones_like(grey)
    values = np.stack([found.get("R", grey), found.get("G", grey), found.get("B", grey), found.get("A", full)], axis=-1)
    return np.nan_to_num(values, nan=0.0, posinf=65504.0, neginf=0.0) if clean else values


def exr_of(values: NDArray[np.float32]) -> bytes:
    """OpenEXR of (H, W, 3 or 4) scene-linear values, as half floats."""
    import OpenEXR

    header = {"compression": OpenEXR.ZIP_COMPRESSION, "type": OpenEXR.scanlineimage}
    with _exr_file() as path:
        pixels = np.ascontiguousarray(values.astype(np.float16))
        with OpenEXR.File(header, {"RGBA"[: pixels.shape[2]]: pixels}) as file:
            file.write(path)
        return Path(path).read_bytes()


def channels_of(layers: dict[str, NDArray[np.float32]], kind: type[np.floating]) -> dict[str, Channel]:
    """Layers, (H, W, 3) each, as single channels of that kind of number; one without a name has plain R, G, B."""
    return {
        f"{name}.{part}" if name else part: np.ascontiguousarray(values[..., k].astype(kind))
        for name, values in layers.items()
        for k, part in enumerate("RGB")
    }


def channels_to_exr(channels: dict[str, Channel], words: dict[str, str] | None = None) -> bytes:
    """OpenEXR of channels by name, (H, W) each: half and float numbers, and uint32; with `words` in its header."""
    import OpenEXR

    header = {"compression": OpenEXR.ZIP_COMPRESSION, "type": OpenEXR.scanlineimage, **(words or {})}
    with _exr_file() as path:
        # The library puts objects of its own into the dictionary that it is given.
        with OpenEXR.File(header, dict(channels)) as file:
            file.write(path)
        return Path(path).read_bytes()


def read_channels(data: bytes) -> dict[str, Channel]:
    """The channels of a file that `channels_to_exr` wrote. Raises UnreadablePicture for bytes that are none."""
    import OpenEXR

    try:
        with _exr_file(data) as path, OpenEXR.File(path, separate_channels=True) as file:
            return {name: np.array(channel.pixels) for name, channel in file.channels().items()}
    except Exception as error:  # whatever the library raises on damaged bytes
        raise UnreadablePicture("The picture that was kept could not be read.") from error


def layers_of(data: bytes) -> dict[str, NDArray[np.float32]]:
    """The layers of a file of channels as `channels_of` names them. Raises UnreadablePicture for any other."""
    found = {name: np.asarray(values, np.float32) for name, values in read_channels(data).items()}
    names = {name.rpartition(".")[0] for name in found}
    try:
        return {name: np.stack([found[f"{name}.{c}" if name else c] for c in "RGB"], axis=-1) for name in names}
    except KeyError as error:
        raise UnreadablePicture("The picture that was kept could not be read.") from error
