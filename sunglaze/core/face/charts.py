"""Charts of the face: where its parts are on the skin, as masks in the texture's own places, drawn once from the middle face.

Three masks a chart, in red, green and blue. What a part is follows from rings of the tracker's points and from distances along
the middle face in centimetres; which distances is common practice, no source.
"""

from __future__ import annotations

from collections.abc import Callable
from functools import cache

import cv2
import numpy as np
from numpy.typing import NDArray

from sunglaze.core.face.model import RINGS, face_mesh

SIDE, COARSE = 512, 128
"""Texels of a chart, and of what has no edges in it while it is drawn."""
_FINER = 4
Mask = NDArray[np.float32]
UPPER_LIDS = {"left": (33, 246, 161, 160, 159, 158, 157, 173, 133), "right": (263, 466, 388, 387, 386, 385, 384, 398, 362)}
"""Points of the tracker along each upper lid, from the outer corner to the inner one; left and right are the picture's."""
LOWER_LIDS = {"left": (33, 7, 163, 144, 145, 153, 154, 155, 133), "right": (263, 249, 390, 373, 374, 380, 381, 382, 362)}
CHARTS = {
    "lips": ("make-up", 0), "cheeks": ("make-up", 1), "contour": ("make-up", 2),
    "lids": ("eyes", 0), "outer lids": ("eyes", 1), "under the eyes": ("eyes", 2),
    "liner": ("lines", 0), "lashes": ("lines", 1), "brows": ("lines", 2),
    "highlight": ("shine", 0), "eye openings": ("shine", 1), "all but the rim": ("shine", 2),
}  # fmt: skip
"""In which chart each part is, and in which of its channels."""


@cache
def _where() -> NDArray[np.float64]:
    """Of each place in the texture the middle face's point, centimetres (COARSE, COARSE, 3); far away where there is none."""
    model = face_mesh()
    found = np.full((COARSE, COARSE, 3), 1e3)
    for triangle in model.triangles:
        corners = model.places[triangle] * COARSE - 0.5
        left, top = np.floor(corners.min(axis=0)).astype(int) - 1
        right, bottom = np.ceil(corners.max(axis=0)).astype(int) + 2
        y, x = np.mgrid[max(0, top) : min(bottom, COARSE), max(0, left) : min(right, COARSE)]
        matrix = np.vstack([corners.T, np.ones(3)])
        if abs(np.linalg.det(matrix)) < 1e-9:
            continue
        shares = np.linalg.solve(matrix, np.stack([x.ravel(), y.ravel(), np.ones(x.size)]))
        inside = (shares > -0.15).all(axis=0)
        found[y.ravel()[inside], x.ravel()[inside]] = shares[:, inside].T @ model.vertices[triangle]
    found.setflags(write=False)
    return found


def _filled(rings: list[tuple[int, ...]], cut: list[tuple[int, ...]], soft: float) -> Mask:
    """Inside rings of points, but for those cut out; `soft`: deviation of the edge, texels."""
    drawn = np.zeros((SIDE * _FINER, SIDE * _FINER), np.uint8)
    for some, value in ((rings, 255), (cut, 0)):
        for ring in some:
            corners = face_mesh().places[list(ring)] * SIDE * _FINER - 0.5
            cv2.fillPoly(drawn, [np.rint(corners * 16).astype(np.int32)], value, lineType=cv2.LINE_AA, shift=4)
    small = cv2.resize(drawn, (SIDE, SIDE), interpolation=cv2.INTER_AREA)
    return np.asarray(cv2.GaussianBlur(small.astype(np.float32) / 255, (0, 0), soft) if soft else small / np.float32(255))


def _near(points: NDArray[np.float64], wide: tuple[float, float, float]) -> Mask:
    """Close to any of these points (n, 3) centimetres: bells of these deviations along x, y and z."""
    places, ends = _where().reshape(-1, 3) / wide, np.atleast_2d(points) / wide
    # |a - b|^2 as |a|^2 - 2 ab + |b|^2: one product of matrices.
    far = (places**2).sum(axis=1) + ((ends**2).sum(axis=1) - 2 * places @ ends.T).min(axis=1)
    bells = np.exp(-0.5 * np.maximum(far, 0.0)).reshape(COARSE, COARSE).astype(np.float32)
    return np.asarray(cv2.resize(bells, (SIDE, SIDE), interpolation=cv2.INTER_CUBIC))


