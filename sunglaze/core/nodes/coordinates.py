"""Coordinates: places on the screen, and what bends them. u runs right, v down, 0 to 1, pixel centres at half a pixel.

A place that is not wired is the drawn pixel's own. Centred coordinates have their origin in the middle of the screen and are
measured in short sides of it, so that circles are round on every screen.
"""

from __future__ import annotations

import math
from typing import Annotated, NamedTuple

from sunglaze.core.language import functions as f
from sunglaze.core.language import pictures as p
from sunglaze.core.language import vector as v
from sunglaze.core.language.expression import Value
from sunglaze.core.language.moments import frame_size
from sunglaze.core.language.vector import Vec
from sunglaze.core.nodes.handles import Handle, handle
from sunglaze.core.nodes.node import node
from sunglaze.core.nodes.types import (
    Boolean,
    Degrees,
    Fraction,
    Number,
    PictureIn,
    ReferencePixels,
    Signed,
    Span,
    Vec2,
    Whole,
    one_of,
)

RADIANS = math.pi / 180
SMALLEST_CORNER = 1e-6
"""Of the screen: twice the area that three corners of a quadrilateral enclose, about that of a pixel."""
NOTHING_LEFT = 1e-4
"""Of a sum's terms: what is less is their rounding (single precision has 6e-8 of each, and these went through divisions: 3e-5 was
met of a sum that is 0)."""


def sides() -> Vec:
    """The frame's width and height in short sides: one of the two is 1."""
    columns, rows = (v.to_float(n) for n in frame_size())
    short = v.minimum(columns, rows)
    return Vec(v.divide(columns, short), v.divide(rows, short))


def centred(place: Vec) -> Vec:
    """Screen coordinates from the middle, in short sides."""
    return (place - 0.5) * sides()


def uncentred(place: Vec) -> Vec:
    """The inverse of `centred`: a place from its distance to the middle in parts of the short side."""
    return place / sides() + 0.5


def turned(place: Vec, degrees: Value) -> Vec:
    """A vector turned clockwise (v runs down)."""
    c, s = f.cos(degrees * RADIANS), f.sin(degrees * RADIANS)
    return Vec(place.x * c - place.y * s, place.x * s + place.y * c)


@node("Screen coordinates", "coordinates")
def screen_coordinates() -> Vec2:
    """The place of this pixel: 0, 0 at the top left, 1, 1 at the bottom right."""
    return p.here()


@node("Centred coordinates", "coordinates")
def centred_coordinates(place: Vec2 = None) -> Vec2:
    """Places from the middle of the screen, measured in its short side: round things stay round."""
    return centred(place)


@node("Back to screen coordinates", "coordinates")
def from_centred(place: Vec2 = (0.0, 0.0)) -> Vec2:
    """Screen coordinates of a place given in centred ones."""
    return uncentred(place)


class Polar(NamedTuple):
    """What *Polar* gives."""

    radius: Number
    angle: Degrees


@node("Polar", "coordinates", handle("point", "Centre", at="centre"))
def polar(place: Vec2 = None, centre: Vec2 = (0.5, 0.5)) -> Polar:
    """How far a place is from the centre, in short sides, and in which direction: 0 degrees right, 90 down."""
    away = (place - centre) * sides()
    return Polar(v.length(away), f.atan2(away.y, away.x) / RADIANS)


@node("Place", "coordinates")
def place(
    place: Vec2 = None,
    shift: Vec2 = (0.0, 0.0),
    turn: Degrees = 0.0,
    scale: Vec2 = (1.0, 1.0),
    pivot: Vec2 = (0.5, 0.5),
) -> Vec2:
    """Moves, turns (clockwise) and scales what is sampled here, about a pivot. A scale of 2 shows it twice as large."""
    away = turned((place - shift - pivot) * sides(), -turn)
    return v.partwise(v.divide, away, scale) / sides() + pivot


def _quadrilateral(first: Vec, second: Vec, third: Vec, fourth: Vec) -> list[tuple[Value, ...]]:
    """The map of a square to a quadrilateral (Heckbert 1989): to the right, down, its corner, and what perspective divides by."""
    one, two, much = second - third, fourth - third, first - second + third - fourth
    over = one.x * two.y - two.x * one.y
    g, h = v.divide(much.x * two.y - two.x * much.y, over), v.divide(one.x * much.y - much.x * one.y, over)
    right, down = second - first + second * g, fourth - first + fourth * h
    return [right.parts(), down.parts(), first.parts(), (g, h)]


def in_quad(square: Vec, first: Vec, second: Vec, third: Vec, fourth: Vec) -> Vec:
    """Where a place of the unit square lies in a quadrilateral, in perspective: what *Pin corners* takes back."""
    right, down, corner, (g, h) = _quadrilateral(first, second, third, fourth)
    u, w = square.parts()
    under = u * g + w * h + 1.0
    return Vec(*(v.divide(u * r + w * d + c, under) for r, d, c in zip(right, down, corner, strict=True)))


