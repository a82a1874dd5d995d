"""What helps to judge a picture as it is sent: the probe's colours, marks on what is cut off, scopes of a part."""

from __future__ import annotations

from typing import Any, cast

from sunglaze.core.material.files import Bytes
from sunglaze.core.review.scopes import Scope, scope

SCOPE_COLUMNS = 270
OVER, UNDER = (110, 0, 255), (255, 110, 0)
"""Blue, green, red of what marks values that are cut off above and below."""


def probed(place: tuple[float, float], after: Bytes, before: Bytes) -> dict[str, Any]:
    """For a frame's header: the colour at a place (u, v) before and after, red first, 0 to 255; nothing outside of the picture.
    `after` (rows, columns, 4) has blue first, `before` red."""
    u, v = place
    if not (0 <= u < 1 and 0 <= v < 1):
        return {}
    row, column = int(v * before.shape[0]), int(u * before.shape[1])
    return {"probe": {"before": before[row, column, :3].tolist(), "after": after[row, column, 2::-1].tolist()}}


def mark_clipping(pixels: Bytes) -> None:
    """Paint over what is cut off in any channel; `pixels` (rows, columns, 4), blue first, is changed."""
    pixels[..., :3][(pixels[..., :3] == 0).all(axis=2)] = UNDER
    pixels[..., :3][(pixels[..., :3] == 255).any(axis=2)] = OVER


def scope_of(kind: str, picture: Bytes, region: tuple[float, float, float, float]) -> Bytes:
    """A scope of a part of a picture (rows, columns, 3), red first. `region`: left, top, right, bottom in parts of it."""
    rows, columns = picture.shape[:2]
    left, top, right, bottom = region
    part = picture[
        int(top * rows) : max(int(top * rows) + 1, int(bottom * rows)),
        int(left * columns) : max(int(left * columns) + 1, int(right * columns)),
    ]
    every = max(1, part.shape[1] // SCOPE_COLUMNS)
    return scope(cast(Scope, kind), part[::every, ::every])
