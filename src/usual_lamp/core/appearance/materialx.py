"""Appearances out and in as MaterialX (version 1.39): one `open_pbr_surface` node and one material each.

Only values travel. A measured metal goes out as the colour that the shaded picture shows of it; pictures, and nodes
that feed an input, do not travel and are named in the notes.
"""

from __future__ import annotations

import re
import xml.etree.ElementTree as ET
from dataclasses import dataclass, field
from typing import Any

from pydantic import ValidationError

from usual_lamp.core.appearance.openpbr import Appearance, Family, OpenPBR

VERSION = "1.39"
NODE = "open_pbr_surface"
OURS = {"base_conductor", "geometry_tangent_rotation"}
"""Parameters of ours that the standard does not have."""
LARGEST = 5 * 2**20
MOST = 500


class UnreadableMaterials(ValueError):
    """The text holds no materials that can be taken; the message says why."""


@dataclass
class Taken:
    """What a MaterialX document held."""

    appearances: list[Appearance] = field(default_factory=list)
    notes: list[str] = field(default_factory=list)


def to_materialx(appearances: list[Appearance]) -> str:
    """A MaterialX document; only what differs from the standard's defaults is written."""
    root = ET.Element("materialx", version=VERSION, colorspace="lin_rec709")
    plain = OpenPBR()
    taken: set[str] = set()
    for appearance in appearances:
        name = _identifier(appearance.name, taken)
        node = ET.SubElement(root, NODE, name=f"{name}_surface", type="surfaceshader")
        for key, value in appearance.params.model_dump().items():
            if key in OURS or value == getattr(plain, key):
                continue
            kind, text = _written(key, value)
            ET.SubElement(node, "input", name=key, type=kind, value=text)
        material = ET.SubElement(root, "surfacematerial", name=name, type="material", uiname=appearance.name)
        ET.SubElement(material, "input", name="surfaceshader", type="surfaceshader", nodename=f"{name}_surface")
    ET.indent(root)
    return '<?xml version="1.0"?>\n' + ET.tostring(root, encoding="unicode") + "\n"


def _written(key: str, value: Any) -> tuple[str, str]:
    if isinstance(value, bool):
        return "boolean", str(value).lower()
    if isinstance(value, tuple):
        return "color3", ", ".join(f"{v:.6g}" for v in value)
    return "float", f"{value:.6g}"


def _identifier(name: str, taken: set[str]) -> str:
    """A name as MaterialX allows it, unlike those taken already."""
    plain = re.sub(r"\W+", "_", name, flags=re.ASCII).strip("_") or "material"
    plain = plain if not plain[0].isdigit() else f"m_{plain}"
    found, number = plain, 2
    while found in taken:
        found, number = f"{plain}_{number}", number + 1
    taken.add(found)
    return found


def from_materialx(text: str) -> Taken:
    """The materials of a document as appearances of their own. Raises UnreadableMaterials."""
    if len(text) > LARGEST:
        raise UnreadableMaterials("The file is too large for a list of materials.")
    if "<!DOCTYPE" in text or "<!ENTITY" in text:
        raise UnreadableMaterials("The file declares entities, which a MaterialX document does not need.")
    try:
        root = ET.fromstring(text)
    except ET.ParseError as error:
        raise UnreadableMaterials(f"The file is no readable XML ({error}). Export it again.") from error
    if root.tag != "materialx":
        raise UnreadableMaterials("The file is no MaterialX document.")
    surfaces = {node.get("name", ""): node for node in root.iter(NODE)}
    if not surfaces:
        raise UnreadableMaterials(f"The document holds no {NODE} node, the only kind that can be taken.")
    called = {}
    for material in root.iter("surfacematerial"):
        for entry in material.findall("input"):
            called[entry.get("nodename", "")] = material.get("uiname") or material.get("name") or ""
    found = Taken()
    for name, node in list(surfaces.items())[:MOST]:
        title = (called.get(name) or name or "Material")[:80]
        _take(node, title, found)
    if len(surfaces) > MOST:
        found.notes.append(f"Only the first {MOST} of {len(surfaces)} materials were taken.")
    return found


def _take(node: ET.Element, title: str, found: Taken) -> None:
    values: dict[str, Any] = {}
    for entry in node.findall("input"):
        name, text = entry.get("name", ""), entry.get("value")
        if name not in OpenPBR.model_fields or name in OURS:
            found.notes.append(f"{title}: {name or 'an input'} is not obeyed here.")
        elif text is None:
            found.notes.append(f"{title}: {name} is fed by a node, only its plain value would be taken.")
        else:
            parts = [part.strip() for part in text.split(",")]
            values[name] = text == "true" if text in ("true", "false") else parts if len(parts) > 1 else parts[0]
    try:
        params = OpenPBR.model_validate(values)
    except ValidationError as error:
        first = error.errors()[0]
        found.notes.append(f"{title}: {'.'.join(map(str, first['loc']))} {first['msg'].lower()}; left out.")
        return
    number = len(found.appearances)
    found.appearances.append(
        Appearance(id=f"mtlx-{_slug(title)}-{number}", name=title, family=_family(params), params=params)
    )


def _slug(title: str) -> str:
    return re.sub(r"[^a-z0-9]+", "-", title.lower()).strip("-")[:40] or "material"


def _family(p: OpenPBR) -> Family:
    if p.emission_luminance > 0:
        return "glow"
    if p.transmission_weight > 0.5:
        return "glass"
    if p.base_metalness > 0.5:
        return "metal"
    return "paint" if p.coat_weight > 0.5 else "plastic"
