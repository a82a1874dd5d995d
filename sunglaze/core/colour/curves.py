"""Drawn curves as tables that programs read.

Curves: {"all": [[x, y], ...], "red": ..., "green": ..., "blue": ...}, each with 2 to 16 points, x rising, 0 to 1; what is not
given is straight. The way between points is a monotone cubic (Fritsch and Butland 1984, the weighting that SciPy's
PchipInterpolator has). Curves over the hue circle are hues.py.
"""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray

from sunglaze.core.errors import BadEffect

Floats = NDArray[np.float32]
CURVES = ("all", "red", "green", "blue")
STEPS = 1024
MOST_POINTS = 16
Points = list[tuple[float, float]]


def read_curves(plain: Any) -> dict[str, Points]:
    """Checks what is set. Raises BadEffect."""
    if not isinstance(plain, dict) or set(plain) - set(CURVES):
        raise BadEffect(f"curves are set as points for any of {', '.join(CURVES)}")
    return {name: _points(name, points) for name, points in plain.items()}


def _points(name: str, points: Any) -> Points:
    if not isinstance(points, list | tuple) or not 2 <= len(points) <= MOST_POINTS:
        raise BadEffect(f"the curve '{name}' takes 2 to {MOST_POINTS} points")
    found: Points = []
    for point in points:
        if not isinstance(point, list | tuple) or len(point) != 2 or not all(_fraction(p) for p in point):
            raise BadEffect(f"the curve '{name}' has a point that is not two numbers from 0 to 1")
        if found and point[0] <= found[-1][0]:
            raise BadEffect(f"the points of the curve '{name}' must go from left to right")
        found.append((float(point[0]), float(point[1])))
    return found


def _fraction(plain: Any) -> bool:
    return isinstance(plain, int | float) and not isinstance(plain, bool) and 0.0 <= plain <= 1.0


def curve_at(points: Points, x: NDArray[np.float64]) -> NDArray[np.float64]:
    """The curve's height at places; level beyond its ends. `x` of any shape (n, ...)."""
    px, py = (np.array(column) for column in zip(*points, strict=True))
    h, slopes = np.diff(px), np.diff(py) / np.diff(px)
    m = np.zeros_like(py)
    if len(points) == 2:
        m[:] = slopes[0]
    else:
        a, b = slopes[:-1], slopes[1:]
        w1, w2 = 2 * h[1:] + h[:-1], h[1:] + 2 * h[:-1]
        with np.errstate(divide="ignore", invalid="ignore"):
            m[1:-1] = np.where(a * b > 0, (w1 + w2) / (w1 / a + w2 / b), 0.0)
        m[0] = _end(h[0], h[1], slopes[0], slopes[1])
        m[-1] = _end(h[-1], h[-2], slopes[-1], slopes[-2])
    n = np.clip(np.searchsorted(px, x, side="right") - 1, 0, len(h) - 1)
    t = np.clip((x - px[n]) / h[n], 0.0, 1.0)
    h00, h10 = (1 + 2 * t) * (1 - t) ** 2, t * (1 - t) ** 2
    h01, h11 = t * t * (3 - 2 * t), t * t * (t - 1)
    return np.asarray(h00 * py[n] + h10 * h[n] * m[n] + h01 * py[n + 1] + h11 * h[n] * m[n + 1])


def _end(h0: float, h1: float, s0: float, s1: float) -> float:
    """The slope at an end, by three points, held so that the curve does not turn back."""
    slope = ((2 * h0 + h1) * s0 - h0 * s1) / (h0 + h1)
    if slope * s0 <= 0:
        return 0.0
    return 3 * s0 if s0 * s1 < 0 and abs(slope) > 3 * abs(s0) else slope


def curve_table(curves: dict[str, Points]) -> Floats:
    """(STEPS, 4): for each of red, green and blue what the curve for all, then its own, makes of 0 to 1."""
    x = np.linspace(0.0, 1.0, STEPS)
    together = curve_at(curves["all"], x) if "all" in curves else x
    columns = [curve_at(curves[name], together) if name in curves else together for name in CURVES[1:]]
    return np.ascontiguousarray(np.stack([*columns, np.zeros(STEPS)], axis=-1), np.float32)
