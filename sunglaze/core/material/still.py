"""Still pictures as material: handles on files that are decoded when they are shown, or on pixels that were made here."""

from __future__ import annotations

import hashlib
from dataclasses import dataclass
from typing import Any, ClassVar

from numpy.typing import NDArray

from sunglaze.core.cache import CACHE
from sunglaze.core.material.files import material_pixels


@dataclass(frozen=True, eq=False)
class Still:
    """`key`: equal for equal files. `file`: as it was given; its pixels are held by the cache of the process. `made`: pixels that
    no file holds, (height, width, channels) of bytes or float32, which are held here."""

    key: str = ""
    file: bytes = b""
    made: NDArray[Any] | None = None
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
        return CACHE.get(("picture", self.key), lambda: material_pixels(self.file)) if self.made is None else self.made

    def is_same(self, other: Still) -> bool:
        """Whether both show the same pixels, as far as that is known without looking at them."""
        return self.key == other.key and self.made is other.made