def _along(points: list[int], steps: int = 40) -> NDArray[np.float64]:
    """Places on the straight pieces between points of the middle face (n, 3)."""
    corners = face_mesh().vertices[points]
    t = np.linspace(0, len(points) - 1, steps)
    low = np.minimum(t.astype(int), len(points) - 2)
    return np.asarray(corners[low] + (corners[low + 1] - corners[low]) * (t - low)[:, None])


def _sided(of: Callable[[str], Mask]) -> Mask:
    return np.maximum(of("left"), of("right"))


def _moved(points: NDArray[np.float64], x: float, y: float, z: float) -> NDArray[np.float64]:
    return np.add(points, (x, y, z))


def _outwards(side: str) -> float:
    return -1.0 if side == "left" else 1.0


def _lid(side: str) -> Mask:
    """From the upper lid's edge towards the brow, fading."""
    above = _moved(_along(list(UPPER_LIDS[side])), 0.0, 0.45, 0.0)
    return np.asarray(np.minimum(1.0, 1.5 * _near(above, (0.45, 0.42, 1.2))) * _clear_of_eyes(), np.float32)


def _outer_lid(side: str) -> Mask:
    corner = face_mesh().vertices[UPPER_LIDS[side][0]]
    at = _moved(corner, 0.25 * _outwards(side), 0.55, 0.0)
    return np.asarray(
        _near(np.array([at, _moved(corner, -0.5 * _outwards(side), 0.75, 0.2)]), (0.6, 0.4, 1.5)) * _clear_of_eyes()
    )


def _under(side: str) -> Mask:
    below = _moved(_along(list(LOWER_LIDS[side])), 0.0, -0.75, 0.0)
    return np.asarray(_near(below, (0.5, 0.38, 1.2)) * _clear_of_eyes())


@cache
def _clear_of_eyes() -> Mask:
    return np.asarray(1.0 - _filled([RINGS["left eye"], RINGS["right eye"]], [], 0.6), np.float32)


def _cheek(side: str) -> Mask:
    corner = face_mesh().vertices[UPPER_LIDS[side][0]]
    at = _moved(corner, -0.1 * _outwards(side), -2.9, 0.0)
    return _near(np.array([at, _moved(at, 0.9 * _outwards(side), 0.6, 0.0)]), (1.15, 0.85, 3.0))


def _contour(side: str) -> Mask:
    """Below the cheekbone, along the jaw, at the temple, beside the nose."""
    out = _outwards(side)
    corner, jaw = face_mesh().vertices[UPPER_LIDS[side][0]], face_mesh().vertices[172 if side == "left" else 397]
    hollow = np.linspace(_moved(corner, 1.9 * out, -3.6, 0.0), _moved(corner, 0.1 * out, -5.0, 0.0), 20)
    nose = np.linspace((0.95 * out, 1.6, 5.2), (0.95 * out, -0.2, 5.6), 12)
    temple = np.linspace(_moved(corner, 1.6 * out, 3.2, 0.0), _moved(corner, 1.8 * out, 1.2, 0.0), 12)
    parts = [
        _near(hollow, (0.55, 0.42, 3.0)), 0.8 * _near(np.array([jaw]), (0.9, 1.1, 3.0)), 0.55 * _near(nose, (0.22, 0.5, 1.5)),
        0.7 * _near(temple, (0.6, 0.8, 3.0)),
    ]  # fmt: skip
    return np.asarray(np.maximum.reduce(parts), np.float32)


def _highlight() -> Mask:
    """Top of the cheekbones, ridge of the nose, below the brows, above the upper lip, middle of the chin."""
    vertices = face_mesh().vertices
    ridge = _along([6, 197, 195, 5])
    parts = [_near(ridge, (0.2, 0.4, 1.0)), 0.8 * _near(_moved(vertices[[0]], 0.0, 0.35, 0.0), (0.35, 0.15, 1.0))]
    for side in ("left", "right"):
        corner, out = vertices[UPPER_LIDS[side][0]], _outwards(side)
        bone = np.linspace(_moved(corner, 0.4 * out, -1.3, 0.0), _moved(corner, 1.5 * out, -0.5, 0.0), 16)
        parts += [_near(bone, (0.4, 0.32, 3.0)), 0.6 * _near(_moved(corner[None], -0.4 * out, 1.35, 0.5), (0.5, 0.2, 2.0))]
    return np.asarray(np.maximum.reduce(parts), np.float32)


