"""What an effect does to a picture of somebody, in numbers: to skin, to eyes and mouth, to contrast, and along the edges."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from sunglaze.core.colour.difference import ciede2000
from sunglaze.core.colour.spaces import srgb_to_lab
from sunglaze.core.moment.moment import Moment
from sunglaze.core.targets.memory import Words, parts_of

SURE = 250
"""Of 255: where a mask is at least this, all of a pixel belongs to it."""
LEAST_PIXELS = 12
"""A region of fewer is too small for a mean."""
SEEN = 0.12
"""Of what changes in the camera's picture, the part that must still be seen; common practice, no source."""
EDGE = 24.0
"""Of 255: how much a line round the picture differs from what lies inside it where it shows as a border."""
SIDES = (
    ("left", np.s_[:, 0], np.s_[:, 4]), ("right", np.s_[:, -1], np.s_[:, -5]),
    ("upper", np.s_[0], np.s_[4]), ("lower", np.s_[-1], np.s_[-5]),
)  # fmt: skip
"""Each edge of a picture, and a line a little inside it."""
Bytes = NDArray[np.uint8]
Marks = NDArray[np.bool_]


def skin_shift(before: Bytes, after: Bytes, skin: Bytes) -> tuple[float, float] | None:
    """How far the mean colour of skin shifts: CIEDE2000, and the change of L*. `before`, `after`: (rows, columns, 3), sRGB;
    `skin`: its mask (rows, columns). None where too little skin is seen."""
    where = skin >= SURE
    if where.sum() < LEAST_PIXELS:
        return None
    one, two = (srgb_to_lab(picture[where].mean(axis=0) / 255) for picture in (before, after))
    return float(ciede2000(one, two)), float(two[0] - one[0])


def clipped(before: Bytes, after: Bytes) -> float:
    """The share of pixels (rows, columns, 3) that are black in every channel or full in one, and were not before."""

    def at_an_end(picture: Bytes) -> Marks:
        return np.asarray((picture == 0).all(axis=2) | (picture == 255).any(axis=2))

    return float((at_an_end(after) & ~at_an_end(before)).mean())


def contrast(picture: Bytes) -> float:
    """The standard deviation of L* over a picture (rows, columns, 3) in sRGB."""
    return float(srgb_to_lab(picture / 255.0)[..., 0].std())


def covered(shown: Bytes, moment: Moment, where: Marks, again: Callable[[Moment], Bytes]) -> float | None:
    """The share of a region that is not seen: where another picture of it in the camera makes no difference, wherever an effect
    moved it to. `shown`: (rows, columns, 3) as the effect shows the moment; `where`: the region (rows, columns); `again` shows
    another moment of the same frame. None where the region is too small."""
    assert moment.picture is not None
    count = int(where.sum())
    if count < LEAST_PIXELS:
        return None
    other: Words = moment.picture.copy()
    columns = where.shape[1]
    before, after = parts_of(moment.picture, columns), parts_of(other, columns)
    after[where, :3] = 255 - before[where, :3]
    given = np.abs(after[where, :3].astype(int) - before[where, :3]).mean()
    answer = np.abs(again(replace(moment, picture=other)).astype(int) - shown).mean(axis=2)
    return 1.0 - min(1.0, float((answer >= SEEN * given).sum()) / count)


def bordered(picture: Bytes) -> tuple[str, ...]:
    """The edges of a picture (rows, columns, 3) along which a line of one colour runs that is not in what lies inside it."""
    seen = picture.astype(float)
    return tuple(
        title
        for title, edge, inner in SIDES
        if seen[edge].std(axis=0).max() < 1.0 and np.abs(seen[edge] - seen[inner]).mean() > EDGE
    )
