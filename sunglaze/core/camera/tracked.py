"""Faces of the stand-in as a phone tracks them: late, shaking and now and then lost; so smoothing is judged on what it is for.

How much is what `sunglaze realism` measured of the application's own tracker when this was set; on the cast as it is now the
whole face shakes less, and is lost more often where it turns far (docs/realism.md).
"""

from __future__ import annotations

import hashlib
from collections.abc import Callable, Sequence

import numpy as np

from sunglaze.core.face.seen import seen_face
from sunglaze.core.moment.moment import Face

WHOLE, EACH = 0.021, 0.019
"""By how much a face shakes as a whole, and each of its points beside that, from frame to frame: deviations in distances of the
eyes."""
LOST = 0.02
"""The share of frames in which a face is not found."""
LATE = 1
"""Frames by which points are behind the picture: they are told when the tracker has answered."""


def as_tracked(true: Callable[[int], Sequence[Face]], number: int, width: int, height: int, who: str) -> list[Face]:
    """The faces of a frame, from what is true of frames. Alike each time that it is asked."""
    found = []
    for index, face in enumerate(true(number - LATE)):
        seed = hashlib.blake2b(f"{who} {number} {index}".encode(), digest_size=8).digest()
        chance = np.random.default_rng(int.from_bytes(seed, "little"))
        if chance.random() < LOST:
            continue
        size = face.size * width
        points = face.points * (width, height, width)
        points[:, :2] += chance.normal(0, WHOLE * size, 2) + chance.normal(0, EACH * size, (len(points), 2))
        points[:, 2] += chance.normal(0, EACH * size, len(points))
        # A tracker tells no pose, and nothing of what hides a point.
        found.append(seen_face(points, width, height))
    return found
