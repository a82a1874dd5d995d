"""What a pass comes to where some of the pictures that it reads are nothing: away from a face, make-up is the picture as it was.

A mesh covers a part of the frame, and so does the mask of a face. Where all of these are 0, a pass comes to less: its clear form,
or nothing at all, and then what reads it has a clear form as well. As in gating.py, a product with 0 is taken for 0.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from functools import cached_property
from threading import Lock

from cachetools import LRUCache, cached

from sunglaze.core.language.expression import Value, constant, needed, record
from sunglaze.core.language.loops import Body
from sunglaze.core.language.operations import OPERATIONS
from sunglaze.core.passes.planning import Plan, Sweep
from sunglaze.core.passes.reach import READS, Reading, reading

WORTH = 0.85
"""Of its operations, what a clear form may at most have left to be worth a build of its own."""

MUCH = 0.6
"""Of its operations, what a clear form may at most have left when a choice is taken for granted."""


@dataclass(frozen=True, eq=False)
class Clearing:
    """A pass and what it comes to where the pictures at `places` are 0: `clear`, or none where it has no such form. `vanishes`:
    it is 0 there itself. `if_so`: what choices, by slot, have to be for that. `masks`: it is a mask, of which is looked where it
    is 0 when it has been drawn."""

    sweep: Sweep
    places: frozenset[int]
    clear: Sweep | None
    vanishes: bool
    if_so: Mapping[int, bool]
    masks: bool

    @cached_property
    def reading(self) -> Reading:
        """What it reads."""
        return reading(self.sweep)

    @cached_property
    def reading_clear(self) -> Reading:
        """What its clear form reads."""
        return reading(self.clear) if self.clear is not None else self.reading


def clearings(plan: Plan) -> tuple[Clearing, ...]:
    """One for each of a plan's passes, or none at all where nothing in it is ever 0 in a part of the frame."""
    limited = {mesh.target.name for mesh in plan.meshes}
    found = []
    for one in plan.passes:
        made = _clearing(one, frozenset(n for n, picture in enumerate(one.pictures) if picture.name in limited))
        found.append(made)
        if (made.masks or made.vanishes) and one.target is not None:
            limited.add(one.target.name)
    return tuple(found) if any(one.places for one in found) else ()


def _clearing(one: Sweep, places: frozenset[int]) -> Clearing:
    is_kept = one.target is None or bool(one.target.keeps)
    masks = not is_kept and len(one.values) == 1 and all(picture.source == "region" for picture in one.pictures)
    if places:
        least = _least(one, places)
        if not is_kept and all(map(_is_zero, least.values)):
            return Clearing(one, places, None, True, least.if_so, masks)
        if len(least.order) <= WORTH * len(one.order):
            clear = replace(one, values=least.values, order=least.order)
            return Clearing(one, places, clear, False, least.if_so, masks)
    return Clearing(one, frozenset(), None, False, {}, masks)


@dataclass(frozen=True, eq=False)
class _Least:
    """The shortest that a pass comes to, and the choices under which it does."""

    values: tuple[Value, ...]
    order: tuple[Value, ...]
    if_so: Mapping[int, bool]


def _key(one: Sweep, places: frozenset[int]) -> tuple[str, frozenset[int]]:
    return one.key, places


@cached(LRUCache(512), key=_key, lock=Lock())
def _least(one: Sweep, places: frozenset[int]) -> _Least:
    """What a pass comes to where the pictures at these places are 0; the latest answers are kept. A choice is only taken for
    granted where that makes it much shorter."""
    found = _cleared_to(one, places, {})
    while True:
        choices = {v.arguments[0].attribute[0] for v in found.order if v.op == "select" and v.arguments[0].op == "slot"}
        ways = [_cleared_to(one, places, {**found.if_so, slot: side}) for slot in choices for side in (False, True)]
        shortest = min(ways, key=lambda way: len(way.order), default=found)
        if shortest is found or len(shortest.order) > MUCH * len(found.order):
            return found
        found = shortest


def _cleared_to(one: Sweep, places: frozenset[int], if_so: Mapping[int, bool]) -> _Least:
    values = _cleared(one.values, places, if_so)
    return _Least(values, tuple(needed(values)), if_so)


def _is_zero(value: Value) -> bool:
    return value.op == "const" and value.attribute[0] == 0


def _cleared(values: Sequence[Value], places: frozenset[int], if_so: Mapping[int, bool]) -> tuple[Value, ...]:
    made: dict[int, Value] = {}
    for value in needed(values):
        made[id(value)] = _one(value, [made[id(argument)] for argument in value.arguments], places, if_so)
    return tuple(made[id(value)] for value in values)


def _equal(one: Value, other: Value) -> bool:
    return one is other or one.digest == other.digest


def _one(value: Value, arguments: list[Value], places: frozenset[int], if_so: Mapping[int, bool]) -> Value:
    """A value whose arguments are as they are there."""
    if value.op in READS and value.attribute[0].place in places:
        return constant(0.0)
    if value.op == "slot" and value.attribute[0] in if_so:
        return constant(if_so[value.attribute[0]], "bool")
    if value.op == "mul" and any(map(_is_zero, arguments)):
        return constant(0.0)
    if value.op == "select" and _equal(*arguments[1:]):
        return arguments[1]
    if value.op == "after":
        return _after(value, arguments[0])
    attribute = value.attribute
    if value.op == "loop":
        most, count, body = attribute
        results = _cleared(body.results, places, if_so)
        # A state that would change less often than it is taken to do stays as it is.
        if all(a.rate is b.rate for a, b in zip(results, body.results, strict=True)):
            attribute = most, count, Body(body.depth, results)
    elif all(a is b for a, b in zip(arguments, value.arguments, strict=True)):
        return value
    elif value.op in OPERATIONS:
        return record(value.op, *arguments)
    return Value(value.op, tuple(arguments), attribute, value.kind, value.rate)


def _after(value: Value, loop: Value) -> Value:
    """A state after a loop: what it began with, where no turn changes it."""
    place: int = value.attribute[0]
    body: Body = loop.attribute[2]
    result = body.results[place]
    if result.op == "state" and result.attribute == (body.depth, place):
        return loop.arguments[1 + place]
    return Value("after", (loop,), value.attribute, value.kind, value.rate)
