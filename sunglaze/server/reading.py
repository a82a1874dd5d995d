"""Files that come in are read by a process of its own, with bounds on memory and time: what a codec does with a damaged file
costs that file, and nothing else."""

from __future__ import annotations

import logging
import os
import resource
import threading
from collections.abc import Callable
from multiprocessing.connection import Connection
from typing import Any, Literal

from sunglaze.core.errors import BadFile, GlazeError
from sunglaze.server import processes

_log = logging.getLogger("sunglaze")
MOST_SECONDS = 60.0
STARTING_SECONDS = 60.0
MOST_MEMORY = 6 * 1024**3
"""Addresses, of which libraries reserve far more than they use."""
Task = Literal["any", "lookup", "picture", "footage", "numbered", "effect", "recipe"]
_NICE = 5


def _tasks() -> dict[str, Callable[..., Any]]:
    # Readers of meshes, too, so that no file waits for them.
    import sunglaze.core.material.models  # noqa: F401
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


def main(pipe: Connection) -> None:
    """The process: a task, a file's name and its bytes come, what was found goes back."""
    processes.call_this("glaze-read")
    resource.setrlimit(resource.RLIMIT_AS, (MOST_MEMORY, MOST_MEMORY))
    os.nice(_NICE)
    tasks = _tasks()
    pipe.send(("ready", None))
    while True:
        try:
            task, name, data = pipe.recv()
        except (EOFError, OSError, KeyboardInterrupt):
            return
        try:
            answer = "found", tasks[task](name, data)
        except GlazeError as error:
            answer = "bad", str(error)
        except MemoryError:
            answer = "bad", "reading this takes more memory than there is for one file; make it smaller"
        except Exception:
            _log.exception("a file could not be read")
            answer = "bad", "this cannot be read; is the file whole?"
        pipe.send(answer)


class Reader:
    """Threads share it; they wait for each other. The process is started when it is first needed, and again where it ended."""

    def __init__(self) -> None:
        self._lock = threading.Lock()
        self._process: Any = None
        self._pipe: Connection | None = None

    def run(self, task: Task, name: str, data: Any) -> Any:
        """What a task finds in a file. Raises BadFile where it is none, or ends whoever reads it."""
        with self._lock:
            pipe = self._ready()
            try:
                pipe.send((task, name, data))
                if not pipe.poll(MOST_SECONDS):
                    self._end()
                    raise BadFile(f"reading this took more than {MOST_SECONDS:.0f} s and was stopped; make it smaller")
                said, found = pipe.recv()
            except (EOFError, OSError):
                self._end()
                raise BadFile("reading this ended the process that reads files; it is damaged, or made to do that") from None
        if said == "bad":
            raise BadFile(found)
        return found

    def _ready(self) -> Connection:
        if self._pipe is not None and self._process.is_alive():
            return self._pipe
        context = processes.context()
        ours, theirs = context.Pipe()
        self._process = context.Process(target=main, args=(theirs,), name="read", daemon=True)
        self._process.start()
        theirs.close()
        self._pipe = ours
        try:
            if ours.poll(STARTING_SECONDS):
                ours.recv()
                return ours
        except (EOFError, OSError):
            pass
        self._end()
        raise BadFile("the process that reads files does not start; look at the server's log")

    def _end(self) -> None:
        if self._process is not None:
            self._process.kill()
            self._process.join(3)
        if self._pipe is not None:
            self._pipe.close()
        self._process, self._pipe = None, None

    def shut(self) -> None:
        """End the process."""
        self._end()
