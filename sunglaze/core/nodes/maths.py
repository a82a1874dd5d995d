"""Maths: rules of numbers, which take vectors and colours part by part. All are total."""

from __future__ import annotations

from typing import Annotated

from sunglaze.core.language import functions as f
from sunglaze.core.language import vector as v
from sunglaze.core.language.expression import Value, record
from sunglaze.core.language.vector import Vec, partwise
from sunglaze.core.nodes.node import node
from sunglaze.core.nodes.types import Any_, Boolean, Number, Vec3, Whole, one_of


@node("Add", "maths")
def add(a: Any_ = 0.0, b: Any_ = 0.0) -> Any_:
    """a + b."""
    return a + b


@node("Subtract", "maths")
def subtract(a: Any_ = 0.0, b: Any_ = 0.0) -> Any_:
    """a - b."""
    return a - b


@node("Multiply", "maths")
def multiply(a: Any_ = 1.0, b: Any_ = 1.0) -> Any_:
    """a times b."""
    return a * b


@node("Divide", "maths")
def divide(a: Any_ = 1.0, b: Any_ = 1.0) -> Any_:
    """a / b; 0 where b is 0."""
    return partwise(v.divide, a, b)


@node("Power", "maths")
def power(a: Any_ = 1.0, exponent: Any_ = 1.0) -> Any_:
    """a to the power of the exponent; 0 where a is not above 0."""
    return partwise(f.power, a, exponent)


@node("Modulo", "maths")
def modulo(a: Any_ = 0.0, b: Any_ = 1.0) -> Any_:
    """What is left of a after taking b as often as fits; has the sign of b. 0 where b is 0."""
    return partwise(v.modulo, a, b)


@node("Absolute", "maths")
def absolute(a: Any_ = 0.0) -> Any_:
    """a without its sign."""
    return partwise(v.absolute, a)


@node("Sign", "maths")
def sign(a: Any_ = 0.0) -> Any_:
    """-1, 0 or 1."""
    return partwise(lambda x: v.number(x > 0.0) - v.number(x < 0.0), a)


@node("Floor", "maths")
def floor(a: Any_ = 0.0) -> Any_:
    """The whole number at or below a."""
    return partwise(v.floor, a)


@node("Ceil", "maths")
def ceil(a: Any_ = 0.0) -> Any_:
    """The whole number at or above a."""
    return partwise(lambda x: -v.floor(-x), a)


@node("Round", "maths")
def _round(a: Any_ = 0.0) -> Any_:
    """The nearest whole number; halves go up."""
    return partwise(lambda x: v.floor(x + 0.5), a)


@node("Fract", "maths")
def fract(a: Any_ = 0.0) -> Any_:
    """What a is above the whole number below it, 0 to 1."""
    return partwise(v.fract, a)


@node("Minimum", "maths")
def minimum(a: Any_ = 0.0, b: Any_ = 0.0) -> Any_:
    """The smaller of the two."""
    return partwise(v.minimum, a, b)


@node("Maximum", "maths")
def maximum(a: Any_ = 0.0, b: Any_ = 0.0) -> Any_:
    """The larger of the two."""
    return partwise(v.maximum, a, b)


@node("Clamp", "maths")
def clamp(a: Any_ = 0.0, low: Any_ = 0.0, high: Any_ = 1.0) -> Any_:
    """a, held between low and high."""
    return partwise(v.clamp, a, low, high)


@node("Mix", "maths")
def mix(a: Any_ = 0.0, b: Any_ = 1.0, amount: Any_ = 0.5) -> Any_:
    """a at 0, b at 1, a straight way between."""
    return partwise(v.mix, a, b, amount)


@node("Step", "maths")
def step(a: Any_ = 0.0, edge: Any_ = 0.5) -> Any_:
    """0 below the edge, 1 from there on."""
    return partwise(lambda x, e: v.number(x >= e), a, edge)


@node("Smooth step", "maths")
def smoothstep(a: Any_ = 0.0, low: Any_ = 0.0, high: Any_ = 1.0) -> Any_:
    """0 below low, 1 above high, a smooth way between (3 t² - 2 t³, as in GLSL)."""
    return partwise(lambda x, p, q: v.smoothstep(p, q, x), a, low, high)


@node("Remap range", "maths")
def remap(
    a: Any_ = 0.0,
    from_low: Any_ = 0.0,
    from_high: Any_ = 1.0,
    to_low: Any_ = 0.0,
    to_high: Any_ = 1.0,
    clamped: Boolean = False,
) -> Any_:
    """Brings one range to another; a range of no width gives the low end. Clamped, it does not leave the new range."""

    def rule(x: Value, a0: Value, a1: Value, b0: Value, b1: Value) -> Value:
        t = v.divide(x - a0, a1 - a0)
        return v.mix(b0, b1, v.select(clamped, v.clamp01(t), t))

    return partwise(rule, a, from_low, from_high, to_low, to_high)


