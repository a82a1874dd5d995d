"""The drawing process: work comes over a pipe, is done on a few threads, and what came of it goes back."""

from __future__ import annotations

import logging
import os
import pickle
import signal
import threading
import time
from collections.abc import Callable, Iterator
from concurrent.futures import Future, ThreadPoolExecutor
from multiprocessing.connection import Connection
from pathlib import Path
from typing import Any

from sqlalchemy.exc import DatabaseError

from sunglaze.core.cache import CACHE
from sunglaze.core.errors import GlazeError
from sunglaze.server import processes
from sunglaze.server.drawing import frames, leaving, previews
from sunglaze.server.drawing.desk import Desk
from sunglaze.server.drawing.messages import QUICK, WORKERS, Busy, Do, Gone, Leave, Renew, Said, Task

_log = logging.getLogger("sunglaze")
NICE = 3
"""The moving picture comes first."""
MOST_CACHED = 48 * 1024 * 1024
"""Bytes of what was decoded and drawn that are kept."""
_STEP = 0.01
"""Shares of work are told when they have grown by this."""
_DO: dict[Task, Callable[..., Any]] = {
    "length": frames.length,
    "frame": frames.frame,
    "mask": frames.mask,
    "moment": frames.moment,
    "face": frames.face,
    "icon of layer": frames.icon_of_layer,
    "icon of node": frames.icon_of_node,
    "footage times": frames.footage_times,
    "footage picture": frames.footage_picture,
    "strip": frames.strip,
    "print": frames.print_of,
    "effect print": previews.effect,
    "preview": previews.preview,
    "worn": previews.worn,
    "beside": previews.beside,
    "judged": previews.judged,
    "program": previews.program,
    "icon": leaving.icon,
    "package": leaving.package,
    "page": leaving.page,
    "grade": leaving.grade,
    "check": leaving.check,
    "check package": leaving.check_package,
}


class _Work:
    """What is being done; used by the process's main thread, and by those that work."""

    def __init__(self, pipe: Connection, folder: Path, dist: Path) -> None:
        self._pipe, self._desk = pipe, Desk(folder, dist)
        self._quick, self._long = (ThreadPoolExecutor(WORKERS, thread_name_prefix=name) for name in ("quick", "long"))
        self._doing: dict[int, tuple[threading.Event, Future[None]]] = {}
        self._sending = threading.Lock()

    def take(self, message: Do | Leave | Renew) -> None:
        match message:
            case Do():
                gone = threading.Event()
                future = (self._quick if message.task in QUICK else self._long).submit(self._do, message, gone)
                self._doing[message.number] = gone, future
                future.add_done_callback(lambda _: self._doing.pop(message.number, None))
            case Leave():
                found = self._doing.get(message.number)
                if found is not None:
                    found[0].set()
                    found[1].cancel()
            case Renew():
                self._desk.own_cameras.renew(message.key)

    def _do(self, asked: Do, gone: threading.Event) -> None:
        began = time.monotonic()
        said = 0.0

        def patience(share: float | None = None) -> None:
            nonlocal said
            if share is not None and share >= said + _STEP:
                said = share
                self._say(Said(asked.number, "part", share))
            if gone.is_set():
                raise Gone("nobody waits for it")
            if time.monotonic() - began > asked.most:
                raise Busy(f"this takes more than {asked.most:.0f} s to preview; the picture itself is not held up by it")

        try:
            self._say(Said(asked.number, "begins"))
            found = _DO[asked.task](self._desk, patience, *asked.args)
            if isinstance(found, Iterator):
                for part in found:
                    self._say(Said(asked.number, "part", part))
                found = None
            self._say(Said(asked.number, "done", found))
        except (GlazeError, DatabaseError, OSError) as error:
            self._say(Said(asked.number, "failed", error))
        except Exception as error:
            _log.exception("'%s' could not be drawn", asked.task)
            self._say(Said(asked.number, "failed", RuntimeError(f"{type(error).__name__}: {error}")))

    def _say(self, said: Said) -> None:
        data = pickle.dumps(said)
        with self._sending:
            self._pipe.send_bytes(data)


def main(pipe: Connection, folder: Path, dist: Path) -> None:
    """The process. It ends with the pipe."""
    processes.call_this("glaze-draw")
    # Ctrl+C is the server's, who ends this one.
    signal.signal(signal.SIGINT, signal.SIG_IGN)
    os.nice(NICE)
    CACHE.room = min(CACHE.room, MOST_CACHED)
    processes.give_memory_back()
    work = _Work(pipe, folder, dist)
    try:
        while True:
            work.take(pipe.recv())
    except (EOFError, OSError):
        # Whatever is being drawn, nobody will see it.
        os._exit(0)
