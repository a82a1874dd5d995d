"""Symbolic values: what a node's rule computes with. Calling operators records operations as plain data.

Every value is a scalar of one kind (float, int, bool); vectors are Python tuples of scalars (vector.py), so printers see
scalars only. Constants fold as they are recorded; equal subexpressions are joined in `ordered`.
"""

from __future__ import annotations

import operator
from collections.abc import Callable, Iterable
from dataclasses import dataclass, field
from enum import IntEnum
from functools import cache
from hashlib import blake2b
from typing import Any

from sunglaze.core.errors import Unfit
from sunglaze.core.language.operations import OPERATIONS, Kind, Plain, folded


class Rate(IntEnum):
    """How often a value changes: never; once a frame; once a pass or a turn of a loop, alike at all pixels; at every pixel.

    Frame-rate values leave the passes and become the signal program (planning.py).
    """

    CONSTANT = 0
    FRAME = 1
    PASS = 2
    PIXEL = 3


LEAVES: dict[str, tuple[Kind, Rate]] = {
    "const": ("float", Rate.CONSTANT),
    "uniform": ("float", Rate.FRAME),
    "moment": ("float", Rate.FRAME),
    "cell": ("float", Rate.FRAME),
    "table_size": ("int", Rate.PASS),
    "picture_size": ("int", Rate.PASS),
    "target": ("int", Rate.PASS),
    "pixel": ("int", Rate.PIXEL),
    "stage": ("float", Rate.PIXEL),
}
"""`uniform` NAME: what a control stands at, which may change once a frame. `moment` NAME: a number of the frame's moment
(moments.py), of a kind of its own. `cell` ID START: what `advance` kept under this id a frame ago.
`table_size` NAME: steps along an edge. `picture_size` PICTURE AXIS and `target` AXIS: columns (0) and rows (1) of a picture
and of what is drawn. `pixel` AXIS: column or row of the pixel that is drawn, from 0, left and top first.
`stage` NAME CHANNEL: a value that the program has under this name."""


@cache
def _head(op: str, kind: str) -> bytes:
    return f"{op} {kind}|".encode()


@dataclass(slots=True, eq=False)
class Value:
    """One recorded scalar, never changed. `attribute` is a constant's number or a leaf's name and channel.

    `digest` is equal for values that compute the same, and different for others. (Thousands are made at every edit: a frozen
    dataclass would take twice the time.)
    """

    op: str
    arguments: tuple[Value, ...]
    attribute: tuple[Any, ...]
    kind: Kind
    rate: Rate
    digest: bytes = field(init=False, repr=False)

    def __post_init__(self) -> None:
        if self.attribute:
            # repr tells 0.0 from -0.0 and from 0, which compare equal.
            own = repr([getattr(part, "digest", part) for part in self.attribute])
            head = f"{self.op} {self.kind} {own}|".encode()
        else:
            head = _head(self.op, self.kind)
        self.digest = blake2b(head + b"".join([a.digest for a in self.arguments]), digest_size=16).digest()

    def __add__(self, other: Value | float) -> Value:
        return record("add", self, other) if isinstance(other, _NUMBERS) else NotImplemented

    def __radd__(self, other: Value | float) -> Value:
        return record("add", other, self)

    def __sub__(self, other: Value | float) -> Value:
        return record("sub", self, other) if isinstance(other, _NUMBERS) else NotImplemented

    def __rsub__(self, other: Value | float) -> Value:
        return record("sub", other, self)

    def __mul__(self, other: Value | float) -> Value:
        return record("mul", self, other) if isinstance(other, _NUMBERS) else NotImplemented

    def __rmul__(self, other: Value | float) -> Value:
        return record("mul", other, self)

    def __truediv__(self, other: Value | float) -> Value:
        return record("div", self, other) if isinstance(other, _NUMBERS) else NotImplemented

    def __rtruediv__(self, other: Value | float) -> Value:
        return record("div", other, self)

    def __neg__(self) -> Value:
        return record("sub", 0.0, self)

    def __lt__(self, other: Value | float) -> Value:
        return record("lt", self, other)

    def __le__(self, other: Value | float) -> Value:
        return record("le", self, other)

    def __gt__(self, other: Value | float) -> Value:
        return record("lt", other, self)

    def __ge__(self, other: Value | float) -> Value:
        return record("le", other, self)

    def __and__(self, other: Value) -> Value:
        return record("and", self, other)

    def __or__(self, other: Value) -> Value:
        return record("or", self, other)

    def __invert__(self) -> Value:
        return record("not", self)

    def __bool__(self) -> bool:
        raise TypeError("a symbolic value has no truth while recording; use select()")


