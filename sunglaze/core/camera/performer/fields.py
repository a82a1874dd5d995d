"""Distance fields sampled onto grids, so that a ray asks a table and not the whole of shapes.py; eyes and mouth stay exact."""

import math

import numpy as np
from numba import njit, prange

from sunglaze.core.camera.performer.labels import NOTHING
from sunglaze.core.camera.performer.people import P_WIDTH
from sunglaze.core.camera.performer.shapes import body, head

HEAD_STEP, BODY_STEP = 0.019, 0.026
HEAD_LOW, HEAD_HIGH = (-1.42, -2.35, -1.5), (1.42, 1.62, 1.36)
BODY_LOW, BODY_HIGH = (-2.5, -4.4, -1.3), (2.5, -0.5, 0.9)
MOUTHS = (0.0, 0.35, 0.7, 1.0)
"""How far the mouth is open in each of the head's grids; between them distances are mixed."""
EXACT_EYE, EXACT_MOUTH = 0.24, 0.34


@njit(cache=True, parallel=True, error_model="numpy", fastmath=True)
def _sample_head(grid, mouth, w):
    depth, height, width = grid.shape
    for k in prange(depth):
        for j in range(height):
            for i in range(width):
                x, y, z = HEAD_LOW[0] + i * HEAD_STEP, HEAD_LOW[1] + j * HEAD_STEP, HEAD_LOW[2] + k * HEAD_STEP
                grid[k, j, i] = head(x, y, z, 0.0, mouth, w)[0]


@njit(cache=True, parallel=True, error_model="numpy", fastmath=True)
def _sample_body(grid, w):
    depth, height, width = grid.shape
    for k in prange(depth):
        for j in range(height):
            for i in range(width):
                x, y, z = BODY_LOW[0] + i * BODY_STEP, BODY_LOW[1] + j * BODY_STEP, BODY_LOW[2] + k * BODY_STEP
                grid[k, j, i] = body(x, y, z, w)[0]


def _cells(low, high, step):
    return tuple(math.ceil((b - a) / step) + 1 for a, b in zip(low[::-1], high[::-1], strict=True))


def sample_fields(w):
    """Grids (z, y, x) of a performer: the head's for each of MOUTHS stacked, and the body's. float32, units."""
    heads = np.empty((len(MOUTHS), *_cells(HEAD_LOW, HEAD_HIGH, HEAD_STEP)), np.float32)
    for n, mouth in enumerate(MOUTHS):
        _sample_head(heads[n], mouth, w)
    trunk = np.empty((1, *_cells(BODY_LOW, BODY_HIGH, BODY_STEP)), np.float32)
    _sample_body(trunk[0], w)
    return heads, trunk


@njit(cache=True, inline="always", error_model="numpy", fastmath=True)
def _held(value, low, high):
    return min(max(value, low), high)


@njit(cache=True, inline="always", error_model="numpy", fastmath=True)
def _at(grids, n, x, y, z):
    """Grid `n` at a place counted in its cells, between them trilinear."""
    k, j, i = int(z), int(y), int(x)
    k, j, i = min(k, grids.shape[1] - 2), min(j, grids.shape[2] - 2), min(i, grids.shape[3] - 2)
    fz, fy, fx = z - k, y - j, x - i
    a = grids[n, k, j, i] + (grids[n, k, j, i + 1] - grids[n, k, j, i]) * fx
    b = grids[n, k, j + 1, i] + (grids[n, k, j + 1, i + 1] - grids[n, k, j + 1, i]) * fx
    c = grids[n, k + 1, j, i] + (grids[n, k + 1, j, i + 1] - grids[n, k + 1, j, i]) * fx
    d = grids[n, k + 1, j + 1, i] + (grids[n, k + 1, j + 1, i + 1] - grids[n, k + 1, j + 1, i]) * fx
    low = a + (b - a) * fy
    return low + (c + (d - c) * fy - low) * fz


@njit(cache=True, error_model="numpy", fastmath=True)
def exact_here(x, y, z, mouth, w):
    """Whether a place of head space is at an eye or the mouth, where the grid is too coarse."""
    if z < 0.3:
        return False
    ex, ey, ez = abs(x) - 0.305 * w[P_WIDTH], y - 0.035, z - 0.6
    if ex * ex + ey * ey + ez * ez < EXACT_EYE * EXACT_EYE:
        return True
    my = y + 0.53 + 0.2 * mouth
    return x * x + my * my * 0.8 + (z - 0.72) ** 2 < EXACT_MOUTH * EXACT_MOUTH


@njit(cache=True, error_model="numpy", fastmath=True)
def head_distance(x, y, z, blink, mouth, w, heads, fine):
    cx, cy, cz = _held(x, HEAD_LOW[0], HEAD_HIGH[0]), _held(y, HEAD_LOW[1], HEAD_HIGH[1]), _held(z, HEAD_LOW[2], HEAD_HIGH[2])
    away = (x - cx) ** 2 + (y - cy) ** 2 + (z - cz) ** 2
    if fine and exact_here(x, y, z, mouth, w):
        return head(x, y, z, blink, mouth, w)[0]
    gx, gy, gz = (cx - HEAD_LOW[0]) / HEAD_STEP, (cy - HEAD_LOW[1]) / HEAD_STEP, (cz - HEAD_LOW[2]) / HEAD_STEP
    n = 0
    while n < len(MOUTHS) - 2 and mouth > MOUTHS[n + 1]:
        n += 1
    part = (mouth - MOUTHS[n]) / (MOUTHS[n + 1] - MOUTHS[n])
    d = _at(heads, n, gx, gy, gz)
    if part > 0.0:
        d += (_at(heads, n + 1, gx, gy, gz) - d) * part
    # From outside, all that is in the box lies at least this far: the way to the box and the way on stand at no acute angle.
    return d if away == 0.0 else math.sqrt(away + max(0.0, d) ** 2)


@njit(cache=True, error_model="numpy", fastmath=True)
def body_distance(x, y, z, trunk):
    cx, cy, cz = _held(x, BODY_LOW[0], BODY_HIGH[0]), _held(y, BODY_LOW[1], BODY_HIGH[1]), _held(z, BODY_LOW[2], BODY_HIGH[2])
    away = (x - cx) ** 2 + (y - cy) ** 2 + (z - cz) ** 2
    d = _at(trunk, 0, (cx - BODY_LOW[0]) / BODY_STEP, (cy - BODY_LOW[1]) / BODY_STEP, (cz - BODY_LOW[2]) / BODY_STEP)
    return d if away == 0.0 else math.sqrt(away + max(0.0, d) ** 2)


@njit(cache=True, error_model="numpy", fastmath=True)
def material_of(x, y, z, blink, mouth, w, of_head):
    """The material at a place on the surface, of the head or of the body."""
    if of_head:
        return head(x, y, z, blink, mouth, w)[1]
    found = body(x, y, z, w)
    return found[1] if found[0] < 0.3 else NOTHING
