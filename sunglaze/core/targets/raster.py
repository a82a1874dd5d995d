"""Rasterise triangles into planes of attributes, with a depth buffer: compiled by Numba, once an installation.

Edges are whole numbers of sixteenths of a pixel, so coverage is exact; a pixel whose middle lies on a left or upper edge is in.
Attributes are interpolated with perspective, depth without (as OpenGL ES 3.0, section 3.6.1, has it).
"""

from __future__ import annotations

from concurrent.futures import Executor

import numba
import numpy as np
from numpy.typing import NDArray

from sunglaze.core.passes.reach import NOTHING, Box
from sunglaze.core.passes.triangles import SUBPIXELS

BANDS, LEAST = 4, 20_000
"""Bands of rows that are filled side by side, and the pixels that each has at least."""


@numba.njit(
    "void(int64[:,:,:], float64[:,:], float64[:,:], float64[:,:,:], float32[:,:,:], float32[:,:], int64)",
    cache=True, nogil=True, error_model="numpy",
)  # fmt: skip
def _fill(corners, depths, w, attributes, out, buffer, columns):  # type: ignore[no-untyped-def]
    rows = buffer.shape[0]
    for n in range(corners.shape[0]):
        ax, ay = corners[n, 0, 0], corners[n, 0, 1]
        bx, by = corners[n, 1, 0], corners[n, 1, 1]
        cx, cy = corners[n, 2, 0], corners[n, 2, 1]
        area = (bx - ax) * (cy - ay) - (by - ay) * (cx - ax)
        if area == 0:
            continue
        a, b, c = 0, 1, 2
        if area < 0:
            bx, by, cx, cy, b, c, area = cx, cy, bx, by, 2, 1, -area
        left, right = min(ax, bx, cx), max(ax, bx, cx)
        top, bottom = min(ay, by, cy), max(ay, by, cy)
        # Pixel i has its middle at 16 i + 8.
        first, last = max(0, (left + 7) // SUBPIXELS), min(columns - 1, (right - 8) // SUBPIXELS)
        upper, lower = max(0, (top + 7) // SUBPIXELS), min(rows - 1, (bottom - 8) // SUBPIXELS)
        # An edge is inside where what is drawn lies to its right, or below it where it is level.
        on_a = 0 if by > cy or (by == cy and cx > bx) else 1
        on_b = 0 if cy > ay or (cy == ay and ax > cx) else 1
        on_c = 0 if ay > by or (ay == by and bx > ax) else 1
        size = 1.0 / area
        wa, wb, wc = 1.0 / w[n, a], 1.0 / w[n, b], 1.0 / w[n, c]
        for row in range(upper, lower + 1):
            y = SUBPIXELS * row + 8
            for column in range(first, last + 1):
                x = SUBPIXELS * column + 8
                ea = (cx - bx) * (y - by) - (cy - by) * (x - bx)
                eb = (ax - cx) * (y - cy) - (ay - cy) * (x - cx)
                ec = area - ea - eb
                if ea < on_a or eb < on_b or ec < on_c:
                    continue
                la, lb, lc = ea * size, eb * size, ec * size
                depth = np.float32(la * depths[n, a] + lb * depths[n, b] + lc * depths[n, c])
                if not depth < buffer[row, column]:
                    continue
                buffer[row, column] = depth
                pa, pb, pc = la * wa, lb * wb, lc * wc
                whole = 1.0 / (pa + pb + pc)
                for k in range(4):
                    held = pa * attributes[n, a, k] + pb * attributes[n, b, k] + pc * attributes[n, c, k]
                    out[k, row, column] = np.float32(held * whole)


def rasterise(
    corners: NDArray[np.int64],
    depths: NDArray[np.float64],
    w: NDArray[np.float64],
    attributes: NDArray[np.float64],
    out: NDArray[np.float32],
    columns: int,
    stale: Box | None = None,
    pool: Executor | None = None,
) -> Box:
    """Fill `out` (4, rows, padded columns) with attributes where triangles are, and with 0 elsewhere. The nearest triangle is
    seen, of equal ones the first. Shapes as in core/passes/triangles.py. `stale`: the box outside of which `out` is 0 already;
    gives the one outside of which it is then. `pool`: threads for what is large."""
    old = stale if stale is not None else Box(0, 0, out.shape[2], out.shape[1])
    out[:, old.top : old.bottom, old.left : old.right] = 0
    if not len(corners):
        return NOTHING
    low, high = corners.min(axis=(0, 1)) // SUBPIXELS, corners.max(axis=(0, 1)) // SUBPIXELS + 1
    found = Box(*map(int, (*low, *high))).within(Box(0, 0, columns, out.shape[1]))
    if found.empty:
        return NOTHING
    depths, w, attributes = (np.ascontiguousarray(part, np.float64) for part in (depths, w, attributes))

    def band(top: int, bottom: int) -> None:
        here = out[:, top:bottom, found.left : found.right]
        buffer = np.full(here.shape[1:], 1.0 + 1e-6, np.float32)
        moved = np.ascontiguousarray(corners - (SUBPIXELS * found.left, SUBPIXELS * top), np.int64)
        _fill(moved, depths, w, attributes, here, buffer, found.right - found.left)

    rows = found.bottom - found.top
    count = 1 if pool is None else min(BANDS, found.area // LEAST, rows)
    if pool is None or count < 2:
        band(found.top, found.bottom)
        return found
    edges = [found.top + rows * n // count for n in range(count + 1)]
    list(pool.map(band, edges[:-1], edges[1:]))
    return found


def rasterised(
    corners: NDArray[np.int64],
    depths: NDArray[np.float64],
    w: NDArray[np.float64],
    attributes: NDArray[np.float64],
    shape: tuple[int, int],
) -> NDArray[np.float32]:
    """The same by NumPy, a triangle at a time, as (rows, columns, 4): slow and plain, what the other is checked by."""
    rows, columns = shape
    middles = [SUBPIXELS * part + 8 for part in np.mgrid[0:rows, 0:columns]]
    found = np.zeros((rows, columns, 4), np.float32)
    buffer = np.full(shape, 1.0 + 1e-6, np.float32)
    for corner, depth, part, attribute in zip(corners, depths, w, attributes, strict=True):
        (ax, ay), (bx, by) = corner[1] - corner[0], corner[2] - corner[0]
        edges, total = [], int(ax * by - ay * bx)
        if not total:
            continue
        turned = 1 if total > 0 else -1
        low, high = corner.min(axis=0) // SUBPIXELS, corner.max(axis=0) // SUBPIXELS + 1
        box = slice(max(0, low[1]), max(0, high[1])), slice(max(0, low[0]), max(0, high[0]))
        y, x = (part[box] for part in middles)
        inside = np.ones(y.shape, np.bool_)
        for k in range(3):
            one, other = corner[(k + 1) % 3], corner[(k + 2) % 3]
            across, down = (other - one) * turned
            edge = across * (y - one[1]) - down * (x - one[0])
            inside &= (edge > 0) | ((edge == 0) & (down < 0 or (down == 0 and across > 0)))
            edges.append(edge / abs(total))
        at = sum(edge * number for edge, number in zip(edges, depth, strict=True)).astype(np.float32)
        inside &= at < buffer[box]
        shares = np.stack([edge / number for edge, number in zip(edges, part, strict=True)], axis=-1)[inside]
        found[box][inside] = (shares @ attribute / shares.sum(axis=1, keepdims=True)).astype(np.float32)
        buffer[box][inside] = at[inside]
    return found
