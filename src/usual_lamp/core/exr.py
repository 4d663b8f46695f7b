"""OpenEXR files: from outside, read into numbers; our own, written and read whole or some rows at a time."""

from __future__ import annotations

import tempfile
from collections.abc import Iterable, Iterator, Mapping, Sequence
from contextlib import contextmanager
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray

from usual_lamp.core.sandbox.unusable import Unusable

MOST_PIXELS = 40_000_000
"""Above this a picture is refused before it is unpacked."""
MOST_CHANNELS = 8
JOINED = 128
"""Rows that are read together from each of several files."""
NOT_READ = "The picture that was kept could not be read."

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


def write_channels(
    path: Path,
    size: tuple[int, int],
    rows: Iterable[dict[str, Channel]],
    kinds: Mapping[str, type[np.floating]] | type[np.floating],
    words: dict[str, str] | None = None,
) -> None:
    """Write an OpenEXR file of that width and height, row by row from the top: channels by name, (n, width) each.

    `kinds` are half or float numbers, for all channels or by name; `words` go into the header. Raises OSError.
    """
    import OpenEXR

    file: Any = None
    try:
        for part in rows:
            told = kinds if isinstance(kinds, Mapping) else dict.fromkeys(part, kinds)
            file = file or OpenEXR.OutputFile(str(path), _header(size, {name: told[name] for name in part}, words))
            count = len(next(iter(part.values())))
            file.writePixels({name: part[name].astype(told[name], copy=False).tobytes() for name in part}, count)
    finally:
        if file is not None:
            file.close()


def _header(size: tuple[int, int], kinds: Mapping[str, type[np.floating]], words: dict[str, str] | None) -> Any:
    import Imath
    import OpenEXR

    header = OpenEXR.Header(*size)
    header["compression"] = Imath.Compression(Imath.Compression.ZIP_COMPRESSION)
    header["channels"] = {name: Imath.Channel(_pixel_type(kind)) for name, kind in kinds.items()}
    return header | {name: value.encode() for name, value in (words or {}).items()}


class ChannelReader:
    """A file that `write_channels` wrote, of which any rows can be read. Raises UnreadablePicture for any other."""

    def __init__(self, path: Path) -> None:
        import Imath
        import OpenEXR

        try:
            self._file = OpenEXR.InputFile(str(path))
            header = self._file.header()
        except Exception as error:  # whatever the library raises on damaged bytes
            raise UnreadablePicture(NOT_READ) from error
        low, high = header["dataWindow"].min, header["dataWindow"].max
        self.width, self.height = high.x - low.x + 1, high.y - low.y + 1
        half = Imath.PixelType(Imath.PixelType.HALF)
        self.kinds: dict[str, type[np.floating]] = {
            name: np.float16 if channel.type == half else np.float32 for name, channel in header["channels"].items()
        }

    def rows(self, first: int, last: int, names: Iterable[str] | None = None) -> dict[str, NDArray[np.float32]]:
        """Rows [first, last) of the channels of those names, or of all, (n, width) each. Raises UnreadablePicture."""
        asked = sorted(self.kinds if names is None else names)
        try:
            found = self._file.channels(asked, _pixel_type(np.float32), first, last - 1)
        except Exception as error:  # whatever the library raises on damaged bytes
            raise UnreadablePicture(NOT_READ) from error
        shape = (last - first, self.width)
        return {name: np.frombuffer(data, np.float32).reshape(shape) for name, data in zip(asked, found, strict=True)}


def join_files(path: Path, size: tuple[int, int], rows: Sequence[Sequence[Path]]) -> None:
    """Write a file of that width and height from files that lie side by side, row by row from the top; all have the
    same channels. Raises OSError, UnreadablePicture."""
    readers = ([ChannelReader(file) for file in row] for row in rows)
    joined = (
        {name: np.concatenate([one[name] for one in found], axis=1) for name in row[0].kinds}
        for row in readers
        for first in range(0, row[0].height, JOINED)
        for found in [[file.rows(first, min(first + JOINED, file.height)) for file in row]]
    )
    write_channels(path, size, joined, ChannelReader(rows[0][0]).kinds)


def _pixel_type(kind: type[np.floating]) -> Any:
    import Imath

    return Imath.PixelType(Imath.PixelType.HALF if kind is np.float16 else Imath.PixelType.FLOAT)
