"""The drawing process as routes see it: they ask for work, which is limited in time and ended when whoever asked has gone. The
server draws nothing itself, so that its streams wait for nothing, and what it takes of memory stays as it is."""

from __future__ import annotations

import asyncio
import contextlib
import itertools
import logging
import threading
from collections.abc import Callable
from concurrent.futures import Future, InvalidStateError
from dataclasses import dataclass, field
from multiprocessing.connection import Connection
from pathlib import Path
from queue import SimpleQueue
from typing import Any

from fastapi import Request

from sunglaze.core.errors import GlazeError
from sunglaze.server import processes
from sunglaze.server.drawing.messages import QUICK, WORKERS, Busy, Do, Gone, Leave, Renew, Said, Task, start

WAITING = 8
"""So much may wait besides what is being made, of what takes a while."""
WAITING_QUICK = 64
MOST_SECONDS, LONG_SECONDS = 4.0, 90.0
"""What work may take, from when it begins; and what leaves the application or is checked before it does."""
_LOOK_SECONDS = 0.1
_log = logging.getLogger("sunglaze")


class Ended(GlazeError):
    """The drawing process ended over this work."""


@dataclass
class _Asked:
    """`pipe`: of the process that it was sent to; `begun`: in that one; `ended`: how many it ended already."""

    message: Do
    part: Callable[[Any], None]
    future: Future[Any] = field(default_factory=Future)
    pipe: Connection | None = None
    begun: bool = False
    ended: int = 0


class Drawer:
    """The process is started when it is first needed, and again where it ended: what it was at is tried once more, what waited
    goes on. One thread starts it and sends, another listens."""

    def __init__(self, folder: Path, dist: Path) -> None:
        self._folder, self._dist = folder, dist
        self._numbers = itertools.count()
        self._asked: dict[int, _Asked] = {}
        self._lock = threading.Lock()
        self._queue: SimpleQueue[Do | Leave | Renew | None] = SimpleQueue()
        self._process: Any = None
        self._pipe: Connection | None = None
        self._shut = False
        threading.Thread(target=self._feed, name="drawing", daemon=True).start()

    @property
    def pid(self) -> int | None:
        """The process's number in the system, while there is one."""
        return self._process.pid if self._process is not None else None

    async def run(
        self, request: Request, task: Task, *args: Any, most: float = MOST_SECONDS, part: Callable[[Any], None] = lambda _: None
    ) -> Any:
        """What the task finds, which may take `most` seconds from when it begins. `part`: told of each part where it comes in
        parts, on another thread; once more where the process ended over it. Raises what that raises, Busy where too much waits
        already, Gone where nobody waits."""
        asked = _Asked(Do(next(self._numbers), task, args, most), part)
        self._admit(asked)
        answer = asyncio.wrap_future(asked.future)
        try:
            while not (await asyncio.wait({answer}, timeout=_LOOK_SECONDS))[0]:
                if await request.is_disconnected():
                    raise Gone("nobody waits for it")
            return answer.result()
        finally:
            if self._forget(asked):
                answer.cancel()
                self._queue.put(Leave(asked.message.number))

    def renew(self, key: str) -> None:
        """What was tracked in footage has changed."""
        self._queue.put(Renew(key))

    def shut(self) -> None:
        """End the process."""
        self._queue.put(None)
        with self._lock:
            self._shut = True
            if self._process is not None:
                self._process.kill()

    def _admit(self, asked: _Asked) -> None:
        quick = asked.message.task in QUICK
        with self._lock:
            same = sum((one.message.task in QUICK) == quick for one in self._asked.values())
            if same >= WORKERS + (WAITING_QUICK if quick else WAITING):
                raise Busy("there is too much to preview at the moment; it is asked for again by itself")
            self._asked[asked.message.number] = asked
        self._queue.put(asked.message)

    def _forget(self, asked: _Asked) -> bool:
        """Whether it was still being made."""
        with self._lock:
            return self._asked.pop(asked.message.number, None) is not None

    def _feed(self) -> None:
        """Start the process where there is none, and send it what is asked for."""
        while (message := self._queue.get()) is not None:
            if isinstance(message, Leave | Renew) and self._pipe is None:
                continue  # the next one begins with nothing anyway
            try:
                pipe = self._pipe or self._start()
            except (OSError, EOFError) as error:
                _log.error("the process that draws does not start: %s", error)
                self._fail(message, Busy("what draws does not start at the moment; it is asked for again by itself"))
                continue
            with self._lock:
                asked = self._asked.get(message.number) if isinstance(message, Do) else None
                if isinstance(message, Do) and asked is None:
                    continue
                if self._pipe is not pipe:
                    self._queue.put(message)
                    continue
                if asked is not None:
                    asked.pipe, asked.begun = pipe, False
            try:
                pipe.send(message)
            except OSError:
                pass  # it has just ended: whoever listens sees to what was marked as sent
            except Exception as error:
                _log.exception("what is to be drawn cannot be sent")
                self._fail(message, error)

    def _start(self) -> Connection:
        context = processes.context()
        ours, theirs = context.Pipe()
        process = context.Process(target=start, args=(theirs, self._folder, self._dist), name="draw", daemon=True)
        try:
            process.start()
        except (OSError, EOFError):
            ours.close()
            raise
        finally:
            theirs.close()
        with self._lock:
            self._process, self._pipe = process, ours
            if self._shut:
                process.kill()
        threading.Thread(target=self._listen, args=(ours, process), name="drawn", daemon=True).start()
        return ours

    def _listen(self, pipe: Connection, process: Any) -> None:
        """Hand out what comes back, until the process ends."""
        try:
            while True:
                self._hand_out(pipe.recv())
        except (EOFError, OSError):
            pass
        except Exception:
            _log.exception("what the process that draws said cannot be read")
            process.kill()
        process.join(3)
        with self._lock:
            self._pipe = None
            mine = [one for one in self._asked.values() if one.pipe is pipe]
        pipe.close()
        for one in mine:
            one.ended += one.begun
            if one.ended > 1:
                self._fail(one.message, Ended("drawing this ended the process that draws, twice; look at the server's log"))
            else:
                self._queue.put(one.message)

    def _hand_out(self, said: Said) -> None:
        with self._lock:
            asked = self._asked.get(said.number)
            if asked is None:
                return
            if said.what == "begins":
                asked.begun = True
                return
            if said.what == "part":
                asked.part(said.found)
                return
            del self._asked[said.number]
        with contextlib.suppress(InvalidStateError):
            if said.what == "done":
                asked.future.set_result(said.found)
            else:
                asked.future.set_exception(said.found)

    def _fail(self, message: Do | Leave | Renew, error: Exception) -> None:
        if isinstance(message, Do):
            with self._lock:
                asked = self._asked.pop(message.number, None)
            if asked is not None:
                with contextlib.suppress(InvalidStateError):
                    asked.future.set_exception(error)


def drawer(request: Request) -> Drawer:
    """What draws, for a route."""
    found: Drawer = request.app.state.drawer
    return found
