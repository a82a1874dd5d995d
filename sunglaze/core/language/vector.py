"""Vectors of symbolic values, and the functions that rules are written with. Names follow GLSL.

A function of numbers takes vectors, too, and works part by part; a number beside a vector stands for all its parts.
"""

from __future__ import annotations

from collections.abc import Callable
from typing import overload

from sunglaze.core.errors import Unfit
from sunglaze.core.language.expression import Value, constant, record

Num = Value | float


class Vec:
    """Two to four floats. Parts are x, y, z, w or r, g, b, a; a colour is four, alpha last and straight."""

    __slots__ = ("_parts",)

    def __init__(self, *parts: Num) -> None:
        self._parts = tuple(p if isinstance(p, Value) else constant(p) for p in parts)

    def parts(self) -> tuple[Value, ...]:
        """Its scalars, in order."""
        return self._parts

    def __len__(self) -> int:
        return len(self._parts)

    @property
    def x(self) -> Value:
        """The first part."""
        return self._parts[0]

    @property
    def y(self) -> Value:
        """The second part."""
        return self._parts[1]

    @property
    def z(self) -> Value:
        """The third part."""
        return self._parts[2]

    @property
    def w(self) -> Value:
        """The fourth part."""
        return self._parts[3]

    r, g, b, a = x, y, z, w

    @property
    def rgb(self) -> Vec:
        """The first three parts."""
        return Vec(*self._parts[:3])

    def map(self, rule: Callable[[Value], Value]) -> Vec:
        """A rule on each part."""
        return Vec(*(rule(p) for p in self._parts))

    def zip(self, other: Vec, rule: Callable[[Value, Value], Value]) -> Vec:
        """A rule on the parts of both, pair by pair. Raises ValueError where they are of unequal length."""
        return Vec(*(rule(p, q) for p, q in zip(self._parts, other._parts, strict=True)))

    def _with(self, other: Vec | Num, rule: Callable[[Value, Value], Value]) -> Vec:
        return self.zip(other if isinstance(other, Vec) else Vec(*[other] * len(self)), rule)

    def __add__(self, other: Vec | Num) -> Vec:
        return self._with(other, lambda a, b: a + b)

    def __sub__(self, other: Vec | Num) -> Vec:
        return self._with(other, lambda a, b: a - b)

    def __mul__(self, other: Vec | Num) -> Vec:
        return self._with(other, lambda a, b: a * b)

    def __truediv__(self, other: Vec | Num) -> Vec:
        return self._with(other, lambda a, b: a / b)

    def __radd__(self, other: Num) -> Vec:
        return self._with(other, lambda a, b: b + a)

    def __rsub__(self, other: Num) -> Vec:
        return self._with(other, lambda a, b: b - a)

    def __rmul__(self, other: Num) -> Vec:
        return self._with(other, lambda a, b: b * a)

    def __rtruediv__(self, other: Num) -> Vec:
        return self._with(other, lambda a, b: b / a)

    def __neg__(self) -> Vec:
        return self.map(lambda a: -a)


def rgba(colour: Vec, alpha: Num) -> Vec:
    """A colour of three parts with an alpha."""
    return Vec(*colour.parts()[:3], alpha)


def value(number: Num) -> Value:
    """A plain number as a value; a value as it is."""
    return number if isinstance(number, Value) else constant(number)


@overload
def partwise(rule: Callable[..., Value], *arguments: Vec) -> Vec: ...
@overload
def partwise(rule: Callable[..., Value], *arguments: Num) -> Value: ...
@overload
def partwise(rule: Callable[..., Value], *arguments: Vec | Num) -> Vec | Value: ...


def partwise(rule: Callable[..., Value], *arguments: Vec | Num) -> Vec | Value:
    """A rule of numbers on numbers or vectors; numbers beside vectors are repeated. Raises Unfit for unequal sizes."""
    sizes = {len(a) for a in arguments if isinstance(a, Vec)}
    if not sizes:
        return rule(*(value(a) for a in arguments if not isinstance(a, Vec)))
    if len(sizes) > 1:
        raise Unfit(f"vectors of {' and '.join(map(str, sorted(sizes)))} parts do not go together")
    size = sizes.pop()
    columns = [a.parts() if isinstance(a, Vec) else (value(a),) * size for a in arguments]
    return Vec(*(rule(*row) for row in zip(*columns, strict=True)))


