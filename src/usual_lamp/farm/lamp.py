"""Lamp sessions: the traced picture on the desk, one for each open desk, on a worker of their own.

A request carries the whole wish (review, view, size, region) and the frame it has already, so a bench that was
lost and begun anew answers as if nothing had happened. One thread traces; it follows new wishes in turn,
and between them makes the picture asked for last finer.
"""

from __future__ import annotations

import asyncio
import gc
import logging
import threading
import time
import traceback
import uuid
from collections import OrderedDict
from collections.abc import Callable
from dataclasses import dataclass, field
from functools import lru_cache, partial
from typing import Any, Literal

import numpy as np
from numpy.typing import NDArray

from usual_lamp.core.appearance import SHELF
from usual_lamp.core.camera import Finish
from usual_lamp.core.light import known_surroundings
from usual_lamp.core.light.lamps import Standing
from usual_lamp.core.picture import (
    Clean,
    FastDenoiser,
    Image,
    Layers,
    denoise,
    develop,
    finish,
    to_jpeg,
    to_png,
    to_webp,
)
from usual_lamp.core.picture.judging import false_colors, metered_exposure, outline, scale_ends
from usual_lamp.core.picture.read import read_picture
from usual_lamp.core.scene import Shot, inputs_of, shown_parts, trace_inputs
from usual_lamp.core.scene.resolution import TraceInputs, cut_in
from usual_lamp.core.trace.jobs import remarks
from usual_lamp.core.trace.jobs.live import LivePicture
from usual_lamp.core.trace.jobs.outlook import Probe
from usual_lamp.core.trace.jobs.plates import trace_plate
from usual_lamp.core.trace.world.kept import Kept
from usual_lamp.core.trace.world.world import World
from usual_lamp.farm.lamp_probes import Probes
from usual_lamp.farm.lamp_wish import Frame, Wish
from usual_lamp.farm.limits import Limits
from usual_lamp.farm.rehearsal import Rehearsal
from usual_lamp.service import editing, meshes
from usual_lamp.service.errors import NotFound
from usual_lamp.service.resolving import Resolutions
from usual_lamp.store import DatabaseAway, NoRoom, Store, blobs

AWAKE = 3
"""Scenes kept built; the least recently used beyond that is put to sleep and built again when it is asked for."""
ATTENTION = 4.0
"""Seconds without a request after which a session stops tracing."""
SKETCH_ABOVE = 100_000
"""Pixels above which a picture that starts again is first shown at half its size; a paused one always is."""
ENOUGH = 16
"""Samples of a picture before which no other that stands aside is traced."""
PATIENCE = 20.0
"""Seconds that a request waits for a newer frame."""
log = logging.getLogger("usual_lamp.lamp")


@dataclass
class Session:
    wish: Wish
    picture: LivePicture
    frame: Frame | None = None
    asked: float = 0.0
    layers: Layers | None = None
    """Behind the frame."""
    denoisers: dict[tuple[int, ...], FastDenoiser] = field(default_factory=dict)
    shown_wish: Wish | None = None
    """The wish that the picture follows already."""
    finish: Finish = field(default_factory=Finish)
    remark: str | None = None
    next_frame: float = 0.0
    followed: float = 0.0
    """When a wish of it was followed last."""
    changed: asyncio.Event = field(default_factory=asyncio.Event)

    def can_refine(self, now: float) -> bool:
        """Whether somebody looks at it, and more samples would make it finer."""
        failed = self.frame is not None and self.frame.message is not None
        return not (self.wish.paused or failed or self.picture.rests) and now - self.asked < ATTENTION


