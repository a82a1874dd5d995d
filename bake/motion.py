"""How a performer moves in each take. A take's last frame leads into its first."""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import gaussian_filter1d

from bake.body import Pose
from bake.people import Performer

TAKES = {"talk": 75, "smile": 32, "open": 28, "near": 28, "hands": 24}
"""Frames of each take, 30 a second."""
NEAREST, FARTHEST = 1.75, -13.4
"""Decimetres towards the lens at the nearest, and away from it at the farthest of *near*."""


def sided(**amounts: float) -> dict[str, float]:
    """Face units for both sides, by names without one."""
    return {f"{name}{side}": amount for name, amount in amounts.items() for side in ("Left", "Right")}


SHAPES: tuple[dict[str, float], ...] = (
    {},
    {"jawOpen": 0.5} | sided(mouthUpperUp=0.2, mouthLowerDown=0.15),
    {"jawOpen": 0.2} | sided(mouthStretch=0.4, mouthUpperUp=0.2, mouthSmile=0.12),
    {"jawOpen": 0.1} | sided(mouthSmile=0.34, mouthUpperUp=0.12),
    {"jawOpen": 0.32, "mouthFunnel": 0.55},
    {"jawOpen": 0.1, "mouthPucker": 0.7},
    {"mouthRollLower": 0.25, "mouthRollUpper": 0.25} | sided(mouthPress=0.35),
    {"mouthRollLower": 0.4, "jawOpen": 0.07} | sided(mouthUpperUp=0.22),
    {"jawOpen": 0.22} | sided(mouthLowerDown=0.2, mouthUpperUp=0.1),
    {"jawOpen": 0.06} | sided(mouthStretch=0.22, mouthLowerDown=0.3, mouthUpperUp=0.16),
    {"mouthPucker": 0.45, "mouthFunnel": 0.2, "jawOpen": 0.16},
    {"jawOpen": 0.36} | sided(mouthSmile=0.12, mouthLowerDown=0.1),
)
"""Twelve shapes that a mouth takes in talking; the first rests."""


def _eased(t: float) -> float:
    """Out and back within 0 to 1, resting a while at the far end."""
    x = min(1.0, 2.8 * min(t, 1 - t))
    return x * x * (3 - 2 * x)


def _talk(performer: Performer, length: int) -> dict[str, NDArray[np.float64]]:
    """By face unit its amount at each frame: shapes by chance, each some five frames, run into one another, with a pause."""
    chance = np.random.default_rng(performer.seed)
    made: dict[str, NDArray[np.float64]] = {}
    frame, last = 6, 0
    while frame < length - 12:
        hold = int(chance.integers(4, 7))
        shape = int(chance.integers(1, len(SHAPES)))
        shape = shape if shape != last else 6
        for unit, amount in SHAPES[shape].items():
            made.setdefault(unit, np.zeros(length))[frame : frame + hold] = amount * chance.uniform(0.8, 1.1)
        frame, last = frame + hold, shape
    return {unit: gaussian_filter1d(line, 1.5, mode="wrap") for unit, line in made.items()}


def pose(performer: Performer, take: str, frame: float) -> Pose:
    """Everything that moves at a frame of a take, or between two; frames go round."""
    length = TAKES[take]
    frame %= length
    t = frame / length
    w = 2 * math.pi * t
    units = sided(mouthSmile=0.1) | {"browInnerUp": 0.08}
    yaw, pitch, roll = 6 * math.sin(w), 1.5 * math.sin(w + 1), 1.5 * math.sin(w + 2)
    sway = 0.08 * math.sin(w + 0.3)
    shift = [sway, 0.03 * math.sin(2 * w + 0.5), 0.05 * math.sin(w + 2.0)]
    blinks: tuple[float, ...] = (0.62,)
    gaze = [0.0, 0.0]
    hands = 0.0
    if take == "talk":
        yaw = 25 * math.sin(w) + 4 * math.sin(2 * w + 0.4)
        pitch = 1 + 4 * math.sin(2 * w + 0.7)
        roll = 3.5 * math.sin(w + 0.9)
        blinks = (0.22, 0.74)
        units |= {unit: float(line[int(frame)]) for unit, line in _talk(performer, length).items()}
        brow = max(0.0, math.sin(2 * w - 0.6)) ** 2
        units |= {"browInnerUp": 0.1 + 0.3 * brow} | sided(browOuterUp=0.25 * brow)
    elif take == "open":
        wide = _eased(t)
        units |= {"jawOpen": 0.85 * wide} | sided(mouthUpperUp=0.36 * wide, mouthLowerDown=0.12 * wide, eyeWide=0.25 * wide)
        units["tongueOut"] = 0.8 * math.exp(-(((t - 0.5) / 0.09) ** 2))
        blinks = (0.06,)
        pitch -= 3 * wide
    elif take == "near":
        if t < 0.4:
            shift[2] += NEAREST * _eased(t / 0.4)
        else:
            away = math.sin(math.pi * (t - 0.4) / 0.6) ** 2
            shift[2] += FARTHEST * away
        blinks = (0.1, 0.5, 0.85)
    elif take == "hands":
        hands = _eased(t)
    elif take == "smile":
        happy = _eased(min(1.0, t / 0.8)) if t < 0.8 else 0.0
        gain = performer.smile
        units |= sided(
            mouthSmile=0.1 + 0.75 * gain * happy, cheekSquint=0.7 * happy, eyeSquint=0.3 * happy,
            mouthUpperUp=0.42 * happy, mouthLowerDown=0.2 * happy, mouthDimple=0.25 * happy,
        )  # fmt: skip
        units["jawOpen"] = 0.06 * happy
        blinks = (0.9,)
        gaze = [10 * math.exp(-(((t - 0.86) / 0.05) ** 2)), 0.0]
    shut = min(1.0, max(_blink((frame - at * length) / 30) for at in blinks))
    units |= sided(eyeBlink=shut)
    # The eyes stay on the lens, as far as they turn.
    gaze = [max(-30, min(30, gaze[0] - yaw)), max(-18, min(18, gaze[1] + pitch))]
    units |= _lids(gaze, shut)
    return Pose(units, yaw, pitch, roll, (shift[0], shift[1], shift[2]), (gaze[0], gaze[1]), hands)


def _blink(seconds: float) -> float:
    """Shut within a tenth of a second, open again within two."""
    return math.exp(-((seconds / 0.055) ** 2)) if seconds < 0 else math.exp(-((seconds / 0.085) ** 2))


def _lids(gaze: list[float], shut: float) -> dict[str, float]:
    """Lids go with the eyes: `gaze` in degrees to the person's left and up."""
    left, up = gaze
    open_ = 1 - shut
    units = {"eyeLookOutLeft": max(0, left) / 30, "eyeLookInRight": max(0, left) / 30,
             "eyeLookInLeft": max(0, -left) / 30, "eyeLookOutRight": max(0, -left) / 30}  # fmt: skip
    units |= sided(eyeLookUp=max(0, up) / 25, eyeLookDown=max(0, -up) / 25)
    return {name: amount * open_ for name, amount in units.items()}
