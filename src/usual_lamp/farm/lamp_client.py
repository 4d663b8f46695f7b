"""The way from the web to the lamp sessions: a Dask actor on the lamp's worker, found again when it was lost."""

from __future__ import annotations

import asyncio
import threading
from collections.abc import Callable
from typing import Any, Literal

from usual_lamp.farm.lamp_wish import Frame, Wish
from usual_lamp.service.errors import NotReady

CONNECT, ANSWER = 3.0, 30.0
"""Seconds to wait for the scheduler and for an answer."""
STARTING_AGAIN = "The lamp is being started again. It will be on in a moment."


async def _answer(question: Any) -> Any:
    return await question


def _longest_at_work(client: Any) -> list[str] | None:
    """The lamp that most likely has what is asked for built already: after the loss of a scheduler all lamps come back
    at once, and the one that was the spare has to begin anew. None where no lamp is known yet."""
    workers = client.scheduler_info(n_workers=-1)["workers"]
    lamps = [(worker["name"], address) for address, worker in workers.items() if "lamp" in worker["resources"]]
    return [min(lamps)[1]] if lamps else None


class LampDoor:
    """The actor: a door to the bench of its worker. Loads the tracer there, not here."""

    def __init__(self) -> None:
        from usual_lamp.farm.lamp import the_bench

        self.bench = the_bench()

    async def frame(self, desk: str, wish: Wish, have: str) -> Frame | None:
        return await self.bench.frame(desk, wish, have)

    async def keep(self, desk: str, form: Literal["png", "jpeg"]) -> bytes | None:
        return await self.bench.keep(desk, form)

    async def off(self, desk: str) -> None:
        await self.bench.off(desk)


class Lamp:
    """Asks lamp sessions from any thread. Connects at first use, and anew after a loss."""

    def __init__(self, address: str | None = None) -> None:
        self.address = address
        self.lock = threading.Lock()
        self.client: Any = None
        self.door: Any = None

    async def next_frame(self, desk: str, wish: Wish, have: str) -> Frame | None:
        """See `LampBench.frame`; waits without a thread. Raises NotReady when there is no lamp to ask."""
        door = self.door or await asyncio.to_thread(self._open)
        try:
            asked = asyncio.run_coroutine_threadsafe(
                _answer(door.frame(desk, wish, have)), self.client.loop.asyncio_loop
            )
            found: Frame | None = await asyncio.wait_for(asyncio.wrap_future(asked), ANSWER)
            return found
        except Exception as error:  # whatever a lost worker or scheduler raises
            self._forget(door)
            raise NotReady(STARTING_AGAIN) from error

    def keep(self, desk: str, form: Literal["png", "jpeg"] = "png") -> bytes | None:
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
                    future = self.client.submit(
                        LampDoor, actor=True, resources={"lamp": 1}, pure=False, workers=_longest_at_work(self.client)
                    )
                    self.door = future.result(timeout=ANSWER)
                except Exception as error:
                    self._drop()
                    raise NotReady("The lamp is not ready yet. It will be on in a moment.") from error
            return self.door

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
