"""Noise: chance by place, all from whole-number hashing (Jarzynski and Olano 2020), so that every target draws the same.

Places are in cells: one cell of noise is one unit. Time moves through the noise where `flow` is given.
"""

from __future__ import annotations

import math
from collections.abc import Callable
from typing import Annotated, NamedTuple

from sunglaze.core.language import functions as f
from sunglaze.core.language import pictures as p
from sunglaze.core.language import vector as v
from sunglaze.core.language.expression import Value, constant, record
from sunglaze.core.language.loops import repeat
from sunglaze.core.language.moments import frame_size, moment
from sunglaze.core.language.vector import Vec
from sunglaze.core.nodes.colour import luma
from sunglaze.core.nodes.coordinates import sides
from sunglaze.core.nodes.node import node
from sunglaze.core.nodes.types import Colour, Fraction, Number, ReferencePixels, Span, Vec2, Whole, one_of

Scale = Annotated[Number, Span(0.5, 400)]
Seed = Annotated[Whole, Span(0, 1000)]
OCTAVES = 6


def grid(place: Vec, scale: Value) -> Vec:
    """A place on the screen in cells, `scale` along the short side."""
    return place * sides() * scale


def _smooth(t: Value) -> Value:
    """Perlin's fade, 6 t^5 - 15 t^4 + 10 t^3."""
    return t * t * t * (t * (t * 6.0 - 15.0) + 10.0)


def cell_bits(seed: Value, column: Value, row: Value) -> Value:
    """A cell's scrambled whole number. The row is stirred in first: along a row of pixels that may be the same for all."""
    return f.hashed(seed, row, column)


Corner = Callable[[Value, Value, Value, Value], Value]


def _over_corners(at: Vec, corner: Corner) -> Value:
    """A blend of what the four corners of a cell give; each is told its column, row, and the way from it."""
    low = at.map(v.floor)
    x, y = at.x - low.x, at.y - low.y
    i, j = v.to_int(low.x), v.to_int(low.y)
    right, below = f.iadd(i, 1), f.iadd(j, 1)
    tx, ty = _smooth(x), _smooth(y)
    upper = v.mix(corner(i, j, x, y), corner(right, j, x - 1.0, y), tx)
    lower = v.mix(corner(i, below, x, y - 1.0), corner(right, below, x - 1.0, y - 1.0), tx)
    return v.mix(upper, lower, ty)


def value_noise(at: Vec, seed: Value) -> Value:
    """Chance at the corners, blended between; 0 to 1."""
    return _over_corners(at, lambda i, j, x, y: f.unit(cell_bits(seed, i, j)))


def three_noises(at: Vec, seed: Value) -> list[Value]:
    """Three of `value_noise` at the price of one: each takes ten bits of a corner's hash."""

    # The bits stay where they are, and what is blended is made smaller: that is less than moving four corners' bits.
    def corner(which: int) -> Corner:
        return lambda i, j, x, y: v.to_float(record("iand", cell_bits(seed, i, j), 1023 << 10 * which))

    return [_over_corners(at, corner(n)) * (1 / 1023 / (1 << 10 * n)) for n in range(3)]


def gradient_noise(at: Vec, seed: Value) -> Value:
    """Slopes of chance at the corners (after Perlin 2002, with eight directions); about -1 to 1, 0 at the corners."""

    def corner(i: Value, j: Value, x: Value, y: Value) -> Value:
        bits = cell_bits(seed, i, j)
        swap = record("ieq", record("iand", bits, 1), 1)
        major, minor = v.select(swap, y, x), v.select(swap, x, y)
        flip_major = record("ieq", record("iand", bits, 2), 2)
        flip_minor = record("ieq", record("iand", bits, 4), 4)
        return v.select(flip_major, -major, major) + v.select(flip_minor, -minor, minor) * 0.5

    return _over_corners(at, corner)


class Cellular(NamedTuple):
    """What *Cellular noise* gives."""

    nearest: Number
    second: Number
    chance: Fraction


def cellular_noise(at: Vec, seed: Value, jitter: Value) -> Cellular:
    """Worley (1996): how far the nearest and the second of points strewn one a cell are, and a number of the nearest one's."""
    low = at.map(v.floor)
    i, j = v.to_int(low.x), v.to_int(low.y)

    def turn(n: Value, states: tuple[Value, ...]) -> list[Value]:
        first, second, chance = states
        down = record("idiv", n, 3)
        right = record("isub", n, f.imul(down, 3))
        column, row = f.iadd(f.iadd(i, right), -1), f.iadd(f.iadd(j, down), -1)
        bits = cell_bits(seed, column, row)
        other = f.pcg(bits)
        x = v.to_float(column) + 0.5 + (f.unit(bits) - 0.5) * jitter - at.x
        y = v.to_float(row) + 0.5 + (f.unit(other) - 0.5) * jitter - at.y
        far = v.sqrt(x * x + y * y)
        nearer = far < first
        return [
            v.minimum(far, first),
            v.select(nearer, first, v.minimum(far, second)),
            v.select(nearer, f.unit(f.pcg(other)), chance),
        ]

    start = [v.value(8.0), v.value(8.0), v.value(0.0)]
    return Cellular(*repeat(constant(9, "int"), 9, start, turn))


