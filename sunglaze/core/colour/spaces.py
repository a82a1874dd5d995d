"""sRGB to linear light, CIE XYZ and L*a*b* (D65), for judging and for the stand-in camera; rules of nodes are in core/nodes.

IEC 61966-2-1 (sRGB); CIE 15 (L*a*b*).
"""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]

SRGB_TO_XYZ = np.array([[0.4124, 0.3576, 0.1805], [0.2126, 0.7152, 0.0722], [0.0193, 0.1192, 0.9505]])
CUT, CUT_LINEAR = 0.04045, 0.0031308
"""Below which sRGB is a line, of encoded values and of light."""
SLOPE, OFFSET, FACTOR, POWER = 12.92, 0.055, 1.055, 2.4
"""Of the line; of the curve above: ((encoded + OFFSET) / FACTOR) ** POWER."""
WHITE = np.array([0.95047, 1.0, 1.08883])


def linear(srgb: NDArray[Any]) -> NDArray[Any]:
    """Encoded 0 to 1 to linear light 0 to 1. Of any shape (..., 3)."""
    return np.where(srgb <= CUT, srgb / SLOPE, ((np.maximum(srgb, 0) + OFFSET) / FACTOR) ** POWER)


def encoded(light: NDArray[Any]) -> NDArray[Any]:
    """Linear light 0 to 1 to encoded 0 to 1, in the precision given. Of any shape (..., 3)."""
    return np.where(light <= CUT_LINEAR, light * SLOPE, FACTOR * np.maximum(light, CUT_LINEAR) ** (1 / POWER) - OFFSET)


def srgb_to_lab(srgb: Array) -> Array:
    """(..., 3) encoded 0 to 1 to L* (0 to 100), a*, b*."""
    t = (linear(srgb) @ SRGB_TO_XYZ.T) / WHITE
    f = np.where(t > (6 / 29) ** 3, np.cbrt(t), t / (3 * (6 / 29) ** 2) + 4 / 29)
    x, y, z = np.moveaxis(f, -1, 0)
    return np.stack([116 * y - 16, 500 * (x - y), 200 * (y - z)], axis=-1)
