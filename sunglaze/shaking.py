"""How much the face tracker's points shake, trail and drop out, and how far from its place on a turning head lies what is pinned
to it: against the stand-in's truth, in frames that follow each other. How much they shake stands in core/camera/tracked.py, by
which the stand-in tells faces as a phone tracks them."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import TYPE_CHECKING

import numpy as np
from numpy.typing import NDArray

from sunglaze.core.camera.cameras import colours
from sunglaze.core.camera.cast import Sitting, StandIn
from sunglaze.core.camera.truth import Head, heads
from sunglaze.core.face.held import LAG, hold
from sunglaze.core.face.pose import angles
from sunglaze.core.face.seen import seen_face
from sunglaze.core.moment.moment import RATE, Clock, Reads

if TYPE_CHECKING:
    from sunglaze.realism import Trackers

WIDTH, HEIGHT = 540, 960
RUNS = (
    ("lamp-tender", "talk", "noon"),
    ("oyster-cook", "talk", "dusk"),
    ("kite-flyer", "talk", "lamp"),
    ("net-mender", "edges", "shade"),
)
FRAMES, STARTS = 75, 10
"""Of each run, and how many of them only start what holds points steady."""
LOST = 0.5
"""Distances of the eyes; what is farther away is another face."""
FAST = 45.0
"""Degrees a second, from which on a head turns fast."""


@dataclass(frozen=True)
class Run:
    """Frames that follow each other, of one person: what is true of the head in each, and its points as tracked (478, 3), pixels,
    none where it was not found."""

    camera: StandIn
    truth: list[Head]
    tracked: list[NDArray[np.float64] | None]


@dataclass(frozen=True)
class Shaking:
    """`whole`: how much the points' middle shakes from frame to frame, `each`: every point beside that, root mean squares in
    distances of the eyes; `lag`: seconds by which points trail a face that moves; `lost`: the share of frames in which a face
    that is wholly in the picture is not found."""

    whole: float
    each: float
    lag: float
    lost: float


@dataclass(frozen=True)
class Pinned:
    """While a head turns fast, medians over the points of it that are seen, in pixels at 540 by 960: how far from their true
    places they are `tracked`, how far from there is what is `pinned` to them, which is held steady, and how far that is from the
    points as tracked (`held`)."""

    tracked: float
    pinned: float
    held: float


def runs(trackers: Trackers) -> list[Run]:
    """RUNS, as the trackers see them one frame after the other."""
    found = []
    for who, script, light in RUNS:
        camera = StandIn(WIDTH, HEIGHT, Sitting(who, script, light))
        run = Run(camera, [], [])
        for number in range(-FRAMES // 2, FRAMES // 2) if script == "edges" else range(FRAMES):
            number %= camera.length
            head = heads(camera, number)[-1]
            faces = [face * (WIDTH, HEIGHT, WIDTH) for face in trackers.faces(colours(camera.frame(number), WIDTH))]
            best = min(faces, key=lambda face: _apart(face, head), default=None)
            run.truth.append(head)
            run.tracked.append(best if best is not None and _apart(best, head) < LOST * _size(head) else None)
        found.append(run)
    return found


def _size(head: Head) -> float:
    return float(np.linalg.norm(head.eyes[1] - head.eyes[0]))


def _apart(face: NDArray[np.float64], head: Head) -> float:
    return float(np.linalg.norm(face[:, :2] - head.points, axis=1).mean())


def shaking(seen: list[Run]) -> Shaking:
    """Of all of them."""
    whole, each, lags, missed, count = [], [], [], 0, 0
    for run in seen:
        for head, found in zip(run.truth, run.tracked, strict=True):
            inside = bool(((head.points >= 0) & (head.points < (WIDTH, HEIGHT))).all())
            count += inside
            missed += inside and found is None
        true = np.array([head.points / _size(head) for head in run.truth])
        lost = np.full_like(run.truth[0].points, np.nan)
        off = np.array(
            [lost if one is None else one[:, :2] / _size(head) for head, one in zip(run.truth, run.tracked, strict=True)]
        )
        off -= true
        common = off.mean(axis=1)
        whole.append(_shake(common[:, None]))
        each.append(_shake(off - common[:, None]))
        speed = np.gradient(true.mean(axis=1), axis=0) * RATE
        good = np.isfinite(common).all(axis=1)
        if run.camera.sitting.script == "edges":
            lags.append(float(-np.polyfit(speed[good, 0], common[good, 0], 1)[0]))
    return Shaking(float(np.nanmean(whole)), float(np.nanmean(each)), float(np.mean(lags)), missed / max(1, count))


def pinned(seen: list[Run]) -> Pinned:
    """Of the runs in which a head turns; held steady as the player holds points, each picture drawn with its own. The first
    frames only start it."""
    off: tuple[list[NDArray[np.float64]], ...] = [], [], []
    for run in seen:
        begun = run.camera.moment(0, Reads(False, (), True))
        speeds = np.abs(np.gradient(np.array([angles(head.turn)[0] for head in run.truth]))) * RATE
        state = None
        for n, (head, face, speed) in enumerate(zip(run.truth, run.tracked, speeds, strict=True)):
            faces = () if face is None else (seen_face(face, WIDTH, HEIGHT),)
            state = hold(state, replace(begun, clock=Clock.at(n), faces=faces), LAG)
            if n < STARTS or speed < FAST or face is None or state[0] is None:
                continue
            lies = state[0].points[:, :2] * (WIDTH, HEIGHT)
            pairs = (face[:, :2], head.points), (lies, head.points), (lies, face[:, :2])
            for part, (one, other) in zip(off, pairs, strict=True):
                part.append(np.linalg.norm(one - other, axis=1)[head.visible])
    return Pinned(*(float(np.median(np.concatenate(part))) for part in off))


def _shake(off: NDArray[np.float64]) -> float:
    """The root mean square of what white noise would have to be for the second differences that are there (their variance is six
    times its own); what goes on evenly is no shaking."""
    second = off[2:] - 2 * off[1:-1] + off[:-2]
    return float(np.sqrt(np.nanmean(second**2) / 6))


def in_words(found: Shaking, pins: Pinned) -> str:
    """Tables in Markdown."""
    return "\n".join([
        "| the face's points, from frame to frame | |",
        "|---|---|",
        f"| the whole face shakes by | {100 * found.whole:.2f} % of the distance of the eyes |",
        f"| each point beside that | {100 * found.each:.2f} % |",
        f"| lag behind who moves | {1000 * found.lag:.0f} ms |",
        f"| not found | {100 * found.lost:.1f} % of frames |",
        "",
        f"| a head that turns by {FAST:.0f} degrees a second and more, at 540 by 960 | median |",
        "|---|---|",
        f"| the tracker's points, from where they truly are | {pins.tracked:.1f} px |",
        f"| what is pinned to them, from where it truly belongs | {pins.pinned:.1f} px |",
        f"| what is pinned to them, from the tracker's points | {pins.held:.1f} px |",
    ])  # fmt: skip
