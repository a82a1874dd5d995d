"""Starts the rendering process, passes requests and replies, and starts it again where it crashes or hangs."""

from __future__ import annotations

import asyncio
import contextlib
import itertools
import logging
import multiprocessing
import threading
import time
from collections.abc import Callable
from dataclasses import replace
from multiprocessing.connection import Connection

from sunglaze.core.effect.document import Effect
from sunglaze.core.effect.literals import LookupRef
from sunglaze.server.rendering import worker
from sunglaze.server.rendering.messages import Files, Leave, Ping, Reply, Request, SetEffects, View

PING_SECONDS = 1.0
PATIENCE = 6.0
_log = logging.getLogger("sunglaze")

LoadFiles = Callable[[set[LookupRef], set[str]], Files]
"""Reads the bytes of lookups and pictures from the database."""


class Supervisor:
    """Thread-safe. `open` gives a viewer's number and the queue of its replies, filled on the server's event loop."""

    def __init__(self, load_files: LoadFiles) -> None:
        self._load_files = load_files
        self._context = multiprocessing.get_context("spawn")
        self._lock = threading.RLock()
        self._numbers = itertools.count(1)
        self._queues: dict[int, asyncio.Queue[Reply]] = {}
        self._effects: dict[int, SetEffects] = {}
        self._views: dict[int, View] = {}
        self._sent: set[LookupRef | str] = set()
        self._closing = False
        self._heard = time.monotonic()
        self._loop = asyncio.get_running_loop()
        self._pipe: Connection
        self._start()
        threading.Thread(target=self._watch, daemon=True, name="watch").start()

    def open(self) -> tuple[int, asyncio.Queue[Reply]]:
        number = next(self._numbers)
        waiting: asyncio.Queue[Reply] = asyncio.Queue()
        self._queues[number] = waiting
        return number, waiting

    def close(self, viewer: int) -> None:
        with self._lock:
            self._queues.pop(viewer, None)
            self._effects.pop(viewer, None)
            self._views.pop(viewer, None)
            self.send(Leave(viewer))

    def show(self, viewer: int, effects: dict[str, Effect], gallery: bool = False, serial: int = 0) -> None:
        """Let a viewer look at effects. Reads files that the process does not have; may take a moment."""
        with self._lock:
            if viewer in self._queues:
                self._effects[viewer] = SetEffects(viewer, effects, gallery, serial)
                self._send_effects(self._effects[viewer])

    def has_files_of(self, effects: dict[str, Effect]) -> bool:
        """Whether `show` would begin at once: the process has all files that these effects need."""
        return not any(self._missing(effects))

    def send(self, request: Request) -> None:
        with self._lock:
            if isinstance(request, View):
                self._remember(request)
            # A pipe that broke is seen by the watch, too; it starts a new process, which is told everything.
            with contextlib.suppress(OSError, ValueError):
                self._pipe.send(request)

    def forget(self, key: str) -> None:
        """What belongs to a file has changed: it is sent anew with the next effect that needs it."""
        with self._lock:
            self._sent.discard(key)

    def shut(self) -> None:
        self._closing = True
        with self._lock:
            self._pipe.close()
        self._process.join(3)
        if self._process.is_alive():
            self._process.kill()

    def _start(self) -> None:
        with self._lock:
            self._pipe, theirs = self._context.Pipe()
            self._process = self._context.Process(target=worker.main, args=(theirs,), daemon=True, name="rendering")
            self._process.start()
            theirs.close()
            self._sent = set()
            self._heard = time.monotonic() + 10  # importing takes a while
            for number, effects in self._effects.items():
                self._send_effects(effects)
                if number in self._views:
                    self.send(self._views[number])
        threading.Thread(target=self._listen, args=(self._pipe,), daemon=True, name="listen").start()

    def _send_effects(self, request: SetEffects) -> None:
        missing = self._missing(request.effects)
        if any(missing):
            files = self._load_files(*missing)
            self._sent |= {*files.lookups, *files.pictures}
            self.send(files)
        self.send(request)

    def _missing(self, effects: dict[str, Effect]) -> tuple[set[LookupRef], set[str]]:
        refs = {ref for e in effects.values() for ref in e.lookups()}
        pictures = {e.still for e in effects.values() if e.still}
        pictures |= {key for e in effects.values() for key in e.pictures()}
        return {r for r in refs if r not in self._sent}, {key for key in pictures if key not in self._sent}

    def _remember(self, view: View) -> None:
        known = self._views.get(view.viewer, View(view.viewer))
        given = {k: v for k, v in vars(view).items() if v is not None}
        self._views[view.viewer] = replace(known, **given)

    def _listen(self, pipe: Connection) -> None:
        while True:
            try:
                reply = pipe.recv()
            except (EOFError, OSError):
                break
            except TypeError:
                break  # the pipe was closed while this thread waited in it
            self._heard = max(self._heard, time.monotonic())
            if reply.viewer:
                self._loop.call_soon_threadsafe(self._deliver, reply)

    def _deliver(self, reply: Reply) -> None:
        waiting = self._queues.get(reply.viewer)
        if waiting is not None:
            waiting.put_nowait(reply)

    def _watch(self) -> None:
        while not self._closing:
            # Another thread may hang in a full pipe with the lock in its hands; ending the process frees it.
            if self._lock.acquire(timeout=PING_SECONDS):
                self.send(Ping())
                self._lock.release()
            self._process.join(PING_SECONDS)
            if self._closing:
                return
            silent = time.monotonic() - self._heard > PATIENCE
            if self._process.is_alive() and not silent:
                continue
            _log.warning("the rendering process %s; starting it again", "hangs" if silent else "ended")
            self._process.kill()
            self._process.join()
            self._pipe.close()
            for viewer in list(self._queues):
                self._loop.call_soon_threadsafe(self._deliver, Reply(viewer, {"type": "restarted"}))
            self._start()
