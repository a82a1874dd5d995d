"""Where hair is, by its colour: the person's picture beside the face is told from skin and clothes by the colours that each has.

Approximate, for a camera gives nothing but its picture: a hat or scarf that covers the hair is taken for it. How good it is on
the cast stands in docs/realism.md. web/src/camera/hair.ts does the same.
"""

from __future__ import annotations

import cv2
import numpy as np
from numpy.typing import NDArray

from sunglaze.core.face.filling import mask_of
from sunglaze.core.face.model import RINGS

SHORT = 128
"""Pixels of the short side that is looked at."""
SPREAD = 0.03
"""Deviation that every colour has at least, parts of full scale."""
SKIN_FAR = 2.25
"""Deviations from the skin's colours from which on what lies above the face is no scalp."""
FEW = 0.35
"""Of what lies above the face, the part below which there is no hair to learn from."""
SHADES, SHADED = (0.75, 0.55), -0.45
"""How bright skin in the shadow of the chin is, parts of what lies on the face, and how far below the middle of the face that
begins: red hair and a neck in shadow are alike."""
ABOVE, ASIDE, BELOW = 1.25, 1.15, 1.5
"""How far hair is looked for from the middle of the face: sizes of the face upwards and to the sides, and down from the chin."""
Mask = NDArray[np.uint8]
Doubles = NDArray[np.float64]


def hair(pixels: NDArray[np.uint8], faces: list[Doubles], person: Mask) -> Mask:
    """The mask of hair (height, width), white inside. `pixels`: (height, width, 3) of bytes; `faces`: points (468 or more, 2 or
    more) in pixels; `person`: (height, width)."""
    height, width = person.shape
    scale = SHORT / min(height, width)
    columns, rows = max(1, round(width * scale)), max(1, round(height * scale))
    small = cv2.resize(pixels, (columns, rows), interpolation=cv2.INTER_AREA).astype(np.float64) / 255
    within = cv2.resize(person, (columns, rows), interpolation=cv2.INTER_AREA) > 127
    share = np.array([columns / width, rows / height])
    found = np.zeros((rows, columns), bool)
    for face in faces:
        found |= _of_face(small, face[:, :2] * share, within)
    soft = cv2.GaussianBlur(found.astype(np.float32), (0, 0), 0.8)
    large = cv2.resize(soft, (width, height), interpolation=cv2.INTER_LINEAR)
    return np.asarray(np.minimum(np.rint(large * 255), person), np.uint8)


def _filled(ring: tuple[int, ...], face: Doubles, shape: tuple[int, int]) -> NDArray[np.bool_]:
    return np.asarray(mask_of(*shape, [(face[list(ring), :2], 1.0)]) > 127)


def _of_face(small: Doubles, face: Doubles, within: NDArray[np.bool_]) -> NDArray[np.bool_]:
    shape = (within.shape[0], within.shape[1])
    oval = _filled(RINGS["oval"], face, shape)
    features = np.zeros(shape, bool)
    for ring in ("left eye", "right eye", "left brow", "right brow", "lips"):
        features |= _filled(RINGS[ring], face, shape)
    row, column = np.mgrid[0 : shape[0], 0 : shape[1]] + 0.5
    top, chin = face[10], face[152]
    size = float(np.linalg.norm(chin - top))
    up = (top - chin) / max(size, 1e-6)
    middle = (top + chin) / 2
    high = (column - middle[0]) * up[0] + (row - middle[1]) * up[1]
    side = np.abs((column - middle[0]) * up[1] - (row - middle[1]) * up[0])
    about = within & ~oval & (high < ABOVE * size) & (side < ASIDE * size) & (high > -(0.5 + BELOW) * size)
    skin = oval & within & ~features & (high > 0.16 * size) & (side < 0.42 * size)
    crown = about & (high > 0.5 * size) & (side < 0.75 * size)
    clothes = within & (high < -0.95 * size)
    if skin.sum() < 12 or crown.sum() < 6:
        return np.zeros(shape, bool)
    of_skin = _far(small, small[skin])
    seeds = crown & (of_skin > SKIN_FAR**2)
    if seeds.sum() < FEW * crown.sum():
        return np.zeros(shape, bool)
    for shade in SHADES:
        of_skin = np.where(high < SHADED * size, np.minimum(of_skin, _far(small, small[skin] * shade)), of_skin)
    hairy, clothed = _far(small, small[seeds]), _far(small, small[clothes]) if clothes.sum() > 12 else None
    alike = hairy < of_skin
    if clothed is not None:
        # Beside and below the face, what lies low is clothes if its colour says so.
        alike &= (hairy < clothed) | (high > 0.1 * size)
    return _reached(about & alike, seeds & alike)


def _far(small: Doubles, some: Doubles) -> Doubles:
    """How far each colour is from these, squared deviations, and how wide these spread."""
    mean = some.mean(axis=0)
    spread = np.cov(some.T) + np.eye(3) * SPREAD**2
    away = small - mean
    return np.asarray(
        np.einsum("...i,ij,...j->...", away, np.linalg.inv(spread), away) + np.log(np.linalg.det(spread) / SPREAD**6)
    )


def _reached(where: NDArray[np.bool_], seeds: NDArray[np.bool_]) -> NDArray[np.bool_]:
    """What of a mask hangs together with seeds, which are part of it."""
    _, parts = cv2.connectedComponents(where.astype(np.uint8), connectivity=4)
    kept = np.unique(parts[seeds])
    return np.asarray(np.isin(parts, kept[kept > 0]))
