"""The colours that CAD gave, as a table: who has them, what stands in for them, which are nearly alike."""

from __future__ import annotations

from collections import Counter

import numpy as np
from pydantic import BaseModel

from usual_lamp.core.appearance import SHELF, Appearance
from usual_lamp.core.appearance.color_difference import ciede2000, linear_to_lab
from usual_lamp.core.appearance.suggestions import in_color, suggestion
from usual_lamp.core.assembly import Assembly
from usual_lamp.core.scene.imported_look import imported_look
from usual_lamp.core.scene.resolved import ResolvedScene


class ImportedColor(BaseModel):
    """A colour from CAD, with the parts that have it."""

    id: str
    appearance: Appearance
    name: str
    """The material that most of its parts are made of by the file, else their common name, else empty."""
    uids: list[str]
    """Parts that have it as a whole or on faces."""
    faces: int
    stands_in: str | None
    """Id of the appearance that stands in for it; null when it is as CAD gave it, or nothing is left of it."""
    stripped: bool
    covered: int
    """How many of its parts do not show it, since they were given something by hand."""
    suggestion: Appearance | None
    """What the names of material or parts ask for, in the colour that CAD gave."""


def imported_colors(resolved: ResolvedScene) -> list[ImportedColor]:
    """Most used first. Parts that are suppressed count too: they may come back."""
    assembly, scene = resolved.assembly, resolved.scene
    found: dict[str, Appearance] = {}
    uids: dict[str, list[str]] = {}
    faces: Counter[str] = Counter()
    for part in assembly.parts():
        whole, own = imported_look(assembly, part)
        for appearance in {a.id: a for a in ([whole] if whole else []) + list(own.values())}.values():
            found.setdefault(appearance.id, appearance)
            uids.setdefault(appearance.id, []).append(part.uid)
        faces.update(a.id for a in own.values())
    covered = {uid for uid, found in resolved.worn.items() if found.layers[0].key}
    rows = [
        ImportedColor(
            id=key,
            appearance=appearance,
            name=_name(assembly, uids[key]),
            uids=uids[key],
            faces=faces[key],
            stands_in=scene.imported.get(key),
            stripped=key in scene.imported and scene.imported[key] is None,
            covered=sum(uid in covered for uid in uids[key]),
            suggestion=_suggestion(assembly, uids[key], appearance),
        )
        for key, appearance in found.items()
    ]
    return sorted(rows, key=lambda row: (-len(row.uids), row.id))


def nearly_alike(rows: list[ImportedColor], threshold: float) -> list[list[str]]:
    """Groups of colours that differ from the most used one of their group by at most the threshold (CIEDE2000).

    See-through colours only go with those of the same opacity; what has a stand-in or was stripped is settled.
    """
    groups: list[list[ImportedColor]] = []
    for row in rows:
        if row.stands_in is not None or row.stripped:
            continue
        home = next((group for group in groups if _alike(group[0], row, threshold)), None)
        if home is None:
            groups.append([row])
        else:
            home.append(row)
    return [[row.id for row in group] for group in groups if len(group) > 1]


def _alike(one: ImportedColor, two: ImportedColor, threshold: float) -> bool:
    # Behind the colour, the id spells the opacity and names finish and pictures.
    if one.id[10:] != two.id[10:]:
        return False
    lab = linear_to_lab(np.array([_color(one), _color(two)]))
    return float(ciede2000(lab[:1], lab[1:])[0]) <= threshold


def _color(row: ImportedColor) -> tuple[float, float, float]:
    """As CAD gave it, before it was held inside what paint can reach: the id spells it out."""
    r, g, b = (int(row.id[4 + 2 * k : 6 + 2 * k], 16) / 255 for k in range(3))
    return r, g, b


def _name(assembly: Assembly, uids: list[str]) -> str:
    materials = Counter(assembly.definition_of(assembly.by_uid[uid]).material for uid in uids)
    material, count = materials.most_common(1)[0]
    if material and count * 2 > len(uids):
        return material
    names = {assembly.by_uid[uid].name for uid in uids}
    return names.pop() if len(names) == 1 else ""


def _suggestion(assembly: Assembly, uids: list[str], look: Appearance) -> Appearance | None:
    """What most of the parts' materials ask for; where they say nothing, what most of their names do."""
    parts = [assembly.by_uid[uid] for uid in uids]
    for words in ([assembly.definition_of(p).material for p in parts], [p.name for p in parts]):
        asked = Counter(suggestion(word) for word in words)
        sample, count = asked.most_common(1)[0]
        if sample is not None and count * 2 > len(parts):
            return in_color(SHELF[sample], look.params.base_color, SHELF["anodised-orange"])
    return None
