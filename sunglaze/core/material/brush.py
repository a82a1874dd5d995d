"""What draws paintings (painting.py), compiled by Numba. Imported when the first is drawn."""

from __future__ import annotations

import math

import numpy as np
from numba import njit
from numpy.typing import NDArray

from sunglaze.core.material.painting import ON_AXIS, SIDE, Doubles

compiled = njit(cache=True, error_model="numpy", nogil=True)


@compiled
def eased(far: Doubles, much: Doubles, grown: float, half: float, mirrored: bool) -> None:
    """How much of each texel is covered, `much` (SIDE, SIDE), by how `far` inside it lies; `half`: of the edge's width."""
    for row in range(SIDE):
        for column in range(SIDE):
            away = far[row, column]
            if mirrored:
                away = max(away, far[row, SIDE - 1 - column])
            share = min(1.0, max(0.0, (away + grown + half) / (2 * half)))
            much[row, column] = share * share * (3 - 2 * share)


@compiled
def laid(held: Doubles, much: Doubles, opacity: float, parts: Doubles) -> None:
    """Lay a shape that covers so `much` (SIDE, SIDE) on what is `held` (SIDE, SIDE, 5); `parts` (5): colour, what it shows."""
    for row in range(SIDE):
        for column in range(SIDE):
            share = much[row, column] * opacity
            if share > 0.0:
                for n in range(5):
                    held[row, column, n] = held[row, column, n] * (1 - share) + share * parts[n]


@compiled
def as_bytes(held: Doubles, made: NDArray[np.uint8]) -> None:
    """What is `held` (SIDE, SIDE, 5) as a painting's bytes, `made` (2 * SIDE, SIDE, 4)."""
    for row in range(SIDE):
        for column in range(SIDE):
            alpha = held[row, column, 3]
            for n in range(3):
                made[row, column, n] = np.uint8(math.floor(held[row, column, n] / max(alpha, 1e-9) * 255 + 0.5))
                made[SIDE + row, column, n] = np.uint8(math.floor(held[row, column, 4] * 255 + 0.5))
            made[row, column, 3] = np.uint8(math.floor(alpha * 255 + 0.5))


@compiled
def distances(line: Doubles, mirrored: bool, most: float) -> Doubles:
    """How far each texel's middle lies inside (above 0) or outside a closed line (n, 2), up to `most`: inside is where it winds
    round it. `mirrored`: where the line runs inside its mirror picture, or along the axis, there is no edge."""
    far = np.full((SIDE, SIDE), most * most)
    turns = np.zeros((SIDE, SIDE + 1), np.int64)
    count = len(line)
    for n in range(count):
        x0, y0 = line[n]
        x1, y1 = line[(n + 1) % count]
        first, last = max(0, math.ceil(min(y0, y1) - 0.5)), min(SIDE, math.ceil(max(y0, y1) - 0.5))
        for row in range(first, last):
            x = x0 + (row + 0.5 - y0) / (y1 - y0) * (x1 - x0)
            turns[row, min(SIDE, max(0, math.ceil(x - 0.5)))] += 1 if y1 > y0 else -1
        if mirrored and _within_mirrored(line, (x0 + x1) / 2, (y0 + y1) / 2):
            continue
        dx, dy = x1 - x0, y1 - y0
        long = max(dx * dx + dy * dy, 1e-12)
        top, bottom = max(0, math.floor(min(y0, y1) - most)), min(SIDE, math.ceil(max(y0, y1) + most))
        left, right = max(0, math.floor(min(x0, x1) - most)), min(SIDE, math.ceil(max(x0, x1) + most))
        for row in range(top, bottom):
            for column in range(left, right):
                ax, ay = column + 0.5 - x0, row + 0.5 - y0
                t = min(1.0, max(0.0, (ax * dx + ay * dy) / long))
                ox, oy = ax - dx * t, ay - dy * t
                far[row, column] = min(far[row, column], ox * ox + oy * oy)
    for row in range(SIDE):
        winding = 0
        for column in range(SIDE):
            winding += turns[row, column]
            away = math.sqrt(far[row, column])
            far[row, column] = away if winding != 0 else -away
    return far


@compiled
def _within_mirrored(line: Doubles, x: float, y: float) -> bool:
    if abs(x - SIDE / 2) < ON_AXIS:
        return True
    over, winding, count = SIDE - x, 0, len(line)
    for n in range(count):
        x0, y0 = line[n]
        x1, y1 = line[(n + 1) % count]
        if (y0 <= y) != (y1 <= y) and x0 + (y - y0) / (y1 - y0) * (x1 - x0) > over:
            winding += 1 if y1 > y0 else -1
    return winding != 0
