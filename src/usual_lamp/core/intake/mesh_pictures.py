"""Pictures that a mesh file lays on its geometry: found in the reader's materials, made safe, kept by their hash."""

from __future__ import annotations

from collections.abc import Mapping
from pathlib import Path
from typing import Any, TypeGuard

import numpy as np
from numpy.typing import NDArray
from PIL import Image

from usual_lamp.core.assembly.mesh import content_hash

Array = NDArray[np.float64]
MOST_PIXELS = 150_000_000
"""Of a model's own textures, which are often 8192 pixels a side; the child that reads them has a limit on memory."""


def coordinates(geometry: Any, moved: Mapping[str, list[float]]) -> Array | None:
    """(V, 2) of the geometry's vertices, v upwards; None where the file gives none that can be used.

    `moved` says by material how a glTF file shifts, turns and scales them, see `gltf_text`.
    """
    found = getattr(geometry.visual, "uv", None)
    if found is None or len(found) != len(geometry.vertices):
        return None
    values = np.asarray(found, np.float64)[:, :2]
    how = moved.get(str(getattr(getattr(geometry.visual, "material", None), "name", "")))
    if how is not None:
        x, y, turn, wide, high = how
        # In glTF v grows downwards, which the reader has turned round.
        u, v = values[:, 0] * wide, (1 - values[:, 1]) * high
        c, s = np.cos(turn), np.sin(turn)
        values = np.stack([c * u + s * v + x, 1 - (c * v - s * u + y)], axis=1)
    return values if np.isfinite(values).all() and np.abs(values).max(initial=0) < 1e6 else None


def keep_pictures(geometry: Any, folder: Path) -> tuple[dict[str, str], list[str]]:
    """What the material's pictures drive and their hashes, files in `folder`; and words on what could not be read."""
    from usual_lamp.core.exr import UnreadablePicture
    from usual_lamp.core.picture.read import safe_png

    kept, words = {}, list[str]()
    for target, picture in _pictures(getattr(geometry.visual, "material", None), words):
        try:
            block = safe_png(picture, MOST_PIXELS)
        except UnreadablePicture as error:
            words.append(left_out(target, str(error)))
            continue
        kept[target] = content_hash(block)
        (folder / kept[target]).write_bytes(block)
    return kept, words


def left_out(target: str, why: str) -> str:
    """Words on a picture that the model comes in without."""
    return f"the picture for its {'colour' if target == 'color' else target} is not taken over. {why}"


def mean_color(geometry: Any) -> tuple[float, float, float] | None:
    """Linear mean of the colour picture, where there is one."""
    from usual_lamp.core.picture.read import read_picture, safe_png

    material = getattr(geometry.visual, "material", None)
    picture = dict(_pictures(material, [])).get("color")
    if picture is None:
        return None
    small = picture.convert("RGBA")
    small.thumbnail((64, 64))
    values = read_picture(safe_png(small), color=True)
    share = values[..., 3].sum()
    mean = (values[..., :3] * values[..., 3:]).sum(axis=(0, 1)) / max(float(share), 1e-6)
    r, g, b = (round(float(v), 6) for v in mean)
    return r, g, b


def _pictures(material: Any, words: list[str]) -> list[tuple[str, Image.Image]]:
    """glTF: base colour (times its factor), roughness (green, times its factor), normal; others: the one picture.

    Adds to `words` what cannot be read.
    """
    found: list[tuple[str, Image.Image]] = []
    base = getattr(material, "baseColorTexture", None) or getattr(material, "image", None)
    if _is_sound(base, "color", words):
        base = _tinted(base, getattr(material, "baseColorFactor", None))
        found.append(("color", base.convert("RGB")))
        cuts = getattr(material, "alphaMode", None) in ("MASK", "BLEND")
        if cuts and "A" in base.getbands():
            alpha = base.getchannel("A")
            if material.alphaMode == "MASK":
                cutoff = 255 * float(material.alphaCutoff if material.alphaCutoff is not None else 0.5)
                alpha = alpha.point(lambda a: 255 if a >= cutoff else 0)
            found.append(("opacity", alpha))
    rough = getattr(material, "metallicRoughnessTexture", None)
    if _is_sound(rough, "roughness", words):
        factor = getattr(material, "roughnessFactor", None)
        share = 1.0 if factor is None else float(factor)
        found.append(("roughness", rough.convert("RGB").getchannel("G").point(lambda v: v * share)))
    normal = getattr(material, "normalTexture", None)
    if _is_sound(normal, "normal", words):
        found.append(("normal", normal.convert("RGB")))
    return found


def _is_sound(picture: Image.Image | None, target: str, words: list[str]) -> TypeGuard[Image.Image]:
    """Whether there is a picture whose pixels can be read; they are read when they are first asked for."""
    if picture is None:
        return False
    try:
        picture.load()
    except Exception:  # decoders have many names for what is damaged
        words.append(left_out(target, "It is damaged."))
        return False
    return True


def _tinted(picture: Image.Image, factor: Any) -> Image.Image:
    """The picture times a linear factor (0..1 or 0..255), which glTF multiplies in linear light."""
    picture = picture.convert("RGBA")
    if factor is None:
        return picture
    share = np.asarray(factor, float) / (255.0 if np.asarray(factor).dtype.kind in "ui" else 1.0)
    if np.allclose(share, 1.0):
        return picture
    table: list[int] = []
    encoded = np.arange(256) / 255.0
    linear = np.where(encoded <= 0.04045, encoded / 12.92, ((encoded + 0.055) / 1.055) ** 2.4)
    for k in range(4):
        by = float(share[k]) if k < len(share) else 1.0
        dimmed = encoded * by if k == 3 else linear * by
        back = dimmed if k == 3 else np.where(dimmed <= 0.0031308, dimmed * 12.92, 1.055 * dimmed ** (1 / 2.4) - 0.055)
        table += [int(v) for v in np.round(np.clip(back, 0, 1) * 255)]
    return picture.point(table)
