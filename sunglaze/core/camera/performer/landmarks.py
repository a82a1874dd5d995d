"""Where the face tracker's points lie on a performer's head: the surface points that the truth of landmarks is about.

Eyes, irises, brows, nose, lips and chin are set by the numbers that shape them; between them the tracker's middle face is bent
(thin plates) to go through those, and let down onto the skin. Offline only; see bake.py.
"""

import math

import numpy as np
from numpy.typing import NDArray
from scipy.interpolate import RBFInterpolator

from sunglaze.core.camera.performer.people import (
    P_BROW,
    P_CHIN,
    P_EYE,
    P_JAW,
    P_LIPS,
    P_MOUTH_WIDTH,
    P_NOSE_LENGTH,
    P_NOSE_WIDTH,
    P_WIDTH,
    Person,
)  # fmt: skip
from sunglaze.core.camera.performer.shapes import JAW_DROP, face
from sunglaze.core.face.model import IRISES, POINTS, RINGS, SKIN_POINTS, middle_face

Points = NDArray[np.float64]
EYE_X, EYE_Y, EYE_Z, BALL, LID, HALF = 0.305, 0.035, 0.575, 0.178, 0.19, 0.172
"""The left eye of shapes.py: its ball's middle, radii of ball and lid, half the width of its opening."""
IRIS = 0.088
OUTER_BROW, INNER_BROW = 0.5, 0.15


def _eyes(w: Points, blink: float) -> dict[int, tuple[float, float, float]]:
    """Both rings of the lids' edges: each point as far along its opening as on the middle face."""
    opening = 0.068 * w[P_EYE] * (1.0 - blink) + 0.002
    found = {}
    for name, side in (("left eye", -1.0), ("right eye", 1.0)):
        ring = RINGS[name]
        across = middle_face()[list(ring), 0] * side
        inner, outer = across.min(), across.max()
        for place, (point, at) in enumerate(zip(ring, across, strict=True)):
            ex = HALF * (2 * (at - inner) / (outer - inner) - 1)
            # Rings go along the lower lid first, from the outer corner to the inner.
            up = 0.0 if place in (0, 8) else (-1.0 if place < 8 else 1.0)
            ey = up * opening * math.sqrt(max(0.0, 1 - (ex / HALF) ** 2)) - 0.06 * ex - 0.012
            ez = math.sqrt(max(0.0, LID**2 - ex**2 - ey**2))
            found[point] = (side * (EYE_X * w[P_WIDTH] + ex), EYE_Y + ey, EYE_Z + ez)
    return found


def _brows(w: Points) -> dict[int, tuple[float, float, float]]:
    found = {}
    for name, side in (("left brow", -1.0), ("right brow", 1.0)):
        for place, point in enumerate(RINGS[name]):
            # As far out as on the middle face; the first five lie along the upper edge, the others along the lower.
            x = abs(middle_face()[point, 0]) * 0.097
            along = (OUTER_BROW - x) / (OUTER_BROW - INNER_BROW)
            arch = 0.2 + 0.07 * min(x - 0.15, 0.22) - 0.12 * max(0.0, x - 0.4)
            radius = (0.026 + 0.02 * along) * w[P_BROW]
            y = arch - 0.01 * (1 - along) + (0.7 if place < 5 else -0.7) * radius
            found[point] = (side * x * w[P_WIDTH], y, 0.60 + 0.165 * along + 0.5 * radius)
    return found


def _front(x: float, y: float, mouth: float, w: Points) -> tuple[float, float, float]:
    """The foremost skin at a place seen from the front."""
    z = 1.4
    for _ in range(60):
        z -= 0.7 * face(x, y, z, mouth, w)
    return x, y, z


