"""Takes the demo assembly in through the running product, as a person would: `python -m demo.load FILE.step`.

Does nothing when the same file was taken in before, so that a demo review somebody removed stays removed.
"""

from __future__ import annotations

import fnmatch
import hashlib
import sys
import time
from pathlib import Path

import numpy as np
from sqlalchemy import select

from demo.appearances import DEMO_APPEARANCES
from demo.pump_parts import FRONT, HEAD_X, HEAD_Z, PANEL_X, PANEL_Z
from usual_lamp.core.appearance import SHELF, Appearance, OpenPBR, hex_to_linear
from usual_lamp.core.decals import MarkingDrawing, ScaleDrawing, TextDrawing
from usual_lamp.core.scene import Assign, Backdrop, Decal, Lighting, SetDecals, SetLightings
from usual_lamp.core.scene.decal import DecalFinish
from usual_lamp.core.scene.resolution import DEFAULT_SHOT
from usual_lamp.service import decals, editing, following, intakes, stills
from usual_lamp.store import Store
from usual_lamp.store.tables import IntakeRun

NAME = "Dosing pump DP-40"
DISPLAY = Appearance(
    id="own-display",
    name="Lit, display cyan",
    family="glow",
    params=OpenPBR(base_color=(0.02, 0.05, 0.06), emission_luminance=520.0, emission_color=hex_to_linear("#7FE3F5")),
)

INK, PAPER = "#24272A", "#F4F1EA"
MARKS = (
    (
        "Head cover",
        "Direction of rotation",
        MarkingDrawing(kind="turning arrow", size=58.0, sweep=64.0, line=0.035, color=PAPER),
        (HEAD_X, FRONT - 29.4, HEAD_Z + 25.5),
        DecalFinish(),
    ),
    (
        "Head body, cast",
        "Hose size",
        TextDrawing(text="6 x 9", font="barlow-bold", cap_height=3.4),
        (HEAD_X, FRONT - 24.0, HEAD_Z + 54.5),
        DecalFinish(kind="engraved", relief=0.4),
    ),
    (
        "Nameplate",
        "Type",
        TextDrawing(text="DP-40", font="barlow-bold", cap_height=6.6, color=INK),
        (HEAD_X - 26.0, FRONT - 1.0, 11.0),
        DecalFinish(),
    ),
    (
        "Nameplate",
        "What it is",
        TextDrawing(text="PERISTALTIC\nDOSING PUMP", font="barlow-bold", cap_height=2.6, line=1.55, color=INK),
        (HEAD_X + 13.0, FRONT - 1.0, 11.0),
        DecalFinish(),
    ),
    (
        "Nameplate",
        "Voltage warning",
        MarkingDrawing(kind="voltage", size=10.0, color="#F2C230"),
        (HEAD_X + 37.0, FRONT - 1.0, 10.6),
        DecalFinish(),
    ),
    (
        "Panel",
        "Flow scale",
        ScaleDrawing(
            last=100, step=5, long_every=5, radius=17.2, tick=3.0, cap_height=1.7, color="#E9E9E6", font="barlow-bold"
        ),
        (PANEL_X, FRONT - 4.5, PANEL_Z - 33.5),
        DecalFinish(),
    ),
    (
        "Case front, cast",
        "Maker's sign",
        MarkingDrawing(kind="turning arrow", size=11.0, sweep=300.0, line=0.1),
        (HEAD_X - 51.0, FRONT, HEAD_Z + 55.0),
        DecalFinish(kind="engraved", relief=0.5),
    ),
)
"""Decals of the demo: part, name, drawing, where its middle lies (mm), finish. They look to the front."""


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
    label(store, review_id)
    light(store, review_id)
    stills.take(store, review_id, DEFAULT_SHOT, "coarse", (480, 360), cover=True)


def label(store: Store, review_id: str) -> None:
    """An arrow on the cover that tells which way the rotor turns, and the size of the hose engraved into the head."""
    assembly = editing.look_at(store, review_id).assembly
    made = {}
    for name, title, drawing, place, finish in MARKS:
        part = next(part for part in assembly.parts() if part.name == name)
        into = np.linalg.inv(assembly.world[part.uid])
        center, right, up = (
            tuple((into @ np.array(v, float))[:3].tolist()) for v in ((*place, 1.0), (1, 0, 0, 0), (0, 0, 1, 0))
        )
        picture = decals.drawn(store, drawing)
        made[f"demo-{title.lower().replace(' ', '-')}"] = Decal(
            name=title,
            part=part.uid,
            picture=picture.picture,
            center=center,
            right=right,
            up=up,
            width=picture.width,
            height=picture.height,
            depth=2.0,
            drawing=drawing,
            finish=finish,
        )
    editing.edit(store, review_id, SetDecals(decals=made))


def light(store: Store, review_id: str) -> None:
    """A lighting outside, beside the table top that a review starts with."""
    outside = Lighting(name="Open field", surroundings="field", backdrop=Backdrop(kind="environment", blur=0.15))
    editing.edit(store, review_id, SetLightings(lightings={"outside": outside}))


if __name__ == "__main__":
    load(Store.from_environment(), Path(sys.argv[1]))