@node(
    "Pin corners", "coordinates",
    Handle(kind="quad", title="Corners", moves={one: one for one in ("first", "second", "third", "fourth")}),
)  # fmt: skip
def pin_corners(
    place: Vec2 = None, first: Vec2 = (0.2, 0.3), second: Vec2 = (0.8, 0.3), third: Vec2 = (0.8, 0.7), fourth: Vec2 = (0.2, 0.7)
) -> Vec2:
    """Where to sample a picture so that its four corners (upper left, then clockwise) lie at these places, in perspective; what
    lies behind the horizon is outside of it. The map of a square to a quadrilateral and its inverse: Heckbert (1989)."""
    (a, d), (b, e), (c, f_), (g, h) = _quadrilateral(first, second, third, fourth)
    x, y = place.parts()
    pairs = (d * h, e * g), (b * g, a * h), (a * e, b * d)
    slope = [one - other for one, other in pairs]
    much = [v.absolute(one) + v.absolute(other) for one, other in pairs]

    def ahead(at: Vec) -> tuple[Value, Value]:
        """How far a place is before the horizon, on a scale of its own, and whether more than rounding is left of it."""
        far = slope[0] * at.x + slope[1] * at.y + slope[2]
        most = much[0] * v.absolute(at.x) + much[1] * v.absolute(at.y) + much[2]
        return far, v.absolute(far) > most * NOTHING_LEFT

    w, tells = ahead(place)
    across = (e - f_ * h) * x + (c * h - b) * y + (b * f_ - c * e)
    along = (f_ * g - d) * x + (a - c * g) * y + (c * d - a * f_)
    # Before the horizon is where the middle of the quadrilateral is. Where its sides cross it may lie on the horizon itself.
    before, has_one = ahead((first + second + third + fourth) * 0.25)
    # Where three corners are in a line there is no such map.
    row = (first, second, third, fourth)
    along_sides = [row[n - 3] - row[n] for n in range(4)]
    bent = has_one
    for one, two in zip(along_sides, along_sides[1:] + along_sides[:1], strict=True):
        over, under = one.x * two.y, two.x * one.y
        least = v.maximum((v.absolute(over) + v.absolute(under)) * NOTHING_LEFT, SMALLEST_CORNER)
        bent = bent & (v.absolute(over - under) > least)
    seen = ((w * before) > 0.0) & tells & bent
    return Vec(v.select(seen, v.divide(across, w), -1.0), v.select(seen, v.divide(along, w), -1.0))


@node("Tile", "coordinates")
def tile(place: Vec2 = None, across: Annotated[Number, Span(1, 40)] = 2.0, down: Annotated[Number, Span(1, 40)] = 2.0) -> Vec2:
    """The screen so many times beside itself."""
    return Vec(v.fract(place.x * across), v.fract(place.y * down))


@node("Mirror", "coordinates", handle("point", "Middle", at="middle"))
def mirror(
    place: Vec2 = None, across: Boolean = True, down: Boolean = False, middle: Vec2 = (0.5, 0.5), other_side: Boolean = False
) -> Vec2:
    """Shows one side on both sides of a line: the left or upper one, or the other."""

    def fold(x: Value, at: Value, on: Value) -> Value:
        away = v.absolute(x - at)
        return v.select(on, v.select(other_side, at + away, at - away), x)

    return Vec(fold(place.x, middle.x, across), fold(place.y, middle.y, down))


class Cell(NamedTuple):
    """What *Cells* gives."""

    inside: Vec2
    middle: Vec2
    column: Whole
    row: Whole


def cell_of(place: Vec, count: Value, origin: Vec | float = 0.0) -> Cell:
    """Square cells from a corner of one of them on, `count` along the short side, and where a place lies in its own."""
    long = sides() * count
    grid = (place - origin) * long
    low = v.partwise(v.floor, grid)
    return Cell(grid - low, (low + 0.5) / long + origin, v.to_int(low.x), v.to_int(low.y))


@node("Cells", "coordinates", Handle(kind="box", title="Cell", moves={"at": "origin", "count": "count"}, corner=True))
def cells(place: Vec2 = None, count: Annotated[Number, Span(1, 400, 1)] = 20.0, origin: Vec2 = (0.0, 0.0)) -> Cell:
    """Cuts the screen into square cells, so many along its short side, from a corner on: the place in the cell, its middle, its
    column and row."""
    return cell_of(place, v.maximum(count, 1e-3), origin)


