"""A large assembly for measuring: many occurrences of sixty definitions, in sub-assemblies of twenty-five."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from demo.build import Group, Part, Writer
from OCP.TopoDS import TopoDS_Shape

from benchmarks.scenes import CACHE
from demo import pump_parts as parts

DEFINITIONS, IN_A_GROUP, PITCH = 60, 25, 60.0


def shapes() -> list[Callable[[], TopoDS_Shape]]:
    """Sixty makers: screws and gears of many sizes, and parts of the pump."""
    screws = [(d, length) for d in (3.0, 4.0) for length in range(6, 46, 4)]
    makers: list[Callable[[], TopoDS_Shape]] = [lambda d=d, n=n: parts.socket_screw(d, n) for d, n in screws]
    makers += [lambda teeth=teeth: parts.gear(teeth, 1.0, 8) for teeth in range(12, 42, 2)]
    singles = (
        parts.foot, parts.roller, parts.roller_pin, parts.hose_barb, parts.knob_body, parts.knob_cap, parts.bezel,
        parts.status_ring, parts.push_button, parts.capacitor, parts.standoff, parts.bracket, parts.motor,
        parts.transport_lock, parts.wear_plate, parts.rotor, parts.status_lens, parts.display_glass, parts.base_plate,
        parts.head_cover, parts.hose, parts.panel, parts.circuit_board, parts.seam_gasket, parts.case_front,
    )  # fmt: skip
    return (makers + list(singles))[:DEFINITIONS]


def big_file(count: int, renamed: bool = False) -> Path:
    """The STEP file with `count` occurrences, made once; `renamed` gives all parts and groups other names."""
    target = CACHE / f"big-{count}{'-renamed' if renamed else ''}.step"
    if target.exists():
        return target
    CACHE.mkdir(parents=True, exist_ok=True)
    made = [maker() for maker in shapes()]
    across = max(int(count ** (1 / 3)), 1)
    places = [(PITCH * (k % across), PITCH * (k // across % across), PITCH * (k // across**2)) for k in range(count)]
    groups: list[Part | Group] = []
    word = "item" if renamed else "part"
    for first in range(0, count, IN_A_GROUP):
        inside: dict[int, list[tuple[float, float, float]]] = {}
        for k in range(first, min(first + IN_A_GROUP, count)):
            inside.setdefault(k * 7 % DEFINITIONS, []).append(places[k])
        children: list[Part | Group] = [_Shared(word, number, made[number], at) for number, at in inside.items()]
        groups.append(Group(f"{word} group {first // IN_A_GROUP + 1}", children))
    writer = _SharingWriter()
    writer.add(Group("Big", groups))
    writer.write(target)
    return target


class _Shared(Part):
    """A part whose shape is made already and may stand in many groups."""

    def __init__(self, word: str, number: int, shape: TopoDS_Shape, places: list[tuple[float, float, float]]) -> None:
        color = f"#{(number * 37) % 200 + 40:02X}{(number * 91) % 200 + 40:02X}{(number * 53) % 200 + 40:02X}"
        super().__init__(f"{word} {number + 1}", lambda: shape, color, places)
        self.number = number


class _SharingWriter(Writer):
    """Writes each shape once, however many groups place it."""

    def __init__(self) -> None:
        super().__init__()
        self.known: dict[str, object] = {}

    def _add_part(self, part):  # type: ignore[no-untyped-def]
        if part.name not in self.known:
            self.known[part.name] = super()._add_part(part)[0][0]
        from demo.build import location

        return [(self.known[part.name], location(place, part.front)) for place in part.places]
