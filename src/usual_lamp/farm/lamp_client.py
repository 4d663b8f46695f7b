"""The way from the web to the lamp sessions: a Dask actor on the lamp's worker, found again when it was lost."""

from __future__ import annotations

import asyncio
import threading
import time
from collections.abc import Callable
from typing import Any, Literal

from usual_lamp.core.trace.jobs.outlook import Probe
from usual_lamp.farm.lamp_wish import Frame, Wish
from usual_lamp.farm.links import tracers
from usual_lamp.service.errors import NotFound, NotReady, Refused
from usual_lamp.store import DatabaseAway, NoRoom

CONNECT, ANSWER = 3.0, 30.0
"""Seconds to wait for the scheduler and for an answer."""
RETURN = 2.0
"""Seconds in which a lamp finds a new scheduler."""
STARTING_AGAIN = "The lamp is being started again. It will be on in a moment."


async def _answer(question: Any) -> Any:
    return await question


class LampDoor:
    """The actor: a door to the bench of its worker. Loads the tracer there, not here."""

    def __init__(self) -> None:
        from usual_lamp.farm.lamp import the_bench

        self.bench = the_bench()

    async def frame(self, desk: str, wish: Wish, have: str) -> Frame | None:
        return await self.bench.frame(desk, wish, have)

    async def keep(self, desk: str, form: Literal["png", "jpeg", "webp"]) -> bytes | None:
        return await self.bench.keep(desk, form)

    async def probe(self, wish: Wish) -> Probe | str | None:
        """The probe, None when it takes longer, or why there is none."""
        try:
            return await self.bench.probe(wish)
        except (ValueError, NotFound, DatabaseAway, NoRoom) as error:
            return str(error)

    async def off(self, desk: str) -> None:
        await self.bench.off(desk)


class Lamp:
    """Asks lamp sessions from any thread. Connects at first use, and anew after a loss."""

    def __init__(self, address: str | None = None) -> None:
        self.address = address
        self.lock = threading.Lock()
        self.client: Any = None
        self.door: Any = None
        self.known: tuple[str, str] | None = None
        """Scheduler and lamp that were asked last."""

    async def next_frame(self, desk: str, wish: Wish, have: str) -> Frame | None:
        """See `LampBench.frame`; waits without a thread. Raises NotReady when there is no lamp to ask."""
        found: Frame | None = await self._wait_for(lambda door: door.frame(desk, wish, have))
        return found

    async def probe(self, wish: Wish) -> tuple[Probe, int] | None:
        """See `LampBench.probe`; with it, how many processes trace stills. Raises NotReady when there is no lamp to
        ask, Refused when the picture cannot be traced."""
        found: Probe | str | None = await self._wait_for(lambda door: door.probe(wish))
        if isinstance(found, str):
            raise Refused(found)
        return None if found is None else (found, max(1, tracers(self.client)))

    async def _wait_for(self, question: Callable[[Any], Any]) -> Any:
        """The answer to a question to the door; waits without a thread. Raises NotReady where the lamp is lost."""
        door = self.door or await asyncio.to_thread(self._open)
        try:
            asked = asyncio.run_coroutine_threadsafe(_answer(question(door)), self.client.loop.asyncio_loop)
            return await asyncio.wait_for(asyncio.wrap_future(asked), ANSWER)
        except Exception as error:  # whatever a lost worker or scheduler raises
            self._forget(door)
            raise NotReady(STARTING_AGAIN) from error

    def keep(self, desk: str, form: Literal["png", "jpeg", "webp"] = "png") -> bytes | None:
        found: bytes | None = self._ask(lambda door: door.keep(desk, form))
        return found

    def off(self, desk: str) -> None:
        if self.door is not None:
            self._ask(lambda door: door.off(desk))

    def _ask(self, question: Callable[[Any], Any]) -> Any:
        door = self._open()
        try:
            return question(door).result(timeout=ANSWER)
        except Exception as error:  # whatever a lost worker or scheduler raises: forget it, and be asked again
            self._forget(door)
            raise NotReady(STARTING_AGAIN) from error

    def _open(self) -> Any:
        with self.lock:
            if self.door is None:
                from distributed import Client

                from usual_lamp.farm.links import scheduler_address, security

                try:
                    address, keys = self.address or scheduler_address(), security()
                    self.client = Client(address, timeout=CONNECT, direct_to_workers=True, security=keys)
                    lamp = self._the_same()
                    future = self.client.submit(
                        LampDoor, actor=True, resources={"lamp": 1}, pure=False, workers=[lamp] if lamp else None
                    )
                    self.door = future.result(timeout=ANSWER)
                except Exception as error:
                    self._drop()
                    raise NotReady("The lamp is not ready yet. It will be on in a moment.") from error
            return self.door

    def _the_same(self) -> str | None:
        """Where the lamp is that was asked before, or else the one that has been there longest; None where none is.

        A scheduler that has just begun does not know all lamps: that one is waited for a moment, as it has the picture
        built already, and another one would have to begin anew.
        """
        deadline = time.monotonic() + RETURN
        while True:
            scheduler = self.client.scheduler_info(n_workers=-1)
            lamps = {w["name"]: address for address, w in scheduler["workers"].items() if "lamp" in w["resources"]}
            before = self.known
            waits = before is not None and before[0] != scheduler["id"] and before[1] not in lamps
            if not waits or time.monotonic() > deadline:
                break
            time.sleep(0.05)
        if not lamps:
            return None
        name = before[1] if before is not None and before[1] in lamps else min(lamps)
        self.known = scheduler["id"], name
        return str(lamps[name])

    def _forget(self, door: Any) -> None:
        with self.lock:
            if self.door is door:
                self._drop()

    def _drop(self) -> None:
        client, self.client, self.door = self.client, None, None
        if client is not None:
            threading.Thread(target=client.close, args=(2,), daemon=True).start()

    def close(self) -> None:
        with self.lock:
            self._drop()
