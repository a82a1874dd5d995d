"""From a mesh to triangles on the screen: the host's part of drawing meshes, the same for every target.

Vertices are projected and clipped in double precision to the near and far plane and to the frame, snapped to sixteenths of a
pixel, which is the least that GLES promises, and handed over as one list of triangles without indices. So all targets see the
same edges. web/src/engine/triangles.ts does the same.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from sunglaze.core.face.model import face_mesh
from sunglaze.core.face.pose import rotation, usual_focal
from sunglaze.core.language.operations import Plain
from sunglaze.core.language.pictures import Vertices
from sunglaze.core.material.mesh import MeshData
from sunglaze.core.moment.moment import Moment

SUBPIXELS = 16
NEAR, FAR = 1.0, 1000.0
"""Centimetres from the lens."""
Doubles = NDArray[np.float64]


@dataclass(frozen=True, eq=False)
class Triangles:
    """`corners` (n, 3, 2) int64: sixteenths of a pixel, rows downwards. `depths` (n, 3): -1 at the near plane to 1 at the far
    one. `w` (n, 3): what perspective divides by. `attributes` (n, 3, 4): u, v, depth (centimetres from the lens; of a face as its
    points have it), coverage."""

    corners: NDArray[np.int64]
    depths: Doubles
    w: Doubles
    attributes: Doubles

    def positions(self, columns: int, rows: int) -> NDArray[np.float32]:
        """Clip positions (n * 3, 4) as a GPU takes them, row 0 at the bottom of its target: places on the screen times w."""
        screen = self.corners / (SUBPIXELS * np.array([columns, rows]) / 2.0) - 1.0
        parts = np.concatenate([screen, self.depths[..., None]], axis=2) * self.w[..., None]
        return np.concatenate([parts, self.w[..., None]], axis=2).reshape(-1, 4).astype(np.float32)


def triangles(vertices: Vertices, numbers: Sequence[Plain], moment: Moment, mesh: MeshData | None) -> Triangles:
    """The triangles of a mesh in a moment. `numbers`: what `vertices.numbers` are in this frame; `mesh`: where it is material."""
    columns, rows = moment.screen.columns, moment.screen.rows
    if vertices.kind == "face":
        clip, places, faces = _of_face(int(vertices.id), moment)
    elif vertices.kind == "grid":
        clip, places, faces = _of_grid(vertices.id, numbers)
    else:
        clip, places, faces = _of_mesh(mesh, numbers, columns, rows)
    corners = np.concatenate([clip, places, np.ones((len(clip), 1))], axis=1)[faces]
    return _on_screen(_clipped(corners), columns, rows)


def _none() -> tuple[Doubles, Doubles, NDArray[np.int64]]:
    return np.zeros((0, 4)), np.zeros((0, 3)), np.zeros((0, 3), np.int64)


def _of_face(number: int, moment: Moment) -> tuple[Doubles, Doubles, NDArray[np.int64]]:
    """A face's skin, flat on the screen; its places are those of the face tracker's texture."""
    if number >= len(moment.faces):
        return _none()
    model = face_mesh()
    points = moment.faces[number].points[: len(model.vertices)]
    clip = np.stack([2 * points[:, 0] - 1, 2 * points[:, 1] - 1, points[:, 2], np.ones(len(points))], axis=1)
    return clip, np.concatenate([model.places, points[:, 2:]], axis=1), model.triangles


def _of_grid(size: str, numbers: Sequence[Plain]) -> tuple[Doubles, Doubles, NDArray[np.int64]]:
    """A grid over the screen (columns by rows of cells), each of whose corners is moved by two numbers, row by row."""
    across, down = (int(part) for part in size.split("x"))
    v, u = (part.ravel() for part in np.mgrid[0 : down + 1, 0 : across + 1].astype(np.float64))
    places = np.stack([u / across, v / down, np.zeros(u.size)], axis=1)
    moved = places[:, :2] + np.array(numbers, np.float64).reshape(-1, 2)
    clip = np.stack([2 * moved[:, 0] - 1, 2 * moved[:, 1] - 1, np.zeros(u.size), np.ones(u.size)], axis=1)
    first = (np.arange(down)[:, None] * (across + 1) + np.arange(across)).ravel()
    below = first + across + 1
    upper, lower = np.stack([first, first + 1, below], axis=1), np.stack([first + 1, below + 1, below], axis=1)
    return clip, places, np.stack([upper, lower], axis=1).reshape(-1, 3)


def _of_mesh(mesh: MeshData | None, pose: Sequence[Plain], columns: int, rows: int) -> tuple[Doubles, Doubles, NDArray[np.int64]]:
    """A mesh at a place before the lens (x, y, z), turned, nodded and tilted (degrees), and scaled."""
    if mesh is None:
        return _none()
    x, y, z, turn, nod, tilt, scale = (float(number) for number in pose)
    seen = mesh.vertices @ rotation(turn, nod, tilt).T * scale + np.array([x, y, z])
    focal, w = usual_focal(columns, rows), -seen[:, 2]
    depth = (FAR + NEAR) / (FAR - NEAR) * w - 2 * FAR * NEAR / (FAR - NEAR)
    clip = np.stack([2 * focal / columns * seen[:, 0], -2 * focal / rows * seen[:, 1], depth, w], axis=1)
    return clip, np.concatenate([mesh.places, w[:, None]], axis=1), mesh.triangles


def _clipped(corners: Doubles) -> Doubles:
    """Triangles (n, 3, 8) of clip position and attributes, cut to what lies within the planes."""
    if not len(corners) or not np.isfinite(corners).all():
        return corners[:0]
    limits = np.concatenate([corners[..., 3:4] - corners[..., :3], corners[..., 3:4] + corners[..., :3]], axis=2)
    inside = limits >= 0
    whole: NDArray[np.bool_] = np.all(inside, axis=(1, 2))
    crossing = ~whole & np.all(np.any(inside, axis=1), axis=1)
    cut = [part for triangle in corners[crossing] for part in _cut(triangle)]
    return np.concatenate([corners[whole], *(np.array([part]) for part in cut)])


def _cut(triangle: Doubles) -> list[Doubles]:
    """One triangle after Sutherland and Hodgman (1974), as a fan."""
    polygon = list(triangle)
    for axis in (0, 1, 2):
        for side in (1.0, -1.0):
            kept: list[Doubles] = []
            for one, following in zip(polygon, [*polygon[1:], *polygon[:1]], strict=True):
                here, there = one[3] - side * one[axis], following[3] - side * following[axis]
                if here >= 0:
                    kept.append(one)
                if (here >= 0) != (there >= 0):
                    kept.append(one + (following - one) * (here / (here - there)))
            polygon = kept
            if len(polygon) < 3:
                return []
    return [np.stack([polygon[0], a, b]) for a, b in pairwise(polygon[1:])]


def _on_screen(corners: Doubles, columns: int, rows: int) -> Triangles:
    w = np.maximum(corners[..., 3], 1e-9)
    screen = (corners[..., :2] / w[..., None] + 1.0) * (SUBPIXELS * np.array([columns, rows]) / 2.0)
    return Triangles(np.floor(screen + 0.5).astype(np.int64), corners[..., 2] / w, w, corners[..., 4:])