def _strokes(lines: list[tuple[NDArray[np.float64], float]], soft: float) -> Mask:
    """Lines through places (n, 2) of the texture, each as wide as said, texels."""
    drawn = np.zeros((SIDE * _FINER, SIDE * _FINER), np.uint8)
    for line, wide in lines:
        at = np.rint((line * SIDE * _FINER - 0.5) * 16).astype(np.int32)
        cv2.polylines(drawn, [at], False, 255, max(1, round(wide * _FINER)), cv2.LINE_AA, 4)
    small = cv2.resize(drawn, (SIDE, SIDE), interpolation=cv2.INTER_AREA).astype(np.float32) / 255
    return np.asarray(cv2.GaussianBlur(small, (0, 0), soft) if soft else small)


def _lid_line(side: str) -> NDArray[np.float64]:
    """The upper lid's edge in the texture, outer corner first, smoothly (n, 2)."""
    corners = face_mesh().places[list(UPPER_LIDS[side])]
    t = np.linspace(0, len(corners) - 1, 60)
    smooth = np.stack([np.interp(t, range(len(corners)), corners[:, k]) for k in (0, 1)], axis=1)
    ends = np.pad(smooth, ((4, 4), (0, 0)), mode="edge")
    return np.asarray(np.stack([np.convolve(ends[:, k], np.ones(9) / 9, "valid") for k in (0, 1)], axis=1))


def _liner() -> Mask:
    lines = []
    for side in ("left", "right"):
        line = _lid_line(side) - (0.0, 0.003)
        for n in range(len(line) - 1):
            lines.append((line[n : n + 2], 4.2 - 3.2 * n / len(line)))
        wing = line[0] + np.array([0.016 * _outwards(side), -0.010])
        lines.append((np.array([line[0], wing]), 2.6))
    return _strokes(lines, 0.7)


def _lashes() -> Mask:
    lines = []
    rng = np.random.default_rng(11)
    for side in ("left", "right"):
        line = _lid_line(side)
        for share in np.linspace(0.0, 0.9, 26):
            root = line[round(share * (len(line) - 1))]
            long = (0.0125 - 0.006 * share) * rng.uniform(0.8, 1.15)
            lean = _outwards(side) * (0.75 - 1.1 * share)
            bend = np.linspace(0, 1, 5)[:, None]
            tip = np.array([lean * long, -long])
            lines.append((root + bend * tip + bend * (1 - bend) * np.array([0.0, 0.005]), 0.7 + 0.4 * rng.random()))
    return _strokes(lines, 0.35)


@cache
def chart(name: str) -> NDArray[np.uint8]:
    """The three masks of a chart as red, green and blue, opaque (SIDE, SIDE, 4). Raises KeyError for a name that is none."""
    makers: dict[str, tuple[Callable[[], Mask], ...]] = {
        "make-up": (
            lambda: _filled([RINGS["lips"]], [RINGS["mouth"]], 1.4),
            lambda: _sided(_cheek),
            lambda: _sided(_contour),
        ),
        "eyes": (lambda: _sided(_lid), lambda: _sided(_outer_lid), lambda: _sided(_under)),
        "lines": (_liner, _lashes, lambda: _filled([RINGS["left brow"], RINGS["right brow"]], [], 2.0)),
        "shine": (
            _highlight,
            lambda: _filled([RINGS["left eye"], RINGS["right eye"]], [], 0.8),
            lambda: np.asarray(_filled([RINGS["oval"]], [], 12.0) ** 2),
        ),
    }  # fmt: skip
    masks = [np.clip(one(), 0.0, 1.0) for one in makers[name]]
    made: NDArray[np.uint8] = np.rint(np.dstack([*masks, np.ones((SIDE, SIDE))]) * 255).astype(np.uint8)
    made.setflags(write=False)
    return made
