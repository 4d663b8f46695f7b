"""What workers do beside stills: pure functions of their arguments and of immutable rows, so that any of
them can be run again."""

from __future__ import annotations

from functools import partial

from usual_lamp.core.picture import to_png
from usual_lamp.farm.workshop import workshop

PLATE_CORES = 0.5
"""Share of the cores that a finish plate takes."""


def sight_unit(question: str) -> str:
    """Who can be seen in one arrangement: the answer to a question, both as JSON."""
    from usual_lamp.core.scene.sight import SightQuestion, answer_sight
    from usual_lamp.service import meshes

    with workshop.lock:
        asked = SightQuestion.model_validate_json(question)
        return answer_sight(asked, partial(meshes.read, workshop.store())).model_dump_json()


def plate_unit(appearance_json: str, size: int, samples: int) -> bytes:
    """A finish plate as PNG. Nobody waits for one, so it leaves cores to those who work."""
    from usual_lamp.core.appearance import Appearance
    from usual_lamp.core.trace.jobs.plates import trace_plate

    with workshop.lock:
        sample = Appearance.model_validate_json(appearance_json)
        workshop.keep_limits(PLATE_CORES)
        try:
            return to_png(trace_plate(sample, size, samples, workshop.picture))
        finally:
            workshop.keep_limits()
