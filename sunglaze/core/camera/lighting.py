"""Light and sensor of the stand-in camera, put on when a take is played: performers over a place, developed as a phone would.

Sums are in linear light; the codes of lights are square roots of their amounts (bake/films.py).
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from sunglaze.core.camera.laying import Standing, given, in_bands
from sunglaze.core.camera.takes import FULL, LIGHT_NAMES, SHINE_NAMES
from sunglaze.core.colour.spaces import encoded, linear
from sunglaze.core.targets.memory import Words, blank

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
        """Key, sky and rim, three numbers each, times the exposure (9), float32."""
        return np.array([*self.key, *self.sky, *self.rim], np.float32) * np.float32(self.exposure)


# At noon a high sun lights a face that looks at it eleven times as much as a clear sky, of which it sees half (110 against
# 10 thousand lux, from memory).
LIGHTS = {
    "noon": Light("Noon", (1.42, 1.38, 1.31), (0.125, 0.132, 0.142), (0.12, 0.12, 0.135), (0.95, 0.94, 0.92)),
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


def _grain() -> NDArray[np.int8]:
    """Noise of the sensor: a square of normal deviates in parts of GRAIN_ONE, mostly alike in all colours, none in a mask; frames
    shift it. A power of 2 wide. Small, for all of it is read for every frame."""
    chance = np.random.default_rng(GRAIN_SEED)
    common = chance.standard_normal((GRAIN_SIZE, GRAIN_SIZE, 1))
    made = np.zeros((GRAIN_SIZE, GRAIN_SIZE, 4))
    made[..., :3] = 0.9 * common + 0.44 * chance.standard_normal((GRAIN_SIZE, GRAIN_SIZE, 3))
    return np.asarray(np.rint(made.reshape(GRAIN_SIZE, -1) * GRAIN_ONE).clip(-127, 127), np.int8)


GRAIN_SEED, GRAIN_SIZE, GRAIN_ONE = 7, 512, 28
CODES = np.arange(256) / 255
TO_LINEAR = linear(CODES).astype(np.float32)
FULL_LIGHTS = np.array([FULL[name] / 255**2 for name in LIGHT_NAMES], np.float32)
FULL_SHINES = np.array([FULL[name] / 255**2 for name in SHINE_NAMES], np.float32)
"""What the square of a code of key, sky and rim, and of their shine, is to be taken times."""
DEVELOPED, GRAIN = _developed(), _grain()


def lit_place(colours: NDArray[np.float32], light: Light) -> NDArray[np.uint16]:
    """What stands behind performers, before noise (2, height, width, 4): roots of linear light, 65535 that of BRIGHTEST; then as
    the sensor gives it, in 256ths of a code. The last number, that of the mask, is 0. `colours`: linear light (height, width, 3).
    """
    from sunglaze.core.camera.rows import develop_place

    made = np.zeros((2, *colours.shape[:2], 4), np.uint16)
    made[0, ..., :3] = np.rint(np.sqrt(np.minimum(colours / BRIGHTEST, 1)) * 65535)

    def band(first: int, end: int) -> None:
        develop_place(made[1], made[0], light.corners, DEVELOPED, first, end)

    in_bands(len(colours), band)
    return made


def compose(place: NDArray[np.uint16], figures: Sequence[Standing], light: Light, frame: int, exposure: float = 1.0) -> Words:
    """Performers over a place, in a light, as the sensor gives them: darker corners, shoulder and sRGB, then noise, stronger in
    the dark. The noise is the frame's own, and the same whenever it is made. Alpha of the words (rows,
    padded columns) is the mask.

    `place`: of `lit_place`. `figures`: those behind first. `exposure`: of the figures, beside the light's own.
    """
    from sunglaze.core.camera.rows import compose_rows

    height, width = place.shape[1:3]
    lights = light.numbers().reshape(3, 3) * np.float32(exposure)
    amounts = np.concatenate([lights * full[:, None] for full in (FULL_LIGHTS, FULL_SHINES)]).ravel()
    told, out = given(figures, width, height), blank(height, width)
    # Rows are padded at their ends.
    lines = out.view(np.uint8)

    def band(first: int, end: int) -> None:
        sensor = frame, light.noise, light.corners, DEVELOPED, GRAIN
        compose_rows(place[0], place[1], lines, told, amounts, TO_LINEAR, first, end, *sensor)

    in_bands(height, band)
    return out
