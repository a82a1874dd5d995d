"""Loops: a rule repeated a number of times that changes once a frame, with values handed from turn to turn.

The body is recorded once, as a computation of its own: what it takes from outside becomes arguments of the loop, so a body's
text says all that it computes, and equal loops are joined like other values.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from contextvars import ContextVar
from dataclasses import dataclass

from sunglaze.core.errors import Unfit
from sunglaze.core.language.expression import Rate, Value, constant, listing, needed

_depth: ContextVar[int] = ContextVar("loop depth", default=0)
LONGEST = 512

Turn = Callable[[Value, tuple[Value, ...]], Sequence[Value]]


@dataclass(frozen=True, eq=False)
class Body:
    """What one turn makes of the states: `results`, one a state. Leaves: `turn` (int, from 0), `state` K, `outer` K."""

    depth: int
    results: tuple[Value, ...]

    @property
    def digest(self) -> list[bytes]:
        """Equal for bodies that compute the same."""
        return [result.digest for result in self.results]

    def __repr__(self) -> str:
        return f"{{{listing(self.results)}}}"


def repeat(count: Value, most: int, start: Sequence[Value], turn: Turn) -> tuple[Value, ...]:
    """The states after `count` turns (0 to `most`), each turn given its number and the states.

    `count` is a whole number. Raises Unfit where it changes from pixel to pixel, or for `most` above LONGEST: no wiring hangs a
    frame.
    """
    if not 0 <= most <= LONGEST:
        raise Unfit(f"a loop takes at most {LONGEST} turns")
    if count.rate is Rate.PIXEL:
        raise Unfit("how often it is repeated changes from pixel to pixel; it is one number for the whole picture")
    depth = _depth.get()
    token = _depth.set(depth + 1)
    try:
        rates = [max(Rate.PASS, s.rate) for s in start]
        while True:
            index = Value("turn", (), (depth,), "int", Rate.PASS)
            states = tuple(Value("state", (), (depth, k), s.kind, rates[k]) for k, s in enumerate(start))
            results = tuple(turn(index, states))
            found = [max(Rate.PASS, before, after.rate) for before, after in zip(rates, results, strict=True)]
            if found == rates:
                break
            rates = found
    finally:
        _depth.reset(token)
    outer: list[Value] = []
    body = Body(depth, _detached(results, depth, outer))
    arguments = (count, *start, *outer)
    loop = Value("loop", arguments, (most, len(start), body), "float", Rate.PASS)
    return tuple(Value("after", (loop,), (k,), s.kind, rates[k]) for k, s in enumerate(start))


def _detached(results: tuple[Value, ...], depth: int, outer: list[Value]) -> tuple[Value, ...]:
    """The results with every part that no turn changes replaced by a leaf `outer`, and added to the list."""
    turning: dict[int, Value] = {}
    places: dict[int, int] = {}

    def part(value: Value) -> Value:
        if value.op == "const":
            return value
        if id(value) in turning:
            return turning[id(value)]
        if id(value) not in places:
            places[id(value)] = len(outer)
            outer.append(value)
        return Value("outer", (), (depth, places[id(value)]), value.kind, max(Rate.PASS, value.rate))

    for value in needed(results):
        if value.op in ("turn", "state") and value.attribute[0] == depth:
            turning[id(value)] = value
        elif any(id(a) in turning for a in value.arguments):
            turning[id(value)] = Value(value.op, tuple(map(part, value.arguments)), value.attribute, value.kind, value.rate)
    return tuple(map(part, results))


def whole(number: int | Value) -> Value:
    """A whole number as a value."""
    return number if isinstance(number, Value) else constant(number, "int")
