"""Filters: rules that look at neighbours. Each takes a whole picture and makes the passes that it needs.

Lengths are reference pixels. Borders go on outwards. Colours are premultiplied inside.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from typing import Annotated, NamedTuple

from sunglaze.core.language import functions as f
from sunglaze.core.language import pictures as p
from sunglaze.core.language import vector as v
from sunglaze.core.language.expression import Rate, Value, record
from sunglaze.core.language.loops import LONGEST, repeat
from sunglaze.core.language.moments import frame_size
from sunglaze.core.language.pictures import Picture, computed, near
from sunglaze.core.language.vector import Vec
from sunglaze.core.nodes.colour import luma
from sunglaze.core.nodes.node import node
from sunglaze.core.nodes.types import Colour, Degrees, Fraction, Number, PictureIn, ReferencePixels, Span, Vec3, one_of

LARGEST_BLUR = 64.0
HALF_FROM, WIDE_FROM = 4.0, 8.0
"""Pixels of deviation from which a blur of a picture of half the size looks like an exact one, and one of a quarter."""


def frame_sized(picture: Picture) -> Picture:
    """The picture at the size of the frame: itself, or a pass that samples it."""
    if p.size(picture)[0].op == "moment" and not picture.straight:
        return picture
    return p.picture_of(p.colour_here(picture))


def unpacked(picture: Picture) -> Picture:
    """A camera's picture as numbers, for loops that read each pixel many times; other pictures are numbers already."""
    return picture if picture.values else computed([near(picture, c) for c in range(3)])


def held_channels(picture: Picture) -> int:
    """How many channels a picture's colour has in passes."""
    return 1 if picture.channels == 1 else p.channels_of_colour(picture)


def _along(
    picture: Picture, horizontal: bool, reach: Value, turn_of: Callable[..., list[Value]], start: list[Value]
) -> list[Value]:
    """A loop over pairs of neighbours on both sides along a row or a column; `turn_of` is given a reader and the states."""

    def turn(n: Value, states: tuple[Value, ...]) -> list[Value]:
        far = f.iadd(n, 1)
        back = record("isub", 0, far)

        def pair(channel: int) -> tuple[Value, Value]:
            ends = ((far, 0), (back, 0)) if horizontal else ((0, far), (0, back))
            one, other = (near(picture, channel, right, down) for right, down in ends)
            return one, other

        return turn_of(pair, states)

    return list(repeat(reach, LONGEST, start, turn))


def _gaussian_pass(picture: Picture, sigma: Value, horizontal: bool) -> Picture:
    """One direction. Weights by forward differences (Turkowski, GPU Gems 3, chapter 40): two products a tap."""
    count = held_channels(picture)
    s = v.maximum(sigma, 0.05)
    first = f.exp(v.divide(-0.5, s * s))
    growth = first * first

    def turn(pair: Callable[[int], tuple[Value, Value]], states: tuple[Value, ...]) -> list[Value]:
        *sums, total, weight, step = states
        added = []
        for channel in range(count):
            one, other = pair(channel)
            added.append(sums[channel] + (one + other) * weight)
        return [*added, total + weight * 2.0, weight * step, step * growth]

    centre = [near(picture, c) for c in range(count)]
    # Three and a half deviations hold all but 5e-4 of the weight.
    reach = v.to_int(-v.floor(s * -3.5))
    start = [*centre, v.value(1.0), first, first * growth]
    *sums, total, _, _ = _along(picture, horizontal, reach, turn, start)
    reduce, opaque = picture.reduce if picture.values else 1, picture.opaque
    return computed([v.divide(part, total) for part in sums], reduce=reduce, opaque=opaque)


def gaussian(picture: Picture, sigma: Value, quality: str = "exact") -> Picture:
    """A Gaussian blur of standard deviation `sigma` in pixels of the frame.

    exact: every tap. wide: on a picture of a quarter of the size, for deviations of 8 pixels and more (below that it is
    nearer 8).
    """
    picture = unpacked(frame_sized(picture))
    if quality == "exact":
        return _gaussian_pass(_gaussian_pass(picture, sigma, True), sigma, False)
    return softened(halved(halved(picture)), sigma)


