"""Sheets: pictures side by side, N by M cells on clear or on black. How many there are is found in the picture itself."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

MOST_CELLS = 64
"""Along a side."""
_FAINT = 12
"""Of 255: what compression leaves on empty ground."""
_MEETS = 0.5
"""Of how much is lit in all rows, how much may be in those where cells meet: some cells may be cut off there."""
_LONGEST = 2.5
"""So many times as long as wide, or wide as long, a cell is at most (common practice, no source)."""
Bytes = NDArray[np.uint8]


@dataclass(frozen=True)
class Sheet:
    """A grid of cells. `cut`: columns and rows, from 1, of cells whose picture touches the border of its cell."""

    columns: int
    rows: int
    cut: tuple[tuple[int, int], ...] = ()


def is_lit(pixels: Bytes) -> NDArray[np.bool_]:
    """Where something is to be seen in (height, width, 4): where the brightest part by the alpha is more than faint."""
    brightest = np.maximum(np.maximum(pixels[..., 0], pixels[..., 1]), pixels[..., 2]).astype(np.uint16)
    return np.asarray(brightest * pixels[..., 3] > _FAINT * 255)


def count_cells(pixels: Bytes) -> Sheet:
    """The grid of a sheet (height, width, 4), on clear or on black ground; one by one where no grid is seen."""
    lit = is_lit(pixels)
    columns, rows = _parts(lit.mean(axis=0)), _parts(lit.mean(axis=1))
    shape = (lit.shape[1] / columns) / (lit.shape[0] / rows)
    if not 1 / _LONGEST <= shape <= _LONGEST:
        # A few things that happen to stand apart in a picture fall into long strips.
        columns = rows = 1
    return Sheet(columns, rows, _cut(lit, columns, rows))


def _parts(profile: NDArray[np.float64]) -> int:
    """Into how many equal parts a row of shares falls: the finest grid that has little where its parts meet and something in
    each of them."""
    length, whole = len(profile), profile.mean()
    if whole == 0:
        return 1
    best = 1
    for count in range(2, min(MOST_CELLS, length // 4) + 1):
        seams = np.round(np.arange(1, count) * length / count).astype(int)
        margin = max(1, length // (24 * count))
        near = np.unique(np.clip(seams[:, None] + np.arange(-margin, margin), 0, length - 1))
        parts = [part.mean() for part in np.split(profile, seams)]
        if profile[near].mean() <= _MEETS * whole and min(parts) >= 0.2 * whole:
            best = count
    return best


def _cut(lit: NDArray[np.bool_], columns: int, rows: int) -> tuple[tuple[int, int], ...]:
    if columns * rows < 2:
        return ()
    height, width = lit.shape
    found = []
    for row in range(rows):
        for column in range(columns):
            top, bottom = round(row * height / rows), round((row + 1) * height / rows)
            left, right = round(column * width / columns), round((column + 1) * width / columns)
            cell = lit[top:bottom, left:right]
            rim = np.concatenate([cell[0], cell[-1], cell[:, 0], cell[:, -1]])
            if rim.mean() > 0.02:
                found.append((column + 1, row + 1))
    return tuple(found)


def cells_of(pixels: Bytes, columns: int, rows: int) -> list[Bytes]:
    """The cells of a sheet (height, width, channels), row by row, all of one size."""
    height, width = pixels.shape[0] // rows, pixels.shape[1] // columns
    tops = [round(row * pixels.shape[0] / rows) for row in range(rows)]
    lefts = [round(column * pixels.shape[1] / columns) for column in range(columns)]
    return [np.ascontiguousarray(pixels[top : top + height, left : left + width]) for top in tops for left in lefts]
