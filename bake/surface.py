"""Smooth surfaces from quads: Catmull and Clark's rule as one sparse matrix, and what is asked of triangles."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from scipy import sparse

Floats = NDArray[np.float64]
Numbers = NDArray[np.int64]


@dataclass(frozen=True, eq=False)
class Smooth:
    """A surface that follows a cage: `matrix` (n, cage) makes its vertices, `quads` (m, 4) are their corners."""

    matrix: sparse.csr_matrix
    quads: Numbers

    @property
    def triangles(self) -> Numbers:
        """Two of each quad (2 m, 3), the two of a quad beside each other."""
        halves = np.stack([self.quads[:, [0, 1, 2]], self.quads[:, [0, 2, 3]]], axis=1)
        return np.ascontiguousarray(halves.reshape(-1, 3))

    def within(self, keep: NDArray[np.bool_]) -> Smooth:
        """Of the same surface the quads that are kept (m)."""
        used, again = np.unique(self.quads[keep], return_inverse=True)
        return Smooth(self.matrix[used], again.reshape(-1, 4))

    def at(self, cage: Floats) -> Floats:
        """Whatever the cage's vertices carry (cage, k), on the surface's (n, k)."""
        return np.asarray(self.matrix @ cage)


def smooth(count: int, quads: Numbers, levels: int) -> Smooth:
    """The surface of `quads` over a cage of `count` vertices, refined so often, without vertices that no quad uses."""
    matrix: sparse.csr_matrix = sparse.identity(count, format="csr")
    for _ in range(levels):
        step, quads = _refined(matrix.shape[0], quads)
        matrix = step @ matrix
    used, again = np.unique(quads, return_inverse=True)
    return Smooth(matrix.tocsr()[used], again.reshape(quads.shape))


def _refined(count: int, quads: Numbers) -> tuple[sparse.csr_matrix, Numbers]:
    """One step (Catmull and Clark 1978): corners, then middles of edges, then of faces."""
    faces = len(quads)
    ends = np.sort(np.stack([quads, np.roll(quads, -1, axis=1)], axis=2).reshape(-1, 2), axis=1)
    edges, of_edge, sides = np.unique(ends, axis=0, return_inverse=True, return_counts=True)
    of_edge = of_edge.reshape(faces, 4)
    face = np.repeat(np.arange(faces), 4)
    middle = sparse.csr_matrix((np.full(4 * faces, 0.25), (face, quads.ravel())), (faces, count))
    at = np.arange(len(edges))
    halves = sparse.csr_matrix((np.full(2 * len(edges), 0.5), (np.repeat(at, 2), edges.ravel())), (len(edges), count))
    touching = sparse.csr_matrix((np.ones(4 * faces), (of_edge.ravel(), face)), (len(edges), faces))
    inner = sparse.diags((sides > 1) * 0.5)
    edge = (sparse.identity(len(edges)) - inner) @ halves + inner @ (sparse.diags(1 / sides) @ touching @ middle)
    rim = np.unique(edges[sides == 1])
    around = sparse.csr_matrix((np.ones(4 * faces), (quads.ravel(), face)), (count, faces))
    meets = sparse.csr_matrix((np.ones(2 * len(edges)), (edges.ravel(), np.repeat(at, 2))), (count, len(edges)))
    n = np.maximum(np.asarray(meets.sum(axis=1)).ravel(), 1)
    f = np.maximum(np.asarray(around.sum(axis=1)).ravel(), 1)
    corner = sparse.diags(1 / (n * f)) @ around @ middle + sparse.diags(2 / n**2) @ meets @ halves
    corner = corner + sparse.diags((n - 3) / n)
    # Along open rims the cubic curve of the rim's own edges.
    open_edges = np.flatnonzero(sides == 1)
    own = sparse.csr_matrix(
        (np.ones(2 * len(open_edges)), (edges[open_edges].ravel(), np.repeat(open_edges, 2))), (count, len(edges))
    )
    at_rim = np.zeros(count)
    at_rim[rim] = 1
    corner = sparse.diags(1 - at_rim) @ corner + sparse.diags(at_rim * 0.5) + sparse.diags(at_rim * 0.25) @ own @ halves
    nexts = count + of_edge
    last = np.roll(nexts, 1, axis=1)
    centre = count + len(edges) + np.arange(faces)[:, None]
    made = np.stack([quads, nexts, np.broadcast_to(centre, quads.shape), last], axis=2).reshape(-1, 4)
    return sparse.vstack([corner, edge, middle]).tocsr(), made


def winding(rows: int, columns: int, ring: bool = False) -> Numbers:
    """Triangles (n, 3) between places that lie in rows which each close on themselves, row by row; `ring`: the last row meets the
    first, too."""
    i, j = np.meshgrid(np.arange(rows if ring else rows - 1), np.arange(columns), indexing="ij")
    a, b = i * columns + j, i * columns + (j + 1) % columns
    c, d = (i + 1) % rows * columns + j, (i + 1) % rows * columns + (j + 1) % columns
    return np.concatenate([np.stack([a, c, b], axis=2).reshape(-1, 3), np.stack([b, c, d], axis=2).reshape(-1, 3)])


def outward(triangles: Numbers, vertices: Floats, middles: Floats) -> Numbers:
    """The triangles wound so that they face away from `middles`, one for each vertex (n, 3)."""
    out = ((vertices - middles) * normals(vertices, triangles)).sum()
    return triangles if out > 0 else np.ascontiguousarray(triangles[:, ::-1])


def ribbons(points: Floats, half: Floats, lens: Floats) -> tuple[Floats, Floats, Numbers]:
    """Strands (n, k, 3) as bands that face the lens, `half` wide to either side (n, k): vertices (2 n k, 3), the way that the strand
    runs at each, triangles."""
    count, steps = points.shape[:2]
    way = np.gradient(points, axis=1)
    way /= np.maximum(np.linalg.norm(way, axis=2, keepdims=True), 1e-9)
    side = np.cross(way, lens - points)
    side /= np.maximum(np.linalg.norm(side, axis=2, keepdims=True), 1e-9)
    made = np.stack([points - side * half[..., None], points + side * half[..., None]], axis=2).reshape(-1, 3)
    at = (np.arange(count)[:, None] * steps + np.arange(steps - 1)).ravel()
    a, b, c, d = 2 * at, 2 * at + 1, 2 * at + 2, 2 * at + 3
    triangles = np.stack([np.stack([a, b, c], 1), np.stack([b, d, c], 1)], axis=1).reshape(-1, 3)
    return made, np.repeat(way.reshape(-1, 3), 2, axis=0), triangles


def normals(vertices: Floats, triangles: Numbers) -> Floats:
    """Of length 1 at each vertex (n, 3), by the area of the triangles about it."""
    a, b, c = (vertices[triangles[:, n]] for n in range(3))
    flat = np.cross(b - a, c - a)
    found = np.zeros_like(vertices)
    for axis in range(3):
        for corner in range(3):
            found[:, axis] += np.bincount(triangles[:, corner], flat[:, axis], len(vertices))
    return np.asarray(found / np.maximum(np.linalg.norm(found, axis=1, keepdims=True), 1e-12))


def averaging(count: int, triangles: Numbers) -> sparse.csr_matrix:
    """Row by row the mean of a vertex and its neighbours (n, n): used over and over it blurs along the surface."""
    ends = np.concatenate([triangles[:, [0, 1]], triangles[:, [1, 2]], triangles[:, [2, 0]]])
    both = np.concatenate([ends, ends[:, ::-1]])
    joined = sparse.csr_matrix((np.ones(len(both)), (both[:, 0], both[:, 1])), (count, count))
    joined.data[:] = 1
    joined = joined + sparse.identity(count)
    return sparse.diags(1 / np.asarray(joined.sum(axis=1)).ravel()) @ joined
