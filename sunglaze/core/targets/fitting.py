"""Kept pictures at another size than they were drawn at: the screen's shape is cut out of their middle."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from sunglaze.core.targets.memory import Surface, planes


@dataclass(frozen=True)
class Kept:
    """A picture that one frame hands to the next, as planes (channels, rows, padded columns)."""

    surface: Surface
    columns: int

    def copy(self) -> Kept:
        """The same, untouched by what is done to this one."""
        return Kept(self.surface.copy(), self.columns)

    def at(self, columns: int, rows: int) -> Surface:
        """Its planes at a screen's size."""
        if (self.columns, self.surface.shape[1]) == (columns, rows):
            return self.surface
        return planes(fitted(np.moveaxis(self.surface[:, :, : self.columns], 0, 2), columns, rows))


def fitted(picture: NDArray[Any], columns: int, rows: int) -> NDArray[Any]:
    """A picture (height, width, channels) of floats that fills a screen: cut to its shape around the middle, and resized."""
    height, width, channels = picture.shape
    if (width, height) == (columns, rows):
        return picture
    left = max(0, round((width - height * columns / rows) / 2))
    top = max(0, round((height - width * rows / columns) / 2))
    cut = np.ascontiguousarray(picture[top : height - top, left : width - left])
    smaller = columns < cut.shape[1]
    made = cv2.resize(cut, (columns, rows), interpolation=cv2.INTER_AREA if smaller else cv2.INTER_LINEAR)
    return made.reshape(rows, columns, channels)
