"""How a performer moves in each baked take: head, lids, mouth, gaze, hands. A take's last frame leads into its first."""

import math

import numpy as np
from numpy.typing import NDArray

from sunglaze.core.camera.performer.trace import (
    M_BLINK,
    M_GAZE,
    M_HANDS,
    M_LEAN,
    M_LEFT,
    M_MOUTH,
    M_NEAR,
    M_RIGHT,
    M_SHIFT,
    POSE_LENGTH,
)  # fmt: skip

TAKES = {"talk": 75, "open": 30, "near": 36, "hands": 30}
"""Frames of each take, 30 a second."""


def rotation(yaw: float, pitch: float, roll: float) -> NDArray[np.float64]:
    """Head turn as a 3x3 matrix; angles in degrees, yaw about y first, then pitch about x, then roll about z."""
    a, b, c = (math.radians(v) for v in (yaw, pitch, roll))
    about_y = np.array([[math.cos(a), 0, math.sin(a)], [0, 1, 0], [-math.sin(a), 0, math.cos(a)]])
    about_x = np.array([[1, 0, 0], [0, math.cos(b), -math.sin(b)], [0, math.sin(b), math.cos(b)]])
    about_z = np.array([[math.cos(c), -math.sin(c), 0], [math.sin(c), math.cos(c), 0], [0, 0, 1]])
    return np.asarray(about_z @ about_x @ about_y)


def _ease(t: float) -> float:
    """Out and back within 0 to 1, resting a while at the far end."""
    x = min(1.0, 2.6 * min(t, 1 - t))
    return x * x * (3 - 2 * x)


def pose(take: str, frame: int) -> NDArray[np.float64]:
    """Everything that moves, as trace.py takes it."""
    length = TAKES[take]
    t = frame / length
    w = 2 * math.pi * t
    made = np.zeros(POSE_LENGTH)
    yaw, pitch, roll = 6 * math.sin(w), 2 + 2 * math.sin(w + 1), 1.5 * math.sin(w + 2)
    blinks: tuple[float, ...] = (0.3,)
    mouth = near = 0.0
    if take == "talk":
        yaw = 24 * math.sin(w) + 4 * math.sin(2 * w + 0.4)
        pitch = 3 + 4 * math.sin(2 * w + 0.7)
        roll = 3.5 * math.sin(w + 0.9)
        blinks = (0.22, 0.71)
        words = max(0.0, math.sin(9 * w)) * max(0.0, math.sin(w + 2.6))
        mouth = 0.22 * words + 0.1 * max(0.0, math.sin(14 * w)) * max(0.0, math.sin(w - 0.6))
    elif take == "open":
        mouth = _ease(t)
        pitch -= 5 * mouth
    elif take == "near":
        near = 3.1 * _ease(t)
    elif take == "hands":
        up = _ease(t)
        made[M_HANDS] = 1
        made[M_RIGHT : M_RIGHT + 4] = (0.5 + 0.25 * (1 - up), -4.2 + 3.3 * up, 1.45, 0.12)
        made[M_LEFT : M_LEFT + 4] = (-0.62 - 0.2 * (1 - up), -4.2 + 2.9 * up, 1.35, -0.2)
    sway = 0.1 * math.sin(w + 0.4)
    made[:9] = rotation(yaw, pitch, roll).ravel()
    made[M_SHIFT : M_SHIFT + 3] = (sway + 0.08 * math.sin(w + 0.2), 0.02 * math.sin(3 * w), near + 0.06 * math.sin(w + 2.0))
    made[M_BLINK] = max(math.exp(-(((frame - at * length) / 2.0) ** 2)) for at in blinks)
    made[M_MOUTH] = mouth
    made[M_LEAN], made[M_NEAR] = sway, near
    # The eyes stay on the lens, as far as they turn.
    made[M_GAZE] = -0.05 * math.sin(math.radians(yaw)) / 0.4
    made[M_GAZE + 1] = 0.03 * math.sin(math.radians(pitch)) / 0.2
    return made
