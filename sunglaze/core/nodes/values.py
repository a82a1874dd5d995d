"""Values: numbers, vectors and colours, taking them apart, and what a frame brings: time, size, chance."""

from __future__ import annotations

from typing import Annotated, NamedTuple

from sunglaze.core.language import functions as f
from sunglaze.core.language import pictures as p
from sunglaze.core.language import vector as v
from sunglaze.core.language.expression import Value, record
from sunglaze.core.language.moments import frame_size, moment
from sunglaze.core.language.vector import Vec
from sunglaze.core.nodes.node import node
from sunglaze.core.nodes.types import Boolean, Colour, Number, Seconds, Span, Vec2, Vec3, Vec4, Whole, one_of


@node("Number", "values")
def number(value: Number = 0.0) -> Number:
    """A number."""
    return value


@node("Whole number", "values")
def whole_number(value: Annotated[Whole, Span(-1000, 1000)] = 0) -> Whole:
    """A number without a fraction."""
    return value


@node("Yes or no", "values")
def switch(value: Boolean = True) -> Boolean:
    """A switch."""
    return value


@node("2 numbers", "values")
def vector2(value: Vec2 = (0.0, 0.0)) -> Vec2:
    """Two numbers, as for a place."""
    return value


@node("3 numbers", "values")
def vector3(value: Vec3 = (0.0, 0.0, 0.0)) -> Vec3:
    """Three numbers."""
    return value


@node("4 numbers", "values")
def vector4(value: Vec4 = (0.0, 0.0, 0.0, 0.0)) -> Vec4:
    """Four numbers."""
    return value


@node("Colour", "values")
def colour(value: Colour = "#a8420d") -> Colour:
    """A colour with its opacity."""
    return value


@node("Combine 2", "values")
def combine2(x: Number = 0.0, y: Number = 0.0) -> Vec2:
    """Two numbers side by side."""
    return Vec(x, y)


@node("Combine 3", "values")
def combine3(x: Number = 0.0, y: Number = 0.0, z: Number = 0.0) -> Vec3:
    """Three numbers side by side."""
    return Vec(x, y, z)


@node("Combine 4", "values")
def combine4(x: Number = 0.0, y: Number = 0.0, z: Number = 0.0, w: Number = 0.0) -> Vec4:
    """Four numbers side by side."""
    return Vec(x, y, z, w)


@node("Combine colour", "values")
def combine_colour(red: Number = 0.0, green: Number = 0.0, blue: Number = 0.0, alpha: Number = 1.0) -> Colour:
    """A colour from its parts, 0 to 1."""
    return Vec(red, green, blue, alpha)


class TwoParts(NamedTuple):
    """Of two numbers."""

    x: Number
    y: Number


class ThreeParts(NamedTuple):
    """Of three numbers."""

    x: Number
    y: Number
    z: Number


class FourParts(NamedTuple):
    """Of four numbers."""

    x: Number
    y: Number
    z: Number
    w: Number


class ColourParts(NamedTuple):
    """Of a colour."""

    red: Number
    green: Number
    blue: Number
    alpha: Number


@node("Separate 2", "values")
def separate2(vector: Vec2 = (0.0, 0.0)) -> TwoParts:
    """The two numbers of a vector."""
    return TwoParts(*vector.parts())


@node("Separate 3", "values")
def separate3(vector: Vec3 = (0.0, 0.0, 0.0)) -> ThreeParts:
    """The three numbers of a vector."""
    return ThreeParts(*vector.parts())


@node("Separate 4", "values")
def separate4(vector: Vec4 = (0.0, 0.0, 0.0, 0.0)) -> FourParts:
    """The four numbers of a vector."""
    return FourParts(*vector.parts())


@node("Separate colour", "values")
def separate_colour(colour: Colour = None) -> ColourParts:
    """The parts of a colour, 0 to 1."""
    return ColourParts(*colour.parts())


_PARTS = one_of("x", "y", "z", "w", "0", "1")


@node("Reorder", "values")
def reorder(
    vector: Vec4 = (0.0, 0.0, 0.0, 0.0),
    first: Annotated[str, _PARTS] = "x",
    second: Annotated[str, _PARTS] = "y",
    third: Annotated[str, _PARTS] = "z",
    fourth: Annotated[str, _PARTS] = "w",
) -> Vec4:
    """The parts of a vector in another order, or 0 or 1 in their place."""

    def part(which: str) -> Value | float:
        return float(which) if which in "01" else vector.parts()["xyzw".index(which)]

    return Vec(*(part(which) for which in (first, second, third, fourth)))


@node("Time", "values")
def time() -> Seconds:
    """Seconds since the effect began."""
    return moment("time")


@node("Frame", "values")
def frame() -> Whole:
    """The number of the frame, 30 a second, from 0."""
    return moment("frame")


@node("Delta", "values")
def delta() -> Seconds:
    """Seconds since the last frame."""
    return moment("delta")


@node("Seed", "values")
def seed() -> Whole:
    """The whole number that decides all chance of this effect."""
    return moment("seed")


@node("Aspect", "values")
def aspect() -> Number:
    """The frame's width divided by its height."""
    columns, rows = frame_size()
    return v.divide(v.to_float(columns), v.to_float(rows))


@node("Resolution", "values")
def resolution() -> Vec2:
    """Columns and rows of the frame, in its pixels."""
    return Vec(*(v.to_float(n) for n in frame_size()))


@node("Pixel size", "values")
def pixel_size() -> Vec2:
    """How large one pixel of the frame is in screen coordinates."""
    return Vec(*(v.divide(1.0, v.to_float(n)) for n in frame_size()))


@node("Reference pixel", "values")
def reference_pixel() -> Vec2:
    """How large a reference pixel (1/720 of the frame's short side) is in screen coordinates."""
    one = p.reference_pixel()
    return Vec(*(v.divide(one, v.to_float(n)) for n in frame_size()))


@node("Random per frame", "values")
def random_per_frame(
    low: Number = 0.0, high: Number = 1.0, channel: Whole = 0, every: Annotated[Whole, Span(1, 300)] = 1
) -> Number:
    """A number that jumps every so many frames; each channel has its own."""
    turn = record("idiv", moment("frame"), every)
    return v.mix(low, high, f.unit(f.hashed(turn, moment("seed"), channel)))
