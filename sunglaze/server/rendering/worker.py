"""The rendering process: takes requests from a pipe, sends frames. A crash or hang here costs a second, and no edit.

One thread renders; a second one reads files and builds kernels, so that a running stream never waits for either. A third takes
requests as they come, so that an edit is not built later for a frame that is being rendered; a fourth waits for the process that
makes machine code.
"""

from __future__ import annotations

import contextlib
import faulthandler
import gc
import logging
import os
import queue
import signal
import sys
import threading
import time
from collections.abc import Callable, Iterator
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from multiprocessing.connection import Connection
from pathlib import Path
from typing import Any

from sunglaze.core.cache import CACHE
from sunglaze.core.camera.cameras import screen_size
from sunglaze.core.camera.cast import Sitting, StandIn
from sunglaze.core.camera.laying import start_threads
from sunglaze.core.effect.compiling import compile_effect
from sunglaze.core.effect.document import Effect
from sunglaze.core.effect.recipe import BadRecipe
from sunglaze.core.engine.kernel import put_optimised, text_to_optimise
from sunglaze.core.engine.running import prepare, prepare_quickly, unoptimised
from sunglaze.core.engine.stepping import machine
from sunglaze.core.errors import GlazeError
from sunglaze.server.processes import call_this, give_memory_back
from sunglaze.server.rendering import optimising
from sunglaze.server.rendering.messages import FRAME, TELLS, Acknowledge, Done, Forget, Leave, Move, Ping, Reply, SetEffects, View
from sunglaze.server.rendering.optimising import NICE, Optimiser
from sunglaze.server.rendering.shelf import Shelf
from sunglaze.server.rendering.viewing import HEIGHT, WIDTH, Shown, Viewer

_log = logging.getLogger("sunglaze")
LONGEST_SLEEP = 0.05
REST_BEFORE_OPTIMISING = 0.25
TURN_SECONDS, LONGEST_TURN_OUT = 0.005, 0.1
"""What has time takes turns with the frames of a playing picture: so much at a time, then the next frame."""
SWITCH_INTERVAL = 0.0002
NUMBERS = 4
"""Of `Worker.busy`."""


@dataclass(frozen=True)
class Built:
    """What the building thread has made of a request, and what it tells the browser where that went wrong."""

    request: SetEffects
    shown: dict[str, Shown]
    trouble: Reply | None


Waiting = SetEffects | View | Move | Done | Acknowledge | Leave | Built


