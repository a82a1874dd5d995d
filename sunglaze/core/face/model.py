"""The middle face: where the face tracker's points lie on a face of middle size, and rings of them by name.

Points are numbered as @mediapipe/face_mesh numbers them: 468 on the skin, then five of each iris. Left and right are the
picture's, whether or not it is mirrored: a tracker sees only the picture.
"""

from __future__ import annotations

import json
from functools import cache
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from sunglaze.core.material.mesh import MeshData, read_obj

SKIN_POINTS, POINTS = 468, 478
IRISES = {"left eye": range(468, 473), "right eye": range(473, 478)}
"""The middle of each iris, then its right, top, left and bottom (as seen in the tracker's answers)."""
_SHAPES = json.loads((Path(__file__).parent / "shapes.json").read_text())
RINGS: dict[str, tuple[int, ...]] = {name: tuple(points) for name, points in _SHAPES["rings"].items()}
"""Points around the parts of a face, each ring once around; web/src/camera/regions.ts reads the same file."""
SCALED: dict[str, tuple[str, int, float]] = {name: (of["ring"], of["about"], of["by"]) for name, of in _SHAPES["scaled"].items()}
"""Rings that are others scaled about a point: one of them, the point, the factor."""
APPROXIMATE: dict[str, tuple[tuple[str, ...], tuple[str, ...], bool]] = {
    name: (tuple(region["fill"]), tuple(region["cut"]), region["person"]) for name, region in _SHAPES["regions"].items()
}
"""Regions that are drawn from rings: what is filled, what is taken out again, and whether only the person counts."""


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


@cache
def turned_over() -> NDArray[np.intp]:
    """By a point's number, that of the point which takes its place when the picture is mirrored (478)."""
    points = middle_face()
    far = np.linalg.norm((points * (-1, 1, 1))[:, None] - points[None], axis=2)
    # Each iris: middle, right, top, left, bottom.
    irises = [473, 476, 475, 474, 477, 468, 471, 470, 469, 472]
    return np.array([*far.argmin(axis=1), *irises], np.intp)