@node("Scatter in cells", "coordinates")
def scatter(
    place: Vec2 = None,
    count: Annotated[Number, Span(1, 200, 1)] = 10.0,
    spread: Fraction = 0.5,
    turn: Degrees = 360.0,
    smallest: Fraction = 0.5,
    seed: Annotated[Whole, Span(0, 1000)] = 0,
) -> Cell:
    """A copy of what is sampled in every square cell, each shifted, turned and scaled by chance."""
    found = cell_of(place, v.maximum(count, 1e-3))

    def chance(which: int) -> Value:
        return f.unit(f.hashed(seed, found.column, found.row, which))

    shifted = found.inside - 0.5 - Vec(chance(0) - 0.5, chance(1) - 0.5) * spread
    size = v.mix(smallest, 1.0, chance(3))
    inside = v.partwise(v.divide, turned(shifted, chance(2) * turn), size) + 0.5
    return Cell(inside, found.middle, found.column, found.row)


@node("Bend by a lens", "coordinates", handle("circle", "Lens", at="centre", radius="radius"))
def lens(
    place: Vec2 = None, amount: Signed = 0.3, radius: Annotated[Number, Span(0.05, 2)] = 0.8, centre: Vec2 = (0.5, 0.5)
) -> Vec2:
    """Swells the picture inside a circle (in short sides), or pinches it where the amount is below 0."""
    away = (place - centre) * sides()
    t = v.clamp01(v.divide(v.length(away), radius))
    # Full strength in the middle, none at the rim, with no kink there.
    strength = amount * (1.0 - t * t) * (1.0 - t * t)
    return away * (1.0 - v.clamp(strength, -4.0, 0.95)) / sides() + centre


@node("Ripple", "coordinates", handle("point", "Centre", at="centre"))
def ripple(
    place: Vec2 = None,
    height: ReferencePixels = 8.0,
    length: Annotated[ReferencePixels, Span(4, 400)] = 60.0,
    phase: Degrees = 0.0,
    centre: Vec2 = (0.5, 0.5),
    rings: Boolean = True,
) -> Vec2:
    """Waves over the picture: rings about a centre, or lines across."""
    away = (place - centre) * sides()
    far = v.length(away)
    along = v.select(rings, far, away.y)
    wave = f.sin(v.divide(along * 720.0 * 2.0 * math.pi, length) - phase * RADIANS) * height * (1 / 720)
    ring = v.partwise(v.divide, away, far)
    push = Vec(v.select(rings, ring.x, 1.0), v.select(rings, ring.y, 0.0)) * wave
    return place + push / sides()


@node("Displace by a picture", "coordinates")
def displace(
    place: Vec2 = None, by: PictureIn = None, across: Annotated[ReferencePixels, Span(-200, 200)] = 30.0,
    down: Annotated[ReferencePixels, Span(-200, 200)] = 30.0,
    across_from: Annotated[str, one_of("red", "green", "blue", "alpha")] = "red",
    down_from: Annotated[str, one_of("red", "green", "blue", "alpha")] = "green",
    rest: Fraction = 0.5,
) -> Vec2:  # fmt: skip
    """Moves places by a picture's channels: what is as light as `rest` leaves them. At 0.5, black and white move half the
    distance to either side (as SVG's feDisplacementMap does); at 0, black rests and white moves the whole distance."""
    shown = p.sample(by, place)
    parts = dict(zip(("red", "green", "blue", "alpha"), shown.parts(), strict=True))
    away = Vec((parts[across_from] - rest) * across, (parts[down_from] - rest) * down) * (1 / 720)
    return place + away / sides()


FITS = ("cover", "contain", "stretch", "tile")


@node("Fit", "coordinates")
def fit(
    place: Vec2 = None,
    picture: PictureIn = None,
    how: Annotated[str, one_of(*FITS)] = "cover",
    scale: Annotated[Number, Span(0.05, 8)] = 1.0,
    anchor: Vec2 = (0.5, 0.5),
) -> Vec2:
    """Where to sample a picture so that it covers the screen, stands whole on it, is stretched, or tiles at its own size (a
    picture's pixel to a reference pixel)."""
    return fitted(place, p.size(picture), how, scale, anchor)


def fitted(place: Vec, size: tuple[Value, Value], how: str, scale: Value | float, anchor: Vec) -> Vec:
    """A place of the screen as one of a picture of `size` (columns, rows), laid on as `how` says; 0 of a scale of 0."""
    if how == "stretch":
        return v.partwise(v.divide, place - anchor, v.value(scale)) + anchor
    width, height = (v.to_float(n) for n in size)
    frame = sides()
    if how == "tile":
        # The frame in reference pixels over the picture's own.
        ratio = Vec(v.divide(frame.x * 720.0, width), v.divide(frame.y * 720.0, height))
    else:
        shape, screen = v.divide(width, height), v.divide(frame.x, frame.y)
        wider = shape > screen
        across, down = v.divide(screen, shape), v.divide(shape, screen)
        if how == "cover":
            ratio = Vec(v.select(wider, across, 1.0), v.select(wider, 1.0, down))
        else:
            ratio = Vec(v.select(wider, 1.0, across), v.select(wider, down, 1.0))
    return v.partwise(v.divide, (place - anchor) * ratio, v.value(scale)) + anchor
