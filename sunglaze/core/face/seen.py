"""A face as moments have it, from its points in the picture."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from sunglaze.core.face.measure import measure
from sunglaze.core.face.model import POINTS
from sunglaze.core.face.pose import Pose, head_pose
from sunglaze.core.moment.moment import Face

_MIDDLE = ("left eye", "right eye", "nose tip")


def seen_face(
    points: NDArray[np.float64],
    width: int,
    height: int,
    hidden: NDArray[np.bool_] | None = None,
    pose: Pose | None = None,
) -> Face:
    """`points` (478, 3): pixels of a picture of this size, z too, less being nearer. Without a `pose` it is found from them."""
    found = measure(points)
    pose = pose or head_pose(points, width, height)
    middle = np.mean([found.places[name] for name in _MIDDLE], axis=0)
    x, y, z = (float(part) for part in pose.place)
    return Face(
        points=points / (width, height, width),
        hidden=hidden if hidden is not None else np.zeros(POINTS, np.bool_),
        place=(float(middle[0]) / width, float(middle[1]) / height),
        size=found.size / width,
        centimetres=(x, y, z),
        degrees=pose.angles,
        mouth=found.mouth,
        blinks=found.blinks,
        smile=found.smile,
        brows=found.brows,
    )
