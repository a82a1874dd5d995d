"""What a pass is apart from its place in a plan: its values with pictures, tables and signals by their places in it.

Forms are kept: most passes of an effect that was edited are those of before.
"""

from __future__ import annotations

import operator
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from threading import Lock
from typing import Any

from cachetools import FIFOCache, cached

from sunglaze.core.language.expression import Rate, Value, constant, needed
from sunglaze.core.language.loops import Body
from sunglaze.core.language.pictures import Picture, is_here


@dataclass(frozen=True)
class Local:
    """A picture as one pass knows it, by its place among those that the pass reads."""

    place: int
    channels: int
    is_camera: bool
    reduce: int = 1

    def __repr__(self) -> str:
        smaller = f"/{self.reduce}" if self.reduce > 1 else ""
        return f"p{self.place}:{self.channels}{'c' if self.is_camera else ''}{smaller}"


@dataclass(frozen=True, eq=False)
class Form:
    """`signals` are what the pass's slots hold; the rest is as in Sweep. `elsewhere`: names of the pictures that are read at
    other places than the drawn one. `work`: operations a pixel outside of loops."""

    values: tuple[Value, ...]
    order: tuple[Value, ...]
    pictures: tuple[Picture, ...]
    tables: tuple[str, ...]
    curves: frozenset[str]
    signals: tuple[Value, ...]
    beside: frozenset[int]
    elsewhere: frozenset[str]
    work: int


@dataclass(frozen=True)
class Part:
    """What values need themselves, the values of stages and pictures apart. `needs`: pictures, and stages by name, in the order
    in which they are needed. `leaves`: stages' channels. `cells`: values that are kept for the next frame."""

    needs: tuple[Picture | str, ...]
    leaves: tuple[Value, ...]
    cells: tuple[Value, ...]


@dataclass
class Context:
    """What the planner knows when it forms a pass. `stages`: values by name. `stored`: where a value's digest lies in an
    earlier pass's picture. `within`: pictures, by name, that have no pass of their own."""

    stages: Mapping[str, Sequence[Value]]
    stored: dict[bytes, tuple[Picture, int]] = field(default_factory=dict)
    storing: list[str] = field(default_factory=list)
    within: dict[str, Sequence[Value]] = field(default_factory=dict)


def digests(values: Sequence[Value]) -> tuple[bytes, ...]:
    """The digests of values, in order."""
    return tuple([value.digest for value in values])


@cached(FIFOCache(2048), key=digests, lock=Lock())
def part(values: Sequence[Value]) -> Part:
    """What values need; the latest answers are kept."""
    needs: dict[str, Picture | str] = {}
    leaves, cells = [], []
    for value in needed(values):
        if value.op == "stage":
            leaves.append(value)
            needs.setdefault(f"stage {value.attribute[0]}", str(value.attribute[0]))
        elif value.op == "advance":
            cells.append(value)
        for picture in pictures_read(value):
            needs.setdefault(picture.name, picture)
    return Part(tuple(needs.values()), tuple(leaves), tuple(cells))


def pictures_read(value: Value) -> list[Picture]:
    """The pictures that a value reads by itself; those of a loop, in its turns."""
    found = []
    for one in value.attribute:
        if isinstance(one, Picture):
            found.append(one)
        elif isinstance(one, Body):
            found += [picture for inner in needed(one.results) for picture in pictures_read(inner)]
    return found


def _form_key(values: Sequence[Value], context: Context, same_size: bool) -> tuple[object, ...]:
    within = tuple((name, digests(inner)) for name, inner in context.within.items())
    place = (tuple(context.storing), within) if same_size else None
    return digests(values), _stages(values, context, same_size), place


@cached(FIFOCache(512), key=_form_key, lock=Lock())
def form(values: Sequence[Value], context: Context, same_size: bool) -> Form:
    """The form of a pass that gives these values; the latest are kept. `same_size`: its picture is of the frame's size."""
    return _Forming(context, same_size).form(values)


def _stages(values: Sequence[Value], context: Context, same_size: bool) -> tuple[object, ...]:
    """The stages that a pass computes itself, and what they are: all that its form hangs on besides its own values."""
    found: dict[str, tuple[bytes, ...]] = {}
    waiting = [values]
    joined = set()
    while waiting:
        one = part(waiting.pop())
        for need in one.needs if same_size else ():
            if isinstance(need, Picture) and need.name in context.within and need.name not in joined:
                joined.add(need.name)
                waiting.append(context.within[need.name])
        for leaf in one.leaves:
            name = str(leaf.attribute[0])
            if name not in found and not (same_size and leaf.digest in context.stored):
                found[name] = digests(context.stages[name])
                waiting.append(context.stages[name])
    return tuple(sorted(found.items()))


