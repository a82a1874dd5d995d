"""Starts the rendering process, passes requests and replies, and starts it again where it crashes or hangs.

Restarts wait longer each time, and end where they do not help. An effect that was being built or drawn when the process ended
twice is not shown again until it changes; all others go on.
"""

from __future__ import annotations

import asyncio
import contextlib
import itertools
import logging
import os
import threading
import time
from multiprocessing.connection import Connection
from multiprocessing.context import ForkServerProcess
from pathlib import Path
from typing import Any, TypeGuard

from sunglaze.core.effect.document import Effect
from sunglaze.server import processes
from sunglaze.server.rendering import worker
from sunglaze.server.rendering.messages import (
    FRAME,
    SCOPE,
    TELLS,
    TILES,
    Acknowledge,
    Leave,
    Move,
    Ping,
    Reply,
    Request,
    SetEffects,
    View,
)
from sunglaze.server.rendering.outbox import Outbox, merged
from sunglaze.server.rendering.pulse import Pulse, Sign, processor

PING_SECONDS = 1.0
PATIENCE = 10.0
BUILDING_SECONDS = 60.0
"""For which an effect may be built: what is large takes long."""
TELLING_SECONDS = 0.2
"""That a process which hangs has to write where, before it is ended."""
CALM_SECONDS = 60.0
MOST_ENDS = 8
"""So many ends within CALM_SECONDS, and it is not started again by itself."""
LONGEST_PAUSE = 8.0
MOST_STRIKES = 2
STRIKE_SECONDS = 60.0
"""After which it is forgotten that an effect was drawn when the process ended."""
MOST_REPLIES = 64
STOPPED = (
    "Drawing this effect ended the drawing process twice, so its picture is stopped. Undo the last change, or change the effect "
    "or who sits before the camera: it is then tried again. Nothing of it is lost"
)
GIVEN_UP = (
    "The drawing process ended again and again and is not started by itself any more. Change the effect or open another: "
    "it is then tried again. Nothing is lost"
)
_log = logging.getLogger("sunglaze")


