"""`python -m demo.first_plates`: traces the finish plates that come with the program, those that are not there yet.

With `--all` it traces every one anew.
"""

from __future__ import annotations

import io
import sys
import zipfile

from PIL import Image

from usual_lamp.core.appearance import SHELF, Appearance
from usual_lamp.core.appearance.first_plates import FILE, first_plate, plate_name
from usual_lamp.core.trace.jobs.plates import trace_plate

SIDE, SAMPLES = 96, 64
"""Pixels of a plate; it is traced twice as large."""


def plate(appearance: Appearance, samples: int = SAMPLES) -> bytes:
    """A plate as WebP."""
    traced = Image.fromarray(trace_plate(appearance, 2 * SIDE, samples))
    made = io.BytesIO()
    traced.resize((SIDE, SIDE), Image.Resampling.LANCZOS).save(made, "WEBP", quality=84, method=6)
    return made.getvalue()


def main(anew: bool) -> None:
    """Write the file, without what no sample of the shelf shows any more."""
    known = {} if anew or not FILE.exists() else {plate_name(a): first_plate(a) for a in SHELF.values()}
    made = {plate_name(a): known.get(plate_name(a)) or plate(a) for a in SHELF.values()}
    coming = FILE.with_suffix(".coming")
    with zipfile.ZipFile(coming, "w") as file:
        for name, data in sorted(made.items()):
            file.writestr(zipfile.ZipInfo(name, (1980, 1, 1, 0, 0, 0)), data)
    coming.replace(FILE)


if __name__ == "__main__":
    main("--all" in sys.argv[1:])
