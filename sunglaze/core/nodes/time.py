"""Time: what moves by itself. Rules that change once a frame, some with a state that is kept under the node's name.

Steps of state are computed from the frame's delta in seconds, so that the same motion comes out at any frame rate.
"""

from __future__ import annotations

import math
from typing import Annotated

from sunglaze.core.errors import Unfit
from sunglaze.core.language import functions as f
from sunglaze.core.language import vector as v
from sunglaze.core.language.expression import Rate, Value, advance, leaf, together
from sunglaze.core.language.functions import iadd
from sunglaze.core.language.moments import moment
from sunglaze.core.language.vector import Num, Vec
from sunglaze.core.nodes.node import node, scene
from sunglaze.core.nodes.types import Boolean, Fraction, Number, PerSecond, Seconds, Span, Whole, one_of

EASINGS = {
    "linear": (0.0, 0.0, 1.0, 1.0),
    "ease": (0.25, 0.1, 0.25, 1.0),
    "ease in": (0.42, 0.0, 1.0, 1.0),
    "ease out": (0.0, 0.0, 0.58, 1.0),
    "ease in and out": (0.42, 0.0, 0.58, 1.0),
}
"""W3C CSS Easing Functions Level 1, section 2.2: the named cubic-bezier curves."""


def now() -> Value:
    """Seconds since the effect began."""
    return moment("time")


def _delta() -> Value:
    return moment("delta")


def _frame_rate(value: Num, what: str) -> Value:
    value = v.value(value)
    if value.rate > Rate.FRAME:
        raise Unfit(f"'{what}' changes from pixel to pixel; this node follows one number a frame")
    return value


def cell(name: str, start: float = 0.0) -> Value:
    """What was kept under a name of this node a frame ago."""
    return leaf("cell", f"{scene().path}.{name}", start)


def keep(name: str, following: Value, start: float = 0.0) -> Value:
    """A frame-rate value that the next frame finds as `cell(name, start)`."""
    return advance(f"{scene().path}.{name}", start, following)


def begins(event: Value) -> Value:
    """Whether a condition holds now and did not a frame ago."""
    was = cell("was")
    return together(v.number(event & (was < 0.5)), keep("was", v.number(event))) > 0.5


def bezier(t: Value, x1: Num, y1: Num, x2: Num, y2: Num) -> Value:
    """A CSS cubic-bezier curve from (0, 0) to (1, 1): its y where its x is t, found by halving."""

    def curve(s: Value, a: Num, b: Num) -> Value:
        rest = 1.0 - s
        return rest * rest * s * 3.0 * a + rest * s * s * 3.0 * b + s * s * s

    t = v.clamp01(t)
    x1, x2 = v.clamp01(v.value(x1)), v.clamp01(v.value(x2))
    low, high = v.value(0.0), v.value(1.0)
    for _ in range(24):
        middle = (low + high) * 0.5
        below = curve(middle, x1, x2) < t
        low, high = v.select(below, middle, low), v.select(below, high, middle)
    return curve((low + high) * 0.5, y1, y2)


@node("Pulse", "time")
def pulse(
    low: Number = 0.0, high: Number = 1.0, seconds: Annotated[Seconds, Span(0.05, 60)] = 2.0,
    how: Annotated[str, one_of("back and forth", "loop", "smooth")] = "back and forth", shift: Fraction = 0.0,
) -> Number:  # fmt: skip
    """Goes from low to high again and again: back and forth, from the start each time, or swinging smoothly."""
    turn = v.fract(v.divide(now(), seconds) + shift)
    if how == "loop":
        t = turn
    elif how == "smooth":
        t = 0.5 - f.cos(turn * (2 * math.pi)) * 0.5
    else:
        t = 1.0 - v.absolute(turn * 2.0 - 1.0)
    return v.mix(low, high, t)


@node("Ramp in time", "time")
def time_ramp(
    start: Number = 0.0, end: Number = 1.0, seconds: Annotated[Seconds, Span(0.05, 60)] = 1.0, delay: Seconds = 0.0,
    easing: Annotated[str, one_of(*EASINGS)] = "ease in and out", since: Seconds = None,
) -> Number:  # fmt: skip
    """Goes once from one number to another, by one of CSS's easings; from the effect's start, or since what is wired."""
    passed = now() if since is None else since
    t = v.clamp01(v.divide(passed - delay, seconds))
    return v.mix(start, end, bezier(t, *EASINGS[easing]))


@node("Ease", "time")
def ease(
    amount: Fraction = 0.0, x1: Fraction = 0.42, y1: Annotated[Number, Span(-1, 2)] = 0.0, x2: Fraction = 0.58,
    y2: Annotated[Number, Span(-1, 2)] = 1.0,
) -> Number:  # fmt: skip
    """A cubic-bezier curve as in CSS, from 0, 0 to 1, 1."""
    return bezier(amount, x1, y1, x2, y2)


@node("Ticks", "time")
def ticks(rate: PerSecond = 8.0) -> Whole:
    """Counts from the start, so many a second: as a seed, it makes chance jump at its own pace."""
    return v.to_int(v.floor(now() * rate))


