"""A cache bounded in bytes: the least recently used goes first; hits refresh. Threads share it."""

from __future__ import annotations

import threading
from collections import OrderedDict
from collections.abc import Callable, Hashable
from typing import Generic, TypeVar

T = TypeVar("T")


class ByteCache(Generic[T]):
    """`room`: bytes that it holds at most; what is larger alone is made each time. Two threads may make the same at once."""

    def __init__(self, room: int, weigh: Callable[[T], int]) -> None:
        self.room, self._weigh = room, weigh
        self.bytes = self.hits = self.evicted = 0
        self._held: OrderedDict[Hashable, tuple[T, int]] = OrderedDict()
        self._lock = threading.Lock()

    def get(self, key: Hashable, make: Callable[[], T]) -> T:
        """What is held under a key, made where there is nothing. Raises what `make` raises."""
        with self._lock:
            if key in self._held:
                self._held.move_to_end(key)
                self.hits += 1
                return self._held[key][0]
        made = make()
        weight = self._weigh(made)
        with self._lock:
            if key not in self._held and weight <= self.room:
                self._held[key] = made, weight
                self.bytes += weight
            while self.bytes > self.room:
                _, (_, freed) = self._held.popitem(last=False)
                self.bytes -= freed
                self.evicted += 1
        return made

    def __len__(self) -> int:
        return len(self._held)
