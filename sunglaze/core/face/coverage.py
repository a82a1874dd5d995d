"""What fills polygons (filling.py), compiled by Numba. Imported for the first."""

from __future__ import annotations

import math

import numba
import numpy as np


@numba.njit("void(float64[:,:], float64[:,:], float64)", cache=True, nogil=True, error_model="numpy")
def fill(mask, polygon, value):  # type: ignore[no-untyped-def]
    """Mix `value` into `mask` (rows, columns) as far as the polygon (n, 2; x, y in pixels) covers each of its pixels."""
    rows, columns = mask.shape
    count = len(polygon)
    first, last = max(0, math.floor(polygon[:, 1].min())), min(rows, math.ceil(polygon[:, 1].max()))
    left, right = max(0, math.floor(polygon[:, 0].min())), min(columns, math.ceil(polygon[:, 0].max()))
    if first >= last or left >= right:
        return
    wide = right - left
    areas = np.zeros((last - first, wide + 2))
    for n in range(count):
        m = n + 1 if n + 1 < count else 0
        x0, y0, x1, y1 = polygon[n, 0], polygon[n, 1], polygon[m, 0], polygon[m, 1]
        if y0 == y1:
            continue
        way = 1.0
        if y0 > y1:
            x0, y0, x1, y1, way = x1, y1, x0, y0, -1.0
        x0, x1 = x0 - left, x1 - left
        slope = (x1 - x0) / (y1 - y0)
        for row in range(max(first, math.floor(y0)), min(last, math.ceil(y1))):
            above, below = max(y0, float(row)), min(y1, row + 1.0)
            high = (below - above) * way
            a, b = x0 + (above - y0) * slope, x0 + (below - y0) * slope
            if a > b:
                a, b = b, a
            line = areas[row - first]
            # What lies left of the picture counts in its first column, what lies right of it not at all.
            if a < 0.0 or b > wide:
                long = b - a
                line[0] += high if b <= 0.0 else high * max(0.0, -a) / long
                if b <= 0.0 or a >= wide:
                    continue
                a, b = max(a, 0.0), min(b, float(wide))
                high *= (b - a) / long
            start, end = math.floor(a), math.ceil(b)
            if end <= start + 1:
                beyond = (a + b) / 2 - start
                line[start] += high - high * beyond
                line[start + 1] += high * beyond
                continue
            # Across several pixels: to the left of x lies a parabola's area, and behind the edge a rectangle's.
            far, before = 0.0, 0.0
            for column in range(start, end + 1):
                x = column + 1.0
                area = high * (x - (a + b) / 2) if x >= b else high * (x - a) * (x - a) / (2 * (b - a))
                line[column] += area - far - before
                before, far = area - far, area
    for row in range(first, last):
        much = 0.0
        for column in range(wide):
            much += areas[row - first, column]
            share = min(1.0, abs(much))
            mask[row, left + column] += (value - mask[row, left + column]) * share
