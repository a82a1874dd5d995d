"""Fill polygons by exact coverage: what part of each pixel lies inside, as rasterisers of letters find it.

Every edge leaves in each row the area between itself and the row's right end; their sums along the row are the coverage. Whole
numbers count as once, so what a polygon runs round twice is filled. web/src/camera/filling.ts does the same, in the same order.
"""

from __future__ import annotations

from collections.abc import Iterable

import numpy as np
from numpy.typing import NDArray

Doubles = NDArray[np.float64]


def mask_of(rows: int, columns: int, steps: Iterable[tuple[Doubles, float]]) -> NDArray[np.uint8]:
    """A mask (rows, columns) of bytes from polygons (n, 2), laid on one another, with what each fills in: 0 to 1."""
    from sunglaze.core.face.coverage import fill

    mask = np.zeros((rows, columns))
    for polygon, value in steps:
        fill(mask, np.ascontiguousarray(polygon, np.float64), value)
    return np.asarray(np.floor(mask * 255 + 0.5), np.uint8)