_NUMBERS = (Value, float, int)
"""What arithmetic takes beside a value; all else, like a vector, has rules of its own for what stands before it."""
_MOST_KNOWN = 200_000
_known: dict[tuple[Any, ...], Value] = {}
"""Values by what they are made of. They hold their arguments, so identities in the keys stay theirs."""


def made(op: str, arguments: tuple[Value, ...], attribute: tuple[Any, ...], kind: Kind, rate: Rate) -> Value:
    """The value of this form: the one that there is already, so that equal ones are mostly one object. (An edit records
    thousands of them, most for the second time.)"""
    key = (op, kind, rate, attribute, *map(id, arguments))
    found = _known.get(key)
    if found is None:
        if len(_known) >= _MOST_KNOWN:
            _known.clear()
        found = _known[key] = Value(op, arguments, attribute, kind, rate)
    return found


_PLAIN: dict[Kind, Callable[[Plain], Plain]] = {"float": float, "int": int, "bool": bool}
_MOST_CONSTANTS = 20_000
_constants: dict[tuple[Kind, str], Value] = {}
"""Rules are full of the same few numbers; one object stands for each."""


def constant(number: Plain, kind: Kind = "float") -> Value:
    """A number as a value."""
    plain = _PLAIN[kind](number)
    key = kind, repr(plain)
    found = _constants.get(key)
    if found is None:
        if len(_constants) >= _MOST_CONSTANTS:
            _constants.clear()
        found = _constants[key] = Value("const", (), (plain,), kind, Rate.CONSTANT)
    return found


def leaf(op: str, *attribute: Any, kind: Kind | None = None) -> Value:
    """An input of the program; see LEAVES. Uniforms and numbers of the moment may be of another kind than float."""
    usual, rate = LEAVES[op]
    # Of what a cell starts at, 0 and -0 are equal, and not the same.
    return Value(op, (), attribute, kind or usual, rate) if op == "cell" else made(op, (), attribute, kind or usual, rate)


def cube_entry(name: str, i: Value, j: Value, k: Value, channel: int) -> Value:
    """Entry (i, j, k) of a table of (N, N, N, 4), i along red; indices are clamped where it is read."""
    return made("cube", (i, j, k), (name, channel), "float", Rate.PIXEL)


def curve_entry(name: str, i: Value, channel: int) -> Value:
    """Entry i of a table of (N, 4); the index is clamped where it is read."""
    return made("curve", (i,), (name, channel), "float", Rate.PIXEL)


def advance(identity: str, start: float, following: Value) -> Value:
    """A frame-rate value that is also kept, so that `leaf("cell", identity, start)` gives it a frame later. Raises Unfit."""
    if following.rate > Rate.FRAME:
        raise Unfit("only values that change once a frame can be kept in a state cell")
    return Value("advance", (following,), (identity, start), "float", Rate.FRAME)


def together(value: Value, *kept: Value) -> Value:
    """A frame-rate value that brings state cells along which nothing else reads. Raises Unfit for one that is none."""
    if value.rate > Rate.FRAME:
        raise Unfit("only values that change once a frame go together with state")
    return Value("together", (value, *kept), (), value.kind, Rate.FRAME)


