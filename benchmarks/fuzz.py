"""Mutated files of all formats through the import, as the product runs it: what becomes of each.

Bytes of small files with known content are flipped, cut out, doubled and spliced. Each must come in whole, come in with
a note on what is missing, or be refused in a sentence; within its limit, and without harm to its parent.
"""

from __future__ import annotations

import logging
import os
import re
import sys
import tempfile
import time
from collections import Counter
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass, field
from pathlib import Path

import numpy as np

from benchmarks.known_files import Known, known_files
from usual_lamp.core.intake import PRELOADED, IntakeError, Watch, sandbox, take_in
from usual_lamp.core.sandbox import Nursery

COUNT, SEED = 10_000, 1
SILENCE = 5.0
"""CPU seconds without progress after which a reader is given up here; the product has more patience."""
LIMIT = 30.0
"""Seconds on the clock for one file, all told."""
MOST_SECONDS = 2400.0
RAW = re.compile(
    r"Traceback|Error\b|[Ee]rrno|NoneType|pydantic|Input should|zlib|index out of|0x[0-9a-f]{6}|\bobject\b"
)
STANDING = ("names no unit",)
"""Notes that a whole file has too."""
FAULTS = ("raw", "silent", "late", "died")


@dataclass
class Tally:
    """What became of some files."""

    outcomes: Counter[str] = field(default_factory=Counter)
    examples: list[str] = field(default_factory=list)

    def add(self, other: Tally) -> None:
        self.outcomes += other.outcomes
        self.examples += other.examples

    @property
    def faults(self) -> int:
        return sum(self.outcomes[name] for name in FAULTS)


def mutated(known: Known, chance: np.random.Generator) -> bytes:
    """Flipped bits, other bytes, a piece cut out, doubled or moved, or the end cut off."""
    data = bytearray(known.data)
    for _ in range(int(chance.integers(1, 4))):
        way, place = chance.integers(6), int(chance.integers(len(data)))
        span = int(min(chance.integers(1, 64), len(data) - place))
        if way == 0:
            data[place] ^= 1 << int(chance.integers(8))
        elif way == 1:
            data[place : place + span] = chance.bytes(span)
        elif way == 2:
            del data[place : place + span]
        elif way == 3:
            data[place:place] = data[place : place + span]
        elif way == 4:
            other = int(chance.integers(len(data)))
            data[other : other + span] = data[place : place + span]
        else:
            data[place] = int(chance.choice([0, 9, 10, 32, 35, 39, 40, 41, 44, 48, 57, 59, 127, 255]))
        if chance.random() < 0.05:
            del data[place:]
        if not data:
            return b""
    return bytes(data)


def try_one(known: Known, data: bytes, folder: Path, nursery: Nursery) -> tuple[str, str]:
    """The outcome of one file, and words on it."""
    file = folder / known.name
    file.write_bytes(data)
    began = time.monotonic()
    try:
        found = take_in(file, folder / "out", quality="coarse", watch=Watch(nursery=nursery, seconds=LIMIT)).assembly
    except IntakeError as error:
        words, outcome = str(error), "refused"
        if RAW.search(words) or not words.endswith("."):
            outcome = "raw"
    except Exception as error:
        words, outcome = f"{type(error).__name__}: {error}", "raw"
    else:
        notes = [note for note in found.warnings if not any(words in note for words in STANDING)]
        notes += [defect for d in found.definitions.values() for defect in d.defects]
        exact = known.name.endswith((".step", ".igs", ".brep")) or known.name == "packed.zip"
        definitions = found.definitions.values()
        pieces = sum(len(d.faces) for d in definitions) if exact else sum(d.triangles for d in definitions)
        less = len(list(found.parts())) < known.parts or pieces < known.pieces
        words, outcome = "; ".join(notes), "noted" if notes else "silent" if less else "whole"
        if any(RAW.search(note) for note in notes):
            outcome = "raw"
    if time.monotonic() - began > LIMIT + 5:
        outcome = "late"
    if nursery.process is None or nursery.process.poll() is not None:
        outcome = "died"
    return outcome, words


def run(count: int, seed: int, keep: Path | None = None, seconds: float = MOST_SECONDS) -> Tally:
    """Try so many files, in turn of all formats; faults are kept as files in `keep`."""
    sandbox.SILENCE = SILENCE
    logging.disable()  # what readers say of damaged files fills a log
    tally, chance, files = Tally(), np.random.default_rng(seed), known_files()
    nursery, deadline = Nursery(*PRELOADED), time.monotonic() + seconds
    with tempfile.TemporaryDirectory(prefix="usual-lamp-fuzz-") as folder:
        for number in range(count):
            if time.monotonic() > deadline:
                break
            known = files[number % len(files)]
            data = mutated(known, chance)
            with tempfile.TemporaryDirectory(dir=folder) as own:
                outcome, words = try_one(known, data, Path(own), nursery)
            tally.outcomes[outcome] += 1
            if outcome in FAULTS:
                name = f"{outcome}-{seed}-{number}-{known.name}"
                tally.examples.append(f"{name}: {words[:200]}")
                if keep is not None:
                    keep.mkdir(parents=True, exist_ok=True)
                    (keep / name).write_bytes(data)
    nursery.close()
    return tally


def main() -> None:
    count = int(os.environ.get("USUAL_LAMP_FUZZ", COUNT))
    cores = os.cpu_count() or 1
    keep = Path(os.environ["USUAL_LAMP_FUZZ_KEEP"]) if "USUAL_LAMP_FUZZ_KEEP" in os.environ else None
    began, tally = time.monotonic(), Tally()
    seeds = [SEED + k for k in range(cores)]
    with ProcessPoolExecutor(cores) as pool:
        for found in pool.map(run, [count // cores] * cores, seeds, [keep] * cores):
            tally.add(found)
    done = sum(tally.outcomes.values())
    print(f"mutated files through the import: {done} (asked {count}), seeds {seeds}, {time.monotonic() - began:.0f} s")
    print("  " + ", ".join(f"{name} {tally.outcomes[name]}" for name in ("whole", "noted", "refused", *FAULTS)))
    for line in tally.examples[:40]:
        print(f"  {line}", file=sys.stderr)


if __name__ == "__main__":
    main()
