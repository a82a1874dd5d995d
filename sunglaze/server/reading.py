"""Files that come in are read by processes of their own, with bounds on memory and time: what a codec does with a damaged file
costs that file, and nothing else. There are two, so that small files do not wait for a large one."""

from __future__ import annotations

import asyncio
import logging
import math
import os
import resource
import signal
import time
from collections.abc import Callable
from multiprocessing.connection import Connection
from typing import Any, Literal

from anyio import CapacityLimiter, to_thread

from sunglaze.core.errors import BadFile, GlazeError
from sunglaze.server import processes

_log = logging.getLogger("sunglaze")
LEAST_SECONDS, BYTES_A_SECOND = 5, 8 * 1024**2
"""Processor time that a file has: so much, and a second for each so many bytes of it."""
MOST_SECONDS = 60.0
"""Until a file is given up, whatever the machine does meanwhile."""
SMALL = 1024**2
"""Bytes of a file that does not wait for larger ones."""
STARTING_SECONDS = 60.0
MOST_MEMORY = 6 * 1024**3
"""Addresses, of which libraries reserve far more than they use."""
Task = Literal["any", "lookup", "picture", "footage", "numbered", "effect", "recipe"]
_NICE = 2
"""The moving picture comes first, and next what somebody has just dropped."""


def _tasks() -> dict[str, Callable[..., Any]]:
    from sunglaze.core.effect.materialx import read_materialx
    from sunglaze.core.effect.recipe import Recipe, read_recipe
    from sunglaze.store import arriving, files, shelf, tracking

    def recipe(_: str, data: bytes) -> tuple[Recipe | None, list[str]]:
        if data.lstrip()[:1] != b"<":
            return read_recipe(data), []
        found = read_materialx(data)
        return found.recipe, list(found.left_out)

    return {
        "any": shelf.recognised,
        "lookup": lambda _, data: files.lookup_facts(data),
        "picture": lambda _, data: files.picture_facts(data),
        "footage": lambda _, data: tracking.footage_facts(data),
        "numbered": lambda _, some: files.read_row(some),
        "effect": lambda _, data: arriving.read_effect(data),
        "recipe": recipe,
    }


def main(pipe: Connection, least: float) -> None:
    """The process: a task, a file's name and its bytes come, what was found goes back."""
    processes.call_this("glaze-read")
    resource.setrlimit(resource.RLIMIT_AS, (MOST_MEMORY, MOST_MEMORY))
    resource.setrlimit(resource.RLIMIT_CORE, (0, 0))
    os.nice(_NICE)
    tasks = _tasks()
    pipe.send(("ready", None))
    while True:
        try:
            task, name, data = pipe.recv()
        except (EOFError, OSError, KeyboardInterrupt):
            return
        # Where that is used up the system ends the process, whatever a decoder does.
        until = math.ceil(time.process_time() + least + _size(data) / BYTES_A_SECOND)
        resource.setrlimit(resource.RLIMIT_CPU, (until, resource.RLIM_INFINITY))
        try:
            answer = "found", tasks[task](name, data)
        except GlazeError as error:
            answer = "bad", str(error)
        except MemoryError:
            answer = "bad", "reading this takes more memory than there is for one file; make it smaller"
        except Exception:
            _log.exception("a file could not be read")
            answer = "bad", "this cannot be read; is the file whole?"
        # The next file's bytes come before its own time is counted.
        resource.setrlimit(resource.RLIMIT_CPU, (resource.RLIM_INFINITY, resource.RLIM_INFINITY))
        pipe.send(answer)


def _size(data: Any) -> int:
    """Bytes of a file, or of several with their names."""
    return len(data) if isinstance(data, bytes) else sum(len(one) for _, one in data)


class ReadingProcess:
    """One process, for one thread at a time; it is started when it is first needed, and again where it ended. `least`:
    seconds of processor time that the smallest file has."""

    def __init__(self, least: float = LEAST_SECONDS) -> None:
        self._least = least
        self.turn = asyncio.Lock()
        self._process: Any = None
        self._pipe: Connection | None = None

    @property
    def pid(self) -> int | None:
        """Its number in the system, while there is one."""
        return self._process.pid if self._process is not None else None

    def read(self, task: Task, name: str, data: Any) -> Any:
        """What a task finds in a file. Raises BadFile where it is none, or ends whoever reads it."""
        pipe = self.ready()
        try:
            pipe.send((task, name, data))
            if not pipe.poll(MOST_SECONDS):
                self.end()
                raise BadFile(f"reading this took more than {MOST_SECONDS:.0f} s and was stopped; make it smaller")
            said, found = pipe.recv()
        except (EOFError, OSError):
            ended_by = self.end()
            if ended_by == -signal.SIGXCPU:
                seconds = self._least + _size(data) / BYTES_A_SECOND
                words = f"reading this takes more than the {seconds:.0f} s of processor time that a file of its size has"
                raise BadFile(f"{words}, and was stopped; make it smaller") from None
            raise BadFile("reading this ended the process that reads files; it is damaged, or made to do that") from None
        if said == "bad":
            raise BadFile(found)
        return found

    def ready(self) -> Connection:
        """The pipe to the process, when it is there. Raises BadFile where it does not start."""
        if self._pipe is not None and self._process.is_alive():
            return self._pipe
        context = processes.context()
        ours, theirs = context.Pipe()
        process = context.Process(target=main, args=(theirs, self._least), name="read", daemon=True)
        process.start()
        theirs.close()
        self._process, self._pipe = process, ours
        try:
            if ours.poll(STARTING_SECONDS):
                ours.recv()
                return ours
        except (EOFError, OSError):
            pass
        self.end()
        raise BadFile("the process that reads files does not start; look at the server's log")

    def end(self) -> int | None:
        """End it, if it has not ended by itself; how it ended, as multiprocessing has it. Any thread may."""
        process, pipe = self._process, self._pipe
        self._process, self._pipe = None, None
        if process is None or pipe is None:
            return None
        # One that ended by itself closed its pipe a moment before.
        process.join(0.2)
        process.kill()
        process.join(3)
        pipe.close()
        code: int | None = process.exitcode
        return code


class Reader:
    """Two of these processes: one reads files of any size, the other small ones alone."""

    def __init__(self) -> None:
        self.any, self.small = ReadingProcess(), ReadingProcess()
        self._threads = CapacityLimiter(2)
        self._shut = False

    async def run(self, task: Task, name: str, data: Any) -> Any:
        """What a task finds in a file, when its turn has come. Raises BadFile where it is none, or ends whoever reads it."""
        large = _size(data) > SMALL or (self.small.turn.locked() and not self.any.turn.locked())
        process = self.any if large else self.small
        async with process.turn:
            return await to_thread.run_sync(process.read, task, name, data, limiter=self._threads)

    async def start(self) -> None:
        """Have both there before the first file comes."""
        for process in (self.small, self.any):
            async with process.turn:
                if self._shut:
                    return
                try:
                    await to_thread.run_sync(process.ready, limiter=self._threads)
                except BadFile as error:
                    if not self._shut:
                        _log.warning("%s", error)

    def shut(self) -> None:
        """End the processes."""
        self._shut = True
        for process in (self.any, self.small):
            process.end()
