"""Processes that the server starts: forked from one that has imported everything, so that each is there at once.

That one is Python's fork server. It runs no thread, opens nothing and ends with the server, however that ends.
"""

from __future__ import annotations

import contextlib
import ctypes
import multiprocessing
from multiprocessing import forkserver
from multiprocessing.context import ForkServerContext
from pathlib import Path

PRELOADED = "sunglaze.server.preloaded"


def context() -> ForkServerContext:
    """Whence processes and pipes to them come."""
    found = multiprocessing.get_context("forkserver")
    found.set_forkserver_preload([PRELOADED])
    return found


def call_this(name: str) -> None:
    """Give this process a name of its own among the system's, of 15 letters at most (proc(5): comm)."""
    with contextlib.suppress(OSError):
        Path("/proc/self/comm").write_text(name)


_ARENAS, _TRIM, _MAPPED = -8, -1, -3
"""Of mallopt(3), as glibc's malloc.h numbers them."""


def give_memory_back() -> None:
    """Have this process return what it freed to the system at once: pictures that come and go on many threads left holes of half
    a gigabyte. Where there is no glibc it does nothing."""
    with contextlib.suppress(OSError, AttributeError):
        tune = ctypes.CDLL(None).mallopt
        for parameter, value in ((_ARENAS, 2), (_TRIM, 128 * 1024), (_MAPPED, 128 * 1024)):
            tune(parameter, value)


def warm() -> None:
    """Start the fork server, which imports meanwhile; it is started at the first need otherwise. What it starts gets the
    environment of now."""
    context()
    forkserver.ensure_running()
