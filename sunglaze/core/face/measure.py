"""What the points of a face say: named places, size, how far mouth and eyes are open. Left and right are the picture's."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from sunglaze.core.face.model import RINGS

Points = NDArray[np.float64]
_SINGLE = {
    "nose tip": 4, "forehead": 151, "chin": 152, "left cheek": 50, "right cheek": 280, "left lip corner": 61,
    "right lip corner": 291, "upper lip": 13, "lower lip": 14,
}  # fmt: skip
_RINGED = ("left eye", "right eye", "left brow", "right brow", "lips")
NAMES = (*_SINGLE, *_RINGED)
LID_POINTS = {"left eye": (33, 160, 158, 133, 153, 144), "right eye": (362, 385, 387, 263, 373, 380)}
"""The six points of the eye aspect ratio: corners first and fourth, upper lid between them, then lower."""
OPEN_EYE, SHUT_EYE = 0.3, 0.08
"""Eye aspect ratios of an open and of a shut eye; common practice, no source."""


@dataclass(frozen=True, eq=False)
class Measures:
    """`places`: by NAMES, pixels (2). `size`: pixels between the middles of the eyes. `mouth`: gap between the lips over the
    mouth's width, 0 where shut. `blinks`: of the left and the right eye, 0 open to 1 shut."""

    places: dict[str, Points]
    size: float
    mouth: float
    blinks: tuple[float, float]


def measure(points: Points) -> Measures:
    """`points`: (468 or more, 2 or more) in pixels, so that both axes have one scale."""
    flat = points[:, :2]
    places = {name: flat[n] for name, n in _SINGLE.items()} | {name: flat[list(RINGS[name])].mean(axis=0) for name in _RINGED}
    gap, width = _far(flat, 13, 14), _far(flat, 78, 308)
    left, right = (_blink(flat, LID_POINTS[name]) for name in ("left eye", "right eye"))
    size = float(np.linalg.norm(places["right eye"] - places["left eye"]))
    return Measures(places, size, gap / max(width, 1e-9), (left, right))


def _far(points: Points, a: int, b: int) -> float:
    return float(np.linalg.norm(points[a] - points[b]))


def eye_aspect_ratio(points: Points, six: tuple[int, ...]) -> float:
    """Soukupová and Čech 2016, equation 1. `points`: (468 or more, 2), pixels."""
    a, b, c, d, e, f = six
    return (_far(points, b, f) + _far(points, c, e)) / max(2 * _far(points, a, d), 1e-9)


def _blink(points: Points, six: tuple[int, ...]) -> float:
    return float(np.clip((OPEN_EYE - eye_aspect_ratio(points, six)) / (OPEN_EYE - SHUT_EYE), 0, 1))
