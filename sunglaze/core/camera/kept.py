"""Frames and masks that were made, the latest asked for as long as memory allows."""

from __future__ import annotations

import threading
from collections import OrderedDict
from collections.abc import Callable, Hashable
from typing import Any

from numpy.typing import NDArray

KEPT_BYTES = 320_000_000


class Kept:
    """Threads share it; two may make the same at once."""

    def __init__(self, room: int) -> None:
        self._room, self._bytes = room, 0
        self._found: OrderedDict[Hashable, NDArray[Any]] = OrderedDict()
        self._lock = threading.Lock()

    def get(self, key: Hashable, make: Callable[[], NDArray[Any]]) -> NDArray[Any]:
        with self._lock:
            if key in self._found:
                self._found.move_to_end(key)
                return self._found[key]
        made = make()
        with self._lock:
            if key not in self._found:
                self._found[key] = made
                self._bytes += made.nbytes
            while self._bytes > self._room and len(self._found) > 1:
                self._bytes -= self._found.popitem(last=False)[1].nbytes
        return made


KEPT = Kept(KEPT_BYTES)