@node("Sine", "maths")
def sine(a: Any_ = 0.0) -> Any_:
    """The sine of a in degrees."""
    return partwise(lambda x: f.sin(x * _RADIANS), a)


@node("Cosine", "maths")
def cosine(a: Any_ = 0.0) -> Any_:
    """The cosine of a in degrees."""
    return partwise(lambda x: f.cos(x * _RADIANS), a)


@node("Tangent", "maths")
def tangent(a: Any_ = 0.0) -> Any_:
    """The tangent of a in degrees; 0 where the cosine is 0."""
    return partwise(lambda x: f.tan(x * _RADIANS), a)


@node("Angle of", "maths")
def atan2(y: Any_ = 0.0, x: Any_ = 1.0) -> Any_:
    """The angle of (x, y) in degrees, -180 to 180."""
    return partwise(lambda q, p: f.atan2(q, p) / _RADIANS, y, x)


_RADIANS = 0.017453292519943295


@node("Square root", "maths")
def square_root(a: Any_ = 0.0) -> Any_:
    """The square root; 0 for what is below 0."""
    return partwise(v.sqrt, a)


@node("Exponential", "maths")
def exponential(a: Any_ = 0.0) -> Any_:
    """e to the power a, held to what single precision holds."""
    return partwise(f.exp, a)


@node("Logarithm", "maths")
def logarithm(a: Any_ = 1.0) -> Any_:
    """The natural logarithm; about -87 for what is not above 0."""
    return partwise(f.log, a)


def _vector(a: Vec | Value) -> Vec:
    return a if isinstance(a, Vec) else Vec(a)


@node("Dot product", "maths")
def dot(a: Any_ = 0.0, b: Any_ = 0.0) -> Number:
    """The sum of the products of the parts; a number stands for a vector that has it in every part."""
    first, *rest = _vector(partwise(lambda x, y: x * y, a, b)).parts()
    return sum(rest, first)


@node("Length", "maths")
def length(a: Any_ = 0.0) -> Number:
    """How long a vector is."""
    return v.length(_vector(a))


@node("Distance", "maths")
def distance(a: Any_ = 0.0, b: Any_ = 0.0) -> Number:
    """How far two points are apart."""
    return v.length(_vector(a - b))


@node("Normalize", "maths")
def normalize(a: Any_ = 1.0) -> Any_:
    """The vector at length 1; 0 where it has none."""
    size = v.length(_vector(a))
    return partwise(v.divide, a, size)


@node("Cross product", "maths")
def cross(a: Vec3 = (1.0, 0.0, 0.0), b: Vec3 = (0.0, 1.0, 0.0)) -> Vec3:
    """The vector that stands upright on both."""
    return v.cross(a, b)


@node("One minus", "maths")
def one_minus(a: Any_ = 0.0) -> Any_:
    """1 - a."""
    return 1.0 - a


COMPARISONS = ("less", "at most", "equal", "different", "at least", "more")


@node("Compare", "maths")
def compare(
    a: Number = 0.0, b: Number = 0.0, how: Annotated[str, one_of(*COMPARISONS)] = "less", within: Number = 0.0
) -> Boolean:
    """Whether a is less than b, and so on. Equal and different allow a tolerance."""
    same = v.absolute(a - b) <= v.absolute(within)
    return {"less": a < b, "at most": a <= b, "equal": same, "different": ~same, "at least": a >= b, "more": a > b}[how]


@node("And", "maths")
def _and(a: Boolean = False, b: Boolean = False) -> Boolean:
    """Yes where both are."""
    return a & b


@node("Or", "maths")
def _or(a: Boolean = False, b: Boolean = False) -> Boolean:
    """Yes where one of them is, or both."""
    return a | b


@node("Not", "maths")
def _not(a: Boolean = False) -> Boolean:
    """Yes where a is not."""
    return ~a


@node("Choose by condition", "maths")
def choose(condition: Boolean = True, yes: Any_ = 1.0, no: Any_ = 0.0) -> Any_:
    """One value where the condition holds, another where it does not."""
    return partwise(lambda p, q: v.select(condition, p, q), yes, no)


@node("Choose among", "maths")
def choose_among(
    index: Whole = 0, first: Any_ = 0.0, second: Any_ = 0.0, third: Any_ = 0.0, fourth: Any_ = 0.0, fifth: Any_ = 0.0,
    sixth: Any_ = 0.0,
) -> Any_:  # fmt: skip
    """The value at a place, counted from 0; the last one for what lies beyond, the first for what lies before."""
    found = sixth
    for n, other in reversed(list(enumerate((first, second, third, fourth, fifth)))):
        here = record("ilt", index, n + 1)
        found = partwise(lambda p, q, here=here: v.select(here, p, q), other, found)
    return found
