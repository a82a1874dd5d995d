"""Meshes as material: triangles in centimetres with places in a texture."""

from __future__ import annotations

from dataclasses import dataclass
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from sunglaze.core.errors import BadFile

MOST_VERTICES = 200_000
LARGEST = 1e6


@dataclass(frozen=True, eq=False)
class MeshData:
    """`vertices` (v, 3) float64: centimetres, x to the right, y up, z towards who looks. `places` (v, 2) float64: u to the right,
    v down, 0 to 1. `triangles` (t, 3) int64: by their vertices."""

    vertices: NDArray[np.float64]
    places: NDArray[np.float64]
    triangles: NDArray[np.int64]

    def __post_init__(self) -> None:
        count = len(self.vertices)
        if self.vertices.shape != (count, 3) or self.places.shape != (count, 2) or self.triangles.shape[1:] != (3,):
            raise ValueError("a mesh has three numbers a vertex, two a place, and three vertices a triangle")
        if self.triangles.size and (self.triangles.min() < 0 or self.triangles.max() >= count):
            raise ValueError("a triangle has a vertex that is not there")

    @property
    def weight(self) -> int:
        """Bytes that it takes."""
        return int(self.vertices.nbytes + self.places.nbytes + self.triangles.nbytes)


def read_obj(text: str, renumber: bool = True) -> MeshData:
    """A mesh from Wavefront's OBJ: `v`, `vt` and `f`, polygons as fans; all else is passed over. A vertex that has several places
    becomes several; without `renumber`, all stay as they are numbered in the file, each having one place. Raises BadFile with the
    line."""
    points: list[list[float]] = []
    textures: list[list[float]] = [[0.0, 0.0]]
    corners: dict[tuple[int, int], int] = {}
    triangles: list[tuple[int, int, int]] = []
    for number, line in enumerate(text.splitlines(), 1):
        what, _, rest = line.strip().partition(" ")
        try:
            if what == "v":
                points.append([float(part) for part in rest.split()[:3]])
                if len(points[-1]) != 3 or not np.isfinite(points[-1]).all() or max(map(abs, points[-1])) > LARGEST:
                    raise ValueError("a vertex has three finite numbers")
            elif what == "vt":
                textures.append([float(part) for part in rest.split()[:2]])
                if len(textures[-1]) != 2 or not np.isfinite(textures[-1]).all():
                    raise ValueError("a place has two finite numbers")
            elif what == "f":
                fan = [_corner(corner, len(points), len(textures) - 1) for corner in rest.split()]
                if len(fan) < 3:
                    raise ValueError("a face has three corners or more")
                polygon = [corners.setdefault(corner, len(corners)) for corner in fan]
                triangles += [(polygon[0], a, b) for a, b in pairwise(polygon[1:])]
        except ValueError as error:
            raise BadFile(f"{error}: '{line.strip()[:60]}'", number) from None
        if len(points) > MOST_VERTICES or len(corners) > MOST_VERTICES:
            raise BadFile(f"the mesh has more than {MOST_VERTICES:,} vertices; simplify it first", number)
    if not triangles:
        raise BadFile("this holds no triangles; a mesh is read from OBJ's lines v, vt and f")
    if not renumber:
        order = list(corners)
        triangles = [(order[a][0], order[b][0], order[c][0]) for a, b, c in triangles]
        corners = {(n, n + 1): n for n in range(len(points))}
    places = np.array([textures[place] for _, place in corners], np.float64)
    # OBJ's v runs up.
    places[:, 1] = 1.0 - places[:, 1]
    return MeshData(np.array([points[point] for point, _ in corners], np.float64), places, np.array(triangles, np.int64))


def _corner(text: str, points: int, textures: int) -> tuple[int, int]:
    parts = text.split("/")
    point, texture = int(parts[0]), int(parts[1]) if len(parts) > 1 and parts[1] else 0
    point = point - 1 if point > 0 else points + point
    texture = texture if texture >= 0 else textures + texture + 1
    if not (0 <= point < points and 0 <= texture <= textures):
        raise ValueError("a corner names a vertex or place that was not given before")
    return point, texture
