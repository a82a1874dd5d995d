"""Cameras: what stands at the start of the light path. Each gives frames as words (RGBA, alpha the person mask)."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any, Protocol

import cv2
import numpy as np
from numpy.typing import NDArray

from sunglaze.core.picture.files import PictureFile, cover, eight_bits
from sunglaze.core.render.kernel import Words, blank

LOOP = Path(__file__).parent / "assets" / "lamp-tender"


class Camera(Protocol):
    def frame(self, number: int) -> Words:
        """The picture of frame `number` (of any size from 0); rows padded as kernels take them. Not to be written to."""
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
HEAD_ROOM = 0.3
"""Of what a screen less tall than the camera cuts away, so much is taken above: heads are in the upper part."""


def screen_size(screen: str, short: int) -> tuple[int, int]:
    """Columns and rows of a screen whose short side has so many pixels."""
    across, down = SCREENS[screen]
    return (short, round(short * down / across)) if across <= down else (round(short * across / down), short)


def on_screen(frame: Words, width: int, size: tuple[int, int]) -> Words:
    """A frame of so many columns on a screen of another size: cut to its shape, never stretched."""
    height = frame.shape[0]
    if (width, height) == size:
        return frame
    pixels = frame.view(np.uint8).reshape(height, -1, 4)[:, :width]
    rows = min(height, round(width * size[1] / size[0]))
    columns = min(width, round(height * size[0] / size[1]))
    top, left = round((height - rows) * HEAD_ROOM), (width - columns) // 2
    shrinks = size[0] < columns
    cut = cv2.resize(
        pixels[top : top + rows, left : left + columns], size, interpolation=cv2.INTER_AREA if shrinks else cv2.INTER_CUBIC
    )
    out = blank(size[1], size[0])
    out.view(np.uint8).reshape(size[1], -1, 4)[:, : size[0]] = cut
    return out


class StandIn:
    """The baked loop of a made-up performer (performer/bake.py), scaled to cover the wanted size."""

    def __init__(self, width: int, height: int, path: Path = LOOP) -> None:
        self._folder = path
        self._size = width, height
        self._decoded: dict[int, Words] = {}
        self.facts: dict[str, Any] = json.loads((path / "loop.json").read_text())
        self.length = int(self.facts["frames"])

    def frame(self, number: int) -> Words:
        number %= self.length
        found = self._decoded.get(number)
        if found is None:
            pixels = cv2.imread(str(self._folder / f"frames/{number:03d}.jpg"), cv2.IMREAD_COLOR_RGB)
            mask = cv2.imread(str(self._folder / f"masks/{number:03d}.png"), cv2.IMREAD_GRAYSCALE)
            assert pixels is not None
            assert mask is not None
            found = words(cover(pixels, *self._size), cover(mask, *self._size))
            self._decoded[number] = found
        return found


class Still:
    """A picture of the artist's own in the camera's place. There is no mask of it yet: nobody is marked."""

    def __init__(self, file: PictureFile, width: int, height: int) -> None:
        self._words = words(cover(eight_bits(file), width, height), None)

    def frame(self, number: int) -> Words:
        return self._words
