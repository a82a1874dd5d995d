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
from pathlib import Path
from typing import Any

from sunglaze.core.effect.document import Effect
from sunglaze.server import processes
from sunglaze.server.rendering import worker
from sunglaze.server.rendering.messages import TELLS, Leave, Ping, Reply, Request, SetEffects, View
from sunglaze.server.rendering.outbox import Outbox, merged

PING_SECONDS = 1.0
PATIENCE = 10.0
STARTING_SECONDS = 40.0
"""Importing takes two seconds, and on a starved machine many times that; ending what has not begun yet only starves it more."""
TELLING_SECONDS = 0.2
"""That a process which hangs has to write where, before it is ended."""
CALM_SECONDS = 60.0
MOST_ENDS = 8
"""So many ends within CALM_SECONDS, and it is not started again by itself."""
LONGEST_PAUSE = 8.0
MOST_STRIKES = 2
MOST_REPLIES = 64
STOPPED = (
    "Drawing this effect ended the drawing process twice, so its picture is stopped. Undo the last change, or change the "
    "effect: it is then tried again. Nothing of it is lost"
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
        self._strikes: dict[int, int] = {}
        self._ends: list[float] = []
        self._closing = False
        self._wanted = threading.Event()
        self._heard, self._patience = time.monotonic(), STARTING_SECONDS
        self._loop = asyncio.get_running_loop()
        self._busy: Any = self._context.RawArray("i", 2)
        self._pipe: Connection
        self._outbox: Outbox
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

    def show(self, viewer: int, effects: dict[str, Effect], gallery: bool = False, serial: int = 0) -> None:
        """Let a viewer look at effects."""
        with self._lock:
            if viewer in self._queues:
                self._strikes.pop(viewer, None)
                self._effects[viewer] = SetEffects(viewer, effects, gallery, serial)
                self._outbox.put(self._effects[viewer])
                self._wanted.set()

    def send(self, request: Request) -> None:
        """Pass on what a viewer says, or what is known of files."""
        with self._lock:
            if isinstance(request, View):
                self._views[request.viewer] = merged(self._views.get(request.viewer, View(request.viewer)), request)
            self._outbox.put(request)

    def shut(self) -> None:
        """End the process. It keeps nothing; and closing the pipe would not end it, for a thread of ours still reads from it."""
        self._closing = True
        self._wanted.set()
        with self._lock:
            self._outbox.shut()
            self._process.kill()
        self._process.join()
        self._pipe.close()

    def _start(self) -> None:
        with self._lock:
            if self._closing:
                return
            self._pipe, theirs = self._context.Pipe()
            self._busy[0] = self._busy[1] = 0
            given = theirs, self._folder, self._busy
            self._process = self._context.Process(target=worker.main, args=given, name="render", daemon=True)
            self._process.start()
            theirs.close()
            self._heard = time.monotonic()
            self._patience = STARTING_SECONDS
            self._outbox = Outbox(self._pipe)
            threading.Thread(target=self._listen, args=(self._pipe,), daemon=True, name="listen").start()
            for number, effects in self._effects.items():
                if number in self._views:
                    self._outbox.put(self._views[number])
                if self._strikes.get(number, 0) < MOST_STRIKES:
                    self._outbox.put(effects)

    def _listen(self, pipe: Connection) -> None:
        while True:
            try:
                reply = pipe.recv()
            except (EOFError, OSError):
                break
            except TypeError:
                break  # the pipe was closed while this thread waited in it
            self._heard, self._patience = time.monotonic(), PATIENCE
            if reply.viewer:
                self._tell(reply)

    def _tell(self, reply: Reply) -> None:
        with contextlib.suppress(RuntimeError):  # the loop has ended
            self._loop.call_soon_threadsafe(self._deliver, reply)

    def _deliver(self, reply: Reply) -> None:
        waiting = self._queues.get(reply.viewer)
        # Frames are acknowledged, two at most are on their way; a browser that takes nothing else either is told no more.
        if waiting is not None and waiting.qsize() < MOST_REPLIES:
            waiting.put_nowait(reply)

    def _watch(self) -> None:
        while not self._closing:
            self._outbox.put(Ping())
            self._process.join(PING_SECONDS)
            if self._closing:
                return
            silent = time.monotonic() - self._heard > self._patience
            if self._process.is_alive() and not silent:
                continue
            _log.warning("the rendering process %s; starting it again", "hangs" if silent else "ended")
            if silent and self._process.pid is not None:
                with contextlib.suppress(ProcessLookupError):
                    os.kill(self._process.pid, TELLS)
                time.sleep(TELLING_SECONDS)
            self._process.kill()
            self._process.join()
            with self._lock:
                self._outbox.shut()
                self._pipe.close()
                self._blame()
            self._pause()
            if self._closing:
                return
            try:
                self._start()
            except OSError as error:
                _log.error("the rendering process cannot be started: %s", error)

    def _blame(self) -> None:
        """Who was being drawn or built for when the process ended has a strike; with too many its effect is stopped."""
        told = dict.fromkeys(self._queues, Reply(0, {"type": "restarted"}))
        for number in {*self._busy} & self._effects.keys():
            self._strikes[number] = self._strikes.get(number, 0) + 1
            if self._strikes[number] == MOST_STRIKES:
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
