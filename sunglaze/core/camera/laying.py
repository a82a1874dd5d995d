"""Performers as they are laid on a screen, row by row (rows.py): moved, scaled and turned over, never turned."""

from __future__ import annotations

import threading
from collections.abc import Callable, Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from functools import partial
from typing import Any, TypeVar

import cv2
import numpy as np
from numpy.typing import NDArray

from sunglaze.core.camera.takes import NO_COLOUR, NO_PLANE, POOLS, THREADS, TakeFrame

T = TypeVar("T")
OUTSIDE = -2
"""Stands for a row of a take that is not there."""
_pool = ThreadPoolExecutor(THREADS, thread_name_prefix="laying")


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


NOBODY = Standing(TakeFrame(NO_COLOUR, *[NO_PLANE] * 7), np.array([[1.0, 0, -9], [0, 1.0, -9]]))
"""Laid on where nobody is."""
USUAL_FIGURES = 2


def given(figures: Sequence[Standing], width: int, height: int) -> tuple[Any, ...]:
    """What compiled functions are told of figures: of as many as are usual, since they are compiled for each number anew."""
    missing = [NOBODY] * (USUAL_FIGURES - len(figures))
    return tuple(one.given(width, height) for one in [*figures, *missing])


def materials(figures: Sequence[Standing], width: int, height: int) -> NDArray[np.uint8]:
    """The material of what is seen at each pixel (height, width), 0 where nobody is. `figures`: those behind first."""
    from sunglaze.core.camera.rows import lay_materials

    out, told = np.zeros((height, width), np.uint8), given(figures, width, height)
    in_bands(height, lambda first, end: lay_materials(out, told, first, end))
    return out
