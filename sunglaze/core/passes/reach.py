"""Where a pass reads its pictures: which of their pixels are read for which of its own, as far as whole numbers tell it before
any pixel is drawn. Boxes of pixels go from a pass to what it reads, and back.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from typing import NamedTuple, cast

from sunglaze.core.language.expression import Value
from sunglaze.core.passes.forming import Local
from sunglaze.core.passes.planning import Sweep

READS = ("near", "fetch", "enlarged")
MOST_KNOWN = 8
"""Answers that are kept of each pass."""


class Box(NamedTuple):
    """Pixels of a picture, from the first column and row to those behind the last; nothing where it ends before it begins."""

    left: int
    top: int
    right: int
    bottom: int

    @property
    def empty(self) -> bool:
        """Whether it holds no pixel."""
        return self.right <= self.left or self.bottom <= self.top

    @property
    def area(self) -> int:
        """How many pixels it holds."""
        return 0 if self.empty else (self.right - self.left) * (self.bottom - self.top)

    def around(self, other: Box) -> Box:
        """The smallest box that holds both."""
        if self.empty or other.empty:
            return other if self.empty else self
        return Box(min(self[0], other[0]), min(self[1], other[1]), max(self[2], other[2]), max(self[3], other[3]))

    def within(self, other: Box) -> Box:
        """What lies in both."""
        return Box(max(self[0], other[0]), max(self[1], other[1]), min(self[2], other[2]), min(self[3], other[3]))

    def beside(self, hole: Box) -> list[Box]:
        """What is left of it without a box that lies in it: above, below, left and right of that."""
        if hole.empty:
            return [] if self.empty else [self]
        parts = [
            Box(self.left, self.top, self.right, hole.top), Box(self.left, hole.bottom, self.right, self.bottom),
            Box(self.left, hole.top, hole.left, hole.bottom), Box(hole.right, hole.top, self.right, hole.bottom),
        ]  # fmt: skip
        return [part for part in parts if not part.empty]


NOTHING = Box(0, 0, 0, 0)


class Line(NamedTuple):
    """Along an axis: for pixel n the pixels from n * over / under + least, rounded down, to that with `most`, rounded up."""

    over: int
    under: int
    least: int
    most: int

    def read(self, first: int, behind: int, size: int) -> tuple[int, int]:
        """What is read for pixels from `first` on, of a picture of `size`; reads are held at its borders."""
        low = first * self.over // self.under + self.least
        high = -(-(behind - 1) * self.over // self.under) + self.most
        return min(max(low, 0), size - 1), min(max(high, 0), size - 1) + 1

    def readers(self, first: int, behind: int, size: int, own: int) -> tuple[int, int]:
        """The pixels, of `own`, for which some of those from `first` on may be read."""
        low = (first - self.most - 1) * self.under // self.over + 1
        high = -(-(behind - self.least) * self.under // self.over)
        return (max(low, 0) if first else 0), (min(high, own) if behind < size else own)


@dataclass(frozen=True)
class Reach:
    """How a pass reads one of its pictures along both axes."""

    across: Line
    down: Line

    def read(self, box: Box, size: tuple[int, int]) -> Box:
        """What is read of a picture of `size` (columns, rows) where a box of the pass is drawn."""
        if box.empty:
            return NOTHING
        (left, right), (top, bottom) = (
            self.across.read(box.left, box.right, size[0]),
            self.down.read(box.top, box.bottom, size[1]),
        )
        return Box(left, top, right, bottom)

    def readers(self, box: Box, size: tuple[int, int], own: tuple[int, int]) -> Box:
        """Where the pass, of size `own`, may read a box of a picture of `size`."""
        if box.empty:
            return NOTHING
        (left, right), (top, bottom) = (
            self.across.readers(box.left, box.right, size[0], own[0]),
            self.down.readers(box.top, box.bottom, size[1], own[1]),
        )
        return Box(left, top, right, bottom)


@dataclass(frozen=True, eq=False)
class _Scope:
    """A loop's turn: how often there is one, what it takes from outside, and where that is."""

    depth: int
    count: Value
    most: int
    taken: Sequence[Value]
    outside: _Scope | None


def _leaves(values: Sequence[Value], scope: _Scope | None) -> Iterator[tuple[Value, _Scope | None]]:
    """What is read, and the slots of whole numbers, those of loops too."""
    seen: set[int] = set()
    waiting = [*values]
    while waiting:
        value = waiting.pop()
        if id(value) in seen:
            continue
        seen.add(id(value))
        if value.op in READS or (value.op == "slot" and value.kind == "int"):
            yield value, scope
        if value.op == "loop":
            most, states, body = value.attribute
            yield from _leaves(body.results, _Scope(body.depth, value.arguments[0], most, value.arguments[1 + states :], scope))
        waiting += value.arguments


