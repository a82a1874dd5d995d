"""Masks of regions drawn from the points of faces: approximate, for a camera gives nothing but its picture.

Hair is what of the person lies around the face, a hat included; clothes are the person but for head and neck, hands included;
teeth are the inside of the mouth. web/src/camera/regions.ts draws the same for a real camera.
"""

from __future__ import annotations

import cv2
import numpy as np
from numpy.typing import NDArray

from sunglaze.core.face.model import APPROXIMATE, RINGS, SCALED

Mask = NDArray[np.uint8]
EVERYTHING = "everything"
_FRACTION = 4


def _ring(name: str, face: NDArray[np.float64]) -> NDArray[np.float64]:
    if name in SCALED:
        ring, about, by = SCALED[name]
        return np.asarray(face[about] + by * (face[list(RINGS[ring])] - face[about]))
    return face[list(RINGS[name])]


def _fill(mask: Mask, names: tuple[str, ...], faces: list[NDArray[np.float64]], value: int) -> None:
    for name in names:
        if name == EVERYTHING:
            mask[:] = value
            continue
        for face in faces:
            corners = np.rint((_ring(name, face[:, :2]) - 0.5) * 2**_FRACTION).astype(np.int32)
            cv2.fillPoly(mask, [corners], value, lineType=cv2.LINE_AA, shift=_FRACTION)


def region(name: str, faces: list[NDArray[np.float64]], person: Mask) -> Mask:
    """A region's mask (height, width), white inside. `faces`: points (468 or more, 2 or more) in pixels; `person`: of the
    picture's size. KeyError for a region that cannot be drawn so."""
    filled, cut, within = APPROXIMATE[name]
    mask = np.zeros(person.shape, np.uint8)
    _fill(mask, filled, faces, 255)
    _fill(mask, cut, faces, 0)
    return np.asarray(np.minimum(mask, person) if within else mask, np.uint8)