class Worker:
    """State of the process. `busy`: NUMBERS that the server reads to see whether it hangs, or why it ended: the viewers for whom
    it draws and builds at the moment, 0 for none, and how often it went on with drawing and building."""

    def __init__(self, pipe: Connection, shelf: Shelf, busy: Any) -> None:
        self.pipe, self.shelf, self.busy = pipe, shelf, busy
        self.viewers: dict[int, Viewer] = {}
        self.requests, self.sending = threading.Lock(), threading.Lock()
        self.waiting: queue.SimpleQueue[Waiting | None] = queue.SimpleQueue()
        self.edited = threading.Event()
        self.sat = threading.Event()
        self.sent = threading.Event()
        self.builder = ThreadPoolExecutor(1, thread_name_prefix="build")
        self.optimising = ThreadPoolExecutor(1, thread_name_prefix="optimise")
        self.optimiser = Optimiser()
        self.swapped: list[Built] = []
        self.latest: dict[int, SetEffects] = {}
        self.newest: dict[int, SetEffects] = {}

    def run(self) -> None:
        """Serve until the pipe closes, which it does when the server ends in whatever way."""
        start_threads()
        threading.Thread(target=self._decode_ahead, daemon=True).start()
        threading.Thread(target=self._listen, daemon=True, name="listen").start()
        # Compiled before the first edit needs it.
        self.builder.submit(machine)
        with contextlib.suppress(BrokenPipeError, ConnectionResetError):
            while True:
                now = time.monotonic()
                wait = min([LONGEST_SLEEP, *(viewer.next_due(now) for viewer in self.viewers.values())])
                # What else has come belongs to the same frame: moves are coalesced here.
                for request in self._come(wait):
                    if request is None:
                        return
                    self._taken(request)
                for viewer in list(self.viewers.values()):
                    self._produce(viewer)
                for built in [one for one in self.swapped if not self._is_awaited(one)]:
                    self.swapped.remove(built)
                    self._later(self.builder, self._finish, built.request, built.shown)

    def _taken(self, request: Waiting) -> None:
        try:
            self._take(request)
        except OSError:
            raise
        except Exception as error:
            number = request.request.viewer if isinstance(request, Built) else getattr(request, "viewer", 0)
            self._fail(number, error)

    def _produce(self, viewer: Viewer) -> None:
        """Whatever goes wrong in a viewer's picture stops that one, with words, and no other."""
        self.busy[0] = viewer.number
        try:
            viewer.produce(time.monotonic(), self._send)
        except (BrokenPipeError, ConnectionResetError):
            raise
        except Exception as error:
            self._fail(viewer.number, error)
        self.busy[0] = 0
        self._goes_on()

    def _goes_on(self) -> None:
        """It does not hang: this much more is drawn."""
        self.busy[2] = (self.busy[2] + 1) & 0xFFFFFF

    def _fail(self, number: int, error: Exception) -> None:
        viewer = self.viewers.get(number)
        if viewer is not None:
            viewer.stop()
        words = trouble_of(error, "its picture is stopped until it changes")
        self._send(Reply(number, {**words, "serial": viewer.seen if viewer else 0}))

    def _send(self, reply: Reply) -> None:
        with self.sending:
            self.pipe.send(reply)
        if reply.header["type"] == FRAME:
            self.sent.set()

    def _listen(self) -> None:
        """On a thread of its own: what comes through the pipe. Building begins at once."""
        with contextlib.suppress(EOFError, OSError):
            while True:
                request = self.pipe.recv()
                if isinstance(request, Ping):
                    self._send(Reply(0, {"type": "pong"}))
                    continue
                if isinstance(request, Forget):
                    self.shelf.renew(request.key)  # an effect that needs it may be next
                    continue
                if isinstance(request, SetEffects):
                    with self.requests:
                        self.latest[request.viewer] = self.newest[request.viewer] = request
                self.waiting.put(request)
                if isinstance(request, SetEffects):
                    self.edited.set()
                    self._later(self.builder, self._build, request)
        self.waiting.put(None)

    def _come(self, wait: float) -> Iterator[Waiting | None]:
        """What waits, or the first that comes within some seconds."""
        with contextlib.suppress(queue.Empty):
            yield self.waiting.get(timeout=wait) if wait > 0 else self.waiting.get_nowait()
            while True:
                yield self.waiting.get_nowait()

    def _decode_ahead(self) -> None:
        """Make the frames of what sits before the cameras before they are due; once made they are kept. Frames and builds that
        are due now come first: on Linux a thread has a priority of its own."""
        if sys.platform == "linux":
            os.setpriority(os.PRIO_PROCESS, threading.get_native_id(), NICE)
        while True:
            wanted = {(viewer.sitting, screen_size(viewer.screen, viewer.short)) for viewer in list(self.viewers.values())}
            for sitting, size in wanted or {(Sitting(), (WIDTH, HEIGHT))}:
                camera = StandIn(*size, sitting)
                if camera.length * 4 * size[0] * size[1] < CACHE.room * 0.9:
                    for number in range(camera.length):
                        while self.busy[1]:
                            time.sleep(LONGEST_SLEEP)  # threads would take turns with what builds
                        if self.sat.is_set():
                            break  # who sits there now comes first
                        camera.frame(number)
                        time.sleep(0.004)
            self.sat.wait()
            self.sat.clear()

    def _take(self, request: Waiting) -> None:
        now = time.monotonic()
        if isinstance(request, Built):
            self._swap(request)
        elif isinstance(request, SetEffects):
            viewer = self._viewer(request.viewer)
            viewer.moves_since.clear()
            viewer.pacing.building = request.viewer in self.latest
        elif isinstance(request, Leave):
            self.viewers.pop(request.viewer, None)
            with self.requests:
                self.newest.pop(request.viewer, None)
                self.latest.pop(request.viewer, None)
            self.swapped = [one for one in self.swapped if one.request.viewer != request.viewer]
        elif isinstance(request, View):
            # How to look may be said before what to look at.
            self._viewer(request.viewer).set_view(request, now)
            if request.sitting or request.screen or request.short:
                self.sat.set()
        elif request.viewer in self.viewers:
            viewer = self.viewers[request.viewer]
            if isinstance(request, Move):
                viewer.move(request, now)
            elif isinstance(request, Done):
                viewer.do(request, now, self._send)
            elif isinstance(request, Acknowledge):
                viewer.unacknowledged[request.kind] = max(0, viewer.unacknowledged[request.kind] - request.count)

    def _viewer(self, number: int) -> Viewer:
        return self.viewers.setdefault(number, Viewer(number, goes_on=self._goes_on))

    def _build(self, request: SetEffects) -> None:
        """On the building thread. An effect that cannot be built is reported."""
        self.edited.clear()
        if self.latest.get(request.viewer) is not request:
            return
        shown: dict[str, Shown] = {}
        trouble: Reply | None = None
        for key, effect in request.effects.items():
            self.busy[1] = request.viewer
            try:
                shown[key] = self._shown(effect)
            except Exception as error:
                words = trouble_of(error, "the last good picture goes on")
                trouble = Reply(request.viewer, {**words, "effect": key, "serial": request.serial})
            self.busy[1] = 0
            self.busy[3] = (self.busy[3] + 1) & 0xFFFFFF
        self.waiting.put(Built(request, shown, trouble))

    def _finish(self, request: SetEffects, shown: dict[str, Shown]) -> None:
        """Also on the building thread, when the first picture is on its way: what the tiles need, then optimising elsewhere."""
        soonest = time.monotonic() + REST_BEFORE_OPTIMISING
        turn = 0.0
        for one in shown.values():
            for _ in () if request.small else prepare_quickly(one.compiled.program):
                if time.monotonic() - turn > TURN_SECONDS:
                    self._wait_for_frame(request.viewer)
                    turn = time.monotonic()
                if not self._is_newest(request):
                    return
                if self.edited.is_set():
                    self._later(self.builder, self._finish, request, shown)
                    return
        if optimising.is_on():
            self._later(self.optimising, self._optimise, request, shown, soonest)

    def _later(self, threads: ThreadPoolExecutor, work: Callable[..., None], request: SetEffects, *given: Any) -> None:
        """Do something on another thread. What fails there is said and logged; the picture goes on with what it has."""

        def guarded() -> None:
            try:
                work(request, *given)
            except (BrokenPipeError, ConnectionResetError):
                pass
            except Exception as error:
                self.waiting.put(Built(request, {}, Reply(request.viewer, trouble_of(error, "the picture goes on, but slower"))))

        threads.submit(guarded)

    def _wait_for_frame(self, number: int) -> None:
        """Until the next frame is sent, if the picture of a viewer plays."""
        viewer = self.viewers.get(number)
        if viewer is not None and viewer.clock.playing and not viewer.small:
            self.sent.clear()
            self.sent.wait(LONGEST_TURN_OUT)

    def _optimise(self, request: SetEffects, shown: dict[str, Shown], soonest: float) -> None:
        """On a thread that mostly waits for the process that optimises. It rests first: most edits are not the last of a row."""
        if self._is_newest(request):
            time.sleep(max(0.0, soonest - time.monotonic()))
        for one in shown.values():
            for part in unoptimised(one.compiled.program.final):
                self._wait_for_frame(request.viewer)
                if not self._is_newest(request):
                    return
                code = self.optimiser.code(text_to_optimise(part, "bytes"))
                if code is not None:
                    put_optimised(part, "bytes", code)

    def _is_newest(self, request: SetEffects) -> bool:
        return self.newest.get(request.viewer) is request

    def _shown(self, effect: Effect) -> Shown:
        with self.shelf.reading() as reading:
            material, own = reading.material(effect), reading.own(effect, (WIDTH, HEIGHT))
        compiled = compile_effect(effect, material)
        prepare(compiled.program.final, "bytes", quick=True)
        return Shown(effect, compiled, material, own)

    def _swap(self, built: Built) -> None:
        """Put what was built in its place; the last good picture has run until here."""
        request = built.request
        viewer = self.viewers.get(request.viewer)
        with self.requests:
            # Between looking and deleting the next edit may come; it must not be dropped with this one.
            if self.latest.get(request.viewer) is request:
                del self.latest[request.viewer]
            building = request.viewer in self.latest
        if viewer is None:
            return
        viewer.pacing.building = building
        self._send(built.trouble or Reply(request.viewer, {"type": "built"}))
        if built.shown or not request.effects or request.small:
            viewer.show(built.shown, request, time.monotonic())
        else:
            # Nothing new is to be seen, but that it is no longer waited for.
            viewer.touch(time.monotonic())
        # A viewer that does not answer holds the newest alone.
        self.swapped = [one for one in self.swapped if one.request.viewer != request.viewer] + [built]

    def _is_awaited(self, built: Built) -> bool:
        """Whether what was built waits for its first picture."""
        viewer = self.viewers.get(built.request.viewer)
        return viewer is not None and viewer.dirty and bool(viewer.shown) and not viewer.small


