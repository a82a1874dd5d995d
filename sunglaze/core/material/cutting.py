"""A part of a clip as a sequence: turned, flipped, cropped, fitted to a size, at a rate, black to clear, its ends softened."""

from __future__ import annotations

import math
import os
from bisect import bisect_right
from collections import deque
from collections.abc import Callable, Iterator
from concurrent.futures import Future, ThreadPoolExecutor
from dataclasses import dataclass
from itertools import accumulate
from typing import Literal, Protocol

import cv2
import numpy as np
from numpy.typing import NDArray

from sunglaze.core.errors import BadFile
from sunglaze.core.material.files import MOST_SIDE, encode_webp, with_alpha
from sunglaze.core.material.reels import MOST_BYTES, Reel, made
from sunglaze.core.material.sequence import MOST_FRAMES, Sequence

Bytes = NDArray[np.uint8]
Turn = Literal[0, 90, 180, 270]
Flip = Literal["none", "across", "down"]
Fit = Literal["cover", "contain", "stretch"]
Box = tuple[float, float, float, float]
WHOLE: Box = (0.0, 0.0, 1.0, 1.0)
MOST_SOFT_FRAMES = 48
"""Pictures of two ends that are mixed; they are held while the rest is read."""
USUAL_QUALITY = 78


class Clip(Protocol):
    """Pictures with the seconds at which each begins: footage, or a sequence (`Shown`)."""

    times: list[float]
    seconds: float

    @property
    def words(self) -> str:
        """What is wrong with it, if anything."""
        ...

    def at(self, seconds: float) -> int:
        """The number of the picture that is shown then."""
        ...

    def picture(self, number: int) -> Bytes:
        """A picture (height, width, 3 or 4)."""
        ...


class Shown:
    """A sequence as a clip."""

    words = ""

    def __init__(self, sequence: Sequence) -> None:
        self._each = sequence.each
        starts = [0, *accumulate(sequence.holds or (1,) * sequence.frames)]
        self.times = [tick / sequence.rate for tick in starts[:-1]]
        self.seconds = sequence.seconds

    def at(self, seconds: float) -> int:
        """The number of the picture that is shown then."""
        return max(0, bisect_right(self.times, seconds % self.seconds + 1e-6) - 1)

    def picture(self, number: int) -> Bytes:
        """A picture (height, width, 4)."""
        return self._each.frame(number)


@dataclass(frozen=True)
class Cut:
    """What of a clip becomes a sequence, and how.

    `turn`: degrees clockwise, then `flip`, then `crop`: left, top, right and bottom in parts of what that gives. `size`: columns
    and rows, none keeps the crop's. `span`: seconds, none is all. `rate`: pictures a second, none the clip's own. `black`: to
    clear, by the brightest of red, green and blue; `soften`: seconds over which the end goes over into the beginning. `quality`:
    of WebP, 1 to 100, none is lossless."""

    turn: Turn = 0
    flip: Flip = "none"
    crop: Box = WHOLE
    size: tuple[int, int] | None = None
    fit: Fit = "cover"
    span: tuple[float, float] | None = None
    rate: float | None = None
    black: bool = False
    soften: float = 0.0
    quality: int | None = USUAL_QUALITY

    def __post_init__(self) -> None:
        """Raises BadFile for what cannot be cut so."""
        left, top, right, bottom = self.crop
        if not (0 <= left < right <= 1 and 0 <= top < bottom <= 1):
            raise BadFile("the crop goes from left to right and from top to bottom, in parts of the picture from 0 to 1")
        if self.size is not None and not all(1 <= side <= MOST_SIDE for side in self.size):
            raise BadFile(f"the size has 1 to {MOST_SIDE} pixels a side")
        if self.rate is not None and not 0.1 <= self.rate <= 60:
            raise BadFile("a sequence has 0.1 to 60 pictures a second")
        if self.quality is not None and not 1 <= self.quality <= 100:
            raise BadFile("the quality is 1 to 100")


@dataclass(frozen=True)
class Plan:
    """Which pictures of a clip a cut takes: `numbers` in order, the last `soft` of which go over into the first."""

    numbers: tuple[int, ...]
    rate: float
    soft: int

    @property
    def frames(self) -> int:
        """How many pictures the sequence will have."""
        return len(self.numbers) - self.soft


