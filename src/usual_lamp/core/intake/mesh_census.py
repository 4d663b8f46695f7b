"""How many triangles a mesh file says it holds, by its own header or text, against what its reader brought.

Sources: the PLY, OFF and STL formats as commonly described, Wavefront OBJ's `f` statement, glTF 2.0 (3.7.2, accessors
of primitives in mode 4), COLLADA 1.5 (`count` of `triangles`), the 3MF core specification (`triangle`).
"""

from __future__ import annotations

import re
import struct
import zipfile
from pathlib import Path
from typing import Any

from usual_lamp.core.intake.gltf_text import GltfText

LARGEST = 256 * 2**20
"""Bytes of a file whose text is counted."""
OBJ_WORDS = frozenset(
    (
        *("v", "vt", "vn", "vp", "f", "l", "p", "g", "o", "s", "usemtl", "mtllib", "usemap", "call", "scmp", "csh"),
        *("curv", "curv2", "surf", "deg", "bmat", "step", "cstype", "parm", "trim", "hole", "scrv", "sp", "end", "con"),
        *("mg", "bevel", "c_interp", "d_interp", "lod", "maplib", "shadow_obj", "trace_obj", "ctech", "stech"),
    )
)


def missing(path: Path, loaded: int) -> list[str]:
    """Words on triangles that the file says it has and that were not read, and on lines that say nothing."""
    suffix = path.suffix.lower()
    if path.stat().st_size > LARGEST:
        return []
    if suffix == ".obj":
        said, strange, cut = _obj(path.read_bytes())
    else:
        said, strange, cut = _said(path, suffix), 0, False
    words = []
    if cut:
        words.append("The file ends with points that no face uses: it may be cut off. Export it again.")
    if strange:
        lines = "1 line" if strange == 1 else f"{strange} lines"
        words.append(f"{lines} of the file could not be understood: it may be damaged. Export it again.")
    if said > loaded:
        words.append(f"Missing: {said - loaded} of {said} faces of the file could not be read. Export it again.")
    return words


def _said(path: Path, suffix: str) -> int:
    if suffix in (".glb", ".gltf"):
        return _gltf(GltfText.read(path))
    if suffix == ".3mf":
        with zipfile.ZipFile(path) as bundle:
            models = [bundle.read(name) for name in bundle.namelist() if name.endswith(".model")]
            return sum(len(re.findall(rb"<(?:\w+:)?triangle\s", text)) for text in models)
    data = path.read_bytes()
    if suffix == ".ply":
        found = re.search(rb"element\s+face\s+(\d+)", data[:65536])
        return int(found.group(1)) if found else 0
    if suffix == ".off":
        found = re.match(rb"\s*\w*OFF\s+(?:#[^\n]*\n\s*)*(\d+)\s+(\d+)", data[:65536])
        return int(found.group(2)) if found else 0
    if suffix == ".dae":
        return sum(map(int, re.findall(rb"<(?:triangles|polylist|polygons)\b[^>]*\bcount\s*=\s*\"(\d+)\"", data)))
    if suffix == ".stl":
        if data[:5].lower() == b"solid" and b"facet" in data[:4096]:
            return len(re.findall(rb"facet\s+normal", data))
        return struct.unpack_from("<I", data, 80)[0] if len(data) >= 84 else 0
    return 0


def _obj(data: bytes) -> tuple[int, int, bool]:
    """Faces, lines that begin with no word of the format, and whether points come after the last face."""
    if data[:2] in (b"\xff\xfe", b"\xfe\xff"):
        data = data.decode("utf-16", "replace").encode()
    whole = re.sub(rb"\\\r?\n", b" ", data)
    lines = (line.split(None, 1) for line in whole.splitlines())
    words = [line[0] for line in lines if line and not line[0].startswith(b"#")]
    ends = [word for word in reversed(words) if word in (b"v", b"f", b"l", b"p")][:1]
    return words.count(b"f"), sum(word.decode("latin-1") not in OBJ_WORDS for word in words), ends == [b"v"]


def _gltf(text: GltfText | None) -> int:
    """Triangles of all meshes, each once."""
    if text is None:
        return 0
    accessors: Any = text.tree.get("accessors")
    total = 0
    try:
        for mesh in text.tree.get("meshes", []):
            for primitive in mesh["primitives"]:
                if primitive.get("mode", 4) == 4:
                    total += accessors[primitive.get("indices", primitive["attributes"]["POSITION"])]["count"] // 3
    except (KeyError, IndexError, TypeError):
        return 0  # what is wrong there is its reader's to say
    return int(total)