def trouble_of(error: Exception, meanwhile: str) -> dict[str, Any]:
    """What the browser is told: the words, the layer, and the faults of a recipe node by node. What is no error of the artist's
    is a defect of ours: it is logged, and said so, with what happens `meanwhile`."""
    if not isinstance(error, GlazeError):
        _log.error("drawing or building failed", exc_info=error)
        message = f"Sun Glaze itself failed at this effect ({type(error).__name__}); this is a defect of the program: {meanwhile}"
        return {"type": "trouble", "layer": None, "message": message, "faults": []}
    faults = [fault.model_dump() for fault in error.faults] if isinstance(error, BadRecipe) else []
    return {"type": "trouble", "layer": getattr(error, "layer", None), "message": str(error), "faults": faults}


def main(pipe: Connection, folder: Path, busy: Any) -> None:
    """Entry of the process. `folder` holds the database; `busy` as in Worker.

    Ctrl+C is the server's business; this one ends with its pipe."""
    call_this("glaze-render")
    give_memory_back()
    signal.signal(signal.SIGINT, signal.SIG_IGN)
    # The rendering thread gives up the lock around every pass; behind a building thread it would wait 5 ms to get it back.
    sys.setswitchinterval(SWITCH_INTERVAL)
    # Asked by whoever ends a process that hangs.
    faulthandler.register(TELLS)
    # What was imported stays; without this the collector walks through all of it in the middle of frames and builds.
    gc.freeze()
    gc.set_threshold(50_000, 20, 50)
    Worker(pipe, Shelf(folder), busy).run()
    # Nothing is kept here: threads that still compile or decode are not waited for.
    os._exit(0)
