"""Still pictures as material: handles on files that are decoded when they are shown, or on pixels that were made here."""

from __future__ import annotations

import hashlib
from collections.abc import Hashable
from dataclasses import dataclass, replace
from typing import Any, ClassVar

from numpy.typing import NDArray

from sunglaze.core.cache import CACHE
from sunglaze.core.material.files import material_pixels


@dataclass(frozen=True, eq=False)
class Still:
    """`key`: equal for equal files. `file`: as it was given; its pixels are held by the cache of the process. `made`: pixels that
    no file holds, (height, width, channels) of bytes or float32, which are held here. `halvings`: how many times it is made half
    as large, of pictures of four channels of bytes. `group`: those that are asked for round after round, as cache.py has it."""

    key: str = ""
    file: bytes = b""
    made: NDArray[Any] | None = None
    halvings: int = 0
    group: Hashable | None = None
    frames: ClassVar[int] = 1
    rate: ClassVar[float] = 0.0

    @classmethod
    def read(cls, file: bytes) -> Still:
        """One of a picture file. Raises BadFile where it cannot be read."""
        made = cls(hashlib.sha256(file).hexdigest(), file)
        made.frame()
        return made

    @classmethod
    def of(cls, pixels: NDArray[Any]) -> Still:
        """One of pixels (height, width, channels)."""
        return cls(made=pixels)

    @property
    def weight(self) -> int:
        """Bytes of the file, or of the pixels where there is none."""
        return len(self.file) if self.made is None else int(self.made.nbytes)

    def frame(self, tick: int = 0) -> NDArray[Any]:
        """The picture at any tick: (height, width, 4) of bytes where it comes from a file. Raises BadFile."""
        if self.halvings:
            # What was made here goes by its identity, which is nobody else's as long as it is kept beside its copy.
            key = ("smaller", self.key or id(self.made), self.halvings)
            return CACHE.get(key, self._beside_its_copy, lambda both: both[1].nbytes, self.group)[1]
        if self.made is not None:
            return self.made
        return CACHE.get(("picture", self.key), lambda: material_pixels(self.file), group=self.group)

    @property
    def is_held(self) -> bool:
        """Whether its pixels are there without decoding, halved or not."""
        return self.made is not None or ("picture", self.key) in CACHE

    def _beside_its_copy(self) -> tuple[NDArray[Any] | None, NDArray[Any]]:
        # Compiled by Numba, which takes half a second to import.
        from sunglaze.core.material.smaller import halved

        return self.made, halved(self.smaller(self.halvings - 1).frame())

    def smaller(self, halvings: int) -> Still:
        """Its copy that is halved so many times (smaller.py). Its pixels, too, are held by the cache."""
        return self if halvings == self.halvings else replace(self, halvings=halvings)

    def fitting(self, wide: float) -> Still:
        """The copy that suits the screen where all of it is seen over so many pixels. Raises BadFile."""
        from sunglaze.core.material.smaller import halvings

        return self.smaller(halvings(self.frame().shape[1], wide))

    def is_same(self, other: Still) -> bool:
        """Whether both show the same pixels, as far as that is known without looking at them."""
        return (self.key, self.halvings) == (other.key, other.halvings) and self.made is other.made
