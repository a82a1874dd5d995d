"""Loops: a rule repeated a number of times that changes once a frame, with values handed from turn to turn.

The body is recorded once, as a computation of its own: what it takes from outside becomes arguments of the loop, so a body's
text says all that it computes, and equal loops are joined like other values.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from contextvars import ContextVar
from dataclasses import dataclass

from sunglaze.core.shading.expression import Rate, Value, constant, listing

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

    `count` is a whole number that is alike at all pixels. Raises ValueError for `most` above LONGEST: no wiring hangs a frame.
    """
    if not 0 <= most <= LONGEST:
        raise ValueError(f"a loop takes at most {LONGEST} turns")
    if count.rate is Rate.PIXEL:
        raise TypeError("the number of turns must be alike at all pixels")
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
    inside: dict[int, bool] = {}
    made: dict[int, Value] = {}
    places: dict[int, int] = {}

    def turning(value: Value) -> bool:
        stack = [value]
        while stack:
            v = stack[-1]
            if id(v) in inside:
                stack.pop()
                continue
            waiting = [a for a in v.arguments if id(a) not in inside]
            if waiting:
                stack.extend(waiting)
                continue
            stack.pop()
            mine = v.op in ("turn", "state") and v.attribute[0] == depth
            inside[id(v)] = mine or any(inside[id(a)] for a in v.arguments)
        return inside[id(value)]

    def replaced(root: Value) -> Value:
        stack = [root]
        while stack:
            v = stack[-1]
            if id(v) in made:
                stack.pop()
                continue
            if v.op == "const" or not turning(v):
                made[id(v)] = v if v.op == "const" else _outer(v)
                continue
            waiting = [a for a in v.arguments if id(a) not in made]
            if waiting:
                stack.extend(waiting)
                continue
            made[id(v)] = Value(v.op, tuple(made[id(a)] for a in v.arguments), v.attribute, v.kind, v.rate)
        return made[id(root)]

    def _outer(v: Value) -> Value:
        if id(v) not in places:
            places[id(v)] = len(outer)
            outer.append(v)
        return Value("outer", (), (depth, places[id(v)]), v.kind, max(Rate.PASS, v.rate))

    return tuple(replaced(r) for r in results)


def whole(number: int | Value) -> Value:
    """A whole number as a value."""
    return number if isinstance(number, Value) else constant(number, "int")
