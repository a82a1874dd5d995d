"""Masks of regions drawn from the points of faces and hands: approximate, for a camera gives nothing but its picture.

Hair is told by its colour (hair.py), and belongs to the head; clothes are the person but for head and neck, hands included;
teeth are the inside of the mouth. They are pictures of a moment, as those of the stand-in, so they are drawn before any pass:
polygons by exact coverage. web/src/camera/regions.ts draws the same for a real camera.
"""

from __future__ import annotations

import math
from collections.abc import Iterator
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from sunglaze.core.face.filling import mask_of
from sunglaze.core.face.hair import hair
from sunglaze.core.face.model import APPROXIMATE, HANDS, RINGS, SCALED

Mask = NDArray[np.uint8]
Doubles = NDArray[np.float64]
Step = tuple[Doubles, float]
EVERYTHING = "everything"
EYES = (33, 263)
"""The outer corners of the eyes."""
ROUND = 8
"""Corners of the round end of a line."""


def _ring(name: str, face: NDArray[np.float64]) -> NDArray[np.float64]:
    if name in SCALED:
        ring, about, by = SCALED[name]
        return np.asarray(face[about] + by * (face[list(RINGS[ring])] - face[about]))
    return face[list(RINGS[name])]


def _steps(
    names: tuple[str, ...], faces: list[Doubles], shape: tuple[int, ...], value: float, grown: float = 0.0
) -> Iterator[Step]:
    rows, columns = shape
    for name in names:
        if name == EVERYTHING:
            yield np.array([[0, 0], [columns, 0], [columns, rows], [0, rows]], np.float64), value
            continue
        for face in faces:
            ring = _ring(name, face[:, :2])
            yield ring, value
            if grown:
                half = grown * float(np.linalg.norm(face[EYES[0], :2] - face[EYES[1], :2]))
                yield from ((_stroke(a, b, half), value) for a, b in pairwise([*ring, ring[0]]))


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
    drawn = APPROXIMATE[name]
    steps = [*_steps(drawn.fill, faces, person.shape, 1.0, drawn.grown), *_steps(drawn.cut, faces, person.shape, 0.0)]
    mask = mask_of(person.shape[0], person.shape[1], steps)
    mask = np.asarray(np.minimum(mask, person) if drawn.person else mask, np.uint8)
    if hairy is None:
        return mask
    return np.asarray(np.maximum(mask, hairy) if name == "head" else np.minimum(mask, 255 - hairy), np.uint8)


def hand_region(hands: list[NDArray[np.float64]], rows: int, columns: int) -> Mask:
    """The mask of hands (rows, columns), white inside. `hands`: points (21, 2 or more) in pixels."""
    steps: list[Step] = []
    for hand in hands:
        one, other = HANDS["across"]
        half = max(1.0, float(np.linalg.norm(hand[one, :2] - hand[other, :2])) * HANDS["thick"]) / 2
        palm, fingers = HANDS["palm"], HANDS["fingers"]
        steps.append((hand[palm, :2], 1.0))
        for line in ([*palm, palm[0]], *fingers):
            steps += [(_stroke(hand[a, :2], hand[b, :2], half), 1.0) for a, b in pairwise(line)]
    return mask_of(rows, columns, steps)


def _stroke(start: Doubles, end: Doubles, half: float) -> Doubles:
    """The outline of a line with round ends (2 * (ROUND + 1), 2), `half` pixels to either side."""
    along = end - start
    across = math.atan2(along[1], along[0]) + math.pi / 2
    turns = across + np.arange(ROUND + 1) * (math.pi / ROUND)
    round_ = np.stack([np.cos(turns), np.sin(turns)], axis=1) * half
    return np.concatenate([start + round_, end - round_])
