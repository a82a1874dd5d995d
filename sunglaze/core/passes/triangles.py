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

from sunglaze.core.face.head import head_mesh
from sunglaze.core.face.held import Held, HeldFaces
from sunglaze.core.face.model import face_mesh, skin_rim, skin_triangles
from sunglaze.core.face.pose import usual_focal
from sunglaze.core.language.operations import Plain
from sunglaze.core.language.pictures import EACH, EVERYBODY, LIT, SOLID, Vertices
from sunglaze.core.material.mesh import MeshData
from sunglaze.core.moment.moment import Moment

SUBPIXELS = 16
NEAR, FAR = 1.0, 1000.0
"""Centimetres from the lens."""
EDGE_ON = 0.35
"""How far towards the lens skin looks that is wholly there; less, and it fades."""
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


def triangles(
    vertices: Vertices, numbers: Sequence[Plain], moment: Moment, mesh: MeshData | None, held: HeldFaces = ()
) -> Triangles:
    """The triangles of a mesh in a moment. `numbers`: what `vertices.numbers` are in this frame; `mesh`: where it is material;
    `held`: the faces, where it is theirs."""
    columns, rows = moment.screen.columns, moment.screen.rows
    if vertices.kind == "face":
        clip, places, faces = _of_faces(numbers, held, rows / columns)
    elif vertices.kind == "grid":
        clip, places, faces = _of_grid(vertices.id, numbers)
    else:
        clip, places, faces = _of_mesh(mesh, vertices.id.endswith(LIT), numbers, columns, rows)
    if places.shape[1] == 3:
        places = np.concatenate([places, np.ones((len(clip), 1))], axis=1)
    corners = np.concatenate([clip, places], axis=1)[faces]
    return _on_screen(_clipped(corners), columns, rows)


def _none() -> tuple[Doubles, Doubles, NDArray[np.int64]]:
    return np.zeros((0, 4)), np.zeros((0, 3)), np.zeros((0, 3), np.int64)


def _of_faces(numbers: Sequence[Plain], held: HeldFaces, shape: float) -> tuple[Doubles, Doubles, NDArray[np.int64]]:
    """The skin of faces, flat on the screen; its places are those of the face tracker's texture. What of it is there ends softly
    at the rim and where the skin turns away. `shape`: the screen's height over its width."""
    there = [one for n, one in enumerate(held) if one is not None and numbers[3] in (EVERYBODY, n)]
    # Those farther away, which are smaller, lie behind.
    there.sort(key=lambda one: -_size(one, shape))
    model, parts = face_mesh(), skin_triangles()
    faces = [parts["skin"], *([parts["mouth"]] if numbers[1] > 0.5 else []), *([parts["eyes"]] if numbers[2] > 0.5 else [])]
    count = len(model.vertices)
    found = []
    for rank, one in enumerate(there):
        u, v, z = one.points[:count].T
        clip = np.stack([2 * u - 1, 2 * v - 1, (z + rank) / 4, np.ones(count)], axis=1)
        covers = one.there * skin_rim() * np.clip(_towards(one.points[:count], shape) / EDGE_ON, 0.0, 1.0)
        found.append((clip, np.concatenate([model.places, z[:, None], covers[:, None]], axis=1)))
    if not found:
        return _none()
    indices = [part + rank * count for rank in range(len(found)) for part in faces]
    return np.concatenate([one for one, _ in found]), np.concatenate([one for _, one in found]), np.concatenate(indices)


def _size(one: Held, shape: float) -> float:
    """Between the outer corners of the eyes, parts of the screen's width."""
    across, down, _ = one.points[33] - one.points[263]
    return float(np.hypot(across, down * shape))


def _towards(points: Doubles, shape: float) -> Doubles:
    """How far the skin at each vertex looks towards the lens: 1 straight, 0 edge-on, below 0 away."""
    at = points * (1.0, shape, 1.0)
    triangles = face_mesh().triangles
    a, b, c = (at[triangles[:, k]] for k in range(3))
    # Clockwise as it is seen, with v down: what looks at the lens has its normal against z.
    (px, py, pz), (qx, qy, qz) = (b - a).T, (c - a).T
    normals = py * qz - pz * qy, pz * qx - px * qz, px * qy - py * qx
    corners = triangles.T.ravel()
    sums = np.stack([np.bincount(corners, np.tile(along, 3), len(points)) for along in normals], axis=1)
    return np.asarray(-sums[:, 2] / np.maximum(np.linalg.norm(sums, axis=1), 1e-12))


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


