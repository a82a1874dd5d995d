"""Planning: from outputs to passes and signals.

Every picture that is sampled becomes a pass, in the order in which they need each other. A pass that would compute anew what an
earlier one stored reads it instead. Values that change once a frame leave the passes: they are the signal program, and what
passes need of it reaches them as slots.
"""

from __future__ import annotations

import hashlib
import operator
from collections import OrderedDict
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import Any

from sunglaze.core.shading.expression import Joiner, Rate, Value, constant, listing, needed
from sunglaze.core.shading.loops import Body
from sunglaze.core.shading.pictures import Picture


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
class Pass:
    """One sweep over pixels. `target`: the picture it fills, none for the last pass, which gives the frame.

    `slots`: for each slot its place among the plan's signals. `tables`: names. `enabled`: place of a signal, or none. `beside`:
    places of the pictures that are read near the drawn pixel; they are of the drawn picture's size.
    """

    values: tuple[Value, ...]
    target: Picture | None
    pictures: tuple[Picture, ...]
    tables: tuple[str, ...]
    curves: frozenset[str]
    slots: tuple[int, ...]
    enabled: int | None = None
    beside: frozenset[int] = frozenset()

    @cached_property
    def text(self) -> str:
        return listing(self.values)

    @cached_property
    def key(self) -> str:
        """Equal for passes that compute the same from the same inputs."""
        text = f"{[value.digest for value in self.values]}|{self.target is None}"
        return hashlib.sha256(text.encode()).hexdigest()


@dataclass(frozen=True)
class Plan:
    """`signals`: what is computed once a frame, in order. `passes`: in the order in which they run, the frame's last."""

    signals: tuple[Value, ...]
    passes: tuple[Pass, ...]

    @cached_property
    def kept(self) -> dict[str, Picture]:
        """Pictures that the next frame reads, by id."""
        return {p.target.keeps: p.target for p in self.passes if p.target is not None and p.target.keeps}


@dataclass(frozen=True)
class Form:
    """A pass apart from its place in a plan: `signals` are what its slots hold; the rest is as in Pass."""

    values: tuple[Value, ...]
    pictures: tuple[Picture, ...]
    tables: tuple[str, ...]
    curves: frozenset[str]
    signals: tuple[Value, ...]
    beside: frozenset[int]


_MOST_FORMS = 512
_forms: OrderedDict[object, Form] = OrderedDict()
"""Most passes of an edited effect are those of before."""


def _form(key: object, make: Callable[[], Form]) -> Form:
    form = _forms.get(key)
    if form is None:
        form = _forms[key] = make()
        while len(_forms) > _MOST_FORMS:
            _forms.popitem(last=False)
    return form


