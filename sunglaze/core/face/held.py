"""Faces held steady from frame to frame, for what is drawn on them, and how far one that came or went counts as there. Plain data
in and out; web/src/engine/held.ts does the same.

What is at rest is followed with a lag, what moves nearly at once: the one-euro filter of Casiez, Roussel and Vogel (2012), with
shares that are exact for any time between frames. Trackers shake the whole face as well as each point, so speeds are told apart
into the whole's and each point's beside it, and what is as slow as noise counts as still. Beyond a few hundredths of the distance
of the eyes nothing is waited for. Figures: common practice, measured on the cast (docs/realism.md).
"""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from sunglaze.core.face.model import SKIN_POINTS
from sunglaze.core.language.moments import FACES, HELD
from sunglaze.core.moment.moment import Face, Moment

COMES, GOES = 0.15, 0.3
"""Seconds within which a face that comes is there, and within which one that is lost goes."""
WHOLE_STILL, EACH_STILL = 0.4, 0.6
"""So fast, in distances of the eyes a second, do a still face and its points seem to move that a tracker sees."""
SWIFT = 15.0
"""By how many Hz the cut-off rises with each distance of the eyes a second beyond that."""
STRAYS, CATCHES = 0.075, 300.0
"""How far, in distances of the eyes, the whole may stay behind, and by how many Hz the cut-off rises a unit beyond."""
SPEED_CUTOFF = 1.0
"""Hz, of the speeds."""


LAG = 0.5
"""Seconds, at which points of a still face flutter by less than a pixel that a tracker shakes by several."""


@dataclass(frozen=True, eq=False)
class Held:
    """A face's points (478, 3) as moments have them, held steady; the ones last seen; the speed of the whole (3,) and of each
    point beside it (478, 3), distances of the eyes a second; how much of the face is there, 0 to 1; and for how
    many seconds the same points have been seen, as where a tracker takes longer than a frame."""

    points: NDArray[np.float64]
    seen: NDArray[np.float64]
    whole: NDArray[np.float64]
    each: NDArray[np.float64]
    there: float
    since: float = 0.0


HeldFaces = tuple[Held | None, ...]


def hold(before: HeldFaces | None, moment: Moment, seconds: float) -> HeldFaces:
    """The faces of a moment after those of the frame before; none where that is the first frame: then all are wholly there.
    `seconds`: the lag of what is at rest, 0 for none."""
    found: list[Held | None] = []
    delta = moment.clock.delta
    for n in range(FACES):
        old = before[n] if before is not None else None
        face = moment.faces[n] if n < len(moment.faces) else None
        if face is None:
            left = old.there - delta / GOES if old is not None else 0.0
            found.append(replace(old, there=left) if old is not None and left > 0 else None)
        elif old is None:
            there = 1.0 if before is None else min(1.0, delta / COMES)
            found.append(Held(face.points, face.points, np.zeros(3), np.zeros_like(face.points), there))
        else:
            found.append(_followed(old, face, moment, seconds))
    return tuple(found)


def held_getter(name: str) -> Callable[[HeldFaces], float]:
    """What reads a number of held faces by its name (core/language/moments.py); 0 of one that is not there."""
    found = HELD.fullmatch(name)
    assert found is not None, name
    number, point, axis = int(found[1]), int(found[3] or 0), "uvz".find(found[4] or " ")

    def read(faces: HeldFaces) -> float:
        one = faces[number] if number < len(faces) else None
        if one is None:
            return 0.0
        return one.there if axis < 0 else float(one.points[point, axis])

    return read


def _followed(old: Held, face: Face, moment: Moment, seconds: float) -> Held:
    delta = max(moment.clock.delta, 1e-6)
    there = min(1.0, old.there + delta / COMES)
    if seconds <= 0:
        return Held(face.points, face.points, np.zeros(3), np.zeros_like(face.points), there)
    units = np.array([1.0, moment.screen.rows / moment.screen.columns, 1.0]) / max(face.size, 1e-6)
    whole, each, since = old.whole, old.each, old.since + delta
    if not np.array_equal(face.points, old.seen):
        moved = (face.points - old.seen) * units / since
        together = moved[:SKIN_POINTS].mean(axis=0)
        share = _share(SPEED_CUTOFF, since)
        whole = whole + (together - whole) * share
        each = each + (moved - together - each) * share
        since = 0.0
    behind = ((face.points - old.points) * units)[:SKIN_POINTS].mean(axis=0)
    faster = np.maximum(np.hypot(each[:, 0], each[:, 1]) - EACH_STILL, 0.0)
    faster += max(math.hypot(whole[0], whole[1]) - WHOLE_STILL, 0.0)
    strays = max(math.hypot(behind[0], behind[1]) - STRAYS, 0.0)
    cutoff = 1 / (2 * math.pi * seconds) + SWIFT * faster + CATCHES * strays
    points = old.points + (face.points - old.points) * _share(cutoff, delta)[:, None]
    return Held(points, face.points, whole, each, there, since)


def _share(cutoff: float | NDArray[np.float64], delta: float) -> NDArray[np.float64]:
    return np.asarray(1 - np.exp(-2 * math.pi * np.asarray(cutoff) * delta))
