"""Probes of stills that somebody thinks of taking, traced by the lamp between the frames of all desks."""

from __future__ import annotations

import threading
from collections import OrderedDict, deque
from collections.abc import Callable, Iterator
from concurrent.futures import Future

from usual_lamp.core.scene.light_groups import light_groups
from usual_lamp.core.scene.resolution import TraceInputs
from usual_lamp.core.trace.jobs.outlook import Probe
from usual_lamp.core.trace.jobs.probe import probing
from usual_lamp.core.trace.world.world import World
from usual_lamp.farm.lamp_wish import Wish

KEPT = 32


class Probes:
    """Those that were asked for, and the last ones. Asked from any thread; `step` belongs to the one that traces."""

    def __init__(self, inputs_of: Callable[[Wish], TraceInputs], world_of: Callable[[TraceInputs], World]) -> None:
        self.inputs_of, self.world_of = inputs_of, world_of
        self.waiting: deque[tuple[Wish, Future[Probe]]] = deque()
        self.known: OrderedDict[str, Probe] = OrderedDict()
        """By fingerprint of the inputs."""
        self.passes: Iterator[Probe | None] = iter(())
        self.fingerprint: str | None = None
        """Of the probe under way, if any."""
        self.lock = threading.Lock()

    def ask(self, wish: Wish) -> Future[Probe]:
        """A probe of what a wish shows. The same one for whoever asks again while it is traced."""
        with self.lock:
            for waits, answer in self.waiting:
                if waits == wish:
                    return answer
            answer = Future()
            self.waiting.append((wish, answer))
            return answer

    def step(self) -> bool:
        """Trace one pass of the first that waits; whether there was one. What cannot be traced is told to who asked."""
        if not self.waiting:
            return False
        wish, answer = self.waiting[0]
        try:
            found = self._one_pass(wish)
            if found is not None:
                self._drop()
                answer.set_result(found)
        except Exception as error:
            self._drop()
            answer.set_exception(error)
        return True

    def _one_pass(self, wish: Wish) -> Probe | None:
        """The probe once it is through."""
        if self.fingerprint is None:
            inputs = self.inputs_of(wish)
            fingerprint = inputs.fingerprint()
            if (known := self.known.get(fingerprint)) is not None:
                return known
            self.passes = probing(self.world_of(inputs), light_groups(inputs.lighting).kept)
            self.fingerprint = fingerprint
        found = next(self.passes)
        if found is not None:
            self.known[self.fingerprint] = found
            while len(self.known) > KEPT:
                self.known.popitem(last=False)
        return found

    def _drop(self) -> None:
        """The first that waits, and what was traced of it."""
        with self.lock:
            self.waiting.popleft()
        self.passes, self.fingerprint = iter(()), None
