"""Frames and masks that were made, as long as memory allows.

Keys begin with what plays and at which size (PLAYS parts): that is asked for round after round. Where a round takes more memory
than there is, what was kept first of it stays: throwing out the oldest would throw out each frame just before it is needed.
"""

from __future__ import annotations

import threading
from collections import OrderedDict
from collections.abc import Callable, Hashable
from typing import Any

from numpy.typing import NDArray

KEPT_BYTES = 700_000_000
"""The longest script at 540 by 960, or a short one at 720 by 1280 with five masks."""
PLAYS = 3


class Kept:
    """Threads share it; two may make the same at once."""

    def __init__(self, room: int) -> None:
        self._room, self._bytes = room, 0
        self._found: OrderedDict[tuple[Hashable, ...], NDArray[Any]] = OrderedDict()
        self._lock = threading.Lock()

    def get(self, key: tuple[Hashable, ...], make: Callable[[], NDArray[Any]]) -> NDArray[Any]:
        with self._lock:
            if key in self._found:
                self._found.move_to_end(key)
                return self._found[key]
        made = make()
        with self._lock:
            if key in self._found:
                return made
            while self._bytes + made.nbytes > self._room:
                other = next((k for k in self._found if k[:PLAYS] != key[:PLAYS]), None)
                if other is None:
                    return made
                self._bytes -= self._found.pop(other).nbytes
            self._found[key] = made
            self._bytes += made.nbytes
        return made


KEPT = Kept(KEPT_BYTES)
