"""From a still's light to its finished picture, in units of work: blocks without grain, one file of them, the picture.

Blocks are kept until the still is done, so that one that is paused or interrupted meanwhile goes on where it was.
"""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager

from sqlalchemy import select

from usual_lamp.core.picture.blocks import blocks_of, is_small
from usual_lamp.core.picture.develop import Effort, Scales
from usual_lamp.core.picture.finishing import Ground
from usual_lamp.farm.asking import Asking
from usual_lamp.farm.finish_units import (
    CleanOrder,
    Finished,
    Kind,
    clean_unit,
    develop_unit,
    join_unit,
    relit_unit,
    survey_unit,
)
from usual_lamp.service.still_scenes import words_for
from usual_lamp.service.stills import finish_of
from usual_lamp.store import Store
from usual_lamp.store.tables import Still, StillBlock

SURVEYING, CLEANING, WRITING = "Finding what lies behind each pixel", "Removing the grain", "Writing the files"


class Finishing:
    """Of one still."""

    def __init__(self, store: Store, farm: Asking, still: Still, effort: Effort) -> None:
        self.store, self.farm, self.still, self.effort = store, farm, still, effort
        self.size = still.width, still.height
        self.look = finish_of(still)

    def survey(self) -> str:
        """What lies behind its pixels: the name of the file."""
        asked = [(self.still.id, self.still.fingerprint, number) for number in self._missing("survey", 0)]
        self.farm.ask_each(survey_unit, asked, self._said(SURVEYING), len(blocks_of(self.size)) - len(asked))
        return self._joined("survey")

    def of_light(
        self, samples: int, ground: Ground | None, scales: Scales, survey: str | None, source: str | None = None
    ) -> Finished:
        """The still of its tiles, or of the light of the finished still `source`; of so many samples. `scales` tell how
        bright it is, and the `survey` what is bare of a transparent one."""
        told = None if is_small(self.size) else scales
        order = CleanOrder(self.still.id, source, samples, self.effort, told, survey if ground is not None else None)
        asked = [(order, number) for number in self._missing("light", samples)]
        self.farm.ask_each(clean_unit, asked, self._said(CLEANING), len(blocks_of(self.size)) - len(asked))
        return self.of_negative(self._joined("light"), samples, ground)

    def of_negative(self, negative: str, samples: int, ground: Ground | None) -> Finished:
        """The still of its own negative, or that of one which differs in its finish alone."""
        words = words_for(self.store, self.still, samples)
        with self._saying(WRITING):
            return self.farm.ask(develop_unit, negative, self.look, words, ground)

    def relit(self, source: str) -> tuple[bytes, Scales] | None:
        """See `relit_unit`."""
        return self.farm.ask(relit_unit, self.still.id, source, self.look)

    def _said(self, doing: str) -> str | None:
        """A small one is there before that is read."""
        return None if is_small(self.size) else doing

    def _joined(self, kind: Kind) -> str:
        with self._saying(WRITING):
            return self.farm.ask(join_unit, self.still.id, kind, self.size)

    @contextmanager
    def _saying(self, doing: str) -> Iterator[None]:
        self.farm.doing = self._said(doing)
        try:
            yield
        finally:
            self.farm.doing = None

    def _missing(self, kind: Kind, samples: int) -> list[int]:
        """Blocks that are not there yet, of so many samples."""
        own = (StillBlock.still_id == self.still.id) & (StillBlock.kind == kind) & (StillBlock.samples == samples)
        with self.store.begin() as session:
            there = set(session.scalars(select(StillBlock.number).where(own)))
        return [number for number in range(len(blocks_of(self.size))) if number not in there]
