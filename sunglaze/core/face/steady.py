"""Making what trackers see steady: points and numbers by the one-euro filter or a first-order lag, masks pixel by pixel."""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import NDArray

Values = NDArray[np.float64]


class FirstOrder:
    """Follows with a lag: after `lag` seconds 63 % of a step are made, at whatever rate it is asked."""

    def __init__(self, lag: float) -> None:
        self._lag = lag
        self._now: Values | None = None

    def follow(self, value: Values, seconds: float) -> Values:
        """`seconds` since the last value."""
        share = 1.0 if self._now is None or self._lag <= 0 else 1 - math.exp(-seconds / self._lag)
        self._now = value if self._now is None else self._now + (value - self._now) * share
        return self._now


class OneEuro:
    """The one-euro filter (Casiez, Roussel and Vogel 2012): still values are held steady, fast ones hardly lag.

    `steady`: cut-off in Hz of what is at rest; `swift`: how much it rises with the speed, in Hz for a unit a second. Lags are
    exact for any time between values, so the motion is the same at every rate.
    """

    SPEED_CUTOFF = 1.0

    def __init__(self, steady: float = 1.0, swift: float = 0.01) -> None:
        self._steady, self._swift = steady, swift
        self._now: Values | None = None
        self._given: Values | None = None
        self._speed: Values | None = None

    def follow(self, value: Values, seconds: float) -> Values:
        """The smoothed values. `seconds` since those before."""
        if self._now is None or self._given is None or self._speed is None:
            self._now, self._given, self._speed = value, value, np.zeros_like(value, np.float64)
            return value
        speed = (value - self._given) / max(seconds, 1e-6)
        self._speed = self._speed + (speed - self._speed) * _share(self.SPEED_CUTOFF, seconds)
        self._now = self._now + (value - self._now) * _share(self._steady + self._swift * np.abs(self._speed), seconds)
        self._given = value
        return self._now


def _share(cutoff: float | Values, seconds: float) -> Values:
    """How much of a step a low-pass of this cut-off (Hz) makes within so many seconds."""
    return np.asarray(1 - np.exp(-2 * math.pi * np.asarray(cutoff) * seconds))


MASK_LAG = 0.2
MASK_MOVED = 0.6


class SteadyMask:
    """Holds a tracker's mask steady: small changes are followed with a lag of MASK_LAG seconds, those of MASK_MOVED of full scale
    or more at once, so that a moving edge does not trail. web/src/camera/tracking.ts does the same."""

    def __init__(self, lag: float = MASK_LAG, moved: float = MASK_MOVED) -> None:
        self._lag, self._moved = lag, moved
        self._now: NDArray[np.float32] | None = None

    def follow(self, mask: NDArray[np.uint8], seconds: float) -> NDArray[np.uint8]:
        """`mask`: (height, width), white inside; `seconds` since the last one."""
        seen = mask.astype(np.float32)
        if self._now is None or self._now.shape != seen.shape:
            self._now = seen
        else:
            change = seen - self._now
            slow = 1 - math.exp(-seconds / self._lag)
            swift = np.minimum(np.abs(change) / (255 * self._moved), 1)
            self._now = self._now + change * (slow + (1 - slow) * swift)
        return np.asarray(np.rint(self._now), np.uint8)
