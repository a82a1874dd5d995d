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
LIPS = (0, 17)
"""The upper edge of the upper lip and the lower edge of the lower one, in the middle."""
NEUTRAL_SMILE, FULL_SMILE = 0.86, 1.1
"""Width of the mouth and how much higher its corners are than its middle, together, in distances of the eyes; set on the
stand-in's cast, whose members talk at up to 0.95."""
NEUTRAL_BROWS, LIFTED_BROWS = 0.44, 0.57
"""How far brows are above the eyes, in distances of the eyes; set on the stand-in's cast."""
OPEN_EYE, SHUT_EYE = 0.3, 0.08
"""Eye aspect ratios of an open and of a shut eye; common practice, no source."""


@dataclass(frozen=True, eq=False)
class Measures:
    """`places`: by NAMES, pixels (2). `size`: pixels between the middles of the eyes. `mouth`: gap between the lips over the
    mouth's width, 0 where shut. `blinks`: of the left and the right eye, 0 open to 1 shut. `smile`, `brows` (lifted): 0 to 1."""

    places: dict[str, Points]
    size: float
    mouth: float
    blinks: tuple[float, float]
    smile: float
    brows: float


def measure(points: Points) -> Measures:
    """`points`: (468 or more, 2 or more) in pixels, so that both axes have one scale."""
    flat = points[:, :2]
    places = {name: flat[n] for name, n in _SINGLE.items()} | {name: flat[list(RINGS[name])].mean(axis=0) for name in _RINGED}
    gap, width = _far(flat, 13, 14), _far(flat, 78, 308)
    left, right = (_blink(flat, LID_POINTS[name]) for name in ("left eye", "right eye"))
    size = float(np.linalg.norm(places["right eye"] - places["left eye"]))
    return Measures(places, size, gap / max(width, 1e-9), (left, right), _smile(places, flat), _brows(places))


def _upwards(places: dict[str, Points]) -> Points:
    """Over a distance in pixels: its part across the line of the eyes, upwards, in distances of the eyes."""
    across = places["right eye"] - places["left eye"]
    return np.array([across[1], -across[0]]) / max(float(across @ across), 1e-18)


def _smile(places: dict[str, Points], flat: Points) -> float:
    left, right = places["left lip corner"], places["right lip corner"]
    width = float(np.linalg.norm(right - left)) / max(float(np.linalg.norm(places["right eye"] - places["left eye"])), 1e-9)
    lift = float(((left + right) / 2 - (flat[LIPS[0]] + flat[LIPS[1]]) / 2) @ _upwards(places))
    return float(np.clip((width + lift - NEUTRAL_SMILE) / (FULL_SMILE - NEUTRAL_SMILE), 0, 1))


def _brows(places: dict[str, Points]) -> float:
    up = _upwards(places)
    lift = np.mean([(places[f"{side} brow"] - places[f"{side} eye"]) @ up for side in ("left", "right")])
    return float(np.clip((lift - NEUTRAL_BROWS) / (LIFTED_BROWS - NEUTRAL_BROWS), 0, 1))


def _far(points: Points, a: int, b: int) -> float:
    return float(np.linalg.norm(points[a] - points[b]))


def eye_aspect_ratio(points: Points, six: tuple[int, ...]) -> float:
    """Soukupová and Čech 2016, equation 1. `points`: (468 or more, 2), pixels."""
    a, b, c, d, e, f = six
    return (_far(points, b, f) + _far(points, c, e)) / max(2 * _far(points, a, d), 1e-9)


def _blink(points: Points, six: tuple[int, ...]) -> float:
    return float(np.clip((OPEN_EYE - eye_aspect_ratio(points, six)) / (OPEN_EYE - SHUT_EYE), 0, 1))
