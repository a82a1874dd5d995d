"""Which passes a frame can do without: what is read of them is multiplied by a number that is 0 in it, as where a control stands
at nothing, or is the side of a choice that is not taken.

A product with 0 is taken for 0: where a picture holds what is no number or infinite, that is better than what it was.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from functools import lru_cache

from sunglaze.core.language.expression import Rate, Value, ordered, record
from sunglaze.core.language.loops import Body
from sunglaze.core.language.operations import OPERATIONS, Plain, folded
from sunglaze.core.passes.forming import Form, Local

Gates = dict[bytes, Value]
"""Conditions that change once a frame at most, by digest: what has them is needed only where all hold."""


def needed_where(forms: Mapping[str, Form], kept: Sequence[str]) -> dict[str, Gates]:
    """For each pass, by its picture's name, where it is needed. `kept`: names of those that are always."""
    always: Gates = {}
    found = dict.fromkeys(("", *kept), always)
    # Readers stand behind what they read.
    for name, one in reversed(list(forms.items())):
        for picture, gates in zip(one.pictures, reads(one), strict=True):
            if picture.name not in kept:
                found[picture.name] = _common(found.get(picture.name), found.get(name, {}) | gates)
    return found


def _common(one: Gates | None, other: Gates) -> Gates:
    """Those that both have."""
    return other if one is None else {digest: gate for digest, gate in one.items() if digest in other}


@lru_cache(512)
def reads(one: Form) -> list[Gates]:
    """Where each of a pass's pictures is needed, as it alone has it; the latest answers are kept."""
    signals = [
        (_nonzero(value) if value.kind == "float" else None, value if value.kind == "bool" else None) for value in one.signals
    ]
    # What is 0 where one of these does not hold.
    zero: dict[int, Gates] = {}
    for value in one.order:
        if value.op == "slot" and (gate := signals[value.attribute[0]][0]) is not None:
            zero[id(value)] = {gate.digest: gate}
        elif value.op == "mul":
            first, second = (zero.get(id(a)) for a in value.arguments)
            if first or second:
                zero[id(value)] = (first or {}) | (second or {})
    gates: dict[int, Gates] = {id(value): {} for value in one.values}
    pictures: dict[int, Gates] = {}
    for value in reversed(one.order):
        own = gates.get(id(value))
        if own is None:
            continue
        for local in _locals(value) if value.attribute else ():
            pictures[local] = _common(pictures.get(local), own)
        for place, argument in enumerate(value.arguments):
            if argument.rate is not Rate.PIXEL:
                continue
            more = own
            if value.op == "mul":
                more = own | zero.get(id(value.arguments[1 - place]), {})
            elif value.op == "select" and place and value.arguments[0].op == "slot":
                condition = signals[value.arguments[0].attribute[0]][1]
                if condition is not None:
                    side = condition if place == 1 else ~condition
                    more = own | {side.digest: side}
            gates[id(argument)] = _common(gates.get(id(argument)), more)
    return [pictures.get(place, {}) for place in range(len(one.pictures))]


def _locals(value: Value) -> set[int]:
    """The places of the pictures that a value reads by itself; those of a loop, in its turns."""
    found: set[int] = set()
    waiting: list[object] = list(value.attribute)
    seen: set[int] = set()
    while waiting:
        one = waiting.pop()
        if isinstance(one, Local):
            found.add(one.place)
        elif isinstance(one, Body):
            waiting += one.results
        elif isinstance(one, Value) and id(one) not in seen:
            seen.add(id(one))
            waiting += [*one.arguments, *one.attribute]
    return found


def _nonzero(value: Value) -> Value:
    return record("or", record("lt", value, 0.0), record("lt", 0.0, value))


def all_of(gates: Gates, also: Value | None) -> Value | None:
    """One condition that holds where all do; none where there is none."""
    found = also
    for _, one in sorted(gates.items()):
        found = one if found is None else record("and", found, one)
    return found


def never(condition: Value, uniforms: Mapping[str, float]) -> bool:
    """Whether a condition holds in no frame as long as the controls stand where they do, whatever the moment."""
    order, (place,) = ordered([condition])
    found: dict[int, Plain | None] = {}
    for value in order:
        known = [found[id(a)] for a in value.arguments]
        rule = OPERATIONS.get(value.op)
        told: Plain | None = None
        if value.op == "const":
            told = value.attribute[0]
        elif value.op == "uniform":
            told = uniforms.get(str(value.attribute[0]))
        elif (value.op == "and" and False in known) or (value.op == "mul" and 0.0 in known):
            told = 0.0 if value.op == "mul" else False
        elif value.op == "select" and known[0] is not None:
            told = known[1] if known[0] else known[2]
        elif rule is not None and None not in known:
            told = folded(rule, [one for one in known if one is not None])
        found[id(value)] = told
    return found[id(order[place])] is False
