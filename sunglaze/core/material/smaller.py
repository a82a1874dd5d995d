"""Smaller copies of pictures, each half as wide and as high as the one before, for what is seen small: one rule on all targets.

A copy's pixel is the mean of what it covers (premultiplied, as everything that is read between pixels), in whole numbers, so that
a phone's are the same to the bit. web/src/engine/copies.ts does the same.
"""

from __future__ import annotations

import math

import numba
import numpy as np
from numpy.typing import NDArray

_WHOLE = 128
"""What the shares of a row or a column come to; so much that sums of products fit 32 bits."""
_BORDER = math.sqrt(2.0)
Bytes = NDArray[np.uint8]


def halvings(columns: int, wide: float) -> int:
    """How many times a picture of so many columns is halved where it is seen over so many pixels: the copy whose pixels are
    nearest to those of the screen (OpenGL ES 3.0, section 3.8.10: the nearest mipmap). None where it is not seen."""
    count, times = 0, columns / wide if wide > 0.0 else 0.0
    while times > _BORDER and columns >> count > 1:
        times, count = times * 0.5, count + 1
    return count


def _shares(size: int) -> NDArray[np.int64]:
    """(half, 3): how much of a copy's row or column each of three of the larger picture is, from twice its number on."""
    half = max(1, size // 2)
    n = np.arange(half)
    if size == 1:
        return np.array([[_WHOLE, 0, 0]])
    if size % 2 == 0:
        return np.tile([_WHOLE // 2, _WHOLE // 2, 0], (half, 1))
    first, last = ((2 * _WHOLE * part + size) // (2 * size) for part in (half - n, n + 1))
    return np.stack([first, _WHOLE - first - last, last], axis=1)


@numba.njit(
    "void(Array(uint8, 3, 'C', True), int64[:,::1], int64[:,::1], uint8[:,:,::1])", cache=True, nogil=True, error_model="numpy"
)
def _halve(pixels, down, across, out):  # type: ignore[no-untyped-def]
    rows, columns = pixels.shape[0], pixels.shape[1]
    for row in range(out.shape[0]):
        for column in range(out.shape[1]):
            red = green = blue = alpha = 0
            for y in range(3):
                for x in range(3):
                    share = down[row, y] * across[column, x]
                    if share == 0:
                        continue
                    at = pixels[min(2 * row + y, rows - 1), min(2 * column + x, columns - 1)]
                    much = share * at[3]
                    red, green, blue, alpha = red + much * at[0], green + much * at[1], blue + much * at[2], alpha + much
            if alpha:
                out[row, column, 0] = (2 * red + alpha) // (2 * alpha)
                out[row, column, 1] = (2 * green + alpha) // (2 * alpha)
                out[row, column, 2] = (2 * blue + alpha) // (2 * alpha)
            out[row, column, 3] = (alpha + _WHOLE * _WHOLE // 2) // (_WHOLE * _WHOLE)


def halved(pixels: Bytes) -> Bytes:
    """A picture (height, width, 4), straight alpha, half as large; a side of one pixel stays, a clear pixel is black."""
    down, across = (_shares(size) for size in pixels.shape[:2])
    out = np.zeros((len(down), len(across), 4), np.uint8)
    _halve(np.ascontiguousarray(pixels), down, across, out)
    return out
