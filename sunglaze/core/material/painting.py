"""Paintings: closed lines on the flat face, filled with colours or showing a picture, kept as lines and drawn where they run.

A painting is set as {"shapes": [{"points": [[u, v], ...], "smooth": true, "fill": "#rrggbb" or "picture", "opacity": 1,
"soft": 2, "grown": 3, "mirrored": true}, ...]}, the first one below. Points are places in the face's texture, 0 to 1, v down;
`soft` (how wide the edge is) and `grown` (how far beyond its line a shape goes) are pixels of the template, 2,048 a side. Lines
run as those of drawn paths do. web/src/engine/painting.ts draws the same.
"""

from __future__ import annotations

import math
import re
from dataclasses import dataclass
from functools import lru_cache
from typing import Any, Final

import numpy as np
from numpy.typing import NDArray

from sunglaze.core.errors import BadEffect
from sunglaze.core.material.path import FEWEST_POINTS, MOST_POINTS, Path, outline

SIDE: Final = 1024
"""Texels of a painting as it is drawn, across; down it is twice that: colours above, how much of the picture shows below."""
_HEX = re.compile("#[0-9a-fA-F]{6}")
TEMPLATE: Final = 2048
"""Pixels of the template, which lengths are said in."""
MOST_SHAPES = 24
SOFTEST, MOST_GROWN = 400.0, 100.0
PICTURE: Final = "picture"
_BEYOND = 0.5
ON_AXIS: Final = 1.5
"""Texels from the middle within which a mirrored shape's line is no edge: its two halves meet there."""
Doubles = NDArray[np.float64]


@dataclass(frozen=True)
class Shape:
    """`fill`: six hexadecimal digits after a #, or "picture"."""

    points: tuple[tuple[float, float], ...]
    smooth: bool = True
    fill: str = "#a8420d"
    opacity: float = 1.0
    soft: float = 2.0
    grown: float = 0.0
    mirrored: bool = True


@dataclass(frozen=True)
class Painting:
    """Shapes, the lowest first."""

    shapes: tuple[Shape, ...]

    @property
    def reveals(self) -> bool:
        """Whether a shape shows the layer's picture, which is hidden elsewhere then."""
        return any(one.fill == PICTURE for one in self.shapes)

    @property
    def plain(self) -> dict[str, Any]:
        """As it is set."""
        return {"shapes": [{**one.__dict__, "points": [list(point) for point in one.points]} for one in self.shapes]}


def read_painting(plain: Any) -> Painting:
    """A painting as it is set, checked. Raises BadEffect with the shape's number."""
    if not isinstance(plain, dict) or set(plain) != {"shapes"} or not isinstance(plain["shapes"], list):
        raise BadEffect("a painting is set as {'shapes': [...]}")
    if len(plain["shapes"]) > MOST_SHAPES:
        raise BadEffect(f"a painting has up to {MOST_SHAPES} shapes; these are {len(plain['shapes'])}")
    return Painting(tuple(_shape(one, number) for number, one in enumerate(plain["shapes"], 1)))


def _shape(plain: Any, number: int) -> Shape:
    def refused(why: str) -> BadEffect:
        return BadEffect(f"shape {number} of the painting: {why}")

    if not isinstance(plain, dict) or set(plain) - set(Shape.__annotations__):
        raise refused(f"a shape has {', '.join(Shape.__annotations__)}")
    points = plain.get("points")
    if not isinstance(points, list | tuple) or not FEWEST_POINTS <= len(points) <= MOST_POINTS:
        raise refused(f"it has {FEWEST_POINTS} to {MOST_POINTS} points")
    low, high = -_BEYOND, 1 + _BEYOND
    if not all(isinstance(p, list | tuple) and len(p) == 2 and all(_within(n, low, high) for n in p) for p in points):
        raise refused(f"a point is two numbers from {low:g} to {high:g}, parts of the template's side")
    fill = plain.get("fill", Shape.fill)
    if fill != PICTURE and not (isinstance(fill, str) and _HEX.fullmatch(fill)):
        raise refused("it is filled with a colour like #a8420d, or with 'picture'")
    for name, most in (("opacity", 1.0), ("soft", SOFTEST), ("grown", MOST_GROWN)):
        if not _within(plain.get(name, 0.0), 0.0, most):
            raise refused(f"'{name}' is a number from 0 to {most:g}")
    for name in ("smooth", "mirrored"):
        if not isinstance(plain.get(name, True), bool):
            raise refused(f"'{name}' is true or false")
    placed = tuple((float(u), float(v)) for u, v in points)
    return Shape(**{**plain, "points": placed})


def _within(plain: Any, low: float, high: float) -> bool:
    number = isinstance(plain, int | float) and not isinstance(plain, bool) and math.isfinite(plain)
    return number and low <= plain <= high


@lru_cache(maxsize=4)
def painted(painting: Painting) -> NDArray[np.uint8]:
    """A painting drawn: (2 * SIDE, SIDE, 4) of bytes. Above, colours and how much of them is there; below, as grey, how much of
    the layer's picture shows: all of it where no shape shows it, else what those shapes leave."""
    from sunglaze.core.material import brush

    held = np.zeros((SIDE, SIDE, 5))
    held[..., 4] = 0.0 if painting.reveals else 1.0
    for one in painting.shapes:
        shows = one.fill == PICTURE
        parts = [0, 0, 0, 0, 1] if shows else [*(int(one.fill[n : n + 2], 16) / 255 for n in (1, 3, 5)), 1, 0]
        brush.laid(held, covered(one), one.opacity, np.array(parts, np.float64))
    made = np.full((2 * SIDE, SIDE, 4), 255, np.uint8)
    brush.as_bytes(held, made)
    made.setflags(write=False)
    return made


def covered(shape: Shape) -> Doubles:
    """How much of each texel a shape covers, (SIDE, SIDE), 0 to 1: by the distance from its line, which is wholly there half the
    edge inside and gone half of it outside."""
    from sunglaze.core.material import brush

    line = outline(Path(shape.points, shape.smooth)) * SIDE
    grown, half = shape.grown * SIDE / TEMPLATE, max(shape.soft * SIDE / TEMPLATE / 2, 0.5)
    far = brush.distances(line, shape.mirrored, grown + half + 2.0)
    much = np.empty_like(far)
    brush.eased(far, much, grown, half, shape.mirrored)
    return much
