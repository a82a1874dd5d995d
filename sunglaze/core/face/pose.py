"""Where a head is and how it is turned, from its points in the picture (perspective-n-point, by OpenCV)."""

from __future__ import annotations

import math
from dataclasses import dataclass

import cv2
import numpy as np
from numpy.typing import NDArray

from sunglaze.core.face.model import middle_face

STEADY = tuple(int(n) for n in np.flatnonzero(middle_face()[:, 1] > -3.0))
"""Points above the mouth, which neither jaw nor lips move."""
FIELD_OF_VIEW = 63.0
"""Degrees along the longer side of the picture of a phone's front camera; common practice, no source."""
_FLIP = np.diag([1.0, -1.0, -1.0])


@dataclass(frozen=True, eq=False)
class Pose:
    """`turn`: 3 by 3 from the head to the camera (x to the picture's right, y up, z towards the lens). `place`: centimetres from
    the lens in the same axes, for a head of middle size."""

    turn: NDArray[np.float64]
    place: NDArray[np.float64]

    @property
    def distance(self) -> float:
        """Centimetres along the lens's axis."""
        return float(-self.place[2])

    @property
    def angles(self) -> tuple[float, float, float]:
        """Degrees, as `angles` has them."""
        return angles(self.turn)


def angles(turn: NDArray[np.float64]) -> tuple[float, float, float]:
    """Degrees of turning to the picture's right, down and (anticlockwise) to the side, applied in this order. `turn`: (3, 3)."""
    to_right = math.atan2(-turn[2, 0], turn[2, 2])
    down = math.asin(float(np.clip(turn[2, 1], -1, 1)))
    aside = math.atan2(-turn[0, 1], turn[1, 1])
    return math.degrees(to_right), math.degrees(down), math.degrees(aside)


def rotation(to_right: float, down: float, aside: float) -> NDArray[np.float64]:
    """The turn (3 by 3) that has these `angles`, degrees."""
    (st, ct), (sn, cn), (sa, ca) = ((math.sin(a), math.cos(a)) for a in map(math.radians, (to_right, down, aside)))
    turn = np.array([[ct, 0, st], [0, 1, 0], [-st, 0, ct]])
    nod = np.array([[1, 0, 0], [0, cn, -sn], [0, sn, cn]])
    tilt = np.array([[ca, -sa, 0], [sa, ca, 0], [0, 0, 1]])
    return np.asarray(tilt @ nod @ turn)


def usual_focal(width: int, height: int) -> float:
    """Focal length in pixels of a camera about which nothing is known."""
    return max(width, height) / 2 / math.tan(math.radians(FIELD_OF_VIEW / 2))


def head_pose(points: NDArray[np.float64], width: int, height: int, focal: float | None = None) -> Pose:
    """`points`: (468 or more, 2 or more) in pixels of a picture of this size."""
    focal = focal or usual_focal(width, height)
    lens = np.array([[focal, 0, width / 2], [0, focal, height / 2], [0, 0, 1]])
    model, seen = middle_face()[list(STEADY)], np.ascontiguousarray(points[list(STEADY), :2], np.float64)
    _, first, moved = cv2.solvePnP(model, seen, lens, None, flags=cv2.SOLVEPNP_SQPNP)
    turned, moved = cv2.solvePnPRefineLM(model, seen, lens, None, first, moved)
    return Pose(_FLIP @ cv2.Rodrigues(turned)[0], _FLIP @ moved.ravel())
