"""Performers as they are laid on a screen, row by row: moved, scaled and turned over, never turned.

Compiled by Numba, which does several numbers at a time only where an index cannot be below 0: so slices begin at 0, and single
indices are unsigned.
"""

from __future__ import annotations

import threading
from collections.abc import Callable, Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from functools import partial
from typing import Any, TypeVar

import cv2
import numpy as np
from numba import njit
from numpy.typing import NDArray

from sunglaze.core.camera.takes import COVERS, POOLS, THREADS, TakeFrame

T = TypeVar("T")
OUTSIDE = -2
"""Stands for a row of a take that is not there."""
_NO_PLANE = np.zeros((1, 1), np.uint8)
_pool = ThreadPoolExecutor(THREADS, thread_name_prefix="laying")
compiled = njit(cache=True, error_model="numpy", fastmath=True, nogil=True)


def together(works: Sequence[Callable[[], T]]) -> list[T]:
    """What each gives, the first on this thread, the others beside it."""
    others = [_pool.submit(work) for work in works[1:]]
    return [work() for work in works[:1]] + [other.result() for other in others]


def start_threads() -> None:
    """Start all threads that make frames. A thread has the priority of whoever starts it, and pools start theirs when they are
    first needed: by somebody of low priority they would be slow for everybody. Before anybody makes one."""
    for pool in (_pool, *POOLS):
        all_there = threading.Barrier(THREADS + 1)
        for _ in range(THREADS):
            pool.submit(all_there.wait)
        all_there.wait()
    # OpenCV's start with the first work that is worth sharing out.
    cv2.resize(np.zeros((1080, 1080, 3), np.uint8), (540, 540), interpolation=cv2.INTER_AREA)


def in_bands(rows: int, work: Callable[[int, int], None]) -> None:
    """Rows from the first to the one behind the last, shared out: several threads make frames at once, which not every threading
    layer of Numba allows, so it is done here."""
    together([partial(work, rows * n // THREADS, rows * (n + 1) // THREADS) for n in range(THREADS)])


@dataclass(frozen=True)
class Standing:
    """A performer as it is laid on a screen. `to_screen`: from the take's pixels to the screen's, 2 by 3, without turning."""

    frame: TakeFrame
    to_screen: NDArray[np.float64]

    def places(self, axis: int, count: int) -> tuple[NDArray[np.int32], NDArray[np.float32]]:
        """For each column (`axis` 0) or row of the screen the one of the take before its place, OUTSIDE where there is none, and
        how far on it lies, 0 to 1. Pixel centres are at +0.5."""
        at = (np.arange(count) + 0.5 - self.to_screen[axis, 2]) / self.to_screen[axis, axis] - 0.5
        low = np.floor(at)
        inside = (low >= -1) & (low < self.frame.label.shape[1 - axis])
        return np.where(inside, low, OUTSIDE).astype(np.int32), np.where(inside, at - low, 0).astype(np.float32)

    def given(self, width: int, height: int) -> tuple[Any, ...]:
        """The planes, then how columns are scaled and offset, then places by columns (with the nearest) and by rows. Columns
        outside stand at the pixel before the first, which is clear."""
        frame = self.frame
        at, share = self.places(0, width)
        nearest = np.clip(at + (share >= 0.5), 0, frame.label.shape[1] - 1).astype(np.uint32)
        across, columns = (float(self.to_screen[0, 0]), float(self.to_screen[0, 2])), (np.maximum(at, -1), share, nearest)
        planes = frame.colour, frame.label, frame.key, frame.sky, frame.rim, frame.shine, frame.sheen, frame.gleam
        return *planes, across, columns, self.places(1, height)


NOBODY = Standing(TakeFrame(np.zeros((1, 1, 3), np.uint8), *[_NO_PLANE] * 7), np.array([[1.0, 0, -9], [0, 1.0, -9]]))
"""Laid on where nobody is."""
USUAL_FIGURES = 2


def given(figures: Sequence[Standing], width: int, height: int) -> tuple[Any, ...]:
    """What compiled functions are told of figures: of as many as are usual, since they are compiled for each number anew."""
    missing = [NOBODY] * (USUAL_FIGURES - len(figures))
    return tuple(one.given(width, height) for one in [*figures, *missing])


@compiled
def covered_part(labels: Any) -> Any:
    """The first pixel of a row of labels (takes.py) that is not clear, and the one after the last, which is 0 if all are."""
    low, high = 0, labels.size
    while low < high and labels[low] == 0:
        low += 1
    while high > 0 and labels[high - 1] == 0:
        high -= 1
    return low, high


@compiled
def share_of(label: Any) -> Any:
    """The coverage that a label tells, in steps of COVERS; in single precision, as whole numbers would be of 64 bits here."""
    code = np.float32(label)
    steps = code - np.floor(code * np.float32(1 / COVERS)) * np.float32(COVERS) + np.float32(1)
    return min(code, np.float32(1)) * steps


@compiled
def seen_part(low: int, high: int, across: Any, at: Any) -> Any:
    """The columns of the screen in which those of the take from `low` to the one before `high` are seen, the first and the one
    after the last. `at`: the column of the take before each."""
    one, other = (low - 0.5) * across[0] + across[1], (high + 0.5) * across[0] + across[1]
    first, end = max(int(min(one, other)) - 1, 0), min(int(max(one, other)) + 2, at.size)
    while first < end and not low - 1 <= at[first] < high:
        first += 1
    while first < end and not low - 1 <= at[end - 1] < high:
        end -= 1
    return first, end


@compiled
def _lay_materials(out: Any, figures: Any, first: int, end: int) -> None:
    """Rows of `materials`. Coverage lies between four pixels; the material is the nearest one's."""
    half, middle = np.float32(0.5), np.float32(COVERS / 2)
    for y in range(first, end):
        for _, label, _, _, _, _, _, _, across, columns, rows in figures:
            if rows[0][y] != OUTSIDE:
                t = rows[1][y]
                one, other = label[max(rows[0][y], 0)], label[min(rows[0][y] + 1, label.shape[0] - 1)]
                (low, high), (start, stop) = covered_part(one), covered_part(other)
                low, high = min(low, start), max(high, stop)
                if low >= high:
                    continue
                x0, x1 = seen_part(low, high, across, columns[0])
                covered = np.zeros(high - low + 2, np.float32)
                between, above, below = covered[1:], one[low:high], other[low:high]
                for n in range(above.size):
                    upper, lower = share_of(above[n]), share_of(below[n])
                    between[n] = upper + (lower - upper) * t
                line = other if t >= half else one
                seen, ats, shares, nearest = out[y, x0:x1], columns[0][x0:x1], columns[1][x0:x1], columns[2][x0:x1]
                for x in range(seen.size):
                    at = np.uintp(ats[x] + 1 - low)
                    share = covered[at] + (covered[at + np.uintp(1)] - covered[at]) * shares[x]
                    found = line[nearest[x]]
                    seen[x] = found // np.uint8(COVERS) if (share >= middle) & (found > np.uint8(0)) else seen[x]


def materials(figures: Sequence[Standing], width: int, height: int) -> NDArray[np.uint8]:
    """The material of what is seen at each pixel (height, width), 0 where nobody is. `figures`: those behind first."""
    out, told = np.zeros((height, width), np.uint8), given(figures, width, height)
    in_bands(height, lambda first, end: _lay_materials(out, told, first, end))
    return out
