"""Whether pictures flash so that they may harm: WCAG 2.2, success criterion 2.3.1, on frames as they are rendered.

A flash is a pair of opposing changes of relative luminance by a tenth of its range or more, the darker of both being below 0.80;
or a pair of opposing changes with a saturated red on one side at least. More than three in any second are too many where they
fill a quarter of any ten degrees of the visual field. A phone is taken to be held so that its short side fills twelve degrees
(65 mm at 30 cm; common practice, no source).
"""

from __future__ import annotations

from collections import deque
from collections.abc import Iterable
from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from sunglaze.core.colour.spaces import SRGB_TO_XYZ, linear

CHANGE, DARK = 0.1, 0.8
"""Of relative luminance: the least change that counts, and how dark the darker side must be."""
SATURATED, RED_CHANGE = 0.8, 20.0
"""Of red: the least R / (R + G + B), and the least change of (R - G - B) * 320, negative ones being 0."""
MOST = 3
"""Flashes in a second that are none too many."""
FIELD, SHARE = 10 / 12, 0.25
"""Ten degrees as a part of the short side, and the part of them that may flash."""
_LIGHT = linear(np.arange(256) / 255.0)
Floats = NDArray[np.float64]
Marks = NDArray[np.bool_]


@dataclass(frozen=True)
class Flashing:
    """The worst second of one kind. `flashes`: the most of any place; `share`: of ten degrees of the field, how much has more
    than three in the worst second, which begins at `start` (seconds)."""

    flashes: int
    share: float
    start: float

    @property
    def passes(self) -> bool:
        """Whether it keeps to the criterion."""
        return self.share < SHARE


class _Places:
    """Every place's changes so far. A value that has gone up by enough since its lowest has changed; then it must go down by
    enough since its highest, and so on. Changes to and fro are pairs: two of them are a flash."""

    def __init__(self, values: Floats, marks: Marks, rate: float) -> None:
        self._rate, self._way = rate, np.zeros(values.shape, np.int8)
        self._low, self._high = values.copy(), values.copy()
        self._low_marks, self._high_marks = marks.copy(), marks.copy()
        self._changes: deque[Marks] = deque()
        self._count = np.zeros(values.shape, np.int16)
        self.worst = Flashing(0, 0.0, 0.0)

    def see(self, values: Floats, marks: Marks, least: float, frame: int, darkest: float = np.inf) -> None:
        """A frame. `marks`: places that make a change count where they are marked on one of its sides; `least`: how much a change
        is; `darkest`: below which its lower side must be."""
        lower, higher = values < self._low, values > self._high
        self._low, self._low_marks = np.where(lower, values, self._low), np.where(lower, marks, self._low_marks)
        self._high, self._high_marks = np.where(higher, values, self._high), np.where(higher, marks, self._high_marks)
        up = (values - self._low >= least) & (self._way <= 0) & (self._low < darkest) & (marks | self._low_marks)
        down = (self._high - values >= least) & (self._way >= 0) & (values < darkest) & (marks | self._high_marks)
        changed = up | down
        self._way = np.where(up, 1, np.where(down, -1, self._way)).astype(np.int8)
        self._low, self._high = np.where(changed, values, self._low), np.where(changed, values, self._high)
        self._low_marks, self._high_marks = (np.where(changed, marks, one) for one in (self._low_marks, self._high_marks))
        self._changes.append(changed)
        self._count += changed
        if len(self._changes) > round(self._rate):
            self._count -= self._changes.popleft()
        most = int(self._count.max()) // 2
        share = _largest_share(self._count // 2 > MOST) if most > MOST else 0.0
        if (share, most) > (self.worst.share, self.worst.flashes):
            self.worst = Flashing(max(most, self.worst.flashes), share, max(0.0, (frame + 1) / self._rate - 1.0))


def _largest_share(over: Marks) -> float:
    """The largest part of any ten degrees of the field that is marked."""
    side = max(1, round(min(over.shape) * FIELD))
    sums = cv2.integral(over.astype(np.uint8))
    inside = sums[side:, side:] - sums[:-side, side:] - sums[side:, :-side] + sums[:-side, :-side]
    return float(np.max(inside)) / float(side**2)


def flashing(pictures: Iterable[NDArray[np.uint8]], rate: float = 30.0) -> tuple[Flashing, Flashing]:
    """General and red flashes of pictures (rows, columns, 3) of bytes, all of one size, so many a second."""
    general: _Places | None = None
    red: _Places | None = None
    for frame, picture in enumerate(pictures):
        light = _LIGHT[picture]
        luminance, total = light @ SRGB_TO_XYZ[1], light.sum(axis=2)
        saturated = (light[..., 0] >= SATURATED * total) & (total > 0)
        reds = np.maximum(light[..., 0] - light[..., 1] - light[..., 2], 0.0) * 320
        everywhere = np.ones(luminance.shape, bool)
        if general is None or red is None:
            general, red = _Places(luminance, everywhere, rate), _Places(reds, saturated, rate)
        general.see(luminance, everywhere, CHANGE, frame, DARK)
        red.see(reds, saturated, np.nextafter(RED_CHANGE, np.inf), frame)
    if general is None or red is None:
        return Flashing(0, 0.0, 0.0), Flashing(0, 0.0, 0.0)
    return general.worst, red.worst
