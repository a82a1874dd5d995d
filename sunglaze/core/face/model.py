"""The middle face: where the face tracker's points lie on a face of middle size, and rings of them by name.

Points are numbered as @mediapipe/face_mesh numbers them: 468 on the skin, then five of each iris. Left and right are the
picture's, whether or not it is mirrored: a tracker sees only the picture.
"""

from __future__ import annotations

import json
from functools import cache
from pathlib import Path
from typing import Any, NamedTuple

import numpy as np
from numpy.typing import NDArray

from sunglaze.core.material.mesh import MeshData, read_obj

SKIN_POINTS, POINTS = 468, 478
IRISES = {"left eye": range(468, 473), "right eye": range(473, 478)}
"""The middle of each iris, then its right, top, left and bottom (as seen in the tracker's answers)."""
_SHAPES, _REGIONS = (json.loads((Path(__file__).parent / f"{name}.json").read_text()) for name in ("shapes", "regions"))
RINGS: dict[str, tuple[int, ...]] = {name: tuple(points) for name, points in _SHAPES["rings"].items()}
"""Points around the parts of a face, each ring once around; web/src/camera/regions.ts reads the same file."""
SCALED: dict[str, tuple[str, int, float]] = {name: (of["ring"], of["about"], of["by"]) for name, of in _SHAPES["scaled"].items()}
"""Rings that are others scaled about a point: one of them, the point, the factor."""


class Drawn(NamedTuple):
    """A region that is drawn from rings: what is filled, what is taken out again, whether only the person counts; and by how much
    what is filled reaches over its rings, parts of the distance of the outer corners of the eyes."""

    fill: tuple[str, ...]
    cut: tuple[str, ...]
    person: bool
    grown: float


APPROXIMATE = {
    name: Drawn(tuple(of["fill"]), tuple(of["cut"]), _REGIONS[name], of.get("grown", 0.0))
    for name, of in _SHAPES["regions"].items()
}
"""Regions of a face by name."""

HANDS: dict[str, Any] = _SHAPES["hands"]
"""A hand by the tracker's 21 points: its palm filled, and its fingers as lines, `thick` times as wide as it is `across`."""


def of_points(region: str) -> bool:
    """Whether a region is nothing where there is no face: drawn inside of rings of points."""
    return region in APPROXIMATE and any(ring in RINGS or ring in SCALED for ring in APPROXIMATE[region].fill)


@cache
def face_mesh() -> MeshData:
    """The skin as a mesh: the middle face, with the tracker's own triangles and places in a texture, its vertices by number."""
    found = read_obj((Path(__file__).parent / "assets" / "middle_face.obj").read_text(), renumber=False)
    for part in (found.vertices, found.places, found.triangles):
        part.setflags(write=False)
    return found


def middle_face() -> NDArray[np.float64]:
    """The 468 points of the skin, centimetres (468, 3): x to the picture's right, y up, z towards the lens."""
    return face_mesh().vertices


def four_places() -> NDArray[np.float64]:
    """In the texture of the face, the middles of the left and right eye, then the corners of the mouth, left and right (4, 2)."""
    places = face_mesh().places
    return np.array([*(places[list(RINGS[eye])].mean(axis=0) for eye in ("left eye", "right eye")), places[61], places[291]])


@cache
def skin_triangles() -> dict[str, NDArray[np.int64]]:
    """The mesh's triangles (t, 3) in three parts: those of the skin, those that close the mouth, and those that close the
    eyes."""
    triangles = face_mesh().triangles
    within = {name: np.isin(triangles, list(RINGS[name])).all(axis=1) for name in ("mouth", "left eye", "right eye")}
    eyes = within["left eye"] | within["right eye"]
    return {"skin": triangles[~(within["mouth"] | eyes)], "mouth": triangles[within["mouth"]], "eyes": triangles[eyes]}


@cache
def skin_rim() -> NDArray[np.float64]:
    """Of each vertex of the skin (468), 0 on the outline of the face and 1 within."""
    within = np.ones(SKIN_POINTS)
    within[list(RINGS["oval"])] = 0.0
    return within


@cache
def turned_over() -> NDArray[np.intp]:
    """By a point's number, that of the point which takes its place when the picture is mirrored (478)."""
    points = middle_face()
    far = np.linalg.norm((points * (-1, 1, 1))[:, None] - points[None], axis=2)
    # Each iris: middle, right, top, left, bottom.
    irises = [473, 476, 475, 474, 477, 468, 471, 470, 469, 472]
    return np.array([*far.argmin(axis=1), *irises], np.intp)


AROUND_CENTIMETRES = 1.5


@cache
def around(point: int) -> tuple[int, int, int]:
    """Three points of the skin about a point, some 1.5 cm away and clockwise as one who looks at the face sees them: the plane
    through them lies as the skin does there. For the irises, those about the eye."""
    mesh = face_mesh()
    eye = next((ring for ring, five in IRISES.items() if point in five), None)
    at = mesh.vertices[list(RINGS[eye])].mean(axis=0) if eye else mesh.vertices[point]
    corners = mesh.vertices[mesh.triangles]
    normals = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    near = np.linalg.norm(corners.mean(axis=1) - at, axis=1) < AROUND_CENTIMETRES
    # Seen from outside the face: the middle of the head lies behind its points.
    normals = normals * np.sign(np.sum(normals * (corners.mean(axis=1) - (0, 0, -3)), axis=1))[:, None]
    normal = np.array([0.0, 0.0, 1.0]) if eye else normals[near].sum(axis=0) / np.linalg.norm(normals[near].sum(axis=0))
    right = np.cross([0.0, 1.0, 0.0], normal)
    right /= np.linalg.norm(right)
    up = np.cross(normal, right)
    found: list[int] = []
    for degrees in (90, -30, 210):
        towards = at + AROUND_CENTIMETRES * (np.cos(np.radians(degrees)) * right + np.sin(np.radians(degrees)) * up)
        order = np.linalg.norm(mesh.vertices - towards, axis=1).argsort()
        found.append(next(int(n) for n in order if n not in (point, *found)))
    one, two, three = found
    return one, two, three
