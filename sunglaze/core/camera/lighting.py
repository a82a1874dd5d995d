"""Light and sensor of the stand-in camera, put on when a take is played: performers over a place, developed as a phone would.

Sums are in linear light; the codes of lights are square roots of their amounts (performer/bake.py).
"""

from __future__ import annotations

import itertools
import math
import os
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from typing import Any

import numpy as np
from numba import njit
from numpy.typing import NDArray

from sunglaze.core.camera.takes import FULL, LIGHT_NAMES
from sunglaze.core.colour.spaces import encoded, linear

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


def _developed() -> NDArray[np.float32]:
    """Codes (0 to 255) of linear light by its square root: sRGB (IEC 61966-2-1), above 0.8 with a soft shoulder, as phones do."""
    light = (np.arange(CURVE_STEPS) / (CURVE_STEPS - 1)) ** 2 * BRIGHTEST
    held = np.where(light > 0.8, 0.8 + 0.2 * (1 - np.exp(-(light - 0.8) / 0.2)), light)
    return np.asarray(255 * encoded(held), np.float32)


def _grain() -> NDArray[np.float32]:
    """Noise of the sensor: a square of normal deviates, mostly alike in all colours; frames shift it. A power of 2 wide."""
    chance = np.random.default_rng(GRAIN_SEED)
    common = chance.standard_normal((GRAIN_SIZE, GRAIN_SIZE, 1))
    return np.asarray(0.9 * common + 0.44 * chance.standard_normal((GRAIN_SIZE, GRAIN_SIZE, 3)), np.float32)


GRAIN_SEED, GRAIN_SIZE = 7, 512
CODES = np.arange(256) / 255
TO_LINEAR = linear(CODES).astype(np.float32)
LIGHT_CODES = np.stack([CODES**2 * FULL[name] for name in LIGHT_NAMES]).astype(np.float32)
"""What every code of key, sky and rim stands for, (3, 256)."""
DEVELOPED, GRAIN = _developed(), _grain()


_pool = ThreadPoolExecutor(max_workers=os.cpu_count() or 1, thread_name_prefix="develop")


def in_bands(rows: int, work: Callable[[int, int], None]) -> None:
    """Rows from the first to the one behind the last, shared out: several threads make frames at once, which not every threading
    layer of Numba allows, so it is done here."""
    count = os.cpu_count() or 1
    edges = [rows * n // count for n in range(count + 1)]
    others = [_pool.submit(work, *band) for band in itertools.pairwise(edges[1:])]
    work(edges[0], edges[1])
    for other in others:
        other.result()


def develop(
    light: NDArray[np.float32], mask: NDArray[np.uint8], out: NDArray[np.uint8], frame: int, noise: float, corners: float
) -> None:
    """Linear light (height, width, 3) to bytes: darker corners, shoulder and sRGB, then noise, stronger in the dark. `out`
    (height, width, 4): red, green, blue and the mask. The noise is the frame's own, and the same whenever it is made."""

    def band(first: int, last: int) -> None:
        part = slice(first, last)
        _develop(light[part], mask[part], out[part], first, light.shape[0], frame, noise, corners, DEVELOPED, GRAIN)

    in_bands(light.shape[0], band)


@njit(cache=True, error_model="numpy", fastmath=True, nogil=True)
def lay_place(out: Any, place: Any, amounts: Any, to_linear: Any) -> None:
    """The place (height, width, 3 bytes) in its light, into linear `out` (height, width, 3)."""
    for y in range(out.shape[0]):
        for x in range(out.shape[1]):
            for c in range(3):
                out[y, x, c] = to_linear[place[y, x, c]] * amounts[c]


@njit(cache=True, error_model="numpy", fastmath=True, nogil=True)
def lay_figure(out: Any, colour: Any, lights: Any, amounts: Any, to_linear: Any, light_codes: Any) -> None:
    """A performer (colour with coverage, height by width by 4 bytes; codes of the lights by 3) over linear `out`."""
    for y in range(out.shape[0]):
        for x in range(out.shape[1]):
            coverage = colour[y, x, 3] * np.float32(1 / 255)
            if coverage > 0.0:
                key = light_codes[0, lights[y, x, 0]]
                sky = light_codes[1, lights[y, x, 1]]
                rim = light_codes[2, lights[y, x, 2]]
                for c in range(3):
                    lit = to_linear[colour[y, x, c]] * (key * amounts[c] + sky * amounts[3 + c] + rim * amounts[6 + c])
                    out[y, x, c] += (lit - out[y, x, c]) * coverage


@njit(cache=True, error_model="numpy", fastmath=True, nogil=True)
def _develop(
    light: Any, mask: Any, out: Any, first: int, height: int, frame: int, noise: float, corners: float, developed: Any, grain: Any
) -> None:
    """Rows from `first` on of a picture `height` rows high."""
    rows, width = light.shape[0], light.shape[1]
    last = grain.shape[0] - 1
    one, half, two, top = np.float32(1), np.float32(0.5), np.float32(2), np.float32(developed.shape[0] - 1)
    scale = top / np.float32(math.sqrt(BRIGHTEST))
    strong, weaker = np.float32(1.45 * noise), np.float32(noise / 255)
    corner, wide, zero, white = np.float32(2 * corners), np.float32(1 / width), np.float32(0), np.float32(255)
    down, across = frame * 197, frame * 311
    flat, dim, place = light.reshape(rows, 3 * width), np.empty(3 * width, np.float32), np.empty(3 * width, np.int32)
    for y in range(rows):
        fy = np.float32((first + y + 0.5) / height - 0.5)
        row = (first + y + down) & last
        for x in range(width):
            fx = (np.float32(x) + half) * wide - half
            far = min(one, two * (fx * fx + fy * fy))
            dim[3 * x] = dim[3 * x + 1] = dim[3 * x + 2] = one - corner * far * math.sqrt(far)
        # By itself, so that it is done for several numbers at a time; reading tables is not.
        for n in range(3 * width):
            place[n] = np.int32(min(math.sqrt(flat[y, n] * dim[n]) * scale, top))
        for x in range(width):
            column = (x + across) & last
            for c in range(3):
                code = developed[place[3 * x + c]]
                code += (strong - weaker * code) * grain[row, column, c] + half
                out[y, x, c] = np.uint8(min(white, max(zero, code)))
            out[y, x, 3] = mask[y, x]
