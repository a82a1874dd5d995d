"""Shapes: masks of plain forms. Lengths are fractions of the screen's short side, so that a form keeps it on every screen.

Each is a signed distance, below 0 inside; edges are one pixel soft at least.
"""

from __future__ import annotations

import math
from typing import Annotated

from sunglaze.core.language import functions as f
from sunglaze.core.language import pictures as p
from sunglaze.core.language import vector as v
from sunglaze.core.language.expression import Value, curve_entry, leaf, record
from sunglaze.core.language.loops import repeat, whole
from sunglaze.core.language.vector import Vec
from sunglaze.core.material.path import MOST_PIECES
from sunglaze.core.nodes.coordinates import centred, sides, turned
from sunglaze.core.nodes.handles import handle
from sunglaze.core.nodes.node import node
from sunglaze.core.nodes.types import Boolean, Degrees, Fraction, Mask, Number, Path, Span, Vec2, Whole, one_of

Size = Annotated[Number, Span(0, 2)]
Middle = Vec2


def _pixel() -> Value:
    """A pixel of the frame, in parts of the short side."""
    return v.divide(1.0 / 720.0, p.reference_pixel())


def covered(distance: Value, softness: Value) -> Value:
    """1 inside (below 0), 0 outside, over an edge `softness` wide but at least a pixel of the frame."""
    width = v.maximum(softness, _pixel())
    return v.clamp01(0.5 - v.divide(distance, width))


def _from(place: Vec, centre: Vec) -> Vec:
    return (place - centre) * sides()


@node("Circle", "shape", handle("circle", "Circle", at="centre", radius="radius"))
def circle(place: Vec2 = None, centre: Middle = (0.5, 0.5), radius: Size = 0.3, softness: Fraction = 0.0) -> Mask:
    """A disc."""
    return covered(v.length(_from(place, centre)) - radius, softness)


def _box(away: Vec, half: Vec, rounding: Value) -> Value:
    outside = away.map(v.absolute) - half + rounding
    beyond = outside.map(lambda x: v.maximum(x, 0.0))
    return v.length(beyond) + v.minimum(v.maximum(outside.x, outside.y), 0.0) - rounding


@node("Box", "shape", handle("box", "Box", at="centre", width="width", height="height", turn="turn"))
def box(
    place: Vec2 = None, centre: Middle = (0.5, 0.5), width: Size = 0.6, height: Size = 0.4, turn: Degrees = 0.0,
    softness: Fraction = 0.0,
) -> Mask:  # fmt: skip
    """A rectangle."""
    return covered(_box(turned(_from(place, centre), -turn), Vec(width, height) * 0.5, v.value(0.0)), softness)


@node("Rounded box", "shape", handle("box", "Box", at="centre", width="width", height="height", turn="turn"))
def rounded_box(
    place: Vec2 = None, centre: Middle = (0.5, 0.5), width: Size = 0.6, height: Size = 0.4, rounding: Fraction = 0.08,
    turn: Degrees = 0.0, softness: Fraction = 0.0,
) -> Mask:  # fmt: skip
    """A rectangle with round corners."""
    most = v.minimum(rounding, v.minimum(width, height) * 0.5)
    return covered(_box(turned(_from(place, centre), -turn), Vec(width, height) * 0.5, most), softness)


@node(
    "One of three shapes", "shape",
    handle("circle", "Circle", at="centre", width="width", height="height", turn="turn", when={"how": ["circle"]}),
    handle("box", "Box", at="centre", width="width", height="height", turn="turn", when={"how": ["rounded box"]}),
    handle("line", "Border", half=True, at="centre", turn="turn", when={"how": ["half"]}),
)  # fmt: skip
def soft_shape(
    place: Vec2 = None,
    how: Annotated[str, one_of("circle", "rounded box", "half")] = "circle",
    centre: Middle = (0.5, 0.5),
    width: Size = 0.6,
    height: Size = 0.6,
    turn: Degrees = 0.0,
    softness: Fraction = 0.1,
    outside: Boolean = False,
) -> Mask:
    """A circle (drawn out to an ellipse by width and height), a rounded box, or the upper half; or all outside of it."""
    away = turned(_from(place, centre), -turn)
    half = Vec(width, height) * 0.5
    if how == "half":
        distance = away.y
    elif how == "circle":
        # The way to an ellipse's edge, to first order: exact for a circle.
        stretched = away.zip(half, v.divide)
        steep = v.length(stretched.zip(half, v.divide))
        reach = v.length(stretched)
        distance = v.divide(reach * (reach - 1.0), steep)
        distance = v.select(steep <= 0.0, v.minimum(half.x, half.y) * -1.0, distance)
    else:
        distance = _box(away, half, v.minimum(half.x, half.y) * 0.35)
    inside = covered(distance, softness)
    return v.select(outside, 1.0 - inside, inside)