class _Forming:
    """One pass while it is formed. `made`: values of the pass by the digest of what they stand for."""

    def __init__(self, context: Context, same_size: bool) -> None:
        self.context, self.same_size = context, same_size
        self.made: dict[bytes, Value] = {}
        self.pictures: dict[str, Picture] = {}
        self.tables: dict[str, bool] = {}
        self.signals: dict[bytes, Value] = {}
        self.beside: set[int] = set()
        self.elsewhere: set[str] = set()
        self.loops = self.work = 0

    def form(self, values: Sequence[Value]) -> Form:
        """The form of the pass that gives these values."""
        new = tuple(self.replaced(v) for v in values)
        curves = frozenset(name for name, is_curve in self.tables.items() if is_curve)
        order = {id(value): value for value in self.made.values()}
        return Form(
            new, tuple(order.values()), tuple(self.pictures.values()), tuple(self.tables), curves, tuple(self.signals.values()),
            frozenset(self.beside), frozenset(self.elsewhere), self.work,
        )  # fmt: skip

    def replaced(self, root: Value) -> Value:
        """What stands for a value in the pass: a slot where it changes once a frame, a read where an earlier pass stored it, else
        itself with all that it is computed from replaced likewise."""
        made, context, same_size = self.made, self.context, self.same_size
        stack = [root]
        while stack:
            value = stack[-1]
            digest = value.digest
            if digest in made:
                stack.pop()
                continue
            inner = None
            if value.op == "const":
                made[digest] = value
            elif same_size and digest in context.stored:
                made[digest] = self.stored(*context.stored[digest])
            elif value.rate is Rate.FRAME:
                made[digest] = self.slot(value)
            elif value.op == "stage":
                inner = context.stages[value.attribute[0]][value.attribute[1]]
            elif same_size and value.op == "near" and value.attribute[0].name in context.within:
                inner = context.within[value.attribute[0].name][value.attribute[1]]
            else:
                waiting = [a for a in value.arguments if a.digest not in made]
                if waiting:
                    stack.extend(waiting)
                else:
                    made[digest] = self.rebuilt(value)
            if inner is not None:
                if inner.digest in made:
                    made[digest] = made[inner.digest]
                else:
                    stack.append(inner)
        return made[root.digest]

    def stored(self, picture: Picture, channel: int) -> Value:
        """A read of what an earlier pass keeps in a channel of its picture, at the drawn pixel."""
        zero = constant(0, "int")
        local = self.local(picture)
        self.beside.add(local.place)
        return Value("near", (zero, zero), (local, channel), "float", Rate.PIXEL)

    def slot(self, value: Value) -> Value:
        """The slot that holds a value which changes once a frame."""
        self.signals.setdefault(value.digest, value)
        place = list(self.signals).index(value.digest)
        return Value("slot", (), (place,), value.kind, Rate.FRAME)

    def local(self, picture: Picture) -> Local:
        """A picture by its place among those that the pass reads."""
        self.pictures.setdefault(picture.name, picture)
        place = list(self.pictures).index(picture.name)
        return Local(place, picture.channels, picture.source == "camera", picture.reduce)

    def attribute(self, one: Any) -> Any:
        """An attribute of a value as the pass has it: pictures by their places, bodies of loops with their values replaced."""
        if isinstance(one, Picture):
            return self.local(one)
        if isinstance(one, Body):
            # Leaves of bodies are alike: each body's values are its own.
            outside, self.made = self.made, {}
            self.loops += 1
            body = Body(one.depth, tuple(self.replaced(r) for r in one.results))
            self.loops -= 1
            self.made = outside
            return body
        return one

    def rebuilt(self, value: Value) -> Value:
        """A value whose arguments are replaced already. Raises TypeError for `enlarged` in a pass of another size than the
        frame's."""
        self.work += value.rate is Rate.PIXEL and not self.loops
        arguments = tuple([self.made[a.digest] for a in value.arguments])
        if not value.attribute:
            same = all(map(operator.is_, arguments, value.arguments))
            return value if same else Value(value.op, arguments, (), value.kind, value.rate)
        if value.op == "enlarged" and not self.same_size:
            raise TypeError("enlarged() is for passes of the frame's size")
        parts = tuple([self.attribute(one) for one in value.attribute])
        if value.op == "near":
            self.beside.add(parts[0].place)
        if not is_here(value):
            self.elsewhere.update(one.name for one in value.attribute if isinstance(one, Picture))
        if value.op in ("cube", "curve", "table_size"):
            name = str(value.attribute[0])
            self.tables[name] = self.tables.get(name, False) or value.op == "curve"
            parts = (list(self.tables).index(name), *parts[1:])
        return Value(value.op, arguments, parts, value.kind, value.rate)
