"""Letting workers do what native code does: they may crash, and must not take the dispatcher along."""

from __future__ import annotations

from abc import ABC, abstractmethod
from collections.abc import Callable, Sequence
from typing import Any, TypeVar

from distributed import Client, Future, KilledWorker

from usual_lamp.farm.links import tracers
from usual_lamp.farm.tile_units import TilesGone

MOST_CRASHES = 3
"""Times that a unit of work may be given up by the scheduler, workers having died of it, with nothing done since."""
T = TypeVar("T")


class Lost(Exception):
    """The still was paused, stopped, removed or taken over: leave it as it is."""


class TracerCrashed(Exception):
    """Tracing it ended its process again and again."""


class Asking(ABC):
    """Who asks workers for something that takes a while."""

    def __init__(self, client: Client, closing: Callable[[], bool]) -> None:
        self.client, self.closing = client, closing
        self.crashes = 0
        self.doing: str | None = None
        """What is being done, in words, where it takes long."""

    @abstractmethod
    def finished(self, futures: list[Future]) -> list[Future]:
        """Those that are done after a short wait. Raises Lost when nobody wants them any more."""

    def ask(self, unit: Callable[..., T], *asked: object) -> T:
        """Let a worker do what native code does: it may crash, and must not take this process along."""
        while True:
            future = self._handed(unit, asked)
            try:
                while not self.finished([future]):
                    self._stop_when_closing()
                return self.result_of(future)
            except KilledWorker as error:
                self.crashed(error)
            finally:
                future.cancel(force=True)

    def ask_each(
        self, unit: Callable[..., object], asked: Sequence[tuple[object, ...]], doing: str | None, before: int = 0
    ) -> None:
        """The same of several things, one more at a time than there are workers, saying how many are done; so many were
        `before`."""
        waiting, under_way = list(reversed(asked)), dict[Future, tuple[object, ...]]()
        try:
            while waiting or under_way:
                while waiting and len(under_way) <= tracers(self.client):
                    what = waiting.pop()
                    under_way[self._handed(unit, what)] = what
                done = len(asked) - len(waiting) - len(under_way)
                self.doing = f"{doing}: {100 * (before + done) // (before + len(asked))} %" if doing else None
                for future in self.finished(list(under_way)):
                    what = under_way.pop(future)
                    try:
                        self.result_of(future)
                        self.crashes = 0
                    except KilledWorker as error:
                        self.crashed(error)
                        waiting.append(what)
                self._stop_when_closing()
        finally:
            self.doing = None
            self.client.cancel(list(under_way), force=True)

    def _handed(self, unit: Callable[..., object], asked: tuple[object, ...]) -> Future:
        return self.client.submit(unit, *asked, pure=False, resources={"trace": 1})

    def result_of(self, future: Future) -> Any:
        """What a unit gives. Raises Lost when the light that it works on is gone."""
        try:
            return future.result()
        except TilesGone as error:
            raise Lost from error

    def _stop_when_closing(self) -> None:
        if self.closing():
            raise Lost

    def crashed(self, error: KilledWorker) -> None:
        """Count it. Raises TracerCrashed when that was once too often."""
        self.crashes += 1
        if self.crashes >= MOST_CRASHES:
            raise TracerCrashed("its process ended again and again while tracing it") from error
