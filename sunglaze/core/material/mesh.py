"""Meshes as material: triangles in centimetres with places in a texture."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from sunglaze.core.errors import BadFile

MOST_VERTICES = 200_000
LARGEST = 1e6
Doubles = NDArray[np.float64]


@dataclass(frozen=True, eq=False)
class Motion:
    """How parts of a mesh move. `matrices` (frames, parts, 3, 4) float64: from where a part is at rest to where it is in each
    frame, at `rate` frames a second, over and over."""

    name: str
    rate: float
    matrices: Doubles

    @property
    def seconds(self) -> float:
        """How long it takes until it begins again."""
        return len(self.matrices) / self.rate

    def at(self, seconds: float) -> Doubles:
        """(parts, 3, 4): between two frames by straight lines."""
        place = (seconds * self.rate) % len(self.matrices)
        first = min(int(place), len(self.matrices) - 1)
        after = (first + 1) % len(self.matrices)
        return np.asarray(self.matrices[first] + (self.matrices[after] - self.matrices[first]) * (place - first))


@dataclass(frozen=True, eq=False)
class MeshData:
    """`vertices` (v, 3) float64: centimetres, x to the right, y up, z towards who looks. `places` (v, 2) float64: u to the right,
    v down, 0 to 1. `triangles` (t, 3) int64: by their vertices. `normals` (v, 3) float64, of length 1; `colours` (v, 3) float64:
    linear light; `parts` (v,) int64: which of a motion's matrices moves each. `texture`: (rows, columns, 4) of bytes."""

    vertices: Doubles
    places: Doubles
    triangles: NDArray[np.int64]
    normals: Doubles | None = None
    colours: Doubles | None = None
    parts: NDArray[np.int64] | None = None
    motions: tuple[Motion, ...] = ()
    texture: NDArray[np.uint8] | None = None

    def __post_init__(self) -> None:
        count = len(self.vertices)
        if self.vertices.shape != (count, 3) or self.places.shape != (count, 2) or self.triangles.shape[1:] != (3,):
            raise ValueError("a mesh has three numbers a vertex, two a place, and three vertices a triangle")
        if self.triangles.size and (self.triangles.min() < 0 or self.triangles.max() >= count):
            raise ValueError("a triangle has a vertex that is not there")
        if any(one is not None and one.shape != (count, 3) for one in (self.normals, self.colours)):
            raise ValueError("a mesh has three numbers a normal and a colour, for each vertex")

    @property
    def weight(self) -> int:
        """Bytes that it takes."""
        held = (self.vertices, self.places, self.triangles, self.normals, self.colours, self.parts, self.texture)
        return sum(one.nbytes for one in held if one is not None) + sum(one.matrices.nbytes for one in self.motions)

    @cached_property
    def bounds(self) -> Doubles:
        """The least and largest of its vertices at rest, (2, 3)."""
        return np.stack([self.vertices.min(axis=0), self.vertices.max(axis=0)])

    @property
    def size(self) -> float:
        """Its longest side at rest, centimetres."""
        return max(float((self.bounds[1] - self.bounds[0]).max()), 1e-6)

    @property
    def middle(self) -> Doubles:
        """Of the box about it at rest, (3,)."""
        return np.asarray(self.bounds.mean(axis=0))

    @cached_property
    def broad(self) -> float:
        """Over how many centimetres the width of the texture goes, on the whole; its longest side where nothing tells."""
        rows, columns = (1, 1) if self.texture is None else self.texture.shape[:2]
        a, b, c = (self.vertices[self.triangles[:, k]] for k in range(3))
        over = np.linalg.norm(np.cross(b - a, c - a), axis=1).sum()
        u, v = ((self.places[self.triangles[:, k]] - self.places[self.triangles[:, 0]]).T for k in (1, 2))
        flat = np.abs(u[0] * v[1] - u[1] * v[0]).sum()
        return float(np.sqrt(over * columns / (flat * rows))) if flat > 1e-9 else self.size

    def posed(self, motion: int, seconds: float) -> tuple[Doubles, Doubles | None]:
        """Vertices and normals as they are so far into one of its motions; at rest for a number that is none."""
        if not 0 <= motion < len(self.motions) or self.parts is None:
            return self.vertices, self.normals
        matrices = self.motions[motion].at(seconds)[self.parts]
        moved = np.einsum("nij,nj->ni", matrices[:, :, :3], self.vertices) + matrices[:, :, 3]
        if self.normals is None:
            return moved, None
        turned = np.einsum("nij,nj->ni", matrices[:, :, :3], self.normals)
        return moved, turned / np.maximum(np.linalg.norm(turned, axis=1, keepdims=True), 1e-12)


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


@dataclass(frozen=True)
class Model:
    """A mesh that was read. `notes`: what of the file is not shown, in words."""

    mesh: MeshData
    notes: tuple[str, ...]
