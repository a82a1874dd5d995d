"""Cameras: what stands at the start of the light path. Each gives frames as words (RGBA, alpha the person mask)."""

from __future__ import annotations

import itertools
from collections.abc import Callable, Hashable, Iterable
from dataclasses import dataclass, replace
from functools import partial
from typing import Literal, Protocol

import cv2
import numpy as np
from numpy.typing import NDArray

from sunglaze.core.cache import CACHE, kept_mask
from sunglaze.core.camera.tracks import Tracks
from sunglaze.core.face.model import APPROXIMATE
from sunglaze.core.face.regions import HAIRY, OF_HANDS, hand_region, region
from sunglaze.core.face.seen import seen_face
from sunglaze.core.language.moments import FACES
from sunglaze.core.material.files import cover
from sunglaze.core.material.footage import Footage
from sunglaze.core.moment.moment import RATE, Clock, Face, Moment, Reads, Screen
from sunglaze.core.targets.memory import Words, blank, parts_of, words

Size = tuple[int, int]
"""Columns and rows."""


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

    def regions(self, number: int, names: Iterable[str], size: Size | None = None) -> dict[str, NDArray[np.uint8]]:
        """Masks (height, width, 1), bytes, of regions beside the person, those that it has, by name; made smaller to columns and
        rows where these are given."""
        ...

    def faces(self, number: int) -> list[Face]:
        """The faces of a frame, the first one first."""
        ...

    def moment(self, number: int, reads: Reads) -> Moment:
        """The moment of a frame; `moment_of` makes it of the others."""
        ...


def moment_of(camera: Camera, number: int, reads: Reads, side: Literal["front", "back"] = "front") -> Moment:
    """The moment of a camera's frame with what is asked for."""
    return Moment(
        Clock.at(number),
        Screen(camera.width, camera.height, side),
        faces=tuple(camera.faces(number)[:FACES]) if reads.faces else (),
        picture=camera.frame(number) if reads.picture else None,
        regions=camera.regions(number, reads.regions) if reads.regions else {},
    )


@dataclass(frozen=True)
class Shrunk:
    """A source of moments that shows a camera on a smaller screen of the same shape."""

    camera: Camera
    columns: int
    rows: int

    def moment(self, number: int, reads: Reads) -> Moment:
        """As Source has it."""
        size = self.columns, self.rows
        if size == (self.camera.width, self.camera.height):
            return self.camera.moment(number, reads)
        seen = self.camera.moment(number, replace(reads, regions=()))
        picture = seen.picture
        if picture is not None:
            picture = shrunk(picture, self.camera.width, size)
        regions = self.camera.regions(number, reads.regions, size) if reads.regions else {}
        screen = replace(seen.screen, columns=self.columns, rows=self.rows)
        return replace(seen, screen=screen, picture=picture, regions=regions)


def kept_region(
    key: tuple[Hashable, ...], make: Callable[[], NDArray[np.uint8]], group: Hashable, size: Size | None
) -> NDArray[np.uint8]:
    """A mask (height, width, 1), kept as it is made, and at the size that is asked for."""
    if size is None:
        return kept_mask(key, make, group)

    def smaller() -> NDArray[np.uint8]:
        return np.asarray(cv2.resize(kept_mask(key, make, group), size, interpolation=cv2.INTER_AREA), np.uint8)[..., None]

    return kept_mask((*key, size), smaller, group)


def colours(picture: Words, width: int) -> NDArray[np.uint8]:
    """The colour of a camera's words as (height, width, 3), red first."""
    return parts_of(picture, width)[:, :, :3]


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
    pixels = parts_of(frame, width)
    while pixels.shape[1] >= 2 * size[0] and not pixels.shape[0] % 2 and not pixels.shape[1] % 2:
        half = pixels.shape[1] // 2, pixels.shape[0] // 2
        pixels = np.asarray(cv2.resize(pixels, half, interpolation=cv2.INTER_AREA), np.uint8)
    out = blank(size[1], size[0])
    same = (pixels.shape[1], pixels.shape[0]) == size
    parts_of(out, size[0])[...] = pixels if same else cv2.resize(pixels, size, interpolation=cv2.INTER_LINEAR)
    return out


_NUMBERS = itertools.count()
LEAST_FACE = 2.0
"""Pixels; what trackers saw that is narrower is no face: it has no pose."""


class Own:
    """Footage of the artist's own in the camera's place, covering the screen. Who is where is known where it was tracked;
    elsewhere all is taken for the person."""

    def __init__(
        self, footage: Footage, width: int, height: int, tracks: Tracks | None = None, key: Hashable | None = None
    ) -> None:
        """`key`: equal for equal footage with equal tracks, whose frames are then kept together."""
        self.footage, self.width, self.height = footage, width, height
        self.tracks = tracks or {}
        self._key = key or ("own", next(_NUMBERS))
        self._plays = (self._key, width, height)
        self.length = max(1, round(footage.seconds * RATE))

    def sized(self, width: int, height: int) -> Own:
        """As Camera has it."""
        return Own(self.footage, width, height, self.tracks, self._key)

    @property
    def words(self) -> str:
        """What is wrong with the footage as far as it was played, if anything."""
        return self.footage.words

    @property
    def knows_faces(self) -> bool:
        """Whether a face was found in any picture of it."""
        return any(track.faces for track in self.tracks.values())

    def frame(self, number: int) -> Words:
        """As Camera has it."""
        shown = self._shown(number)
        return CACHE.get((self._plays, shown), lambda: self._made(shown), group=self._plays)

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

    def points(self, number: int) -> list[NDArray[np.float64]]:
        """The points of the faces (478, 3) in pixels of the screen, z too."""
        return self._placed(number)

    def _placed(self, number: int, hands: bool = False) -> list[NDArray[np.float64]]:
        track = self.tracks.get(self._shown(number))
        if track is None:
            return []
        scale = max(self.width / self.footage.width, self.height / self.footage.height)
        size = self.footage.width * scale, self.footage.height * scale
        aside = ((size[0] - self.width) / 2, (size[1] - self.height) / 2, 0.0)
        return [one - aside for one in (track.hand_points(*size) if hands else track.points(*size))]

    def faces(self, number: int) -> list[Face]:
        """As Camera has it, by what trackers saw, who say nothing of what hides a point."""
        seen = [points for points in self.points(number) if np.ptp(points[:, :2], axis=0).min() >= LEAST_FACE]
        return [seen_face(points, self.width, self.height) for points in seen]

    def moment(self, number: int, reads: Reads) -> Moment:
        """As Camera has it."""
        return moment_of(self, number, reads)

    def regions(self, number: int, names: Iterable[str], size: Size | None = None) -> dict[str, NDArray[np.uint8]]:
        """As Camera has it, drawn from points where pictures were tracked."""
        shown = self._shown(number)
        track = self.tracks.get(shown)
        drawn = {*APPROXIMATE, *((OF_HANDS,) if track is not None and track.hands is not None else ())}
        known = [name for name in names if name in drawn] if track is not None else []
        made = {name: partial(self._region, number, name) for name in known}
        return {name: kept_region((self._plays, shown, name), make, self._plays, size) for name, make in made.items()}

    def _region(self, number: int, name: str) -> NDArray[np.uint8]:
        if name == OF_HANDS:
            return hand_region(self._placed(number, hands=True), self.height, self.width)[..., None]
        points, person = self.points(number), self._person(self._shown(number))
        picture = cover(self.footage.picture(self._shown(number)), self.width, self.height) if name in HAIRY else None
        return region(name, points, person, picture)[..., None]
