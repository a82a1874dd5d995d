"""Cameras: what stands at the start of the light path. Each gives frames as words (RGBA, alpha the person mask)."""

from __future__ import annotations

import itertools
from collections.abc import Iterable
from functools import partial
from typing import Protocol

import cv2
import numpy as np
from numpy.typing import NDArray

from sunglaze.core.camera.footage import Footage
from sunglaze.core.camera.kept import KEPT
from sunglaze.core.camera.tracks import Tracks
from sunglaze.core.face.model import APPROXIMATE
from sunglaze.core.face.regions import region
from sunglaze.core.picture.files import cover
from sunglaze.core.render.kernel import Words, blank
from sunglaze.core.shading.program import RATE


class Camera(Protocol):
    """`length`: frames after which it begins anew."""

    width: int
    height: int
    length: int

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
    """A frame of so many columns at a smaller size of the same shape: halved as often as it goes, then by straight lines, which
    takes a fifth of the time that the mean of all that a pixel covers takes."""
    if (width, frame.shape[0]) == size:
        return frame
    pixels = frame.view(np.uint8).reshape(frame.shape[0], -1, 4)[:, :width]
    while pixels.shape[1] >= 2 * size[0] and not pixels.shape[0] % 2 and not pixels.shape[1] % 2:
        half = pixels.shape[1] // 2, pixels.shape[0] // 2
        pixels = np.asarray(cv2.resize(pixels, half, interpolation=cv2.INTER_AREA), np.uint8)
    out = blank(size[1], size[0])
    out.view(np.uint8).reshape(size[1], -1, 4)[:, : size[0]] = cv2.resize(pixels, size, interpolation=cv2.INTER_LINEAR)
    return out


_NUMBERS = itertools.count()


class Own:
    """Footage of the artist's own in the camera's place, covering the screen. Who is where is known where it was tracked;
    elsewhere all is taken for the person."""

    def __init__(self, footage: Footage, width: int, height: int, tracks: Tracks | None = None) -> None:
        self.footage, self.width, self.height = footage, width, height
        self.tracks = tracks or {}
        self._plays = ("own", next(_NUMBERS), (width, height))
        self.length = max(1, round(footage.seconds * RATE))
        self._other: dict[tuple[int, int], Own] = {(width, height): self}

    def sized(self, width: int, height: int) -> Own:
        if (width, height) not in self._other:
            made = Own(self.footage, width, height, self.tracks)
            made._other = self._other
            self._other[width, height] = made
        return self._other[width, height]

    @property
    def words(self) -> str:
        """What is wrong with the footage as far as it was played, if anything."""
        return self.footage.words

    def frame(self, number: int) -> Words:
        shown = self._shown(number)
        return KEPT.get((*self._plays, shown), lambda: self._made(shown))

    def _shown(self, number: int) -> int:
        """The picture of the footage that a frame shows."""
        return self.footage.at(number / RATE)

    def _made(self, shown: int) -> Words:
        # As long as nobody has looked for people, all is taken for them: what is cut out of it stays whole.
        person = self._person(shown) if shown in self.tracks else np.full((self.height, self.width), 255, np.uint8)
        return words(cover(self.footage.picture(shown), self.width, self.height), person)

    def _person(self, shown: int) -> NDArray[np.uint8]:
        mask = cv2.resize(self.tracks[shown].person(), (self.footage.width, self.footage.height), interpolation=cv2.INTER_LINEAR)
        return np.asarray(cover(np.asarray(mask), self.width, self.height), np.uint8)

    def faces(self, number: int) -> list[NDArray[np.float64]]:
        """The points of the faces (478, 3) in pixels of the screen."""
        track = self.tracks.get(self._shown(number))
        if track is None:
            return []
        scale = max(self.width / self.footage.width, self.height / self.footage.height)
        size = self.footage.width * scale, self.footage.height * scale
        aside = ((size[0] - self.width) / 2, (size[1] - self.height) / 2, 0.0)
        return [face - aside for face in track.points(*size)]

    def regions(self, number: int, names: Iterable[str]) -> dict[str, NDArray[np.uint8]]:
        shown = self._shown(number)
        known = [name for name in names if name in APPROXIMATE] if shown in self.tracks else []
        return {name: KEPT.get((*self._plays, shown, name), partial(self._region, number, name)) for name in known}

    def _region(self, number: int, name: str) -> NDArray[np.uint8]:
        return region(name, self.faces(number), self._person(self._shown(number)))[..., None]
