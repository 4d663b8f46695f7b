"""The schedule of parts as CSV (RFC 4180), for colleagues with a spreadsheet: out, and back in with a difference first.

One row a part: key, name, quantity of that part, appearance by name, and where it comes from. Coming back, only the
appearance column is read; an empty one takes away what was given to the part by hand.
"""

from __future__ import annotations

import csv
import io
from collections import Counter
from collections.abc import Iterable
from dataclasses import dataclass, field

from usual_lamp.core.appearance import SHELF, Appearance
from usual_lamp.core.scene.document import Scene
from usual_lamp.core.scene.edits import Assign
from usual_lamp.core.scene.resolved import ResolvedScene

COLUMNS = ("key", "name", "quantity", "appearance", "source")
LARGEST = 20 * 2**20
FORMULA = ("=", "+", "-", "@", "\t")
"""A spreadsheet would run a cell that begins so; it is written with an apostrophe before it."""


class UnreadableSchedule(ValueError):
    """The text is no such schedule; the message says what is missing."""


@dataclass
class Difference:
    """What a schedule that comes in would change."""

    edit: Assign | None
    """None when it would change nothing."""
    lines: list[tuple[str, str, str, str]] = field(default_factory=list)
    """Key and name of the part, its appearance now, and then."""
    problems: list[str] = field(default_factory=list)


def to_csv(resolved: ResolvedScene) -> str:
    """Return the parts schedule as CSV, safe for spreadsheets."""
    assembly, worn, text = resolved.assembly, resolved.worn, io.StringIO()
    counts = Counter(part.definition for part in assembly.parts())
    rows = csv.writer(text)
    rows.writerow(COLUMNS)
    for part in assembly.parts():
        found = worn[part.uid]
        name = "" if found.why == "nothing yet" else found.appearance.name
        cells = (part.uid, part.name, counts[part.definition], name, found.why)
        rows.writerow([_safe(str(cell)) for cell in cells])
    return text.getvalue()


def from_csv(text: str, resolved: ResolvedScene, shelf: Iterable[Appearance] = tuple(SHELF.values())) -> Difference:
    """`shelf` holds what may be named besides the review's own appearances. Raises UnreadableSchedule."""
    if len(text) > LARGEST:
        raise UnreadableSchedule("The file is too large for a schedule.")
    plain = text.removeprefix("\ufeff").replace("\r\n", "\n").replace("\r", "\n")
    try:
        rows = list(csv.reader(io.StringIO(plain), dialect=_dialect(plain)))
    except csv.Error as error:  # a cell beyond all sizes, or bytes that are no text
        raise UnreadableSchedule("The file is no list that a spreadsheet has written. Save it as CSV again.") from error
    head = [cell.strip().lower() for cell in rows[0]] if rows else []
    if "key" not in head or "appearance" not in head:
        raise UnreadableSchedule(
            "The first row must name the columns key and appearance, as in the schedule that went out."
        )
    key_at, appearance_at = head.index("key"), head.index("appearance")
    assembly, scene, found = resolved.assembly, resolved.scene, Difference(None)
    known = _by_name(scene, shelf)
    given: dict[str, str | None] = {}
    define: dict[str, Appearance | None] = {}
    for number, row in enumerate(rows[1:], start=2):
        if not any(cell.strip() for cell in row):
            continue
        uid = _plain(row[key_at]) if key_at < len(row) else ""
        part = assembly.by_uid.get(uid)
        if part is None or part.definition is None:
            found.problems.append(f"Row {number}: no part has the key “{uid[:40]}”.")
            continue
        asked = _plain(row[appearance_at]) if appearance_at < len(row) else ""
        worn = resolved.worn[uid]
        now = "" if worn.why == "nothing yet" else worn.appearance.name
        if asked.lower() == now.lower():
            continue
        if not asked:
            if worn.why == "part":
                given[uid] = None
                found.lines.append((uid, part.name, now, ""))
            continue
        appearance = known.get(asked.lower())
        if appearance is None:
            found.problems.append(f"Row {number}: there is no appearance called “{asked[:60]}”.")
            continue
        given[uid] = appearance.id
        define[appearance.id] = appearance
        found.lines.append((uid, part.name, now, appearance.name))
    if given:
        found.edit = Assign(look=scene.look, assignments=given, define=define)
    return found


def _by_name(scene: Scene, shelf: Iterable[Appearance]) -> dict[str, Appearance]:
    """By name and by id, this review's own before the shelf's."""
    found: dict[str, Appearance] = {}
    for appearance in (*shelf, *scene.appearances.values()):
        found[appearance.name.lower()] = found[appearance.id] = appearance
    return found


def _safe(cell: str) -> str:
    return f"'{cell}" if cell.startswith(FORMULA) else cell


def _plain(cell: str) -> str:
    cell = cell.strip()
    return cell[1:] if cell[:1] == "'" and cell[1:].startswith(FORMULA) else cell


def _dialect(text: str) -> type[csv.Dialect]:
    """Spreadsheets of some countries write semicolons."""
    first = text.split("\n", 1)[0]
    return _Semicolons if first.count(";") > first.count(",") else csv.excel


class _Semicolons(csv.excel):
    delimiter = ";"
