"""The head as a solid, which hides what is behind it: the middle face in front, an ellipsoid for the skull, and a neck.

Axes are the head's: x to the picture's right, y up, z out of the face, centimetres from the middle between the ears. How large
skull and neck are is common practice, no source.
"""

from __future__ import annotations

from functools import cache

import numpy as np
from numpy.typing import NDArray

from sunglaze.core.face.model import middle_face, skin_triangles
from sunglaze.core.material.mesh import MeshData

SHRUNK = 0.985
"""So much of its size, about its middle, that what lies on the skin is not hidden by it."""
SKULL = (0.0, 3.2, -1.4), (7.2, 9.4, 8.2)
"""Middle and half axes."""
SIDES = ((67, 132), (297, 361))
"""From the sides of the forehead down to the sides of the jaw. Of the cast, the axis that they tell is 4.5 degrees from that of
PnP, within 1.2 from person to person and 0.4 while one talks; from forehead to chin it was 7.1, 3.1 and 1.5."""
NECK = (-3.4, 5.6, -20.0)
"""How far behind, how wide, and how far down."""
_AROUND, _DOWN = 20, 12


def axes(points: NDArray[np.float64]) -> NDArray[np.float64]:
    """A head's axes by its points (468 or more, 3), x to the right, y up, z towards the lens: rows right, up, out (3, 3). As
    core/nodes/pins.py finds them."""
    eyes = points[263] - points[33]
    right = eyes + points[454] - points[234]
    right = right / np.linalg.norm(right)
    along = sum(points[high] - points[low] for high, low in SIDES)
    up = along - right * (along @ right)
    up = up / np.linalg.norm(up)
    out = np.cross(right, up)
    cos, sin = lean()
    return np.stack([right, up * cos - out * sin, up * sin + out * cos])


@cache
def lean() -> tuple[float, float]:
    """Cosine and sine of how far the line of SIDES leans out of the face of the middle face, which is upright itself."""
    middle = middle_face()
    _, up, out = sum(middle[high] - middle[low] for high, low in SIDES)
    long = float(np.hypot(up, out))
    return float(up) / long, float(out) / long


@cache
def head_mesh() -> MeshData:
    """The solid, without a texture."""
    middle = middle_face()
    face = (middle - (middle[234] + middle[454]) / 2) @ axes(middle).T * SHRUNK
    parts = skin_triangles()
    front = np.concatenate([parts["skin"], parts["mouth"], parts["eyes"]])
    centre, half = (np.array(one) for one in SKULL)
    turn, nod = np.meshgrid(np.linspace(0, 2 * np.pi, _AROUND, endpoint=False), np.linspace(0, np.pi, _DOWN))
    ball = np.stack([np.sin(nod) * np.sin(turn), np.cos(nod), np.sin(nod) * np.cos(turn)], axis=-1).reshape(-1, 3) * half + centre
    behind, wide, low = NECK
    x, z = wide * np.sin(turn[0]), behind + wide * np.cos(turn[0])
    neck = np.concatenate([np.stack([x, np.full(_AROUND, y), z], axis=-1) for y in (-2.0, low)])
    # Players are told it in decimals.
    vertices = np.concatenate([face, ball, neck]).round(4)
    triangles = np.concatenate([front, _grid(_DOWN) + len(face), _grid(2) + len(face) + len(ball)])
    return MeshData(vertices, np.zeros((len(vertices), 2)), triangles)


def _grid(rows: int) -> NDArray[np.int64]:
    """Triangles between rows of points around."""
    first = (np.arange(rows - 1)[:, None] * _AROUND + np.arange(_AROUND)).ravel()
    after = first - first % _AROUND + (first + 1) % _AROUND
    upper = np.stack([first, after, first + _AROUND], axis=1)
    lower = np.stack([after, after + _AROUND, first + _AROUND], axis=1)
    return np.concatenate([upper, lower])
