"""Light and sensor of the stand-in camera, put on when a take is played: performers over a place, developed as a phone would.

Sums are in linear light; the codes of lights are square roots of their amounts (performer/bake.py).
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Any

import numpy as np
from numba import njit, prange
from numpy.typing import NDArray

KEY_FULL, SKY_FULL, RIM_FULL = 5.0, 2.0, 2.0
BRIGHTEST = 4.0
"""Linear light at the end of the table that encodes it."""
CURVE_STEPS = 4096
Triple = tuple[float, float, float]


@dataclass(frozen=True)
class Light:
    """Colours of key, sky and rim on performers and of all light on the place, linear; then the sensor: exposure, noise (standard
    deviation in encoded codes of 255 at middle grey) and how far the corners darken."""

    title: str
    key: Triple
    sky: Triple
    rim: Triple
    place: Triple
    exposure: float = 1.0
    noise: float = 1.0
    corners: float = 0.08

    def numbers(self) -> NDArray[np.float32]:
        return np.array([*self.key, *self.sky, *self.rim], np.float32) * np.float32(self.exposure)


LIGHTS = {
    "noon": Light("Noon", (0.86, 0.83, 0.79), (0.4, 0.42, 0.45), (0.18, 0.18, 0.2), (0.95, 0.94, 0.92)),
    "shade": Light("Shade", (0.2, 0.21, 0.23), (0.76, 0.83, 0.94), (0.1, 0.11, 0.13), (0.8, 0.84, 0.9), noise=1.4),
    "lamp": Light("Lamp", (1.15, 0.7, 0.32), (0.16, 0.12, 0.12), (0.1, 0.1, 0.16), (0.16, 0.12, 0.12), noise=3.0, corners=0.2),
    "dusk": Light("Dusk", (0.1, 0.1, 0.14), (0.17, 0.2, 0.32), (0.1, 0.12, 0.2), (0.14, 0.17, 0.3), 1.3, 7.0, 0.22),
    "against": Light("Against the light", (0.03, 0.03, 0.03), (0.26, 0.27, 0.3), (1.5, 1.35, 1.1), (1.7, 1.62, 1.5), noise=2.2),
}


def _to_linear() -> NDArray[np.float32]:
    codes = np.arange(256) / 255
    return np.where(codes <= 0.04045, codes / 12.92, ((codes + 0.055) / 1.055) ** 2.4).astype(np.float32)


def _developed() -> NDArray[np.float32]:
    """Codes (0 to 255) of linear light by its square root: sRGB (IEC 61966-2-1), above 0.8 with a soft shoulder, as phones do."""
    light = (np.arange(CURVE_STEPS) / (CURVE_STEPS - 1)) ** 2 * BRIGHTEST
    held = np.where(light > 0.8, 0.8 + 0.2 * (1 - np.exp(-(light - 0.8) / 0.2)), light)
    return np.asarray(255 * np.where(held <= 0.0031308, 12.92 * held, 1.055 * held ** (1 / 2.4) - 0.055), np.float32)


TO_LINEAR, DEVELOPED = _to_linear(), _developed()
SQUARES = ((np.arange(256) / 255) ** 2).astype(np.float32)


@njit(cache=True, parallel=True, error_model="numpy", fastmath=True, nogil=True)
def lay_place(out: Any, place: Any, amounts: Any, to_linear: Any) -> None:
    """The place (height, width, 3 bytes) in its light, into linear `out` (height, width, 3)."""
    height, width = out.shape[0], out.shape[1]
    for y in prange(height):
        for x in range(width):
            for c in range(3):
                out[y, x, c] = to_linear[place[y, x, c]] * amounts[c]


@njit(cache=True, parallel=True, error_model="numpy", fastmath=True, nogil=True)
def lay_figure(out: Any, colour: Any, lights: Any, amounts: Any, to_linear: Any, squares: Any) -> None:
    """A performer (colour with coverage, height by width by 4 bytes; codes of the lights by 3) over linear `out`."""
    height, width = out.shape[0], out.shape[1]
    for y in prange(height):
        for x in range(width):
            coverage = colour[y, x, 3] / 255.0
            if coverage > 0.0:
                key = squares[lights[y, x, 0]] * KEY_FULL
                sky = squares[lights[y, x, 1]] * SKY_FULL
                rim = squares[lights[y, x, 2]] * RIM_FULL
                for c in range(3):
                    lit = to_linear[colour[y, x, c]] * (key * amounts[c] + sky * amounts[3 + c] + rim * amounts[6 + c])
                    out[y, x, c] += (lit - out[y, x, c]) * coverage


@njit(cache=True, inline="always", error_model="numpy")
def _pcg(value: Any) -> Any:
    """pcg hash of 32 bits (Jarzynski and Olano 2020)."""
    state = (value * np.uint64(747796405) + np.uint64(2891336453)) & np.uint64(0xFFFFFFFF)
    word = (((state >> ((state >> np.uint64(28)) + np.uint64(4))) ^ state) * np.uint64(277803737)) & np.uint64(0xFFFFFFFF)
    return (word >> np.uint64(22)) ^ word


@njit(cache=True, parallel=True, error_model="numpy", fastmath=True, nogil=True)
def develop(linear: Any, mask: Any, out: Any, frame: int, noise: float, corners: float, developed: Any) -> None:
    """Linear light to bytes: darker corners, shoulder and sRGB, then noise, stronger in the dark. `out` (height, width, 4):
    red, green, blue and the mask. The noise is a hash of place and frame."""
    height, width = linear.shape[0], linear.shape[1]
    top = developed.shape[0] - 1
    scale = top / math.sqrt(BRIGHTEST)
    for y in prange(height):
        fy = (y + 0.5) / height - 0.5
        for x in range(width):
            fx = (x + 0.5) / width - 0.5
            dim = 1.0 - corners * min(1.0, 2.0 * (fx * fx + fy * fy)) ** 1.5 * 2.0
            hashed = _pcg(np.uint64(y * 65536 + x) + np.uint64(frame) * np.uint64(2654435761))
            common = ((hashed & np.uint64(1023)) + ((hashed >> np.uint64(10)) & np.uint64(1023)) - 1023.0) / 1023.0
            for c in range(3):
                at = math.sqrt(max(0.0, linear[y, x, c] * dim)) * scale
                code = developed[int(min(at, top))]
                own = ((hashed >> np.uint64(4 * c)) & np.uint64(4095)) / 4095.0 - 0.5
                grain = noise * (1.45 - code / 255.0) * (1.9 * common + 0.9 * own)
                out[y, x, c] = int(min(255.0, max(0.0, code + grain + 0.5)))
            out[y, x, 3] = mask[y, x]