def select(condition: Value, yes: Num, no: Num) -> Value:
    """`yes` where the condition holds. Both sides are computed: there are no branches."""
    return record("select", condition, yes, no)


def select3(condition: Value, yes: Vec, no: Vec) -> Vec:
    """One of two vectors, part by part."""
    return yes.zip(no, lambda a, b: select(condition, a, b))


def minimum(a: Num, b: Num) -> Value:
    """The smaller; b where one is NaN."""
    return select(value(a) < b, a, b)


def maximum(a: Num, b: Num) -> Value:
    """The larger; b where one is NaN."""
    return select(value(a) > b, a, b)


def clamp(a: Num, low: Num, high: Num) -> Value:
    """`low` to `high`; NaN gives `low`, since every compare with it fails. `high` where that lies below `low`."""
    return minimum(maximum(a, low), high)


def clamp01(a: Value) -> Value:
    """0 to 1; NaN gives 0."""
    return clamp(a, 0.0, 1.0)


def mix(a: Num, b: Num, t: Num) -> Value:
    """a at t = 0, b at t = 1; exactly a at 0."""
    a = value(a)
    return a + (b - a) * t


def mix3(a: Vec, b: Vec, t: Value) -> Vec:
    """Each part of `mix`."""
    return a.zip(b, lambda x, y: mix(x, y, t))


def sqrt(a: Num) -> Value:
    """Square root; 0 for what is below 0."""
    return record("sqrt", a)


def absolute(a: Num) -> Value:
    """Without its sign."""
    return record("abs", a)


def floor(a: Num) -> Value:
    """The largest whole number that is not above it, as a float."""
    return record("floor", a)


def fract(a: Num) -> Value:
    """What is above the next lower whole number, 0 to below 1."""
    a = value(a)
    return a - floor(a)


def to_int(a: Num) -> Value:
    """Towards zero, clamped to +-1e9; NaN gives -1e9."""
    return record("to_int", a)


def to_float(a: Value) -> Value:
    """A whole number as a float."""
    return record("to_float", a)


def number(condition: Value) -> Value:
    """1 where a condition holds, else 0."""
    return select(condition, 1.0, 0.0)


def equal(a: Num, b: Num) -> Value:
    """Whether two numbers are equal; false for NaN."""
    a = value(a)
    return (a <= b) & (a >= b)


def divide(a: Num, b: Num) -> Value:
    """a / b, and 0 where b is 0."""
    zero = equal(b, 0.0)
    return select(zero, 0.0, value(a) / select(zero, 1.0, b))


def modulo(a: Num, b: Num) -> Value:
    """a - b * floor(a / b), as in GLSL; 0 where b is 0."""
    return select(equal(b, 0.0), 0.0, a - b * floor(divide(a, b)))


def smoothstep(low: Num, high: Num, a: Num) -> Value:
    """0 below `low`, 1 above `high`, and a smooth way (3 t^2 - 2 t^3) between; a step where both are the same."""
    same = equal(low, high)
    t = select(same, number(value(a) >= high), clamp01(divide(a - low, high - low)))
    return t * t * (3.0 - t * 2.0)


def dot(a: Vec, b: Vec) -> Value:
    """The sum of the products of the parts."""
    first, *rest = (x * y for x, y in zip(a.parts(), b.parts(), strict=True))
    return sum(rest, first)


def length(a: Vec) -> Value:
    """The Euclidean length."""
    return sqrt(dot(a, a))


def unit(a: Vec) -> Vec:
    """The vector at length 1; 0 where it has none."""
    size = length(a)
    return Vec(*(divide(part, size) for part in a.parts()))


def cross(a: Vec, b: Vec) -> Vec:
    """The vector that stands upright on both, of three parts each."""
    return Vec(a.y * b.z - a.z * b.y, a.z * b.x - a.x * b.z, a.x * b.y - a.y * b.x)