class Supervisor:
    """Thread-safe; nothing here waits for the process. `open` gives a viewer's number and the queue of its replies, filled on the
    server's event loop. `folder` holds the database, from which the process reads its files."""

    def __init__(self, folder: Path) -> None:
        self._folder = folder
        self._context = processes.context()
        self._lock = threading.RLock()
        self._numbers = itertools.count(1)
        self._queues: dict[int, asyncio.Queue[Reply]] = {}
        self._effects: dict[int, SetEffects] = {}
        self._views: dict[int, View] = {}
        self._strikes: dict[int, list[float]] = {}
        self._ends: list[float] = []
        self._closing = False
        self._wanted = threading.Event()
        self._loop = asyncio.get_running_loop()
        self._answers = 0
        self._busy: Any = self._context.RawArray("i", worker.NUMBERS)
        self._pipe: Connection
        self._outbox: Outbox
        self._process: ForkServerProcess | None = None
        self._start()
        threading.Thread(target=self._watch, daemon=True, name="watch").start()

    def open(self) -> tuple[int, asyncio.Queue[Reply]]:
        number = next(self._numbers)
        waiting: asyncio.Queue[Reply] = asyncio.Queue()
        with self._lock:
            self._queues[number] = waiting
        return number, waiting

    def close(self, viewer: int) -> None:
        with self._lock:
            for known in (self._queues, self._effects, self._views, self._strikes):
                known.pop(viewer, None)
            self._outbox.put(Leave(viewer))

    def show(self, viewer: int, effects: dict[str, Effect], small: bool = False, serial: int = 0) -> None:
        """Let a viewer look at effects."""
        with self._lock:
            if viewer in self._queues:
                self._strikes.pop(viewer, None)
                self._effects[viewer] = SetEffects(viewer, effects, small, serial)
                self._outbox.put(self._effects[viewer])
                self._wanted.set()

    def send(self, request: Request) -> None:
        """Pass on what a viewer says, or what is known of files. What changes a picture that was stopped has it tried again."""
        with self._lock:
            if isinstance(request, View):
                self._views[request.viewer] = merged(self._views.get(request.viewer, View(request.viewer)), request)
            if _changes_picture(request) and self._is_stopped(request.viewer):
                del self._strikes[request.viewer]
                self._put_again(request.viewer)
                self._wanted.set()
            self._outbox.put(request)

    def shut(self) -> None:
        """End the process. It keeps nothing; and closing the pipe would not end it, for a thread of ours still reads from it."""
        self._closing = True
        self._wanted.set()
        with self._lock:
            self._outbox.shut()
        self._end()

    def _start(self) -> None:
        """Start the process, and say again what everybody looks at. Where it cannot be started there is none for now."""
        with self._lock:
            if self._closing:
                return
            self._pipe, theirs = self._context.Pipe()
            self._busy[:] = [0] * worker.NUMBERS
            given = theirs, self._folder, self._busy
            process = self._context.Process(target=worker.main, args=given, name="render", daemon=True)
            self._outbox = Outbox(self._pipe)
            try:
                process.start()
            except OSError as error:
                _log.error("the rendering process cannot be started: %s", error)
                return
            finally:
                theirs.close()
            self._process = process
            threading.Thread(target=self._listen, args=(self._pipe,), daemon=True, name="listen").start()
            for number in self._effects:
                if not self._is_stopped(number):
                    self._put_again(number)

    def _end(self) -> None:
        """End the process, where there is one."""
        with self._lock:
            process, self._process = self._process, None
        if process is not None:
            process.kill()
            process.join()
        self._pipe.close()

    def _put_again(self, viewer: int) -> None:
        if viewer in self._views:
            self._outbox.put(self._views[viewer])
        if viewer in self._effects:
            self._outbox.put(self._effects[viewer])

    def _is_stopped(self, viewer: int) -> bool:
        """Whether a viewer's picture ended the process too often lately; what was long ago is forgiven."""
        since = time.monotonic() - STRIKE_SECONDS
        return len([one for one in self._strikes.get(viewer, ()) if one > since]) >= MOST_STRIKES

    def _listen(self, pipe: Connection) -> None:
        while True:
            try:
                reply = pipe.recv()
            except (EOFError, OSError):
                break
            except TypeError:
                break  # the pipe was closed while this thread waited in it
            if not reply.viewer:
                self._answers += 1
            else:
                self._tell(reply)

    def _tell(self, reply: Reply) -> None:
        with contextlib.suppress(RuntimeError):  # the loop has ended
            self._loop.call_soon_threadsafe(self._deliver, reply)

    def _deliver(self, reply: Reply) -> None:
        waiting = self._queues.get(reply.viewer)
        if waiting is None:
            return
        if waiting.qsize() >= MOST_REPLIES:
            # A browser that takes nothing for long: the oldest goes, and if it is a picture, it does not wait for it to be taken.
            oldest = waiting.get_nowait()
            if oldest.header["type"] in (FRAME, TILES, SCOPE):
                self.send(Acknowledge(reply.viewer, oldest.header["type"]))
        waiting.put_nowait(reply)

    def _watch(self) -> None:
        pulse = self._pulse()
        while not self._closing:
            self._outbox.put(Ping())
            process = self._process
            if process is not None:
                process.join(PING_SECONDS)
                hangs = process.is_alive() and pulse.hangs(self._sign(process))
                if process.is_alive() and not hangs:
                    continue
                if self._closing:
                    return
                _log.warning("the rendering process %s; starting it again", "hangs" if hangs else "ended")
                if hangs and process.pid is not None:
                    with contextlib.suppress(ProcessLookupError):
                        os.kill(process.pid, TELLS)
                    time.sleep(TELLING_SECONDS)
            with self._lock:
                self._outbox.shut()
                self._blame()
            self._end()
            self._pause()
            self._start()
            pulse = self._pulse()

    def _pulse(self) -> Pulse:
        return Pulse((PATIENCE, PATIENCE, BUILDING_SECONDS), PING_SECONDS)

    def _sign(self, process: ForkServerProcess) -> Sign:
        drawing_for, building_for, drawn, built = self._busy
        had, wants = processor(process.pid or 0)
        counts = self._answers, drawn if drawing_for else None, built if building_for else None
        return Sign(time.monotonic(), had, wants, counts)

    def _blame(self) -> None:
        """Who was being drawn or built for when the process ended has a strike; with too many its effect is stopped."""
        told = dict.fromkeys(self._queues, Reply(0, {"type": "restarted"}))
        for number in {*self._busy[:2]} & self._effects.keys():
            self._strikes.setdefault(number, []).append(time.monotonic())
            if self._is_stopped(number):
                serial = self._effects[number].serial
                told[number] = Reply(0, {"type": "trouble", "layer": None, "message": STOPPED, "faults": [], "serial": serial})
        for number, reply in told.items():
            self._tell(Reply(number, reply.header))

    def _pause(self) -> None:
        """Wait before the next start: not at all the first time, longer each time, in the end until somebody wants something."""
        now = time.monotonic()
        self._ends = [one for one in self._ends if now - one < CALM_SECONDS] + [now]
        self._wanted.clear()
        if len(self._ends) >= MOST_ENDS:
            for number in list(self._queues):
                self._tell(Reply(number, {"type": "trouble", "layer": None, "message": GIVEN_UP, "faults": []}))
            _log.error("the rendering process ended %d times within %.0f s; it waits for a change", len(self._ends), CALM_SECONDS)
            self._wanted.wait()
            self._ends.clear()
        elif len(self._ends) > 1:
            self._wanted.wait(min(LONGEST_PAUSE, 0.25 * 2.0 ** (len(self._ends) - 2)))


def _changes_picture(request: Request) -> TypeGuard[Move | View]:
    """Whether what is drawn is another picture from here on."""
    return isinstance(request, Move) or (isinstance(request, View) and bool(request.sitting or request.screen or request.short))
