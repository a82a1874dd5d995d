"""Drawn paths: closed lines through points, straight or smooth, as tables that programs read.

A path is set as {"points": [[x, y], ...], "smooth": true}. Points lie in short sides of the screen from its middle, x right and
y down, so that a form keeps on every screen. A smooth line is the closed Catmull-Rom spline through the points (Catmull and Rom
1974): a cubic between two points whose slope at each is half the way from its neighbour before to the one after.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from sunglaze.core.errors import BadEffect

Floats = NDArray[np.float32]
FEWEST_POINTS, MOST_POINTS = 3, 24
FARTHEST = 4.0
MOST_PIECES = 96
"""Straight pieces that a smooth path is drawn by at most."""


@dataclass(frozen=True)
class Path:
    """`points` in short sides from the middle."""

    points: tuple[tuple[float, float], ...]
    smooth: bool = True


def read_path(plain: Any) -> Path:
    """A path as it is set, checked. Raises BadEffect."""
    if not isinstance(plain, dict) or set(plain) - {"points", "smooth"} or not isinstance(plain.get("smooth", True), bool):
        raise BadEffect("a drawn path is set as {'points': [[x, y], ...], 'smooth': true or false}")
    points = plain.get("points")
    if not isinstance(points, list | tuple) or not FEWEST_POINTS <= len(points) <= MOST_POINTS:
        raise BadEffect(f"a drawn path has {FEWEST_POINTS} to {MOST_POINTS} points")
    if not all(isinstance(one, list | tuple) and len(one) == 2 and all(map(_near, one)) for one in points):
        raise BadEffect(f"a point of a drawn path is two numbers from {-FARTHEST:g} to {FARTHEST:g}")
    return Path(tuple((float(x), float(y)) for x, y in points), plain.get("smooth", True))


def _near(plain: Any) -> bool:
    return isinstance(plain, int | float) and not isinstance(plain, bool) and math.isfinite(plain) and abs(plain) <= FARTHEST


def outline(path: Path) -> NDArray[np.float64]:
    """Places along the path, from its first point on, as (n, 2): its points, or of a smooth one those of straight pieces."""
    points = np.array(path.points)
    if not path.smooth:
        return points
    pieces = min(8, MOST_PIECES // len(points))
    before, after, then = (np.roll(points, -k, axis=0)[:, None] for k in (-1, 1, 2))
    here, t = points[:, None], (np.arange(pieces) / pieces)[:, None]
    m0, m1 = (after - before) / 2, (then - here) / 2
    h00, h10 = (1 + 2 * t) * (1 - t) ** 2, t * (1 - t) ** 2
    h01, h11 = t * t * (3 - 2 * t), t * t * (t - 1)
    return np.asarray(h00 * here + h10 * m0 + h01 * after + h11 * m1).reshape(-1, 2)


def path_table(path: Path) -> Floats:
    """(n + 1, 4): x and y of each place, the first once more at the end."""
    places = outline(path)
    closed = np.concatenate([places, places[:1]])
    return np.ascontiguousarray(np.concatenate([closed, np.zeros((len(closed), 2))], axis=1), np.float32)