class _Planner:
    def __init__(self, outputs: Sequence[Value], keep: Sequence[Picture]) -> None:
        self.joiner = Joiner()
        self.pictures: dict[str, Picture] = {}
        self.joined: dict[str, list[Value]] = {}
        self.find(outputs, keep)
        self.outputs = [self.joiner.join(v) for v in outputs]
        self.stored: dict[int, tuple[Picture, int]] = {}
        self.storing: list[str] = []
        self.signals: list[Value] = []
        self.signal_place: dict[int, int] = {}

    def find(self, roots: Sequence[Value], keep: Sequence[Picture]) -> None:
        """Put every picture that is read behind all that it reads itself, and join equal values: one walk of everything,
        arguments first. It is done by hand: long chains of passes are no recursion."""
        join, known = self.joiner.join, self.joiner.place
        begun: set[str] = set()
        stack: list[Value | Picture] = [*reversed(keep), *reversed(roots)]
        while stack:
            one = stack[-1]
            if isinstance(one, Picture):
                stack.pop()
                if one.values and one.name not in self.pictures:
                    if one.name in begun:
                        self.pictures[one.name] = one
                        self.joined[one.name] = [join(v) for v in one.values]
                    else:
                        begun.add(one.name)
                        stack.append(one)
                        stack.extend(reversed(one.values))
                continue
            if one.digest in known:
                stack.pop()
                continue
            waiting: list[Value | Picture] = [a for a in one.arguments if a.digest not in known]
            waiting += [p for p in _read(one) if p.values and p.name not in self.pictures]
            if waiting:
                stack.extend(waiting)
            else:
                stack.pop()
                join(one)

    def signal(self, value: Value) -> int:
        if id(value) not in self.signal_place:
            self.signal_place[id(value)] = len(self.signals)
            self.signals.append(value)
        return self.signal_place[id(value)]

    def plan(self) -> Plan:
        passes = []
        for name, picture in self.pictures.items():
            passes.append(self.one_pass(self.joined[name], picture))
            if picture.reduce == 1 and picture.enabled is None:
                for channel, value in enumerate(self.joined[name]):
                    if value.rate is Rate.PIXEL and value.arguments:
                        self.stored.setdefault(id(value), (picture, channel))
                self.storing.append(name)
        passes.append(self.one_pass(self.outputs, None))
        # State cells are advanced though no pass may need them in this frame.
        for value in self.joiner.order:
            if value.op == "advance":
                self.signal(value)
        return Plan(tuple(self.signals), tuple(passes))

    def one_pass(self, values: Sequence[Value], target: Picture | None) -> Pass:
        same_size = target is None or target.reduce == 1
        key = tuple(v.digest for v in values), tuple(self.storing) if same_size else None
        form = _form(key, lambda: self.formed(values, same_size))
        enabled = None
        if target is not None and target.enabled is not None and target.enabled.rate is Rate.FRAME:
            enabled = self.signal(self.joiner.join(target.enabled))
        pictures = tuple(self.pictures.get(p.name, p) for p in form.pictures)
        slots = tuple(self.signal(self.joiner.join(s)) for s in form.signals)
        return Pass(form.values, target, pictures, form.tables, form.curves, slots, enabled, form.beside)

    def formed(self, values: Sequence[Value], same_size: bool) -> Form:
        """What a pass is whatever its place in the plan."""
        made: dict[int, Value] = {}
        pictures: dict[str, Picture] = {}
        tables: dict[str, bool] = {}
        signals: list[Value] = []
        places: dict[int, int] = {}
        beside: set[int] = set()

        def slot(value: Value) -> Value:
            if id(value) not in places:
                places[id(value)] = len(signals)
                signals.append(value)
            return Value("slot", (), (places[id(value)],), value.kind, Rate.FRAME)

        def local(picture: Picture) -> Local:
            pictures.setdefault(picture.name, picture)
            place = list(pictures).index(picture.name)
            return Local(place, picture.channels, picture.name == "camera", picture.reduce)

        def attribute(part: Any) -> Any:
            if isinstance(part, Picture):
                return local(part)
            if isinstance(part, Body):
                results = Joiner()
                return Body(part.depth, tuple(replaced(results.join(r)) for r in part.results))
            return part

        def rebuilt(value: Value) -> Value:
            arguments = tuple([made[id(a)] for a in value.arguments])
            if not value.attribute:
                same = all(map(operator.is_, arguments, value.arguments))
                return value if same else Value(value.op, arguments, (), value.kind, value.rate)
            if value.op == "enlarged" and not same_size:
                raise TypeError("enlarged() is for passes of the frame's size")
            parts = tuple([attribute(part) for part in value.attribute])
            if value.op == "near":
                beside.add(parts[0].place)
            if value.op in ("cube", "curve", "table_size"):
                name = str(value.attribute[0])
                tables[name] = tables.get(name, False) or value.op == "curve"
                parts = (list(tables).index(name), *parts[1:])
            return Value(value.op, arguments, parts, value.kind, value.rate)

        def replaced(root: Value) -> Value:
            stack = [root]
            while stack:
                value = stack[-1]
                if id(value) in made:
                    stack.pop()
                    continue
                kept = self.stored.get(id(value)) if same_size else None
                if value.op == "const":
                    made[id(value)] = value
                elif kept is not None:
                    zero = constant(0, "int")
                    here = local(kept[0])
                    beside.add(here.place)
                    made[id(value)] = Value("near", (zero, zero), (here, kept[1]), "float", Rate.PIXEL)
                elif value.rate is Rate.FRAME:
                    made[id(value)] = slot(value)
                else:
                    waiting = [a for a in value.arguments if id(a) not in made]
                    if waiting:
                        stack.extend(waiting)
                        continue
                    made[id(value)] = rebuilt(value)
                alive.append(value)
            return made[id(root)]

        alive: list[Value] = []
        new = tuple(replaced(v) for v in values)
        curves = frozenset(name for name, is_curve in tables.items() if is_curve)
        return Form(new, tuple(pictures.values()), tuple(tables), curves, tuple(signals), frozenset(beside))


def _read(value: Value) -> list[Picture]:
    """The pictures that a value reads by itself; those of a loop, in its turns."""
    found = []
    for part in value.attribute:
        if isinstance(part, Picture):
            found.append(part)
        elif isinstance(part, Body):
            found += [picture for inner in needed(part.results) for picture in _read(inner)]
    return found


def plan(outputs: Sequence[Value], keep: Sequence[Picture] = ()) -> Plan:
    """The passes and signals that give these outputs at every pixel. `keep`: pictures for later frames that nothing reads yet."""
    return _Planner(outputs, keep).plan()
