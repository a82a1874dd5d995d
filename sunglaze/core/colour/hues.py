"""Hue curves: what becomes of each hue, drawn round the circle, as tables that programs read.

They are set as {"turn": [[hue, degrees], ...], "saturation": [[hue, amount], ...], "lightness": ..., "over": [[lightness,
amount], ...]}, each with up to 16 points. Hues are degrees from 0 to below 360; a turn is -180 to 180 degrees, amounts are -1
to 1; `over` is saturation over lightness, which is 0 to 1. What has no points stays at 0, a single point is the same everywhere.
The way between points is a monotone cubic (Fritsch and Butland 1984) that closes round the circle, so it is continuous to the
first derivative; a third number of a point is the curve's slope there, in its unit a degree.
"""

from __future__ import annotations

import math
from typing import Any

import numpy as np
from numpy.typing import NDArray

from sunglaze.core.errors import BadEffect

Floats = NDArray[np.float32]
Doubles = NDArray[np.float64]
LEVELS = {"turn": 180.0, "saturation": 1.0, "lightness": 1.0, "over": 1.0}
"""How far each curve goes to either side."""
CIRCLE = 360.0
MOST_POINTS = 16
STEPS, OVER_STEPS = 721, 257
EIGHT = (0.0, 30.0, 60.0, 120.0, 180.0, 240.0, 275.0, 315.0)
"""Hues that documents of before version 7 set one by one, with a way between them that was level at each."""
Point = tuple[float, float, float | None]
"""Place, height, slope."""
HueCurves = dict[str, list[Point]]


def read_hues(plain: Any) -> HueCurves:
    """Checks what is set. Raises BadEffect."""
    if not isinstance(plain, dict) or set(plain) - set(LEVELS):
        raise BadEffect(f"hue curves are set as points for any of {', '.join(LEVELS)}")
    return {name: _points(name, points) for name, points in plain.items()}


def _points(name: str, plain: Any) -> list[Point]:
    if not isinstance(plain, list | tuple) or len(plain) > MOST_POINTS:
        raise BadEffect(f"the curve '{name}' takes up to {MOST_POINTS} points")
    end = 1.0 if name == "over" else CIRCLE
    level = LEVELS[name]
    found: list[Point] = []
    for point in plain:
        if not isinstance(point, list | tuple) or len(point) not in (2, 3) or not all(map(_real, point)):
            raise BadEffect(f"a point of the curve '{name}' is a place, a height and maybe a slope")
        place, height = float(point[0]), float(point[1])
        if not (0 <= place < end or (name == "over" and place == end)) or abs(height) > level:
            raise BadEffect(f"a point of the curve '{name}' lies within 0 to {end:g} across and {-level:g} to {level:g} up")
        if found and place <= found[-1][0]:
            raise BadEffect(f"the points of the curve '{name}' must go from left to right")
        found.append((place, height, float(point[2]) if len(point) == 3 else None))
    return found


def _real(plain: Any) -> bool:
    return isinstance(plain, int | float) and not isinstance(plain, bool) and math.isfinite(plain) and abs(plain) < 1e6


def around(points: list[Point], x: Doubles) -> Doubles:
    """The height of a curve round the circle at hues of any shape."""
    if len(points) < 2:
        return np.full_like(x, points[0][1] if points else 0.0)
    places, heights = (np.array([point[k] for point in points], np.float64) for k in (0, 1))
    h = np.diff(places, append=places[0] + CIRCLE)
    d = np.diff(heights, append=heights[0]) / h
    slopes = _slopes(points, np.roll(h, 1), h, np.roll(d, 1), d)
    from_first = np.mod(x - places[0], CIRCLE)
    n = np.searchsorted(places - places[0], from_first, side="right") - 1
    return _cubic(n, from_first - (places[n] - places[0]), h, heights, slopes)


def across(points: list[Point], x: Doubles) -> Doubles:
    """The height of a curve over lightness at places of any shape; level beyond its ends."""
    if len(points) < 2:
        return np.full_like(x, points[0][1] if points else 0.0)
    places, heights = (np.array([point[k] for point in points], np.float64) for k in (0, 1))
    h = np.diff(places)
    d = np.diff(heights) / h
    # Level at both ends, as it goes on.
    left, right = np.concatenate([h[:1], h]), np.concatenate([h, h[-1:]])
    slopes = _slopes(points, left, right, np.concatenate([[0.0], d]), np.concatenate([d, [0.0]]))
    n = np.clip(np.searchsorted(places, x, side="right") - 1, 0, len(h) - 1)
    return _cubic(n, np.clip(x - places[n], 0.0, h[n]), h, heights, slopes)


def _slopes(points: list[Point], h0: Doubles, h1: Doubles, d0: Doubles, d1: Doubles) -> Doubles:
    """Slopes at the points (n), from the widths and slopes of the pieces on their left and right."""
    w0, w1 = 2 * h1 + h0, h1 + 2 * h0
    with np.errstate(divide="ignore", invalid="ignore"):
        own = np.where(d0 * d1 > 0, (w0 + w1) / (w0 / d0 + w1 / d1), 0.0)
    return np.array([own[n] if point[2] is None else point[2] for n, point in enumerate(points)])


def _cubic(n: NDArray[np.intp], into: Doubles, h: Doubles, heights: Doubles, slopes: Doubles) -> Doubles:
    """Hermite's cubic of piece `n`, so far into it; the piece after the last point leads to the first."""
    after = (n + 1) % len(heights)
    t = into / h[n]
    low, rise = heights[n] * (1 + 2 * t) * (1 - t) ** 2, h[n] * slopes[n] * t * (1 - t) ** 2
    high, fall = heights[after] * t * t * (3 - 2 * t), h[n] * slopes[after] * t * t * (t - 1)
    return np.asarray(low + rise + high + fall)


def hue_table(curves: HueCurves) -> Floats:
    """(STEPS, 4) round the circle, both ends the same: turn in turns, saturation, lightness."""
    x = np.linspace(0.0, CIRCLE, STEPS)
    columns = [around(curves.get(name, []), x) for name in ("turn", "saturation", "lightness")]
    columns[0] = columns[0] / CIRCLE
    return np.ascontiguousarray(np.stack([*columns, np.zeros(STEPS)], axis=-1), np.float32)


def over_table(curves: HueCurves) -> Floats:
    """(OVER_STEPS, 4): saturation over lightness, in the first column."""
    height = across(curves.get("over", []), np.linspace(0.0, 1.0, OVER_STEPS))
    return np.ascontiguousarray(np.stack([height, *[np.zeros(OVER_STEPS)] * 3], axis=-1), np.float32)


def of_eight(plain: Any) -> Any:
    """Eight rows of turn, saturation and lightness, as documents of before version 7 have them, as curves; all else as it is."""
    rows = plain if isinstance(plain, list) and len(plain) == len(EIGHT) else []
    if not rows or not all(isinstance(row, list) and len(row) == 3 and all(map(_real, row)) for row in rows):
        return plain
    found = {}
    for k, name in enumerate(("turn", "saturation", "lightness")):
        heights = [min(LEVELS[name], max(-LEVELS[name], row[k])) for row in rows]
        if any(heights):
            found[name] = [[hue, height, 0.0] for hue, height in zip(EIGHT, heights, strict=True)]
    return found