def softened(small: Picture, sigma: Value) -> Picture:
    """A Gaussian blur of standard deviation `sigma` in pixels of the frame, of a picture that was halved before: once for 2
    pixels and more, twice for 8."""
    by = small.reduce
    # Averaging n by n adds a variance of (n^2 - 1) / 12, the way back up by straight lines one of n^2 / 6 (common practice).
    left = v.sqrt(v.maximum(sigma * sigma - ((by * by - 1) / 12 + by * by / 6), 0.05)) * (1 / by)
    return _gaussian_pass(_gaussian_pass(small, left, True), left, False)


def halved(picture: Picture) -> Picture:
    """Half as many columns and rows, each pixel the mean of four."""
    rows = [p.scaled_index(1, 2, n) for n in range(2)]
    columns = [p.scaled_index(0, 2, n) for n in range(2)]

    def mean(channel: int) -> Value:
        four = [p.fetch(picture, channel, x, y) for x in columns for y in rows]
        return (four[0] + four[1] + four[2] + four[3]) * 0.25

    reduce = picture.reduce if picture.values else 1
    return computed([mean(c) for c in range(held_channels(picture))], reduce=reduce * 2, opaque=picture.opaque)


def blurred(picture: Picture, pixels: Value, quality: str) -> Vec:
    """The colour of a blurred picture; with no blur it is exactly the picture's. auto: at half the size from HALF_FROM pixels on,
    wide from WIDE_FROM on."""
    sharp = p.colour_here(picture)
    if quality == "auto" and v.value(pixels).rate <= Rate.FRAME:
        is_soft, is_wide = (v.value(pixels) >= least for least in (HALF_FROM, WIDE_FROM))
        with p.passes_only_if(is_wide):
            wide = p.colour_here(gaussian(picture, pixels, "wide"))
        with p.passes_only_if(is_soft & ~is_wide):
            half = p.colour_here(softened(halved(frame_sized(picture)), pixels))
        with p.passes_only_if(~is_soft):
            exact = p.colour_here(gaussian(picture, v.minimum(pixels, HALF_FROM), "exact"))
        less = exact.zip(half, lambda a, b: v.select(is_soft, b, a))
        soft = less.zip(wide, lambda a, b: v.select(is_wide, b, a))
    else:
        soft = p.colour_here(gaussian(picture, pixels, "wide" if quality == "wide" else "exact"))
    bare = pixels <= 0.05
    return sharp.zip(soft, lambda a, b: v.select(bare, a, b))


@node("Blur", "filter")
def blur(
    picture: PictureIn = None,
    amount: Annotated[ReferencePixels, Span(0, LARGEST_BLUR)] = 8.0,
    quality: Annotated[str, one_of("auto", "exact", "wide")] = "auto",
) -> Colour:
    """A Gaussian blur; the amount is its standard deviation. Wide is far quicker and meant for 8 pixels and more; auto takes it
    from there on, is exact below 4 pixels, and between them blurs a picture of half the size."""
    return blurred(picture, p.pixels(v.clamp(amount, 0.0, LARGEST_BLUR)), quality)


def box_mean(picture: Picture, radius: Value, precise: bool = False) -> Picture:
    """The mean of a square of 2 radius + 1 pixels (a whole number) of the picture."""
    count, reduce = held_channels(picture), picture.reduce if picture.values else 1
    share = v.divide(1.0, v.to_float(record("imax", radius, 0)) * 2.0 + 1.0)
    for horizontal in (True, False):

        def turn(pair: Callable[[int], tuple[Value, Value]], states: tuple[Value, ...]) -> list[Value]:
            return [total + sum(pair(c), v.value(0.0)) for c, total in enumerate(states)]

        sums = _along(picture, horizontal, radius, turn, [near(picture, c) for c in range(count)])
        picture = computed([total * share for total in sums], reduce=reduce, precise=precise, opaque=picture.opaque)
    return picture


@node("Box blur", "filter")
def box_blur(picture: PictureIn = None, radius: Annotated[ReferencePixels, Span(0, 64)] = 6.0) -> Colour:
    """The mean of a square; quick, with hard edges."""
    pixels = v.to_int(v.floor(p.pixels(v.clamp(radius, 0.0, 64.0)) + 0.5))
    return p.colour_here(box_mean(unpacked(frame_sized(picture)), pixels))


