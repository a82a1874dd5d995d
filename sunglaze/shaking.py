"""How much the face tracker's points shake, trail and drop out: against the stand-in's truth, in frames that follow each other.
What is found stands in core/camera/tracked.py, by which the stand-in tells faces as a phone tracks them."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

import numpy as np
from numpy.typing import NDArray

from sunglaze.core.camera.cameras import colours
from sunglaze.core.camera.cast import Sitting, StandIn
from sunglaze.core.camera.truth import heads
from sunglaze.core.moment.moment import RATE

if TYPE_CHECKING:
    from sunglaze.realism import Trackers

WIDTH, HEIGHT = 540, 960
RUNS = (
    ("lamp-tender", "talk", "noon"),
    ("oyster-cook", "talk", "dusk"),
    ("kite-flyer", "talk", "lamp"),
    ("net-mender", "edges", "shade"),
)
FRAMES = 40
LOST = 0.5
"""Distances of the eyes; what is farther away is another face."""


@dataclass(frozen=True)
class Shaking:
    """`whole`: how much the points' middle shakes from frame to frame, `each`: every point beside that, root mean squares in
    distances of the eyes; `lag`: seconds by which points trail a face that moves; `lost`: the share of frames in which a face
    that is wholly in the picture is not found."""

    whole: float
    each: float
    lag: float
    lost: float


def shaking(trackers: Trackers) -> Shaking:
    """Over RUNS, as the trackers see them one frame after the other."""
    whole, each, lags, missed, count = [], [], [], 0, 0
    for who, script, light in RUNS:
        camera = StandIn(WIDTH, HEIGHT, Sitting(who, script, light))
        truth, seen = [], []
        for number in range(-FRAMES // 2, FRAMES // 2) if script == "edges" else range(FRAMES):
            number %= camera.length
            head = heads(camera, number)[-1]
            size = float(np.linalg.norm(head.eyes[1] - head.eyes[0]))
            inside = ((head.points >= 0) & (head.points < (WIDTH, HEIGHT))).all()
            found = [face[:, :2] * (WIDTH, HEIGHT) for face in trackers.faces(colours(camera.frame(number), WIDTH))]
            best = min(found, key=lambda one: float(np.linalg.norm(one - head.points, axis=1).mean()), default=None)
            hit = best is not None and np.linalg.norm(best - head.points, axis=1).mean() < LOST * size
            count += bool(inside)
            missed += bool(inside and not hit)
            truth.append(head.points / size)
            seen.append(best / size if best is not None and hit else np.full_like(head.points, np.nan))
        off = np.array(seen) - np.array(truth)
        common = np.nanmean(off, axis=1)
        whole.append(_shake(common[:, None]))
        each.append(_shake(off - common[:, None]))
        speed = np.gradient(np.array(truth).mean(axis=1), axis=0) * RATE
        good = np.isfinite(common).all(axis=1)
        if script == "edges":
            lags.append(float(-np.polyfit(speed[good, 0], common[good, 0], 1)[0]))
    return Shaking(float(np.nanmean(whole)), float(np.nanmean(each)), float(np.mean(lags)), missed / max(1, count))


def _shake(off: NDArray[np.float64]) -> float:
    """The root mean square of what white noise would have to be for the second differences that are there (their variance is six
    times its own); what goes on evenly is no shaking."""
    second = off[2:] - 2 * off[1:-1] + off[:-2]
    return float(np.sqrt(np.nanmean(second**2) / 6))


def in_words(found: Shaking) -> str:
    """A table in Markdown."""
    return "\n".join([
        "| the face's points, from frame to frame | |",
        "|---|---|",
        f"| the whole face shakes by | {100 * found.whole:.2f} % of the distance of the eyes |",
        f"| each point beside that | {100 * found.each:.2f} % |",
        f"| lag behind who moves | {1000 * found.lag:.0f} ms |",
        f"| not found | {100 * found.lost:.1f} % of frames |",
    ])  # fmt: skip
