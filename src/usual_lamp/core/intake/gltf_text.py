"""What a glTF file says that the mesh reader passes over: variants (KHR_materials_variants) and moved pictures
(KHR_texture_transform). A file that uses either is written anew, so that the reader finds what is asked in plain glTF.

Sources: the Khronos glTF 2.0 specification (GLB: sections 4.4 and following) and the two extensions' texts.
"""

from __future__ import annotations

import json
import struct
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from usual_lamp.core.intake.gltf_materials import Finish, finish_of

MAGIC, JSON_CHUNK = 0x46546C67, 0x4E4F534A
VARIANTS, MOVED = "KHR_materials_variants", "KHR_texture_transform"
LARGEST_TEXT = 256 * 2**20


@dataclass
class GltfText:
    """The JSON part of a file, and the bytes that follow it in a GLB."""

    tree: dict[str, Any]
    rest: bytes | None

    @staticmethod
    def read(path: Path) -> GltfText | None:
        """None where the file is damaged; its reader will say so."""
        try:
            data = path.read_bytes()
            if path.suffix.lower() == ".gltf":
                tree, rest = json.loads(data), None
            else:
                magic, _, _, length, kind = struct.unpack_from("<5I", data)
                if magic != MAGIC or kind != JSON_CHUNK or length > LARGEST_TEXT:
                    return None
                tree, rest = json.loads(data[20 : 20 + length]), data[20 + length :]
        except (OSError, ValueError, struct.error):
            return None
        return GltfText(tree, rest) if isinstance(tree, dict) else None

    def write(self, path: Path) -> None:
        """Write the file anew, as GLB or glTF like the one that was read."""
        text = json.dumps(self.tree, separators=(",", ":")).encode()
        if self.rest is None:
            path.write_bytes(text)
            return
        text += b" " * (-len(text) % 4)
        total = 20 + len(text) + len(self.rest)
        path.write_bytes(struct.pack("<5I", MAGIC, 2, total, len(text), JSON_CHUNK) + text + self.rest)

    def variants(self) -> list[str]:
        """Names, in the file's order."""
        listed = _dig(self.tree, "extensions", VARIANTS, "variants")
        if not isinstance(listed, list):
            return []
        return [str(v.get("name") or f"Variant {i + 1}")[:80] for i, v in enumerate(listed) if isinstance(v, dict)]

    def choose(self, variant: str) -> bool:
        """Give every primitive the material it has in that variant; whether anything changed."""
        names = self.variants()
        if variant not in names:
            return False
        number, changed = names.index(variant), False
        for primitive in self._primitives():
            for mapping in _listed(_dig(primitive, "extensions", VARIANTS, "mappings")):
                if _holds(mapping.get("variants"), number) and isinstance(mapping.get("material"), int):
                    primitive["material"], changed = mapping["material"], True
        return changed

    def _primitives(self) -> list[dict[str, Any]]:
        return [p for mesh in _listed(self.tree.get("meshes")) for p in _listed(mesh.get("primitives"))]

    def moved_pictures(self) -> dict[str, list[float]]:
        """Material name to (offset x, offset y, turn in radians, scale x, scale y) of its colour picture."""
        found = {}
        for material in _listed(self.tree.get("materials")):
            moved = _dig(material, "pbrMetallicRoughness", "baseColorTexture", "extensions", MOVED)
            name = material.get("name")
            if isinstance(moved, dict) and isinstance(name, str):
                numbers = [*moved.get("offset", [0, 0]), moved.get("rotation", 0), *moved.get("scale", [1, 1])]
                if len(numbers) == 5 and all(isinstance(n, int | float) for n in numbers):
                    found[name] = [float(n) for n in numbers]
        return found

    def finishes(self) -> dict[str, Finish]:
        """Material name to the OpenPBR parameters that it states."""
        materials = [m for m in _listed(self.tree.get("materials")) if isinstance(m.get("name"), str)]
        return {material["name"]: finish_of(material) for material in materials}


def with_variant(source: Path, variant: str | None, folder: Path) -> tuple[list[str], Path]:
    """The variants of a glTF file, and a file in which the asked one is the plain one (or the source itself).

    It is written beside the source where that lies in `folder`, and into the folder otherwise.
    """
    text = GltfText.read(source) if source.suffix.lower() in (".glb", ".gltf") else None
    if text is None:
        return [], source
    names = text.variants()
    if variant is None or not text.choose(variant):
        return names, source
    # Beside the source where one may write, since it may refer to others there.
    home = source.parent if source.resolve().is_relative_to(folder.resolve()) else folder
    made = home / f"variant-{source.name}"
    text.write(made)
    return names, made


def _dig(tree: Any, *names: str) -> Any:
    for name in names:
        if not isinstance(tree, dict):
            return None
        tree = tree.get(name)
    return tree


def _holds(value: Any, number: int) -> bool:
    return isinstance(value, list) and number in value


def _listed(value: Any) -> list[Any]:
    return [item for item in value if isinstance(item, dict)] if isinstance(value, list) else []
