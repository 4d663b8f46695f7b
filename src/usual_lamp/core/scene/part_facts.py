"""What can be asked of a part whatever it wears: by the filter and by rules. Worked out once for an assembly."""

from __future__ import annotations

from collections import Counter

import numpy as np

from usual_lamp.core.appearance import linear_to_hex
from usual_lamp.core.assembly import Assembly, Occurrence
from usual_lamp.core.assembly.kinds import kinds_by_shape
from usual_lamp.core.scene.filter_words import Facts, FilterProblem, filtered, plain
from usual_lamp.core.scene.imported_look import imported_look

FACTS, MATCHES = "part facts", "rule matches"
"""Their names among what is kept with the assembly."""


def standing_facts(assembly: Assembly) -> list[Facts]:
    """Facts that hold in every scene of this assembly."""
    known: list[Facts] | None = assembly.kept.get(FACTS)
    if known is None:
        counts = Counter(part.definition for part in assembly.parts())
        known = assembly.kept[FACTS] = [_facts(assembly, part, counts[part.definition]) for part in assembly.parts()]
    return known


def matching(assembly: Assembly, text: str) -> frozenset[str]:
    """Uids of the parts that pass a rule's filter. Raises FilterProblem."""
    known: dict[str, frozenset[str]] = assembly.kept.setdefault(MATCHES, {})
    if text not in known:
        if not text.strip():
            raise FilterProblem("A rule needs words or a field to go by.")
        if len(known) > 500:
            known.clear()
        known[text] = frozenset(filtered(standing_facts(assembly), text))
    return known[text]


def _facts(assembly: Assembly, part: Occurrence, quantity: int) -> Facts:
    definition = assembly.definition_of(part)
    kind = kinds_by_shape(assembly).get(part.definition or "")
    above = [node.name for node in assembly.ancestors(part.uid)]
    whole, faces = imported_look(assembly, part)
    colors = [linear_to_hex(a.params.base_color) for a in ([whole] if whole else []) + list(faces.values())]
    words = {
        "name": part.name,
        "part": definition.name,
        "in": " / ".join(reversed(above)),
        "material": definition.material or "",
        "layer": " ".join(part.layers),
        "color": " ".join(dict.fromkeys(colors)),
        "kind": kind.kind if kind else "",
        "surface": " ".join(dict.fromkeys(face.kind for face in definition.faces)),
    }
    for key, value in (definition.properties | part.properties).items():
        words.setdefault(plain(key), value)
    numbers = {
        "size": float(np.linalg.norm(np.subtract(*definition.bounds))),
        "volume": definition.volume / 1000.0,
        "triangles": float(definition.triangles),
        "quantity": float(quantity),
    }
    around = " ".join([part.name, definition.name, *above]).lower()
    return Facts(part.uid, {key: value.lower() for key, value in words.items()}, numbers, around)
