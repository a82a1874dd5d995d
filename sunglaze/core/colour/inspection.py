"""What an artist should know of a lookup before using it: range, distance from neutral, monotony, and lossy damage."""

from __future__ import annotations

from dataclasses import asdict, dataclass
from math import comb
from typing import Any

import numpy as np

from sunglaze.core.colour.lut import Floats, Lut, inputs_of

DAMAGE = 0.52 / 255
"""Noise above which a lookup is named as damaged. By trial: rounding to 8 bits alone reaches 0.47 / 255 on smooth grades;
after JPEG at quality 95, the least seen is 0.54 / 255. `./run bench` measures it anew."""

LIKE_A_LOOKUP, LIKE_A_PICTURE = 0.8, 0.6
"""Likeness from which a picture is taken for a lookup, and below which for a picture. By trial: grades 0.88 to 1, black and
white 1, two tones cut hard 0.66; faces and places 0.51 at most, a gradient 0.53, noise 0 (common practice, no source)."""
SAYS_SOMETHING = 0.005
"""Share of a lookup's variance that each part of a colour has at least: of luma blue has 0.009 (BT.709), of a ramp aslant over a
strip of 16 steps red has 0.004."""
_SAMPLE = 6000

_ORDER = 4
_KEPT = 0.7  # the share of smallest differences that is averaged; kinks and clipped ends fall into the rest
_MEAN_OF_KEPT = 0.4726  # mean of the smallest 70 % of |x|, x standard normal
_FEWEST = 64


@dataclass(frozen=True)
class Inspection:
    """`noise` is None where the table is too small to measure it; distances are in units of full scale."""

    kind: str
    size: int
    lowest: float
    highest: float
    mean_shift: float
    largest_shift: float
    monotonic: bool
    noise: float | None
    damaged: bool
    stored_as: str

    def as_dict(self) -> dict[str, Any]:
        """The facts as JSON has them."""
        return asdict(self)


def inspect(lut: Lut, stored_as: str = "") -> Inspection:
    """Measure a lookup. `stored_as` names a lossy way in which its file was stored (files.py), or ''."""
    shift = np.abs(lut.table - inputs_of(lut))
    measured = noise(lut) if lut.is_cube else None
    return Inspection(
        kind="cube" if lut.is_cube else "curves",
        size=lut.size,
        lowest=float(lut.table.min()),
        highest=float(lut.table.max()),
        mean_shift=float(shift.mean()),
        largest_shift=float(shift.max()),
        monotonic=_monotonic_grey(lut),
        noise=measured,
        damaged=bool(stored_as) or (measured is not None and measured > DAMAGE),
        stored_as=stored_as,
    )


def _monotonic_grey(lut: Lut) -> bool:
    along = lut.table if not lut.is_cube else lut.table[(np.arange(lut.size),) * 3]
    # Half a code of 8 bits is rounding, not a fold.
    return bool((np.diff(along.astype(np.float64), axis=0) >= -0.5 / 255).all())


def noise(lut: Lut) -> float | None:
    """Standard deviation of what a local cubic does not explain, from fourth differences along each axis.

    A smooth grade's fourth difference is near zero, so what is left is rounding and damage. Differences are scaled as for
    white noise, sqrt(comb(8, 4)); entries that are clipped (0 or 1) do not count. None where fewer than 64 are left.
    """
    scale = np.sqrt(comb(2 * _ORDER, _ORDER)) * _MEAN_OF_KEPT
    estimates = []
    if lut.size <= _ORDER:
        return None
    for axis in range(3):
        differences = np.abs(np.diff(lut.table.astype(np.float64), n=_ORDER, axis=axis))
        centre = np.take(lut.table, range(_ORDER // 2, lut.size - _ORDER // 2), axis=axis)
        for channel in range(3):
            estimate = _trimmed(differences[..., channel], centre[..., channel])
            if estimate is not None:
                estimates.append(estimate)
    return float(np.mean(estimates) / scale) if estimates else None


def likeness(lut: Lut) -> float:
    """How much of what a cube holds (0 to 1 of its variance) hangs smoothly on the colour that it is looked up by: a polynomial
    of the third degree, by least squares. What a picture editor makes of a neutral lookup does; any other picture does not.
    Stripes and ramps hang smoothly on one or two of the colour's parts: where a part says nothing, it is not sure."""
    given, held = (part.reshape(-1, 3).astype(np.float64) for part in (inputs_of(lut), lut.table))
    every = max(1, len(given) // _SAMPLE)
    given, held = given[::every], held[::every]
    r, g, b = given.T
    terms = np.stack([np.ones_like(r), r, g, b, r * r, g * g, b * b, r * g, g * b, r * b, r**3, g**3, b**3], axis=1)
    left = held - terms @ np.linalg.lstsq(terms, held, rcond=None)[0]
    whole = float(((held - held.mean(axis=0)) ** 2).sum())
    if whole <= 1e-4 * len(held):
        return 0.0
    found = max(0.0, 1.0 - float((left**2).sum()) / whole)
    return found if _least_said(lut) > SAYS_SOMETHING else min(found, (LIKE_A_PICTURE + LIKE_A_LOOKUP) / 2)


def _least_said(lut: Lut) -> float:
    """Of red, green and blue that are looked up, the one that says least: its share of the variance (main effect, the index of
    the first order of Sobol, 1993)."""
    table = np.asarray(lut.table, np.float64)
    whole = float(table.var(axis=(0, 1, 2)).sum())
    others = ((1, 2), (0, 2), (0, 1))
    return min(float(table.mean(axis=axes).var(axis=0).sum()) for axes in others) / whole


def _trimmed(differences: np.typing.NDArray[np.float64], centre: Floats) -> float | None:
    counted = differences[(centre > 1e-6) & (centre < 1 - 1e-6)]
    if counted.size < _FEWEST:
        return None
    kept = int(counted.size * _KEPT)
    return float(np.partition(counted, kept)[:kept].mean())