Numbers = Mapping[int, int]
"""What is in a pass's slots of whole numbers."""


def _place(value: Value, axis: int, numbers: Numbers, scope: _Scope | None) -> Line | None:
    """A whole number on an axis, as it hangs on the drawn pixel; none where it may be anything."""
    if value.op == "const":
        plain = int(value.attribute[0])
        return Line(0, 1, plain, plain)
    if value.op == "slot":
        plain = numbers[value.attribute[0]]
        return Line(0, 1, plain, plain)
    if value.op == "pixel":
        return Line(1, 1, 0, 0) if value.attribute[0] == axis else None
    if value.op in ("turn", "outer"):
        while scope is not None and scope.depth != value.attribute[0]:
            scope = scope.outside
        if scope is None:
            return None
        if value.op == "outer":
            return _place(scope.taken[value.attribute[1]], axis, numbers, scope.outside)
        count = _place(scope.count, axis, numbers, scope.outside)
        turns = scope.most if count is None or count.over else min(scope.most, count.most)
        return Line(0, 1, 0, max(0, turns - 1))
    if value.op not in ("iadd", "isub", "imul"):
        return None
    one, other = (_place(argument, axis, numbers, scope) for argument in value.arguments)
    if one is None or other is None:
        return None
    if value.op == "iadd":
        return Line(one.over + other.over, 1, one.least + other.least, one.most + other.most)
    if value.op == "isub":
        return Line(one.over - other.over, 1, one.least - other.most, one.most - other.least)
    if other.over or other.least != other.most:
        one, other = other, one
    times = other.least
    if other.over or other.least != other.most or times < 0:
        return None
    return Line(one.over * times, 1, one.least * times, one.most * times)


def _line(value: Value, axis: int, numbers: Numbers, scope: _Scope | None) -> Line | None:
    """How one read lies along an axis."""
    if value.op == "enlarged":
        return Line(1, cast(Local, value.attribute[0]).reduce, -1, 1)
    found = _place(value.arguments[axis], axis, numbers, scope)
    if found is not None and value.op == "near":
        return Line(found.over + 1, 1, found.least, found.most)
    return found


def _joined(one: Line | None, other: Line | None) -> Line | None:
    if one is None or other is None or (one.over, one.under) != (other.over, other.under):
        return None
    return Line(one.over, one.under, min(one.least, other.least), max(one.most, other.most))


@dataclass(frozen=True, eq=False)
class Reading:
    """What a pass reads, found once; where, is asked for each frame's numbers. `whole`: slots that hold whole numbers. `known`:
    the latest answers, by those."""

    reads: tuple[tuple[Value, _Scope | None], ...]
    whole: tuple[int, ...]
    known: dict[tuple[int, ...], dict[int, Reach | None]] = field(default_factory=dict)

    def at(self, numbers: Sequence[float]) -> dict[int, Reach | None]:
        """How each of its pictures is read, by place, with these numbers in its slots; none where it may be read anywhere."""
        key = tuple(int(numbers[slot]) for slot in self.whole)
        found = self.known.get(key)
        if found is None:
            if len(self.known) >= MOST_KNOWN:
                self.known.clear()
            found = self.known[key] = self._found(dict(zip(self.whole, key, strict=True)))
        return found

    def _found(self, numbers: Numbers) -> dict[int, Reach | None]:
        lines: dict[int, list[Line | None]] = {}
        for value, scope in self.reads:
            place = cast(Local, value.attribute[0]).place
            here = [_line(value, axis, numbers, scope) for axis in (0, 1)]
            before = lines.get(place)
            lines[place] = here if before is None else [_joined(a, b) for a, b in zip(before, here, strict=True)]
        found: dict[int, Reach | None] = {}
        for place, (across, down) in lines.items():
            fits = across is not None and down is not None and across.over > 0 and down.over > 0
            found[place] = Reach(cast(Line, across), cast(Line, down)) if fits else None
        return found


def reading(one: Sweep) -> Reading:
    """What a pass reads."""
    slots: set[int] = set()
    reads: dict[tuple[object, ...], tuple[Value, _Scope | None]] = {}
    for value, scope in _leaves(one.values, None):
        if value.op == "slot":
            slots.add(int(value.attribute[0]))
            continue
        # Channels at one place are read alike.
        shift = () if value.op == "enlarged" else tuple(argument.digest for argument in value.arguments)
        reads[value.op, cast(Local, value.attribute[0]).place, shift, id(scope)] = value, scope
    return Reading(tuple(reads.values()), tuple(sorted(slots)))
