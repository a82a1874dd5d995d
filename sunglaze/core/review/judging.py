"""Judging aids beside a grade: what it does to ten skin tones and along grey."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from sunglaze.core.camera.performer.people import MONK_TONES
from sunglaze.core.colour.difference import ciede2000
from sunglaze.core.colour.lut import Lut
from sunglaze.core.colour.spaces import srgb_to_lab
from sunglaze.core.render.grade import apply_lut, resampled

GREY_STEPS = 33
CLOUD_STEPS = 6


@dataclass(frozen=True)
class Tone:
    before: str
    after: str
    difference: float


@dataclass(frozen=True)
class Judged:
    """What a lookup at a strength does.

    `grey`: what each of 33 greys from black to white becomes. `tones`: the skin tones with their CIEDE2000 shift. `cloud`:
    what 6 by 6 by 6 colours become, as hex, blue slowest and red fastest.
    """

    grey: list[tuple[float, float, float]]
    cloud: list[str]
    tones: list[Tone]


def judge(lut: Lut, strength: float = 1.0) -> Judged:
    ramp = np.linspace(0, 1, GREY_STEPS)
    grey = apply_lut(lut, np.repeat(ramp[None, :, None], 3, axis=2), strength)[0]
    before = np.array([[int(tone[n : n + 2], 16) / 255 for n in (1, 3, 5)] for tone in MONK_TONES])
    after = np.clip(apply_lut(lut, before[None], strength)[0].astype(np.float64), 0, 1)
    shifts = ciede2000(srgb_to_lab(before), srgb_to_lab(after))
    tones = [Tone(b, _hex(a), round(float(d), 2)) for b, a, d in zip(MONK_TONES, after, shifts, strict=True)]
    cloud = resampled(lut, CLOUD_STEPS).table.reshape(-1, 3)
    return Judged([(float(r), float(g), float(b)) for r, g, b in grey], [_hex(np.clip(c, 0, 1)) for c in cloud], tones)


def _hex(rgb: NDArray[np.float64]) -> str:
    return "#" + "".join(f"{round(float(part) * 255):02x}" for part in rgb)