def _nose_and_mouth(w: Points, mouth: float) -> dict[int, tuple[float, float, float]]:
    gap, wide, thick = mouth * JAW_DROP, w[P_MOUTH_WIDTH], w[P_LIPS]
    curve = 1.0 - 0.12 * mouth
    tip, nose = -0.24 * w[P_NOSE_LENGTH], w[P_NOSE_WIDTH]
    found = {4: _front(0, tip, mouth, w), 1: _front(0, tip - 0.05, mouth, w), 2: _front(0, tip - 0.14, mouth, w)}
    for point, along in ((168, 0.0), (6, 0.2), (197, 0.42), (195, 0.64), (5, 0.84)):
        found[point] = _front(0, 0.09 + (tip - 0.09) * along, mouth, w)
    for side, wing in ((-1.0, 98), (1.0, 327)):
        found[wing] = _front(side * 0.13 * nose * w[P_WIDTH], tip - 0.075, mouth, w)
    corner = (0.205 * wide * curve, -0.507 - 0.46 * gap, 0.74)
    for side, outer, inner in ((-1.0, 61, 78), (1.0, 291, 308)):
        found[outer] = (side * corner[0], corner[1], corner[2])
        found[inner] = (side * 0.9 * corner[0], corner[1] - 0.012, corner[2] + 0.01)
    upper, lower = -0.483, -0.567 - 0.92 * gap
    found[0] = (0.0, upper + 0.9 * 0.037 * thick, 0.82)
    found[13] = (0.0, min(upper - 0.03, -0.515), 0.86)
    found[14] = (0.0, lower + 0.042, 0.855 - 0.16 * gap)
    found[17] = (0.0, lower - 0.9 * 0.046 * thick, 0.82 - 0.16 * gap)
    return found


def _outline(w: Points, mouth: float) -> dict[int, tuple[float, float, float]]:
    drop, chin = mouth * JAW_DROP, w[P_CHIN]
    found = {
        152: (0.0, -0.72 - drop - 0.19 * chin, 0.47 - 0.18 * drop),
        199: _front(0.0, -0.76 - drop, mouth, w),
        200: _front(0.0, -0.68 - drop, mouth, w),
        10: _front(0.0, 0.5, mouth, w),
        151: _front(0.0, 0.37, mouth, w),
    }
    for side, points in ((-1.0, (127, 234, 21, 172, 136)), (1.0, (356, 454, 251, 397, 365))):
        temple, ear, high, angle, jaw = points
        found[temple] = (side * 0.77 * w[P_WIDTH], 0.03, 0.02)
        found[ear] = (side * 0.76 * w[P_WIDTH], -0.14, 0.02)
        found[high] = (side * 0.7 * w[P_WIDTH], 0.28, 0.26)
        found[angle] = (side * 0.55 * w[P_JAW] * w[P_WIDTH], -0.52 - 0.45 * drop, 0.2)
        found[jaw] = (side * 0.44 * w[P_JAW] * w[P_WIDTH], -0.66 - 0.65 * drop, 0.32)
    return {point: place if point in (199, 200, 10, 151) else _onto_skin(place, mouth, w) for point, place in found.items()}


def _onto_skin(place: tuple[float, float, float], mouth: float, w: Points) -> tuple[float, float, float]:
    """The nearest place of the bare skin, by Newton's steps along its normal."""
    x, y, z = place
    e = 1e-3
    for _ in range(8):
        d = face(x, y, z, mouth, w)
        slope = (
            (face(x + e, y, z, mouth, w) - d) / e,
            (face(x, y + e, z, mouth, w) - d) / e,
            (face(x, y, z + e, mouth, w) - d) / e,
        )
        far = max(0.05, sum(part * part for part in slope))
        x, y, z = (at - d * part / far for at, part in zip((x, y, z), slope, strict=True))
    return x, y, z


def landmarks(person: Person, mouth: float, blink: float) -> Points:
    """All points (478, 3) in head space, units of a decimetre, at rest with a mouth so far open and lids so far shut, looking
    straight ahead."""
    w = person.numbers()
    set_here = _eyes(w, blink) | _brows(w) | _nose_and_mouth(w, mouth) | _outline(w, mouth)
    numbers = list(set_here)
    bend = RBFInterpolator(middle_face()[numbers], np.array([set_here[n] for n in numbers]), kernel="thin_plate_spline")
    found = np.empty((POINTS, 3))
    found[:SKIN_POINTS] = bend(middle_face())
    stays = {*numbers, *RINGS["lips"], *RINGS["mouth"]}
    for point in range(SKIN_POINTS):
        found[point] = set_here.get(point) or (found[point] if point in stays else _onto_skin(tuple(found[point]), mouth, w))
    for name, side in (("left eye", -1.0), ("right eye", 1.0)):
        for point, (across, up) in zip(IRISES[name], ((0, 0), (1, 0), (0, 1), (-1, 0), (0, -1)), strict=True):
            ex, ey = across * IRIS, up * IRIS
            found[point] = (side * EYE_X * w[P_WIDTH] + ex, EYE_Y + ey, EYE_Z + math.sqrt(BALL**2 - ex**2 - ey**2))
    return found
