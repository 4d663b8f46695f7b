"""What the beginning of a file tells: whether it can be what its name says at all. No reader is needed for this."""

from __future__ import annotations

from pathlib import Path

from usual_lamp.core.intake.formats import SUFFIXES

HEAD = 2**20
"""Bytes that are looked at."""
WIDE = (b"\xff\xfe", b"\xfe\xff")
"""Marks of UTF-16, in which text holds zeros."""


def hopeless(name: str, head: bytes) -> str | None:
    """Why a file that begins so cannot be read, in words; None if it may be.

    Marks by ISO 10303-21, IGES 5.3 (section letter in column 73), glTF 2.0 (GLB header), the PLY format, ZIP (also
    3MF, which is one) and Collada 1.5 (XML). STL, OFF, OBJ and BREP have none that can be relied on.
    """
    suffix = Path(name).suffix.lower()
    if suffix not in SUFFIXES:
        return None
    if not head:
        return "The file is empty. Export it from CAD again."
    kind = SUFFIXES[suffix]
    if kind == "STEP" and b"ISO-10303-21" not in head[:4096]:
        return "This is not a STEP file: it does not begin with ISO-10303-21."
    if kind == "IGES" and head.split(b"\n", 1)[0][72:73] not in (b"S", b"C", b"B"):
        return "This is not an IGES file: its first line has no section letter in column 73."
    if suffix == ".glb" and not head.startswith(b"glTF"):
        return "This is not a GLB file: it does not begin with glTF. Export it again."
    if suffix == ".ply" and not head.startswith(b"ply"):
        return "This is not a PLY file: it does not begin with ply. Export it again."
    if suffix in (".zip", ".3mf") and not head.startswith(b"PK"):
        return f"This is not a {'ZIP' if suffix == '.zip' else '3MF'} file: it does not begin with PK. Make it again."
    if suffix in (".gltf", ".dae", ".obj") and b"\0" in head and not head.startswith(WIDE):
        return f"This is not {'an' if kind == 'OBJ' else 'a'} {kind} file: it is no text. Export it again."
    return None
