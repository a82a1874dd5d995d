"""Sequences as material: pictures at a rate, of which one is shown at a time. They are decoded when they are shown."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from sunglaze.core.cache import CACHE
from sunglaze.core.material.files import material_pixels


@dataclass(frozen=True)
class Sequence:
    """`key`: equal for equal sequences. `files`: pictures of one size, as they were given. `rate`: pictures a second."""

    key: str
    files: tuple[bytes, ...]
    rate: float = 30.0

    @property
    def frames(self) -> int:
        """How many pictures it has."""
        return len(self.files)

    @property
    def weight(self) -> int:
        """Bytes of the files."""
        return sum(map(len, self.files))

    def frame(self, number: int) -> NDArray[np.uint8]:
        """Picture `number` (height, width, 4), the first and the last standing for those before and behind. Decoded pictures are
        held by the cache of the process. Raises BadFile."""
        held = min(max(number, 0), self.frames - 1)
        return CACHE.get(("sequence", self.key, held), lambda: material_pixels(self.files[held]), group=("sequence", self.key))
