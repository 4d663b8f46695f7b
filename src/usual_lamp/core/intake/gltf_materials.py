"""glTF materials, with their ratified extensions, as OpenPBR parameters.

What a file does not state stays as a colour from CAD looks: glTF's own defaults make everything without a word a rough
metal. Sources: glTF 2.0, section 3.9, and the texts of KHR_materials_ior, _specular, _transmission, _volume,
_clearcoat, _sheen, _iridescence, _anisotropy and _emissive_strength.
"""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

Finish = dict[str, float | list[float] | bool]
SCREEN_WHITE = 250.0
"""cd/m² for an emissive factor of 1 (common practice, no published source): a screen's white."""
METRE = 1000.0
"""mm."""


def finish_of(material: dict[str, Any]) -> Finish:
    """OpenPBR parameters that a material states, beyond colour, opacity and pictures. Odd values are passed over."""
    found: Finish = {}
    pbr = _dict(material.get("pbrMetallicRoughness"))
    if "metallicFactor" in pbr or "roughnessFactor" in pbr:
        _number(pbr, "metallicFactor", found, "base_metalness", default=1.0)
        _number(pbr, "roughnessFactor", found, "specular_roughness", default=1.0)
    extensions = _dict(material.get("extensions"))
    for name, take in TAKEN.items():
        if isinstance(extensions.get(name), dict):
            take(extensions[name], found)
    _glow(material, _dict(extensions.get("KHR_materials_emissive_strength")), found)
    return found


def _ior(e: dict[str, Any], found: Finish) -> None:
    _number(e, "ior", found, "specular_ior", 1.0, 3.0)


def _specular(e: dict[str, Any], found: Finish) -> None:
    _number(e, "specularFactor", found, "specular_weight")
    _color(e, "specularColorFactor", found, "specular_color")


def _transmission(e: dict[str, Any], found: Finish) -> None:
    _number(e, "transmissionFactor", found, "transmission_weight")
    # Without a volume the surface is a thin wall, by the extension's own words.
    found.setdefault("geometry_thin_walled", True)


def _volume(e: dict[str, Any], found: Finish) -> None:
    if _in_range(e.get("thicknessFactor"), 1e-9, 1e6):
        found["geometry_thin_walled"] = False
    _color(e, "attenuationColor", found, "transmission_color")
    distance = e.get("attenuationDistance")
    if _in_range(distance, 1e-6, 10.0):
        found["transmission_depth"] = float(distance) * METRE  # type: ignore[arg-type]


def _clearcoat(e: dict[str, Any], found: Finish) -> None:
    _number(e, "clearcoatFactor", found, "coat_weight")
    _number(e, "clearcoatRoughnessFactor", found, "coat_roughness")
    found["coat_ior"] = 1.5


def _sheen(e: dict[str, Any], found: Finish) -> None:
    _color(e, "sheenColorFactor", found, "fuzz_color")
    color = found.get("fuzz_color")
    found["fuzz_weight"] = 1.0 if isinstance(color, list) and max(color) > 0 else 0.0
    _number(e, "sheenRoughnessFactor", found, "fuzz_roughness")


def _iridescence(e: dict[str, Any], found: Finish) -> None:
    _number(e, "iridescenceFactor", found, "thin_film_weight")
    _number(e, "iridescenceIor", found, "thin_film_ior", 1.0, 3.0)
    if _in_range(e.get("iridescenceThicknessMaximum"), 0.0, 10_000.0):
        found["thin_film_thickness"] = float(e["iridescenceThicknessMaximum"]) / 1000.0


def _anisotropy(e: dict[str, Any], found: Finish) -> None:
    _number(e, "anisotropyStrength", found, "specular_roughness_anisotropy")


TAKEN: dict[str, Callable[[dict[str, Any], Finish], None]] = {
    "KHR_materials_ior": _ior,
    "KHR_materials_specular": _specular,
    "KHR_materials_transmission": _transmission,
    "KHR_materials_volume": _volume,
    "KHR_materials_clearcoat": _clearcoat,
    "KHR_materials_sheen": _sheen,
    "KHR_materials_iridescence": _iridescence,
    "KHR_materials_anisotropy": _anisotropy,
}


def _glow(material: dict[str, Any], strength: dict[str, Any], found: Finish) -> None:
    factor = material.get("emissiveFactor")
    if not (isinstance(factor, list) and len(factor) == 3 and all(_in_range(v, 0.0, 1.0) for v in factor)):
        return
    peak = max(factor)
    by = strength.get("emissiveStrength", 1.0)
    if peak > 0 and _in_range(by, 0.0, 4000.0):
        found["emission_color"] = [v / peak for v in factor]
        found["emission_luminance"] = SCREEN_WHITE * peak * float(by)


def _dict(value: Any) -> dict[str, Any]:
    return value if isinstance(value, dict) else {}


def _in_range(value: Any, low: float, high: float) -> bool:
    return isinstance(value, int | float) and not isinstance(value, bool) and low <= value <= high


def _number(
    source: dict[str, Any], key: str, found: Finish, name: str, low: float = 0.0, high: float = 1.0,
    default: float | None = None,
) -> None:  # fmt: skip
    value = source.get(key, default)
    if value is not None and _in_range(value, low, high):
        found[name] = float(value)


def _color(source: dict[str, Any], key: str, found: Finish, name: str) -> None:
    value = source.get(key)
    if isinstance(value, list) and len(value) == 3 and all(_in_range(v, 0.0, 1.0) for v in value):
        found[name] = [float(v) for v in value]