@node("Glint", "shape")
def glint(
    place: Vec2 = None, thickness: Annotated[Number, Span(0.002, 0.3)] = 0.03, length: Size = 1.0, turn: Degrees = 0.0
) -> Mask:
    """A star of four rays in the square from 0 to 1: bright in its middle, fading along the rays, nothing at the border."""
    away = turned(place - 0.5, -turn).map(v.absolute) * 2.0
    fades = away.map(lambda x: v.maximum(1.0 - v.divide(x, length), 0.0))
    rays = [v.divide(thickness, thickness + x * x * 10.0) * y * y for x, y in ((away.x, fades.y), (away.y, fades.x))]
    border = (place - 0.5).map(v.absolute)
    edge = v.clamp01((0.5 - v.maximum(border.x, border.y)) * 20.0)
    return v.clamp01(v.maximum(rays[0], rays[1]) + rays[0] * rays[1]) * edge


SIDES = {"top": 0.0, "right": 90.0, "bottom": 180.0, "left": -90.0}
"""Sides of a line, by the turn of the upper one."""


@node("Half plane", "shape", handle("line", "Border", half=True, side="side", at="through", turn="turn"))
def half_plane(
    place: Vec2 = None, through: Middle = (0.5, 0.5), side: Annotated[str, one_of(*SIDES)] = "top", turn: Degrees = 0.0,
    softness: Fraction = 0.0,
) -> Mask:  # fmt: skip
    """All on one side of a line, turned clockwise."""
    return covered(turned(_from(place, through), -(turn + SIDES[side])).y, softness)


@node("Ring", "shape", handle("ring", "Ring", at="centre", radius="radius", thickness="thickness"))
def ring(
    place: Vec2 = None, centre: Middle = (0.5, 0.5), radius: Size = 0.3, thickness: Fraction = 0.05, softness: Fraction = 0.0
) -> Mask:
    """A circle's line."""
    away = v.absolute(v.length(_from(place, centre)) - radius)
    return covered(away - thickness * 0.5, softness)


@node("Dashed ring", "shape", handle("ring", "Ring", at="centre", radius="radius", thickness="thickness"))
def dashed_ring(
    place: Vec2 = None, centre: Middle = (0.5, 0.5), radius: Size = 0.3, thickness: Fraction = 0.05,
    dashes: Annotated[Whole, Span(1, 100)] = 12, filled: Fraction = 0.6, turn: Degrees = 0.0, softness: Fraction = 0.0,
) -> Mask:  # fmt: skip
    """A circle's line in so many dashes, each filling a part of its room."""
    away = _from(place, centre)
    far = v.length(away)
    angle = f.atan2(away.y, away.x) * (1 / (2 * math.pi)) - turn * (1 / 360)
    count = v.maximum(v.to_float(dashes), 1.0)
    along = v.absolute(v.fract(angle * count) - 0.5) - filled * 0.5
    # An angle's share of the circle as a length there.
    sideways = v.divide(along * far * (2 * math.pi), count)
    band = v.absolute(far - radius) - thickness * 0.5
    return covered(v.maximum(band, v.select(v.value(filled) >= 1.0, band, sideways)), softness)


@node("Line", "shape", handle("line", "Line", start="start", end="end"))
def line(
    place: Vec2 = None, start: Vec2 = (0.2, 0.5), end: Vec2 = (0.8, 0.5), thickness: Fraction = 0.02, softness: Fraction = 0.0
) -> Mask:
    """A stroke with round ends."""
    away, way = _from(place, start), (end - start) * sides()
    along = v.clamp01(v.divide(v.dot(away, way), v.dot(way, way)))
    return covered(v.length(away - way * along) - thickness * 0.5, softness)


@node("Polygon", "shape", handle("circle", "Polygon", at="centre", radius="radius", turn="turn"))
def polygon(
    place: Vec2 = None, centre: Middle = (0.5, 0.5), radius: Size = 0.3, sides: Annotated[Whole, Span(3, 24)] = 6,
    turn: Degrees = 0.0, softness: Fraction = 0.0,
) -> Mask:  # fmt: skip
    """A regular polygon; the radius reaches its corners, one of which points up."""
    away = turned(_from(place, centre), 90.0 - turn)
    count = v.maximum(v.to_float(sides), 3.0)
    share = v.divide(2.0 * math.pi, count)
    angle = f.atan2(away.y, away.x)
    nearest = v.floor(v.divide(angle, share)) * share + share * 0.5
    inner = f.cos(share * 0.5) * radius
    return covered(f.cos(angle - nearest) * v.length(away) - inner, softness)


