"""Takes the demo assembly in through the running product, as a person would: `python -m demo.load FILE.step`.

Does nothing when the same file was taken in before, so that a demo review somebody removed stays removed.
"""

from __future__ import annotations

import fnmatch
import hashlib
import sys
import time
from pathlib import Path

from sqlalchemy import select

from demo.appearances import DEMO_APPEARANCES
from usual_lamp.core.appearance import SHELF, Appearance, OpenPBR, hex_to_linear
from usual_lamp.core.scene import Assign, Backdrop, Lighting, SetLightings
from usual_lamp.core.scene.resolution import DEFAULT_SHOT
from usual_lamp.service import editing, following, intakes, stills
from usual_lamp.store import Store
from usual_lamp.store.tables import IntakeRun

NAME = "Dosing pump DP-40"
DISPLAY = Appearance(
    id="own-display",
    name="Lit, display cyan",
    family="glow",
    params=OpenPBR(base_color=(0.02, 0.05, 0.06), emission_luminance=520.0, emission_color=hex_to_linear("#7FE3F5")),
)


def load(store: Store, file: Path, quality: str = "fair", seconds: float = 240.0) -> str | None:
    """The new review's id, or None when the file is known already. Raises RuntimeError when the intake fails."""
    with file.open("rb") as stream:
        digest = hashlib.file_digest(stream, "sha256").hexdigest()
    with store.begin() as session:
        if session.scalar(select(IntakeRun.id).where(IntakeRun.source == digest, IntakeRun.state == "done")):
            return None
    with file.open("rb") as stream:
        run = intakes.receive(store, stream, file.name, NAME, quality)  # type: ignore[arg-type]
    deadline = time.monotonic() + seconds
    while (line := intakes.get(store, run)).state in ("queued", "running"):
        if time.monotonic() > deadline:
            raise RuntimeError("the demo's intake did not finish in time")
        time.sleep(0.3)
    if line.state != "done" or line.review_id is None:
        raise RuntimeError(line.message or f"the demo's intake ended as {line.state}")
    dress(store, line.review_id)
    following.follow(store, line.review_id, "model-1", str(file.resolve()))
    return line.review_id


def dress(store: Store, review_id: str) -> None:
    """Give the parts their appearances, one edit a sample."""
    assembly = editing.look_at(store, review_id).assembly
    for pattern, name in DEMO_APPEARANCES:
        found = [part.uid for part in assembly.parts() if fnmatch.fnmatch(part.name, pattern)]
        change = Assign(assignments=dict.fromkeys(found, name), define={name: SHELF[name]})
        editing.edit(store, review_id, change)
    segments = [part.uid for part in assembly.parts() if part.name == "Display segments"]
    lit = Assign(assignments=dict.fromkeys(segments, DISPLAY.id), define={DISPLAY.id: DISPLAY})
    editing.edit(store, review_id, lit)
    light(store, review_id)
    stills.take(store, review_id, DEFAULT_SHOT, "coarse", (480, 360), cover=True)


def light(store: Store, review_id: str) -> None:
    """A lighting outside, beside the table top that a review starts with."""
    outside = Lighting(name="Open field", surroundings="field", backdrop=Backdrop(kind="environment", blur=0.15))
    editing.edit(store, review_id, SetLightings(lightings={"outside": outside}))


if __name__ == "__main__":
    load(Store.from_environment(), Path(sys.argv[1]))