def record(op: str, *arguments: Value | Plain) -> Value:
    """Append an operation; folds when all arguments are constant, and drops additions of 0 and products with 1. Raises
    TypeError for arguments of another number or kind."""
    rule = OPERATIONS[op]
    if len(arguments) != len(rule.arguments):
        raise TypeError(f"{op} takes {len(rule.arguments)} arguments, these are {len(arguments)}")
    rate, constants, given = Rate.CONSTANT, 0, []
    for argument, kind in zip(arguments, rule.arguments, strict=False):
        value = argument if isinstance(argument, Value) else constant(argument, kind)
        if value.kind != kind:
            raise TypeError(f"{op} takes {kind}, this is {value.kind}")
        if value.op == "const":
            constants += 1
        elif value.rate > rate:
            rate = value.rate
        given.append(value)
    values = tuple(given)
    if constants:
        if constants == len(values):
            return constant(folded(rule, [v.attribute[0] for v in values]), rule.result)
        simpler = _simplified(op, values)
        if simpler is not None:
            return simpler
    if op == "div" and rate is Rate.PIXEL and values[1].op != "const" and values[1].rate is not Rate.PIXEL:
        # A quotient by what is alike at all pixels: one quotient, and a product for each, which takes a tenth of the time.
        return record("mul", values[0], record("div", 1.0, values[1]))
    return made(op, values, (), rule.result, rate)


def _simplified(op: str, values: tuple[Value, ...]) -> Value | None:
    if op not in _SIMPLER:
        return None

    def is_number(value: Value, number: float) -> bool:
        return value.op == "const" and value.attribute[0] == number

    if op in ("select", "iselect"):
        return values[1 if values[0].attribute[0] else 2] if values[0].op == "const" else None
    nothing = 0.0 if op in ("add", "sub") else 1.0
    if op in ("add", "mul") and is_number(values[0], nothing):
        return values[1]
    return values[0] if is_number(values[1], nothing) else None


_SIMPLER = {"add", "sub", "mul", "div", "select", "iselect"}


class Joiner:
    """Equal values become one object; arguments come before what they are used in, in `order`."""

    def __init__(self) -> None:
        self.order: list[Value] = []
        self.place: dict[bytes, int] = {}

    def join(self, root: Value) -> Value:
        """The one object that stands for all values equal to this one."""
        place = self.place
        if root.digest in place:
            return self.order[place[root.digest]]
        stack = [root]
        while stack:
            value = stack[-1]
            if value.digest in place:
                stack.pop()
                continue
            waiting = [a for a in value.arguments if a.digest not in place]
            if waiting:
                stack.extend(waiting)
                continue
            stack.pop()
            place[value.digest] = len(self.order)
            arguments = tuple([self.order[place[a.digest]] for a in value.arguments])
            same = all(map(operator.is_, arguments, value.arguments))
            self.order.append(value if same else Value(value.op, arguments, value.attribute, value.kind, value.rate))
        return self.order[place[root.digest]]


def ordered(outputs: Iterable[Value]) -> tuple[list[Value], list[int]]:
    """The values that the outputs need, arguments first, equal ones joined; and each output's place in that list."""
    joiner = Joiner()
    joined = [joiner.join(output) for output in outputs]
    places = {id(value): n for n, value in enumerate(joiner.order)}
    return joiner.order, [places[id(value)] for value in joined]


def needed(outputs: Iterable[Value]) -> list[Value]:
    """The values that the outputs need, arguments first, where equal ones are one object already."""
    order: list[Value] = []
    done: set[int] = set()
    stack = [*outputs][::-1]
    while stack:
        value = stack[-1]
        if id(value) in done:
            stack.pop()
            continue
        waiting = [a for a in value.arguments if id(a) not in done]
        if waiting:
            stack.extend(waiting)
            continue
        stack.pop()
        done.add(id(value))
        order.append(value)
    return order


def listing(outputs: Iterable[Value]) -> str:
    """The stable textual form of a computation: a line a value, and a last line that names the outputs."""
    order, places = ordered(outputs)
    index = {id(value): n for n, value in enumerate(order)}
    lines = [
        " ".join([f"%{n}", "=", v.op, *(repr(a) for a in v.attribute), *(f"%{index[id(a)]}" for a in v.arguments)])
        + f" : {v.kind} {v.rate.name.lower()}"
        for n, v in enumerate(order)
    ]
    return "\n".join([*lines, "out " + " ".join(f"%{n}" for n in places)])
