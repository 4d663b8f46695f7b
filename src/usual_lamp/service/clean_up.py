"""Findings of a review, with what can be seen answered by the farm and kept."""

from __future__ import annotations

from dataclasses import dataclass

from sqlalchemy import delete

from usual_lamp.core.scene.findings import Finding, findings
from usual_lamp.core.scene.sight import SightAnswer, sight_question
from usual_lamp.service.reviews import arranged_assembly, require, scene_of, touch
from usual_lamp.store import Store, again_when_overtaken
from usual_lamp.store.tables import SightRun


@dataclass(frozen=True)
class CleanUp:
    """What can be left out of a review."""

    findings: list[Finding]
    looking: bool
    """Whether the farm is still looking who can be seen."""


@again_when_overtaken
def find(store: Store, review_id: str) -> CleanUp:
    """What can be left out. Asks the farm who can be seen, once for each arrangement. Raises NotFound."""
    with store.begin() as session:
        scene = scene_of(require(session, review_id))
        assembly = arranged_assembly(store, session, scene)
        question = sight_question(assembly, scene)
        row = session.get(SightRun, question.key())
        if row is None:
            # What was asked before and is still waiting is about a scene that has passed.
            session.execute(delete(SightRun).where(SightRun.review_id == review_id, SightRun.state == "queued"))
            row = SightRun(key=question.key(), review_id=review_id, question=question.model_dump_json(), state="queued")
            session.add(row)
        answer = SightAnswer.model_validate_json(row.answer) if row.answer else None
        looking = row.state in ("queued", "running")
    return CleanUp(findings(assembly, scene, answer), looking)


@again_when_overtaken
def answer(store: Store, key: str, attempt: int, found: SightAnswer | None) -> None:
    """Keep who can be seen (null: it could not be found out) and tell watching browsers."""
    with store.begin() as session:
        row = session.get(SightRun, key, with_for_update=True)
        if row is None or row.state != "running" or row.attempt != attempt:
            return
        row.state, row.lease = ("failed" if found is None else "done"), None
        row.answer = found.model_dump_json() if found else None
        touch(session, row.review_id)
