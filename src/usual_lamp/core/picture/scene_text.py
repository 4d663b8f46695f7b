"""The scene in a still's PNG, as text of the file: packed, since a large scene is longer than the picture."""

from __future__ import annotations

import base64
import zlib
from collections.abc import Callable
from pathlib import Path
from typing import Any

from usual_lamp.core.exr import UnreadablePicture

SCENE, REVIEW = "Scene", "Review"
"""Keywords of the text chunks: the document, and the name of what it was of."""
LONGEST = 64_000_000
"""Characters of a document."""
NOT_OURS = "This PNG holds no scene. Drop a still that was downloaded as PNG, as it came."


def packed(document: str) -> str:
    """The document as the text of a chunk."""
    return base64.b64encode(zlib.compress(document.encode(), 6)).decode("ascii")


def unpacked(text: str) -> str:
    """The document again. Raises UnreadablePicture for any other text, and for one that would grow too long."""
    try:
        unpacker = zlib.decompressobj()
        document = unpacker.decompress(base64.b64decode(text, validate=True), LONGEST)
        if not unpacker.eof:
            raise UnreadablePicture(NOT_OURS)
        return document.decode()
    except (ValueError, zlib.error) as error:
        raise UnreadablePicture(NOT_OURS) from error


def read(request: dict[str, Any], say: Callable[..., None]) -> dict[str, Any]:
    """Scene and name in the PNG `source`, for the sandbox; its pixels are not looked at, and need not be there.

    Raises UnreadablePicture.
    """
    import png

    words: dict[bytes, bytes] = {}
    try:
        with Path(request["source"]).open("rb") as file:
            for kind, content in png.Reader(file=file).chunks():
                if kind == b"tEXt":
                    key, _, value = content.partition(b"\0")
                    words[key] = value
                elif kind == b"IDAT" and SCENE.encode() in words:
                    break  # of a large picture, no more than the head may have come
    except Exception as error:  # whatever the library raises on damaged bytes
        raise UnreadablePicture(NOT_OURS) from error
    if SCENE.encode() not in words:
        raise UnreadablePicture(NOT_OURS)
    document = unpacked(words[SCENE.encode()].decode("latin-1"))
    (Path(request["folder"]) / "scene.json").write_text(document)
    return {"review": words.get(REVIEW.encode(), b"").decode("latin-1")[:120]}