def _of_mesh(
    mesh: MeshData | None, lit: bool, numbers: Sequence[Plain], columns: int, rows: int
) -> tuple[Doubles, Doubles, NDArray[np.int64]]:
    """A mesh before the lens, as often as it is drawn, and the heads that hide it, which cover nothing themselves."""
    if mesh is None:
        return _none()
    flat = np.array(numbers, np.float64)
    vertices, normals = mesh.posed(round(float(flat[0])), float(flat[1]))
    found: list[tuple[Doubles, Doubles, NDArray[np.int64]]] = []
    heads = []
    for block in flat[SOLID:].reshape(-1, EACH):
        placed, head, there = block[:12].reshape(3, 4), block[12:24].reshape(3, 4), block[24]
        if there <= 0.0:
            continue
        clip, w = _seen(vertices, placed, columns, rows)
        shown = _light(mesh, normals, placed, flat[2:SOLID]) if lit else np.concatenate([mesh.places, w[:, None]], axis=1)
        found.append((clip, np.concatenate([shown, np.full((len(clip), 1), there)], axis=1), mesh.triangles))
        if head.any():
            heads.append(head)
    # Anybody's head may hide what somebody else wears.
    worn = [clip for clip, _, _ in found]
    for head in heads:
        solid = head_mesh()
        clip, w = _seen(solid.vertices, head, columns, rows)
        nothing = np.zeros((len(clip), 4))
        nothing[:, 2] = 0.0 if lit else w
        found.append((clip, nothing, _before(worn, clip, solid.triangles)))
    if not found:
        return _none()
    starts = np.cumsum([0, *(len(clip) for clip, _, _ in found)])
    triangles = [one + start for (_, _, one), start in zip(found, starts, strict=False)]
    return np.concatenate([one[0] for one in found]), np.concatenate([one[1] for one in found]), np.concatenate(triangles)


def _seen(vertices: Doubles, placed: Doubles, columns: int, rows: int) -> tuple[Doubles, Doubles]:
    """Clip positions, and centimetres from the lens."""
    seen = vertices @ placed[:, :3].T + placed[:, 3]
    focal, w = usual_focal(columns, rows), -seen[:, 2]
    depth = (FAR + NEAR) / (FAR - NEAR) * w - 2 * FAR * NEAR / (FAR - NEAR)
    return np.stack([2 * focal / columns * seen[:, 0], -2 * focal / rows * seen[:, 1], depth, w], axis=1), w


def _before(worn: list[Doubles], clip: Doubles, faces: NDArray[np.int64]) -> NDArray[np.int64]:
    """Those triangles of a head that are on the screen where something is that it may hide; all where something is close to the
    lens."""
    if min(float(one[:, 3].min()) for one in (*worn, clip)) < NEAR:
        return faces
    corners = (clip[:, :2] / clip[:, 3:])[faces]
    low, high = corners.min(axis=1), corners.max(axis=1)
    needed = np.zeros(len(faces), bool)
    for one in worn:
        place = one[:, :2] / one[:, 3:]
        needed |= ((low <= place.max(axis=0)) & (high >= place.min(axis=0))).all(axis=1)
    return np.asarray(faces[needed])


def _light(mesh: MeshData, normals: Doubles | None, placed: Doubles, light: Doubles) -> Doubles:
    """The light that each vertex gives back, times its colour, linear (v, 3): from one side (Lambert), and from all of the sky,
    half as much from below as from above."""
    colours = np.ones((len(mesh.vertices), 3)) if mesh.colours is None else mesh.colours
    sky, unlit = float(light[3]), float(light[4])
    if normals is None:
        return colours
    turned = normals @ placed[:, :3].T
    turned = turned / np.maximum(np.sqrt((turned * turned).sum(axis=1, keepdims=True)), 1e-12)
    straight = np.maximum(turned @ light[:3], 0.0)
    much = sky * (0.75 + 0.25 * turned[:, 1]) + (1.0 - sky) * straight
    return np.asarray(colours * (much + (1.0 - much) * unlit)[:, None])


def _clipped(corners: Doubles) -> Doubles:
    """Triangles (n, 3, 8) of clip position and attributes, cut to what lies within the planes."""
    if not len(corners) or not np.isfinite(corners).all():
        return corners[:0]
    limits = np.concatenate([corners[..., 3:4] - corners[..., :3], corners[..., 3:4] + corners[..., :3]], axis=2)
    inside = limits >= 0
    whole: NDArray[np.bool_] = np.all(inside, axis=(1, 2))
    if whole.all():
        return corners
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
