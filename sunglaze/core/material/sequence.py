"""Sequences as material: pictures at a rate, of which one is shown at a time. They are decoded when they are shown."""

from __future__ import annotations

from bisect import bisect_right
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, replace
from functools import cached_property
from itertools import accumulate

import numpy as np
from numpy.typing import NDArray

from sunglaze.core.errors import BadFile
from sunglaze.core.material.still import Still

MOST_FRAMES = 600
EACH = ":each"
"""Behind the id of a sequence: the same with all its pictures shown for equally long."""
_AHEAD = ThreadPoolExecutor(1, "decodes ahead")


@dataclass(frozen=True)
class Sequence:
    """`key`: equal for equal sequences. `files`: pictures of one size, as they were given. `rate`: ticks a second. `holds`: for
    how many ticks each picture is shown, one tick each where nothing is said: so the times of animated pictures are exact."""

    key: str
    files: tuple[bytes, ...]
    rate: float = 30.0
    holds: tuple[int, ...] = ()

    @property
    def frames(self) -> int:
        """How many pictures it has."""
        return len(self.files)

    @property
    def ticks(self) -> int:
        """How many ticks it lasts."""
        return sum(self.holds) or self.frames

    @property
    def seconds(self) -> float:
        """How long it lasts."""
        return self.ticks / self.rate

    @property
    def weight(self) -> int:
        """Bytes of the files."""
        return sum(map(len, self.files))

    @cached_property
    def each(self) -> Sequence:
        """The same with every picture shown for one tick."""
        return replace(self, holds=()) if self.holds else self

    @cached_property
    def _ends(self) -> tuple[int, ...]:
        return tuple(accumulate(self.holds))

    def number_at(self, tick: int) -> int:
        """Which picture shows at a tick, the first and the last standing for those before and behind."""
        number = bisect_right(self._ends, tick) if self.holds else tick
        return min(max(number, 0), self.frames - 1)

    def still(self, tick: int) -> Still:
        """The picture at a tick as a still."""
        number = self.number_at(tick)
        return Still(f"{self.key}:{number}", self.files[number], group=("sequence", self.key))

    def frame(self, tick: int) -> NDArray[np.uint8]:
        """The picture at a tick, (height, width, 4). Decoded pictures are held by the cache of the process. Raises BadFile."""
        return self.still(tick).frame()

    def expect(self, tick: int) -> None:
        """Decode the picture at a tick ahead of need, on a thread that does nothing else; damage is told when it is shown."""
        still = self.still(tick)
        if not still.is_held:
            _AHEAD.submit(_quietly, still)


def _quietly(still: Still) -> None:
    try:
        still.frame()
    except BadFile:
        return