class LampBench:
    """All sessions of a worker. Asked on the worker's event loop; tracing has a thread of its own."""

    def __init__(self, rehearses: bool = False) -> None:
        """One that `rehearses` traces the review that was worked on last before it says that it is warm: the first
        frame there is then a matter of a second, also after another lamp was lost."""
        self.store = Store.from_environment()
        self.sessions: OrderedDict[str, Session] = OrderedDict()
        self.resolutions = Resolutions()
        self.kept = Kept(partial(meshes.read, self.store))
        self.limits = Limits(self.store)
        self.probes = Probes(lambda wish: self._inputs(wish)[2], self._new_world)
        self.rehearsal = Rehearsal(self.store, self.resolutions, self._new_picture) if rehearses else None
        self.name, self.count = uuid.uuid4().hex[:8], 0
        self.lock = threading.Lock()
        self.work, self.warm, self.closing = threading.Event(), threading.Event(), False
        self.loop: asyncio.AbstractEventLoop | None = None
        self.thread = threading.Thread(target=self._trace_forever, daemon=True, name="lamp")
        self.thread.start()

    def close(self) -> None:
        """End tracing; waits for the block under way."""
        self.closing = True
        self.work.set()
        self.thread.join()

    # -- asked ------------------------------------------------------------------------------------------------

    async def frame(self, desk: str, wish: Wish, have: str) -> Frame | None:
        """A frame for the wish that is newer than `have`; None when there is none in time or the wish is passed."""
        self.loop = asyncio.get_running_loop()
        session = self._session(desk, wish)
        deadline = time.monotonic() + PATIENCE
        while time.monotonic() < deadline and session.wish == wish:
            found = session.frame
            if found is not None and found.wish == wish and found.token != have:
                return found
            session.asked = time.monotonic()
            try:
                await asyncio.wait_for(session.changed.wait(), 1.0)
            except TimeoutError:
                continue
        return None

    async def keep(self, desk: str, form: Literal["png", "jpeg", "webp"]) -> bytes | None:
        """What the desk shows now, developed as a finished still is; None when nothing is traced yet."""
        session = self.sessions.get(desk)
        if session is None or session.layers is None:
            return None
        layers, look = session.layers, session.finish
        encoders: dict[str, Callable[[NDArray[np.uint8]], bytes]] = {"png": to_png, "jpeg": to_jpeg, "webp": to_webp}
        return await asyncio.to_thread(lambda: encoders[form](develop(layers, look)))

    async def probe(self, wish: Wish) -> Probe | None:
        """How fast the picture of a wish is traced, and how its grain falls; None when that takes longer: ask again.
        Raises ValueError, NotFound."""
        probe = self.probes.ask(wish)
        self.work.set()
        try:
            return await asyncio.wait_for(asyncio.shield(asyncio.wrap_future(probe)), PATIENCE)
        except TimeoutError:
            return None

    async def off(self, desk: str) -> None:
        with self.lock:
            self.sessions.pop(desk, None)

    def _session(self, desk: str, wish: Wish) -> Session:
        with self.lock:
            session = self.sessions.get(desk)
            if session is None:
                # It stands by no longer.
                self.rehearsal = None
                session = Session(wish, self._new_picture())
                self.sessions[desk] = session
            self.sessions.move_to_end(desk)
            while len(self.sessions) > AWAKE:
                self.sessions.popitem(last=False)
            session.wish, session.asked = wish, time.monotonic()
        self._tell(session)
        self.work.set()
        return session

    def _new_picture(self) -> LivePicture:
        read_mapped = partial(meshes.read_mapped, self.store)
        return LivePicture(self.kept.mesh_of, self._picture, read_mapped, self.kept)

    def _new_world(self, inputs: TraceInputs) -> World:
        self.limits.apply()
        if self.limits.memory_is_short():
            raise ValueError("How long it takes cannot be measured: tracing has all the memory that it may take.")
        read_mapped = partial(meshes.read_mapped, self.store)
        return World(inputs, self.kept.mesh_of, picture_of=self._picture, mapped_of=read_mapped, kept=self.kept)

    def _picture(self, key: str, color: bool) -> Image:
        return read_picture(blobs.read(self.store, key), color)

    def _tell(self, session: Session) -> None:
        """Wake whoever waits on the session: for a new frame, or because the wish is another now."""
        old, session.changed = session.changed, asyncio.Event()
        old.set()

    # -- traced -----------------------------------------------------------------------------------------------

    def _trace_forever(self) -> None:
        warm_up()
        if (rehearsal := self.rehearsal) is not None:
            rehearsal.follow()
        self.warm.set()
        while not self.closing:
            session = self._next()
            if (session is None or session.shown_wish == session.wish) and self.probes.step():
                continue
            if session is None:
                if (rehearsal := self.rehearsal) is None or not rehearsal.step():
                    self.work.wait(0.5)
                    self.work.clear()
                continue
            wish = session.wish
            try:
                self._serve(session, wish)
            except (DatabaseAway, NoRoom):
                # What the desk shows stays; the wish is followed as soon as the database is there again.
                time.sleep(0.5)
            except (ValueError, NotFound) as error:
                self._show(session, wish, b"", message=str(error))
                session.shown_wish = wish
            except Exception as error:
                log.error("%s", traceback.format_exc())
                self._show(session, wish, b"", message=f"Tracing failed: {error}. Switch the lamp off and on again.")
                session.shown_wish = wish

    def _next(self) -> Session | None:
        """Who wishes something new, in turn: somebody who drags a slider keeps nobody else waiting. Without such, the
        session asked last whose picture can get finer."""
        now = time.monotonic()
        with self.lock:
            wishing = [session for session in self.sessions.values() if session.shown_wish != session.wish]
            first = [session for session in wishing if not session.wish.aside]
            if first:
                return min(first, key=lambda session: session.followed)
            able = [session for session in reversed(self.sessions.values()) if session.can_refine(now)]
            for session in able:
                if not session.wish.aside and session.picture.samples < ENOUGH:
                    return session
            return min(wishing, key=lambda session: session.followed, default=None) or next(iter(able), None)

    def _serve(self, session: Session, wish: Wish) -> None:
        """Follow the wish, or trace one block more; show a frame when it is worth it."""
        self.limits.apply()
        if session.shown_wish != wish:
            self._follow(session, wish)
        if not wish.paused and not session.picture.rests and session.picture.step():
            self._develop_when_due(session, wish)

    def _inputs(self, wish: Wish) -> tuple[editing.Edited, Shot, TraceInputs]:
        """The review as it is now, the shot as it is wished, and what the tracer needs for it. Raises ValueError."""
        found = editing.look_at(self.store, wish.review)
        shot = found.scene.shots.get(wish.shot)
        if shot is None:
            raise ValueError("That shot is not in this review any more.")
        if wish.lighting is not None and wish.lighting not in found.scene.lightings:
            raise ValueError("That lighting is not in this review any more.")
        shot = shot.model_copy(update={"camera": wish.camera, "lighting": wish.lighting or shot.lighting})
        if wish.look is not None and wish.look not in found.scene.looks:
            raise ValueError("That look is not in this review any more.")
        size = (wish.width, wish.height)
        if wish.look is None or wish.look == found.scene.look:
            inputs = inputs_of(self.resolutions.resolved(wish.review, found), shot, size)
        else:
            inputs = trace_inputs(found.assembly, found.scene, shot, size, wish.look)
        if wish.surroundings is not None:
            lighting = inputs.lighting.model_copy(update={"surroundings": known_surroundings(wish.surroundings)})
            inputs = inputs.model_copy(update={"lighting": lighting})
        return found, shot, inputs

    def _follow(self, session: Session, wish: Wish) -> None:
        session.followed = time.monotonic()
        found, shot, inputs = self._inputs(wish)
        restarted = session.picture.follow(inputs, wish.region)
        self._make_room(session)
        session.finish, session.shown_wish = shot.finish, wish
        session.remark = self._remark(session.picture.world, found, shot)
        session.next_frame = 0.0
        area = session.picture.area
        if restarted and (wish.paused or area.width * area.height > SKETCH_ABOVE):
            layers = Layers.from_sums(session.picture.sketch(), 1)
            clean = self._denoised(session, layers)
            pixels = false_colors(clean, shot.finish) if wish.shows == "luminance" else finish(clean, shot.finish)
            self._show(session, wish, to_jpeg(pixels, 90))
        elif session.picture.samples:
            self._develop_when_due(session, wish)

    @staticmethod
    def _remark(world: World | None, found: editing.Edited, shot: Shot) -> str | None:
        """What the user has to know about a picture that is black or strange for a reason."""
        if world is None:
            return None
        if world.is_dark:
            return "There is no light: everything is off. Switch a light on under Lights."
        shown, _ = cut_in(found.assembly, shown_parts(found.assembly, found.scene), shot)
        inside = remarks.around_camera(world)
        if inside is not None:
            name = shown[inside].name
            return f"The camera is inside {name}. Go back with the wheel, or hide that part."
        for lamp in found.scene.lighting_of(shot).sources.values():
            if lamp.on and isinstance(lamp, Standing):
                inside = remarks.around(world, lamp.position)
                if inside is not None:
                    name = shown[inside].name
                    return f"The lamp {lamp.name} is inside {name}, which keeps its light in. Move it out."
        return None

    def _make_room(self, session: Session) -> None:
        """Put other sessions to sleep when memory is short. Raises ValueError when that is not enough."""
        if not self.limits.memory_is_short():
            return
        with self.lock:
            for desk in [desk for desk, other in self.sessions.items() if other is not session]:
                del self.sessions[desk]
        self.kept.forget()
        gc.collect()
        if self.limits.memory_is_short():
            session.picture = self._new_picture()
            gc.collect()
            raise ValueError(
                f"This picture needs more than the {self.limits.allowed.memory:.0f} GB that tracing may take. "
                "Suppress parts, or allow more under Tracing on the page of reviews."
            )

    def _develop_when_due(self, session: Session, wish: Wish) -> None:
        """The first passes at once; later never more than a quarter of the time for developing."""
        began = time.monotonic()
        picture = session.picture
        if began < session.next_frame and not picture.rests:
            return
        session.layers = layers = Layers.from_sums(picture.picture(), picture.samples)
        clean = self._denoised(session, layers)
        edge = outline(clean, session.finish)
        facts: dict[str, Any] = {"shares": picture.shares(), "outline": edge and (edge.lost, edge.where, edge.over)}
        facts["metered"] = metered_exposure(clean, session.finish)
        if wish.shows == "luminance":
            pixels = false_colors(clean, session.finish)
            facts["scale"] = scale_ends(session.finish)
        else:
            pixels = finish(clean, session.finish)
        self._show(session, wish, to_jpeg(pixels, 92), picture.samples, picture.grain(), **facts)
        if picture.samples > 2:
            session.next_frame = time.monotonic() + 3 * (time.monotonic() - began)

    def _denoised(self, session: Session, layers: Layers) -> Clean:
        """Quickly while the picture grows, well once it rests."""
        if session.picture.rests:
            return denoise(layers)
        shape = layers.color.shape[:2]
        if shape not in session.denoisers:
            # One for the sketch and one for the picture.
            if len(session.denoisers) > 1:
                session.denoisers.clear()
            session.denoisers[shape] = FastDenoiser(*shape)
        return session.denoisers[shape](layers)

    def _show(
        self,
        session: Session,
        wish: Wish,
        jpeg: bytes,
        samples: int = 0,
        grain: float | None = None,
        message: str | None = None,
        **facts: Any,
    ) -> None:
        """Put up a frame; `facts` are further fields of it."""
        self.count += 1
        remark = None if message else session.remark
        token = f"{self.name}-{self.count}"
        session.frame = Frame(token, wish, jpeg, samples, grain, message, remark=remark, **facts)
        if self.loop is not None:
            self.loop.call_soon_threadsafe(self._tell, session)


def warm_up() -> None:
    """Load the tracer and its kernels with a picture of a few pixels."""
    trace_plate(SHELF["polycarbonate-clear"], size=16, samples=1)


@lru_cache(maxsize=1)
def the_bench() -> LampBench:
    """The bench of this process; it outlives the connections through which it is asked."""
    return LampBench(rehearses=True)
