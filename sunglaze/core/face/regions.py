"""Masks of regions drawn from the points of faces and hands: approximate, for a camera gives nothing but its picture.

Hair is told by its colour (hair.py), and belongs to the head; clothes are the person but for head and neck, hands included;
teeth are the inside of the mouth. web/src/camera/regions.ts draws the same for a real camera.
"""

from __future__ import annotations

import cv2
import numpy as np
from numpy.typing import NDArray

from sunglaze.core.face.hair import hair
from sunglaze.core.face.model import APPROXIMATE, HANDS, RINGS, SCALED

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


OF_HANDS = "hands"
"""The region that is drawn from the points of hands."""
HAIRY = ("hair", "head", "clothes")
"""Regions whose outline hair has a part in, which is told by its colour."""


def region(name: str, faces: list[NDArray[np.float64]], person: Mask, picture: NDArray[np.uint8] | None = None) -> Mask:
    """A region's mask (height, width), white inside. `faces`: points (468 or more, 2 or more) in pixels; `person`: of the
    picture's size; `picture`: (height, width, 3) of bytes, by which hair is told. KeyError for a region that cannot be drawn
    so."""
    hairy = hair(picture, faces, person) if picture is not None and name in HAIRY else None
    if name == "hair" and hairy is not None:
        return hairy
    filled, cut, within = APPROXIMATE[name]
    mask = np.zeros(person.shape, np.uint8)
    _fill(mask, filled, faces, 255)
    _fill(mask, cut, faces, 0)
    mask = np.asarray(np.minimum(mask, person) if within else mask, np.uint8)
    if hairy is None:
        return mask
    return np.asarray(np.maximum(mask, hairy) if name == "head" else np.minimum(mask, 255 - hairy), np.uint8)


def hand_region(hands: list[NDArray[np.float64]], rows: int, columns: int) -> Mask:
    """The mask of hands (rows, columns), white inside. `hands`: points (21, 2 or more) in pixels."""
    mask = np.zeros((rows, columns), np.uint8)
    for hand in hands:
        one, other = HANDS["across"]
        thick = max(1, round(float(np.linalg.norm(hand[one, :2] - hand[other, :2])) * HANDS["thick"]))
        places = np.rint((hand[:, :2] - 0.5) * 2**_FRACTION).astype(np.int32)
        cv2.fillPoly(mask, [places[HANDS["palm"]]], 255, lineType=cv2.LINE_AA, shift=_FRACTION)
        for line, closed in ((HANDS["palm"], True), *((finger, False) for finger in HANDS["fingers"])):
            cv2.polylines(mask, [places[line]], closed, 255, thick, cv2.LINE_AA, _FRACTION)
    return mask