@node("Follow", "time")
def follow(target: Number = 0.0, seconds: Seconds = 0.3) -> Number:
    """Goes after a number and is within 37 % of a jump after so many seconds (a first-order lag); 0 follows at once."""
    target = _frame_rate(target, "target")
    begun, before = cell("begun"), cell("value")
    step = v.select(v.value(seconds) > 1e-6, 1.0 - f.exp(v.divide(-_delta(), seconds)), 1.0)
    following = v.select(begun > 0.5, v.mix(before, target, step), target)
    return together(keep("value", following), keep("begun", v.value(1.0)))


@node("Follow closely", "time")
def one_euro(
    target: Number = 0.0, steadiness: Annotated[Number, Span(0.01, 10)] = 1.0, quickness: Annotated[Number, Span(0, 2)] = 0.1
) -> Number:
    """Goes after a shaking number: steady while it rests, quick while it moves. The 1-euro filter of Casiez, Roussel and
    Vogel (2012): steadiness is its least cutoff in hertz, quickness its beta."""
    target = _frame_rate(target, "target")
    begun, before, speed = cell("begun"), cell("value"), cell("speed")
    dt = v.maximum(_delta(), 1e-6)

    def share(cutoff: Num) -> Value:
        # The exact share of a first-order lag, where the paper has its first approximation, which changes with the frame rate.
        return 1.0 - f.exp(-dt * (2 * math.pi) * cutoff)

    moved = v.divide(target - before, dt)
    slope = v.select(begun > 0.5, v.mix(speed, moved, share(1.0)), 0.0)
    cutoff = steadiness + v.absolute(slope) * quickness
    following = v.select(begun > 0.5, v.mix(before, target, share(cutoff)), target)
    return together(keep("value", following), keep("speed", slope), keep("begun", v.value(1.0)))


@node("Smooth a number", "time")
def smoothed(
    target: Number = 0.0, seconds: Seconds = 0.2, how: Annotated[str, one_of("lag", "steady at rest")] = "lag"
) -> Number:
    """Goes after a number: within 37 % of a jump after so many seconds, or, where it is to be steady at rest, as slowly while the
    number shakes and at once where it moves (the 1-euro filter, quickness 0.6 a unit)."""
    if how == "lag":
        return follow.rule(target, seconds)
    return one_euro.rule(target, v.clamp(v.divide(1 / (2 * math.pi), v.maximum(seconds, 0.005)), 0.01, 30.0), 0.6)


@node("Wander", "time")
def wander(
    low: Number = -1.0, high: Number = 1.0, rate: Annotated[PerSecond, Span(0.01, 10)] = 0.5, channel: Whole = 0
) -> Number:
    """Strays smoothly between two numbers, about so many turns a second; each channel on its own."""
    from sunglaze.core.nodes.noise import value_noise

    seed = iadd(f.hashed(moment("seed"), channel), 1)
    at = now() * rate
    there = (value_noise(Vec(at, 0.5), seed) + value_noise(Vec(at * 2.3, 7.5), seed) * 0.5) * (1 / 1.5)
    return v.mix(low, high, v.smoothstep(0.15, 0.85, there))


@node("Since", "time")
def since(event: Boolean = False) -> Annotated[Seconds, Span(0, 600)]:
    """Seconds since a condition last began to hold; before it ever did, since long ago (600)."""
    was, passed = cell("was"), cell("passed", 600.0)
    is_now = v.number(event)
    begins = (is_now > 0.5) & (was < 0.5)
    following = v.select(begins, 0.0, v.minimum(passed + _delta(), 600.0))
    return together(keep("passed", following, 600.0), keep("was", is_now))


@node("Toggle", "time")
def toggle(event: Boolean = False, starts: Boolean = False) -> Boolean:
    """Flips each time a condition begins to hold."""
    was, flipped = cell("was"), cell("flipped")
    is_now = v.number(event)
    begins = (is_now > 0.5) & (was < 0.5)
    following = v.select(begins, 1.0 - flipped, flipped)
    shown = together(keep("flipped", following), keep("was", is_now)) > 0.5
    return (shown & ~starts) | (~shown & starts)


@node("Hold", "time")
def hold(value: Number = 0.0, when: Boolean = False) -> Number:
    """Lets a number through, and keeps it as it is while a condition holds."""
    value = _frame_rate(value, "value")
    begun, before = cell("begun"), cell("value")
    following = v.select(when & (begun > 0.5), before, value)
    return together(keep("value", following), keep("begun", v.value(1.0)))


@node("Count", "time")
def count(event: Boolean = False, until: Annotated[Whole, Span(0, 100)] = 0) -> Whole:
    """How often a condition has begun to hold; starts again at a number, if one is given."""
    was, held = cell("was"), cell("count")
    is_now = v.number(event)
    begins = (is_now > 0.5) & (was < 0.5)
    following = v.select(begins, held + 1.0, held)
    end = v.to_float(until)
    following = v.select((end > 0.5) & (following >= end), 0.0, following)
    return v.to_int(together(keep("count", following), keep("was", is_now)))