@node("Hash", "noise")
def hash_noise(place: Vec2 = None, scale: Annotated[Number, Span(1, 1000)] = 360.0, seed: Seed = 0) -> Fraction:
    """Chance by cell, without any way between: 0 to 1."""
    at = grid(place, scale)
    return f.unit(cell_bits(seed, v.to_int(v.floor(at.x)), v.to_int(v.floor(at.y))))


@node("Value noise", "noise")
def noise_value(place: Vec2 = None, scale: Scale = 8.0, seed: Seed = 0) -> Fraction:
    """Soft blotches, 0 to 1."""
    return value_noise(grid(place, scale), seed)


@node("Gradient noise", "noise")
def noise_gradient(place: Vec2 = None, scale: Scale = 8.0, seed: Seed = 0) -> Number:
    """Smooth hills and hollows, about -1 to 1."""
    return gradient_noise(grid(place, scale), seed)


@node("Cellular noise", "noise")
def noise_cellular(place: Vec2 = None, scale: Scale = 8.0, jitter: Fraction = 1.0, seed: Seed = 0) -> Cellular:
    """Points strewn one a cell: how far the nearest is, the second nearest, and a number of chance of the nearest."""
    return cellular_noise(grid(place, scale), seed, jitter)


@node("Fractal noise", "noise")
def fractal_noise(
    place: Vec2 = None,
    scale: Scale = 4.0,
    octaves: Annotated[Whole, Span(1, OCTAVES)] = 4,
    roughness: Fraction = 0.5,
    kind: Annotated[str, one_of("gradient", "value", "ridges")] = "gradient",
    seed: Seed = 0,
) -> Number:
    """Noise over finer and finer noise; each octave is twice as fine and `roughness` times as strong. About -1 to 1."""

    def one(at: Vec, turn: Value) -> Value:
        own = f.iadd(seed, f.imul(turn, 1013))
        if kind == "value":
            return value_noise(at, own) * 2.0 - 1.0
        found = gradient_noise(at, own)
        return 1.0 - v.absolute(found) * 2.0 if kind == "ridges" else found

    def turn(n: Value, states: tuple[Value, ...]) -> list[Value]:
        total, weight, strength, x, y = states
        found = one(Vec(x, y), n)
        return [total + found * strength, weight + strength, strength * roughness, x * 2.0, y * 2.0]

    at = grid(place, scale)
    total, weight, *_ = repeat(octaves, OCTAVES, [v.value(0.0), v.value(0.0), v.value(1.0), at.x, at.y], turn)
    return v.divide(total, weight)


@node("Film grain", "noise")
def film_grain(
    colour: Colour = None,
    amount: Fraction = 0.25,
    size: Annotated[ReferencePixels, Span(0.5, 8)] = 1.5,
    shadows: Fraction = 0.6,
    highlights: Fraction = 0.3,
    colourful: Fraction = 0.15,
    every: Annotated[Whole, Span(1, 30)] = 2,
) -> Colour:
    """Grain of a size, strongest in the middle tones; how much is left of it in shadows and highlights. New every so many
    frames."""
    columns, rows = (v.to_float(n) for n in frame_size())
    here = p.here()
    scale = v.divide(1.0, v.maximum(p.pixels(size), 0.25))
    at = Vec(here.x * columns, here.y * rows) * scale
    frame = record("idiv", moment("frame"), record("imax", every, 1))
    turn = f.hashed(frame, moment("seed"))

    # Two sheets of value noise, the second finer, have a flatter distribution than one and show no grid.
    sheets = [three_noises(at * scale, f.iadd(turn, n)) for n, scale in enumerate((1.0, 1.87))]
    specks = [(one + other - 1.0) * 1.6 for one, other in zip(*sheets, strict=True)]
    grey = (specks[0] + specks[1] + specks[2]) * (1 / math.sqrt(3))
    light = v.clamp01(luma(colour))
    tone = v.mix(v.mix(shadows, 1.0, v.smoothstep(0.0, 0.4, light)), highlights, v.smoothstep(0.5, 1.0, light))
    # Grain finer than a pixel is averaged in it.
    strength = amount * tone * v.minimum(p.pixels(size), 1.0) * 0.35

    made = [part + v.mix(grey, speck, colourful) * strength for part, speck in zip(colour.parts()[:3], specks, strict=True)]
    return v.rgba(Vec(*made), colour.a)
