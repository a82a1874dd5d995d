"""What was decoded or drawn, as long as memory allows: one cache a process, bounded in bytes.

The environment variable SUNGLAZE_CACHE_MB says how many megabytes; without it there are USUAL_MEGABYTES.
"""

from __future__ import annotations

import os
import threading
import zlib
from collections import OrderedDict
from collections.abc import Callable, Hashable
from typing import Any, TypeVar

import numpy as np
from cachetools import FIFOCache
from numpy.typing import NDArray

T = TypeVar("T")
USUAL_MEGABYTES = 176
"""A loop of the cast's frames at the picture's usual size takes 155."""


def _bytes_of(made: Any) -> int:
    return int(made.nbytes)


class ByteCache:
    """Threads share it; two may make the same at once. The least recently used goes first; hits refresh.

    What is asked for round after round, as the frames of a loop, belongs to a `group`. Where a round takes more than there
    is room, what was kept first of it stays: throwing out the oldest would throw out each frame just before it is needed again.

    `room`: bytes that it holds at most; what is larger alone is made each time. `hits`, `misses` and `evicted` are counted.
    """

    def __init__(self, room: int) -> None:
        self.room = room
        self.bytes = self.hits = self.misses = self.evicted = 0
        self._held: OrderedDict[Hashable, tuple[Any, int, Hashable]] = OrderedDict()
        self._lock = threading.Lock()

    def get(
        self, key: Hashable, make: Callable[[], T], weigh: Callable[[T], int] = _bytes_of, group: Hashable | None = None
    ) -> T:
        """What is held under a key, made where there is nothing. `weigh` gives bytes, `nbytes` by default. Raises what `make`
        raises."""
        with self._lock:
            if key in self._held:
                self._held.move_to_end(key)
                self.hits += 1
                found: T = self._held[key][0]
                return found
            self.misses += 1
        made = make()
        weight = weigh(made)
        with self._lock:
            if key not in self._held and self._makes_room(weight, group):
                self._held[key] = made, weight, group
                self.bytes += weight
        return made

    def _makes_room(self, weight: int, group: Hashable | None) -> bool:
        """Whether something of this weight fits after others went."""
        if weight > self.room:
            return False
        while self.bytes + weight > self.room:
            oldest = next((key for key, (_, _, other) in self._held.items() if group is None or other != group), None)
            if oldest is None:
                return False
            self.bytes -= self._held.pop(oldest)[1]
            self.evicted += 1
        return True

    def __contains__(self, key: Hashable) -> bool:
        return key in self._held

    def __len__(self) -> int:
        return len(self._held)


def _room() -> int:
    megabytes = os.environ.get("SUNGLAZE_CACHE_MB", "")
    return (int(megabytes) if megabytes.isdecimal() else USUAL_MEGABYTES) * 1024 * 1024


CACHE = ByteCache(_room())
"""That of this process: frames and masks of cameras, lookups, pictures, footage, tracks."""

_UNPACKED = 24
_unpacked: FIFOCache[Hashable, NDArray[np.uint8]] = FIFOCache(_UNPACKED)
_unpacking = threading.Lock()


def kept_mask(key: Hashable, make: Callable[[], NDArray[np.uint8]], group: Hashable | None = None) -> NDArray[np.uint8]:
    """What CACHE holds under a key, made where there is nothing, of any shape: bytes that are the same nearly everywhere, as
    masks are. They are held packed, in a fortieth of the room; the last ones are there unpacked, too, as the same arrays."""
    with _unpacking:
        found: NDArray[np.uint8] | None = _unpacked.get(key)
    if found is None:
        shape, data = CACHE.get(key, lambda: _packed(make()), lambda packed: len(packed[1]), group)
        found = np.frombuffer(zlib.decompress(data), np.uint8).reshape(shape)
        with _unpacking:
            _unpacked[key] = found
    return found


def _packed(mask: NDArray[np.uint8]) -> tuple[tuple[int, ...], bytes]:
    return mask.shape, zlib.compress(mask.tobytes(), 1)