@node("Drawn shape", "shape", handle("path", "Shape", path="path"))
def drawn_shape(place: Vec2 = None, path: Path = None, softness: Fraction = 0.0, outside: Boolean = False) -> Mask:
    """What a drawn line encloses, however often it winds round; or all outside of it."""
    if path is None:
        return v.number(outside)
    # How far the line is changes evenly, so a picture of half the size tells it.
    far = p.computed([_way_to(path.name, centred(p.here()))], reduce=2, precise=True)
    inside = covered(p.sample(far, place).r, softness)
    return v.select(outside, 1.0 - inside, inside)


def _way_to(table: str, at: Vec) -> Value:
    """How far a place is from a closed line of straight pieces, below 0 inside: where the line's winding number is not 0."""
    count = record("isub", leaf("table_size", table), 1)

    def entry(index: Value) -> Vec:
        return Vec(*(curve_entry(table, index, part) for part in (0, 1)))

    def turn(n: Value, states: tuple[Value, ...]) -> list[Value]:
        nearest, winding, x, y = states
        start, end = Vec(x, y), entry(record("iadd", n, 1))
        way, away = end - start, at - start
        off = away - way * v.clamp01(v.divide(v.dot(away, way), v.dot(way, way)))
        side = way.x * away.y - way.y * away.x
        below, under = start.y <= at.y, end.y <= at.y
        up, down = below & ~under & (side > 0.0), ~below & under & (side < 0.0)
        return [v.minimum(nearest, v.dot(off, off)), winding + v.number(up) - v.number(down), end.x, end.y]

    first = entry(whole(0))
    nearest, winding, *_ = repeat(count, MOST_PIECES, [v.value(1e6), v.value(0.0), first.x, first.y], turn)
    far = v.sqrt(nearest)
    return v.select(v.absolute(winding) > 0.5, -far, far)


@node(
    "Ramp", "shape",
    handle("line", "Ramp", at="centre", turn="turn", length="length", when={"how": ["linear"]}),
    handle("circle", "Ramp", at="centre", radius="length", when={"how": ["radial"]}),
    handle("point", "Ramp", at="centre", when={"how": ["angular"]}),
)  # fmt: skip
def ramp(
    place: Vec2 = None, how: Annotated[str, one_of("linear", "radial", "angular")] = "linear", centre: Middle = (0.5, 0.5),
    length: Annotated[Number, Span(0.01, 3)] = 1.0, turn: Degrees = 0.0, steps: Annotated[Whole, Span(0, 32)] = 0,
) -> Fraction:  # fmt: skip
    """A way from 0 to 1: along a line (downwards, turned clockwise), from the centre outwards, or round it; smooth, or in so
    many hard steps."""
    away = turned(_from(place, centre), -turn)
    if how == "linear":
        t = v.divide(away.y, length) + 0.5
    elif how == "radial":
        t = v.divide(v.length(away), length)
    else:
        t = v.fract(f.atan2(away.x, -away.y) * (1 / (2 * math.pi)))
    t = v.clamp01(t)
    last = v.maximum(v.to_float(steps) - 1.0, 1.0)
    hard = v.minimum(v.floor(t * (last + 1.0)), last) / last
    return v.select(v.to_float(steps) > 1.5, hard, t)


@node("Checker", "shape")
def checker(place: Vec2 = None, count: Annotated[Number, Span(1, 200)] = 8.0) -> Fraction:
    """Squares in turn, so many along the short side."""
    cell = (place * sides() * count).map(v.floor)
    return v.modulo(cell.x + cell.y, 2.0)


@node("Grid", "shape")
def grid(place: Vec2 = None, count: Annotated[Number, Span(1, 200)] = 8.0, thickness: Fraction = 0.1) -> Mask:
    """Lines of a square grid, so many cells along the short side; the thickness is a part of a cell."""
    at = (place * sides() * count).map(lambda x: 0.5 - v.absolute(v.fract(x) - 0.5))
    return covered(v.divide(v.minimum(at.x, at.y) - thickness * 0.5, count), v.value(0.0))


@node("Stripes", "shape")
def stripes(
    place: Vec2 = None, count: Annotated[Number, Span(1, 400)] = 20.0, filled: Fraction = 0.5, turn: Degrees = 0.0,
    softness: Fraction = 0.0, shift: Number = 0.0,
) -> Mask:  # fmt: skip
    """Bands across the screen, so many along the short side, each filling a part of its room; where a pixel takes in a whole
    room, it shows how much of that is filled."""
    along = turned(centred(place), -turn).y * count + shift
    away = v.absolute(v.fract(along) - 0.5) - filled * 0.5
    full, none = v.value(filled) >= 1.0, v.value(filled) <= 0.0
    band = covered(v.divide(away, count), softness)
    band = v.mix(band, filled, v.clamp01(count * _pixel() * 2.0 - 1.0))
    return v.select(full, 1.0, v.select(none, 0.0, band))
