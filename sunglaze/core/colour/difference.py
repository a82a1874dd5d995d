"""Colour difference CIEDE2000, after Sharma, Wu and Dalal, "The CIEDE2000 color-difference formula" (2005)."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]


def ciede2000(one: Array, two: Array) -> Array:
    """Differences of L*a*b* colours, (..., 3) each; the weights k_L, k_C, k_H are 1. Symbols and steps as in the paper."""
    L1, a1, b1 = np.moveaxis(np.asarray(one, np.float64), -1, 0)
    L2, a2, b2 = np.moveaxis(np.asarray(two, np.float64), -1, 0)
    C_mean = (np.hypot(a1, b1) + np.hypot(a2, b2)) / 2
    G = 0.5 * (1 - np.sqrt(C_mean**7 / (C_mean**7 + 25.0**7)))
    a1, a2 = (1 + G) * a1, (1 + G) * a2
    C1, C2 = np.hypot(a1, b1), np.hypot(a2, b2)
    h1, h2 = np.degrees(np.arctan2(b1, a1)) % 360, np.degrees(np.arctan2(b2, a2)) % 360

    grey = C1 * C2 == 0
    turn = h2 - h1
    dh = np.where(grey, 0.0, np.where(turn > 180, turn - 360, np.where(turn < -180, turn + 360, turn)))
    dL, dC = L2 - L1, C2 - C1
    dH = 2 * np.sqrt(C1 * C2) * np.sin(np.radians(dh) / 2)

    L, C = (L1 + L2) / 2, (C1 + C2) / 2
    total = h1 + h2
    wrapped = np.where(total < 360, total + 360, total - 360)
    h = np.where(grey, total, np.where(np.abs(h1 - h2) <= 180, total, wrapped) / 2)
    T = (
        1
        - 0.17 * np.cos(np.radians(h - 30))
        + 0.24 * np.cos(np.radians(2 * h))
        + 0.32 * np.cos(np.radians(3 * h + 6))
        - 0.20 * np.cos(np.radians(4 * h - 63))
    )
    d_theta = 30 * np.exp(-(((h - 275) / 25) ** 2))
    R_C = 2 * np.sqrt(C**7 / (C**7 + 25.0**7))
    S_L = 1 + 0.015 * (L - 50) ** 2 / np.sqrt(20 + (L - 50) ** 2)
    S_C = 1 + 0.045 * C
    S_H = 1 + 0.015 * C * T
    R_T = -np.sin(np.radians(2 * d_theta)) * R_C
    return np.asarray(np.sqrt((dL / S_L) ** 2 + (dC / S_C) ** 2 + (dH / S_H) ** 2 + R_T * (dC / S_C) * (dH / S_H)))