def planned(clip: Clip, cut: Cut) -> Plan:
    """What a cut takes of a clip. Raises BadFile where that is nothing, or too much."""
    start, end = cut.span or (0.0, max(clip.seconds, 1 / 30))
    end = min(end, max(clip.seconds, 1 / 30))
    if not 0 <= start < end:
        raise BadFile(f"the span ends before it begins; the clip is {clip.seconds:.2f} s long")
    own = len(clip.times) / clip.seconds if clip.seconds else 1.0
    rate = cut.rate or min(60.0, own)
    count = max(1, math.floor((end - start) * rate + 1e-6))
    if count > MOST_FRAMES:
        raise BadFile(f"that is {count} pictures; {MOST_FRAMES} are the most. Take a shorter span, or fewer a second")
    last = len(clip.times) - 1
    numbers = tuple(min(clip.at(min(start + n / rate, clip.seconds - 1e-6)), last) for n in range(count))
    soft = min(round(cut.soften * rate), count // 2, MOST_SOFT_FRAMES)
    return Plan(numbers, rate, max(soft, 0))


def shaped(pixels: Bytes, cut: Cut) -> Bytes:
    """One picture (height, width, 3 or 4) as a cut makes it: with 4 channels where it had, or something of it becomes clear."""
    turned = np.rot90(pixels, -cut.turn // 90 % 4)
    if cut.flip != "none":
        turned = turned[:, ::-1] if cut.flip == "across" else turned[::-1]
    height, width = turned.shape[:2]
    left, top, right, bottom = cut.crop
    rows = slice(math.floor(top * height), max(math.ceil(bottom * height), math.floor(top * height) + 1))
    columns = slice(math.floor(left * width), max(math.ceil(right * width), math.floor(left * width) + 1))
    found = fitted(np.ascontiguousarray(turned[rows, columns]), cut.size, cut.fit)
    return black_to_clear(found) if cut.black else found


def fitted(pixels: Bytes, size: tuple[int, int] | None, fit: Fit) -> Bytes:
    """A picture (height, width, channels) at columns and rows: filled with its middle, whole with clear bars, or stretched."""
    if size is None or size == pixels.shape[1::-1]:
        return pixels
    (width, height), (rows, columns) = size, pixels.shape[:2]
    if fit == "cover":
        scale = max(width / columns, height / rows)
        keep = min(columns, max(1, round(width / scale))), min(rows, max(1, round(height / scale)))
        left, top = (columns - keep[0]) // 2, (rows - keep[1]) // 2
        return _scaled(pixels[top : top + keep[1], left : left + keep[0]], width, height)
    if fit == "stretch":
        return _scaled(pixels, width, height)
    scale = min(width / columns, height / rows)
    inner = max(1, round(columns * scale)), max(1, round(rows * scale))
    out = np.zeros((height, width, 4), np.uint8)
    left, top = (width - inner[0]) // 2, (height - inner[1]) // 2
    out[top : top + inner[1], left : left + inner[0]] = with_alpha(_scaled(pixels, *inner))
    return out


def _scaled(pixels: Bytes, width: int, height: int) -> Bytes:
    smaller = width * height < pixels.shape[0] * pixels.shape[1]
    method = cv2.INTER_AREA if smaller else cv2.INTER_LINEAR
    return np.asarray(cv2.resize(np.ascontiguousarray(pixels), (width, height), interpolation=method), np.uint8)


def black_to_clear(pixels: Bytes) -> Bytes:
    """A picture of light on black (height, width, 3 or 4) as light alone: its alpha is the brightest of red, green and blue, its
    colour divided by that. Over black it is what it was, to one step of 255; luminance for alpha would take most of the light
    of saturated colours."""
    alpha = pixels[..., :3].max(axis=2).astype(np.uint16)
    safe = np.maximum(alpha, 1)[..., None]
    colour = np.minimum((pixels[..., :3].astype(np.uint16) * 255 + safe // 2) // safe, 255)
    given = pixels[..., 3].astype(np.uint16) if pixels.shape[2] == 4 else np.uint16(255)
    return np.dstack([colour, (alpha * given + 127) // 255]).astype(np.uint8)


def mixed(one: Bytes, other: Bytes, share: float) -> Bytes:
    """Two pictures (height, width, 4) mixed as light: `share` of the other, from 0 to 1."""
    weights = [picture[..., 3:].astype(np.float32) * part for picture, part in ((one, 1 - share), (other, share))]
    alpha = weights[0] + weights[1]
    colour = (one[..., :3] * weights[0] + other[..., :3] * weights[1]) / np.maximum(alpha, 1e-6)
    return np.asarray(np.rint(np.concatenate([colour, alpha], axis=2)), np.uint8)


def cut_pictures(clip: Clip, cut: Cut) -> Iterator[Bytes]:
    """The pictures of a cut, (height, width, 3 or 4), one after the other; no more are held than the soft ends need. Raises
    BadFile."""
    plan = planned(clip, cut)
    tail = [with_alpha(shaped(clip.picture(n), cut)) for n in plan.numbers[plan.frames :]] if plan.soft else []
    for place, number in enumerate(plan.numbers[: plan.frames]):
        picture = shaped(clip.picture(number), cut)
        if place < plan.soft:
            picture = mixed(tail[place], with_alpha(picture), (place + 1) / (plan.soft + 1))
        yield picture


Progress = Callable[[int, int, int], None]
"""Is told how many pictures are done, of how many, and their bytes; what it raises ends the work."""


def _encoded(pictures: Iterator[Bytes], quality: int | None) -> Iterator[tuple[tuple[int, int], bytes]]:
    """Columns and rows of pictures with their files, in their order: while they are read, those before are encoded, which leaves
    Python's lock free. As many are held as there are processors."""
    count = os.cpu_count() or 1
    waiting = deque[tuple[tuple[int, int], Future[bytes]]]()
    with ThreadPoolExecutor(count, thread_name_prefix="encoding") as pool:
        for picture in pictures:
            waiting.append(((picture.shape[1], picture.shape[0]), pool.submit(encode_webp, picture, quality)))
            if len(waiting) > count:
                size, data = waiting.popleft()
                yield size, data.result()
        for size, data in waiting:
            yield size, data.result()


def cut_clip(clip: Clip, cut: Cut, progress: Progress = lambda done, of, weight: None) -> Reel:
    """The sequence of a cut. Raises BadFile."""
    plan = planned(clip, cut)
    files: list[bytes] = []
    weight, shape = 0, (0, 0)
    for size, data in _encoded(cut_pictures(clip, cut), cut.quality):
        files.append(data)
        weight, shape = weight + len(data), size
        if weight > MOST_BYTES:
            raise BadFile(
                f"the sequence weighs more than {MOST_BYTES // 1024**2} MB; make it smaller, shorter, or fewer a second"
            )
        progress(len(files), plan.frames, weight)
    notes = (clip.words,) if clip.words else ()
    return Reel(made(files, plan.rate), shape, notes)
