"""Who makes the cells of proof sheets: a few processes of this machine, or whatever a Dask scheduler has. Cells are tasks.

A package is a task, too, that gives its own bytes: it goes to the scheduler once, workers hand it to each other, and it is there
again where a worker dies. A task whose worker dies is tried once more on another. Workers need this package, and no database.
"""

from __future__ import annotations

import contextlib
import logging
import os
import threading
from collections.abc import Iterable, Iterator
from concurrent.futures import Future
from dataclasses import dataclass
from typing import TYPE_CHECKING, Any

from cachetools import LRUCache

from sunglaze.core.errors import GlazeError
from sunglaze.core.proof.cells import Cell, Footing, key_of, made
from sunglaze.core.proof.sheet import Place

if TYPE_CHECKING:
    from distributed import Client

NICE = 10
"""Workers of this machine give way to whatever else is drawn on it."""
TRIES = 2
CONNECT_SECONDS, SHUT_SECONDS = 5, 3
AHEAD = 64
"""Tasks that are with the scheduler at a time, so that a catalogue of hundreds does not lie in its memory."""


class Lost(GlazeError):
    """A cell that could not be made: its workers died, twice, or the scheduler is not there."""


@dataclass(frozen=True)
class Task:
    """A cell to be made. `footing`: what stands at `own:NAME`."""

    package: bytes
    place: Place
    footing: Footing | None = None


class Crew:
    """Started when it is first needed, and kept warm until it is shut. Threads may share it."""

    def __init__(self, workers: int | None = None, scheduler: str | None = None) -> None:
        """`workers`: processes of this machine, by default as many as it has processors; `scheduler`: tcp://HOST:PORT instead."""
        self.workers = workers or os.cpu_count() or 1
        self.scheduler = scheduler
        self._turn = threading.Lock()
        self._client: Client | None = None
        self._cluster: Any = None
        self._sent: LRUCache[str, Any] = LRUCache(8)

    def _ready(self) -> Client:
        with self._turn:
            if self._client is None:
                self._client = self._elsewhere(self.scheduler) if self.scheduler else self._here()
            return self._client

    def _here(self) -> Client:
        import dask
        from distributed import Client, LocalCluster

        logging.getLogger("distributed").setLevel(logging.ERROR)
        dask.config.set({"distributed.scheduler.allowed-failures": TRIES - 1, "distributed.worker.preload": [__name__]})
        # Encrypted and known to this process alone: a scheduler runs whatever it is given.
        self._cluster = LocalCluster(
            n_workers=self.workers,
            threads_per_worker=1,
            processes=True,
            dashboard_address="127.0.0.1:0",
            security=True,
            host="127.0.0.1",
        )
        return Client(self._cluster)

    def _elsewhere(self, address: str) -> Client:
        from distributed import Client

        try:
            return Client(address, timeout=CONNECT_SECONDS)
        except (OSError, ValueError) as error:
            raise Lost(f"no scheduler answers at {address} ({error}); is it tcp://HOST:PORT?") from None

    def submit(self, task: Task) -> Future[Cell]:
        """Have a cell made. The future raises Lost, BadFile or BadEffect; cancelling it before it is made leaves it out."""
        client = self._ready()
        package, footing = self._bytes(client, task.package), self._bytes(client, task.footing)
        footed = _key(task.footing) if task.footing else ""
        theirs = client.submit(made, package, task.place, footing, key=f"cell-{_key(task.package)}-{task.place.key}-{footed}")
        ours: Future[Cell] = Future()

        def ended(done: Any) -> None:
            if not ours.set_running_or_notify_cancel():
                return
            try:
                ours.set_result(done.result())
            except GlazeError as error:
                ours.set_exception(error)
            except Exception as error:
                ours.set_exception(Lost(f"{task.place.key}: this cell could not be made ({type(error).__name__}: {error})"))

        theirs.add_done_callback(ended)
        # Let go rather than cancelled: somebody else may be waiting for the same cell.
        ours.add_done_callback(lambda _: theirs.release())
        return ours

    def _bytes(self, client: Client, given: bytes | Footing | None) -> Any:
        if given is None:
            return None
        key = _key(given)
        with self._turn:
            if key not in self._sent:
                self._sent[key] = client.submit(_same, given, key=f"given-{key}")
            return self._sent[key]

    def made(self, tasks: Iterable[Task]) -> Iterator[tuple[int, Cell]]:
        """All cells, each as it is made, with its task's number; tasks are asked for as there is room. Raises Lost, BadFile,
        BadEffect for the first that cannot be."""
        waiting: dict[Future[Cell], int] = {}
        following = enumerate(tasks)
        arrived = threading.Condition()
        ready: list[Future[Cell]] = []

        def came(done: Future[Cell]) -> None:
            with arrived:
                ready.append(done)
                arrived.notify()

        def more() -> None:
            for number, task in following:
                future = self.submit(task)
                waiting[future] = number
                future.add_done_callback(came)
                if len(waiting) >= AHEAD:
                    return

        more()
        try:
            while waiting:
                with arrived:
                    arrived.wait_for(lambda: ready)
                    done, ready[:] = list(ready), []
                for future in done:
                    number = waiting.pop(future)
                    yield number, future.result()
                more()
        finally:
            for future in waiting:
                future.cancel()

    def shut(self) -> None:
        """End what was started here; a scheduler elsewhere goes on."""
        with self._turn:
            for one in (self._client, self._cluster):
                # Workers that are still at a cell end with this process.
                with contextlib.suppress(TimeoutError, OSError):
                    if one is not None:
                        one.close(timeout=SHUT_SECONDS)
            self._client = self._cluster = None
            self._sent.clear()


def _key(given: bytes | Footing) -> str:
    return key_of(given if isinstance(given, bytes) else given.data + (given.tracks or b""))


def _same(given: Any) -> Any:
    return given


def dask_setup(_: Any) -> None:
    """Called in each worker of this machine when it starts."""
    os.nice(NICE)
