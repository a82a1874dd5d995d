"""What an effect does to a picture of somebody, in numbers: to skin, to eyes and mouth, to contrast, and along the edges."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from typing import Any

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
EDGE, ALONG = 24.0, 0.75
"""Of 255: how much a line round the picture differs from what lies inside it where it shows as a border; and along how
much of the edge it must. Common practice, no source."""
MARK, MOVED = 60, 0.1
"""Of 255: by how much skin is marked to find it again; and the part of it that must lie elsewhere to have been moved."""
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


def moved_skin_shift(
    before: Bytes, after: Bytes, moment: Moment, skin: Bytes, again: Callable[[Moment], Bytes]
) -> tuple[float, float] | None:
    """The same where an effect moves skin, as a crop does: the same skin is compared. It is found by marking it in the camera's
    picture, evenly and then by how far across and down it lies. `before`, `after`: (rows, columns, 3); `skin`: (rows, columns);
    `again` shows another moment of the same frame, as `after`."""
    where = skin >= SURE
    if where.sum() < LEAST_PIXELS:
        return None
    rows, columns = np.nonzero(where)
    way = np.where(before < 128, 1.0, -1.0)

    def answer(share: NDArray[np.float64]) -> NDArray[np.float64]:
        """How much what is shown changes where skin is marked by a share of MARK."""
        assert moment.picture is not None
        other: Words = moment.picture.copy()
        parts = parts_of(other, where.shape[1])
        parts[where, :3] = np.rint(before + way * MARK * share[..., None])[where]
        seen: NDArray[np.float64] = np.abs(again(replace(moment, picture=other)).astype(float) - after).sum(axis=2)
        return seen

    evenly = answer(np.ones(where.shape))
    seen = evenly >= SEEN * 3 * MARK
    if seen.any():
        seen = evenly >= np.median(evenly[seen]) / 2
    if not seen.any() or (seen & ~where).sum() <= MOVED * seen.sum():
        return skin_shift(before, after, skin)
    found = []
    for places, axis in ((rows, 0), (columns, 1)):
        low, high = int(places.min()), max(int(places.max()), int(places.min()) + 1)
        ramp = np.clip((np.indices(where.shape)[axis] - low) / (high - low), 0.0, 1.0)
        share = np.clip(answer(ramp)[seen] / evenly[seen], 0.0, 1.0)
        found.append(np.rint(low + share * (high - low)).astype(int))
    same = where[found[0], found[1]]
    if same.sum() < LEAST_PIXELS:
        return skin_shift(before, after, skin)
    one = srgb_to_lab(before[found[0], found[1]][same].mean(axis=0) / 255)
    two = srgb_to_lab(after[seen][same].mean(axis=0) / 255)
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


def bordered(before: Bytes, after: Bytes) -> tuple[str, ...]:
    """The edges of a picture along which a line of one colour runs that is neither in what lies inside it nor in the camera's
    picture. `before`, `after`: (rows, columns, 3)."""

    def apart(picture: Bytes, edge: Any, inner: Any) -> NDArray[np.float64]:
        step: NDArray[np.float64] = np.abs(picture[edge].astype(float) - picture[inner]).max(axis=-1)
        return step

    return tuple(
        title
        for title, edge, inner in SIDES
        if after[edge].std(axis=0).max() < 1.0
        and ((apart(after, edge, inner) > EDGE) & (apart(before, edge, inner) <= EDGE)).mean() >= ALONG
    )