def window(picture: Picture, channel: int, radius: int) -> list[list[Value]]:
    """The square of pixels around this one, row by row."""
    reach = range(-radius, radius + 1)
    return [[near(picture, channel, x, y) for x in reach] for y in reach]


def median_of(values: Sequence[Value]) -> Value:
    """The middle of an odd number of values, by forgetting least and most in turn (common practice)."""
    rest = list(values)
    # The least and the most of just over half of them cannot be the middle.
    held = rest[: len(rest) // 2 + 2]
    waiting = rest[len(held) :]
    while len(held) > 1:
        held = _ends_last(held)[:-2]
        if waiting:
            held.append(waiting.pop())
    return held[0]


def _ends_last(values: list[Value]) -> list[Value]:
    """The same values with the least and the most at the end."""
    values = list(values)
    last = len(values) - 1
    for n in range(last):
        low, high = v.minimum(values[n], values[n + 1]), v.maximum(values[n], values[n + 1])
        values[n], values[n + 1] = low, high
    for n in range(last - 1, 0, -1):
        low, high = v.minimum(values[n - 1], values[n]), v.maximum(values[n - 1], values[n])
        values[n - 1], values[n] = low, high
    return [*values[1:last], values[0], values[last]]


MEDIANS = {"3 by 3": (1, 1), "5 by 5": (1, 2), "10 by 10": (2, 2)}
"""By how much smaller a picture is looked at, and how far to each side."""


@node("Median", "filter")
def median(picture: PictureIn = None, size: Annotated[str, one_of(*MEDIANS)] = "3 by 3") -> Colour:
    """The middle value of each colour around a pixel: takes specks away and leaves edges. The largest looks at a picture half as
    large."""
    source = frame_sized(picture)
    reduce, radius = MEDIANS[size]
    looked = halved(source) if reduce > 1 else source
    parts = [median_of([x for row in window(looked, c, radius) for x in row]) for c in range(held_channels(looked))]
    if reduce > 1:
        parts = p.enlarged(computed(parts, reduce=reduce, opaque=source.opaque))
    return p.as_colour(source, parts)


@node("Smooth", "filter")
def smooth(
    picture: PictureIn = None, radius: Annotated[ReferencePixels, Span(1, 32)] = 6.0, amount: Fraction = 0.5,
    edges: Annotated[Number, Span(0.005, 0.5)] = 0.06,
    quality: Annotated[str, one_of("exact", "quick")] = "exact",
) -> Colour:  # fmt: skip
    """Smooths areas and leaves edges that are stronger than `edges`: the guided filter of He, Sun and Tang (2013), each colour
    its own guide. Quick looks at a picture half as large (He and Sun 2015)."""
    source = unpacked(frame_sized(picture))
    count = held_channels(source)
    guide = halved(source) if quality == "quick" else source
    reduce = 2 if quality == "quick" else 1
    pixels = v.to_int(v.floor(p.pixels(v.clamp(radius, 0.0, 32.0)) * (1 / reduce) + 0.5))
    # Single precision: a variance is a small difference of large numbers.
    squares = [near(guide, c) * near(guide, c) for c in range(count)]
    mean = box_mean(guide, pixels, True)
    mean_square = box_mean(computed(squares, reduce=reduce, precise=True, opaque=source.opaque), pixels, True)
    slopes, offsets = [], []
    for c in range(count):
        m = near(mean, c)
        spread = v.maximum(near(mean_square, c) - m * m, 0.0)
        slope = v.divide(spread, spread + edges * edges)
        slopes.append(slope)
        offsets.append(m - slope * m)
    line = [box_mean(computed(one, reduce=reduce, opaque=source.opaque), pixels) for one in (slopes, offsets)]
    slope_means, offset_means = (p.enlarged(one) if reduce > 1 else [near(one, c) for c in range(count)] for one in line)
    made = [slope_means[c] * near(source, c) + offset_means[c] for c in range(count)]
    return p.as_colour(source, [v.mix(near(source, c), m, amount) for c, m in enumerate(made)])


def convolved(source: Picture, kernel: Sequence[Sequence[Value]], divisor: Value, bias: Value) -> Vec:
    """Each colour's weighted sum of neighbours (a correlation: the kernel is not turned over); alpha stays."""
    radius = len(kernel) // 2
    parts = []
    for c in range(min(3, held_channels(source))):
        total = v.value(0.0)
        for weights, row in zip(kernel, window(source, c, radius), strict=True):
            for weight, pixel in zip(weights, row, strict=True):
                total = total + pixel * weight
        parts.append(v.divide(total, divisor) + bias)
    if held_channels(source) == 4:
        parts.append(near(source, 3))
    return p.as_colour(source, parts)


@node("Convolve 3 by 3", "filter")
def convolve3(
    picture: PictureIn = None, upper: Vec3 = (0.0, -1.0, 0.0), middle: Vec3 = (-1.0, 5.0, -1.0), lower: Vec3 = (0.0, -1.0, 0.0),
    divisor: Number = 1.0, bias: Number = 0.0,
) -> Colour:  # fmt: skip
    """Any kernel of nine numbers, row by row; it starts as one that sharpens."""
    return convolved(frame_sized(picture), [row.parts() for row in (upper, middle, lower)], divisor, bias)


@node("Convolve 5 by 5", "filter")
def convolve5(
    picture: PictureIn = None, middle: Vec3 = (36.0, 24.0, 6.0), next_row: Vec3 = (24.0, 16.0, 4.0),
    outer_row: Vec3 = (6.0, 4.0, 1.0), divisor: Number = 256.0, bias: Number = 0.0,
) -> Colour:  # fmt: skip
    """A kernel of five by five that is the same to all four sides: its middle row from the middle outwards, the rows above and
    below it, the outer ones."""
    rows = [[c, b, a, b, c] for a, b, c in (row.parts() for row in (outer_row, next_row, middle, next_row, outer_row))]
    return convolved(frame_sized(picture), rows, divisor, bias)


class Edges(NamedTuple):
    """What *Sobel* gives."""

    strength: Number
    angle: Degrees


FAINT, CLEAR = 0.5 / 255, 2 / 255
"""Strengths of an edge, half a code and two codes of 8 bits, between which its angle comes in: half precision and rounding stay
below."""


@node("Sobel", "filter")
def sobel(picture: PictureIn = None, thickness: Annotated[ReferencePixels, Span(0.5, 12)] = 1.0) -> Edges:
    """How strong the edge at a pixel is (1 at an edge from black to white), and the direction in which it brightens; 0 where
    there is no edge. Sobel and Feldman (1968), on BT.709 luma."""
    source = frame_sized(picture)
    # In single precision: where the picture is nearly flat, the angle hangs on its last bits.
    light = computed([luma(p.colour_here(source))], precise=True)
    step = record("imax", v.to_int(v.floor(p.pixels(thickness) + 0.5)), 1)
    back = record("isub", 0, step)

    def at(x: Value | int, y: Value | int) -> Value:
        return near(light, 0, x, y)

    across = (at(step, back) - at(back, back)) + (at(step, 0) - at(back, 0)) * 2.0 + (at(step, step) - at(back, step))
    down = (at(back, step) - at(back, back)) + (at(0, step) - at(0, back)) * 2.0 + (at(step, step) - at(step, back))
    strength = v.sqrt(across * across + down * down) * 0.25
    # Of what is flat, an angle would be that of rounding: it comes in with the edge.
    return Edges(strength, f.atan2(down, across) * (180 / math.pi) * v.smoothstep(FAINT, CLEAR, strength))


@node("Smaller", "filter")
def smaller(picture: PictureIn = None, times: Annotated[str, one_of("2", "4", "8")] = "4") -> PictureIn:
    """The picture at a half, quarter or eighth of its size, each pixel the mean of those it stands for."""
    made = frame_sized(picture)
    for _ in range({"2": 1, "4": 2, "8": 3}[times]):
        made = halved(made)
    return made


@node("Blocks", "filter")
def blocks(picture: PictureIn = None, size: Annotated[ReferencePixels, Span(1, 120)] = 16.0) -> Colour:
    """Square blocks of one colour each, as many as fit from the top left."""
    side = v.maximum(v.floor(p.pixels(size) + 0.5), 1.0)
    columns, rows = (v.to_float(n) for n in frame_size())
    here = p.here()
    middle = Vec(*(v.divide((v.floor(v.divide(x * n, side)) + 0.5) * side, n) for x, n in ((here.x, columns), (here.y, rows))))
    return p.sample(picture, middle)
