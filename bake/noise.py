"""Noise for paint and relief: smooth values at places in space, the same wherever and whenever they are asked for."""

import math

import numpy as np
from numba import njit, prange


@njit(cache=True, inline="always")
def _chance(x, y, z, seed):
    n = np.uint32(x) * np.uint32(374761393) + np.uint32(y) * np.uint32(668265263) + np.uint32(z) * np.uint32(2246822519)
    n = (n + np.uint32(seed) * np.uint32(3266489917)) ^ (n >> np.uint32(15))
    n = (n ^ (n >> np.uint32(13))) * np.uint32(1274126177)
    n = (n ^ (n >> np.uint32(16))) * np.uint32(2654435761)
    return np.float64((n ^ (n >> np.uint32(13))) & np.uint32(0xFFFFFF)) / 16777215.0


@njit(cache=True, parallel=True)
def values(places, size, seed):
    """Smooth noise from -1 to 1 (n) at places (n, 3); `size`: how far its lattice's points lie apart."""
    out = np.empty(len(places))
    for n in prange(len(places)):
        x, y, z = places[n, 0] / size, places[n, 1] / size, places[n, 2] / size
        i, j, k = math.floor(x), math.floor(y), math.floor(z)
        u, v, w = x - i, y - j, z - k
        u, v, w = u * u * (3 - 2 * u), v * v * (3 - 2 * v), w * w * (3 - 2 * w)
        total = 0.0
        for a in range(2):
            for b in range(2):
                for c in range(2):
                    share = (u if a else 1 - u) * (v if b else 1 - v) * (w if c else 1 - w)
                    total += share * _chance(int(i) + a + 4096, int(j) + b + 4096, int(k) + c + 4096, seed)
        out[n] = 2 * total - 1
    return out


def layered(places, size, seed, layers=3):
    """Noise of several sizes, each half of the one before and half as strong; about -1 to 1 (n)."""
    return sum(values(places, size / 2**n, seed + 7 * n) / 2**n for n in range(layers)) / 1.4
