"""Cameras: what stands at the start of the light path. Each gives frames as words (RGBA, alpha the person mask)."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Protocol

import cv2
import numpy as np
from numpy.typing import NDArray

from sunglaze.core.picture.files import PictureFile, cover, eight_bits
from sunglaze.core.render.kernel import Words, blank


class Camera(Protocol):
    def frame(self, number: int) -> Words:
        """The picture of frame `number` (of any size from 0); rows padded as kernels take them. Not to be written to."""
        ...

    def sized(self, width: int, height: int) -> Camera:
        """The same camera for a screen of another size or shape; nothing is stretched."""
        ...

    def regions(self, number: int, names: Iterable[str]) -> dict[str, NDArray[np.uint8]]:
        """Masks (height, width, 1), bytes, of regions beside the person, those that it has, by name."""
        ...


def words(pixels: NDArray[np.uint8], mask: NDArray[np.uint8] | None) -> Words:
    """A picture (height, width, 3 or more), red first, and a mask (height, width; none means nobody) as words."""
    height, width = pixels.shape[:2]
    out = blank(height, width)
    parts = out.view(np.uint8).reshape(height, -1, 4)
    parts[:, :width, :3] = pixels[:, :, :3]
    if mask is not None:
        parts[:, :width, 3] = mask
    return out


def colours(picture: Words, width: int) -> NDArray[np.uint8]:
    """The colour of words as (height, width, 3), red first."""
    return picture.view(np.uint8).reshape(picture.shape[0], -1, 4)[:, :width, :3]


SCREENS = {"9:16": (9, 16), "3:4": (3, 4), "1:1": (1, 1), "16:9": (16, 9)}


def screen_size(screen: str, short: int) -> tuple[int, int]:
    """Columns and rows of a screen whose short side has so many pixels."""
    across, down = SCREENS[screen]
    return (short, round(short * down / across)) if across <= down else (round(short * across / down), short)


def shrunk(frame: Words, width: int, size: tuple[int, int]) -> Words:
    """A frame of so many columns at a smaller size of the same shape."""
    if (width, frame.shape[0]) == size:
        return frame
    pixels = frame.view(np.uint8).reshape(frame.shape[0], -1, 4)[:, :width]
    out = blank(size[1], size[0])
    out.view(np.uint8).reshape(size[1], -1, 4)[:, : size[0]] = cv2.resize(pixels, size, interpolation=cv2.INTER_AREA)
    return out


class Still:
    """A picture of the artist's own in the camera's place, covering the screen. There is no mask of it yet: nobody is marked."""

    def __init__(self, file: PictureFile, width: int, height: int) -> None:
        self._file = file
        self._words = words(cover(eight_bits(file), width, height), None)
        self._other: dict[tuple[int, int], Still] = {(width, height): self}

    def sized(self, width: int, height: int) -> Still:
        if (width, height) not in self._other:
            self._other[width, height] = Still(self._file, width, height)
        return self._other[width, height]

    def frame(self, number: int) -> Words:
        return self._words

    def regions(self, number: int, names: Iterable[str]) -> dict[str, NDArray[np.uint8]]:
        return {}
