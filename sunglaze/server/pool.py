"""Threads for routes that compute: few, limited in time, and ended when whoever asked has gone, so that nothing else waits."""

from __future__ import annotations

import asyncio
import threading
import time
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from typing import TypeVar

from fastapi import Request

from sunglaze.core.errors import GlazeError

T = TypeVar("T")
WORKERS, WAITING = 2, 8
MOST_SECONDS = 4.0
_LOOK_SECONDS = 0.1


class Busy(GlazeError):
    """There is more to compute than is fair to all others; it may be asked for again."""


class Gone(GlazeError):
    """Nobody waits for the answer any more."""


class Pool:
    """A few threads for what routes compute. `run` refuses where too much waits already, and gives up where nobody waits."""

    def __init__(self) -> None:
        self._threads = ThreadPoolExecutor(WORKERS, thread_name_prefix="preview")
        self._count = 0

    async def run(self, request: Request, work: Callable[[Callable[[], None]], T], most: float = MOST_SECONDS) -> T:
        """What `work` gives, which may take `most` seconds. It is handed a function to call now and then, which raises where it
        should end. Raises Busy."""
        if self._count >= WORKERS + WAITING:
            raise Busy("there is too much to preview at the moment; it is asked for again by itself")
        gone = threading.Event()
        began: list[float] = []

        def patience() -> None:
            if gone.is_set():
                raise Gone("nobody waits for it")
            if time.monotonic() - began[0] > most:
                raise Busy(f"this takes more than {most:.0f} s to preview; the picture itself is not held up by it")

        def begun() -> T:
            began.append(time.monotonic())
            patience()
            return work(patience)

        self._count += 1
        future = asyncio.get_running_loop().run_in_executor(self._threads, begun)
        future.add_done_callback(self._ended)
        while not (await asyncio.wait({future}, timeout=_LOOK_SECONDS))[0]:
            if await request.is_disconnected():
                gone.set()
                future.cancel()
                raise Gone("nobody waits for it")
        return future.result()

    def _ended(self, future: asyncio.Future[T]) -> None:
        self._count -= 1
        if not future.cancelled():
            future.exception()  # taken note of, also where nobody waits

    def shut(self) -> None:
        self._threads.shutdown(wait=False, cancel_futures=True)
