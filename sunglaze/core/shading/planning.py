"""Planning: from outputs to passes and signals.

Every picture that is sampled becomes a pass, in the order in which they need each other. A pass that would compute anew what an
earlier one stored reads it instead. Values that change once a frame leave the passes: they are the signal program, and what
passes need of it reaches them as slots.
"""

from __future__ import annotations

import hashlib
from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import Any

from sunglaze.core.shading.expression import Joiner, Rate, Value, constant, listing
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

    `slots`: for each slot its place among the plan's signals. `tables`: names. `enabled`: place of a signal, or none.
    """

    values: tuple[Value, ...]
    target: Picture | None
    pictures: tuple[Picture, ...]
    tables: tuple[str, ...]
    curves: frozenset[str]
    slots: tuple[int, ...]
    enabled: int | None = None

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


class _Planner:
    def __init__(self, outputs: Sequence[Value], keep: Sequence[Picture]) -> None:
        self.joiner = Joiner()
        self.outputs = [self.joiner.join(v) for v in outputs]
        self.pictures: dict[str, Picture] = {}
        self.joined: dict[str, list[Value]] = {}
        self.find(outputs, keep)
        self.stored: dict[int, tuple[Picture, int]] = {}
        self.signals: list[Value] = []
        self.signal_place: dict[int, int] = {}

    def find(self, roots: Sequence[Value], keep: Sequence[Picture]) -> None:
        """Put every picture that is read behind all that it reads itself: one walk of all values, arguments first. It is done by
        hand: long chains of passes are no recursion."""
        seen: set[int] = set()
        begun: set[str] = set()
        stack: list[Value | Picture] = [*reversed(keep), *reversed(roots)]
        while stack:
            one = stack.pop()
            if isinstance(one, Picture):
                if one.values and one.name not in self.pictures:
                    if one.name in begun:
                        self.pictures[one.name] = one
                        self.joined[one.name] = [self.joiner.join(v) for v in one.values]
                    else:
                        begun.add(one.name)
                        stack.append(one)
                        stack.extend(reversed(one.values))
            elif id(one) not in seen:
                seen.add(id(one))
                stack.extend(part for part in one.attribute if isinstance(part, Picture))
                stack.extend(v for part in one.attribute if isinstance(part, Body) for v in part.results)
                stack.extend(reversed(one.arguments))

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
        passes.append(self.one_pass(self.outputs, None))
        # State cells are advanced though no pass may need them in this frame.
        for value in self.joiner.order:
            if value.op == "advance":
                self.signal(value)
        return Plan(tuple(self.signals), tuple(passes))

    def one_pass(self, values: Sequence[Value], target: Picture | None) -> Pass:
        made: dict[int, Value] = {}
        pictures: dict[str, Picture] = {}
        tables: dict[str, bool] = {}
        slots: dict[int, int] = {}
        same_size = target is None or target.reduce == 1

        def slot(value: Value) -> Value:
            place = slots.setdefault(self.signal(value), len(slots))
            return Value("slot", (), (place,), value.kind, Rate.FRAME)

        def local(picture: Picture) -> Local:
            known = self.pictures.get(picture.name, picture)
            pictures.setdefault(picture.name, known)
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
            if value.op == "enlarged" and not same_size:
                raise TypeError("enlarged() is for passes of the frame's size")
            parts = tuple(attribute(part) for part in value.attribute)
            if value.op in ("cube", "curve", "table_size"):
                name = str(value.attribute[0])
                tables[name] = tables.get(name, False) or value.op == "curve"
                parts = (list(tables).index(name), *parts[1:])
            return Value(value.op, tuple(made[id(a)] for a in value.arguments), parts, value.kind, value.rate)

        def replaced(root: Value) -> Value:
            stack = [root]
            while stack:
                value = stack[-1]
                if id(value) in made:
                    stack.pop()
                    continue
                kept = self.stored.get(id(value)) if same_size else None
                if kept is not None:
                    zero = constant(0, "int")
                    made[id(value)] = Value("near", (zero, zero), (local(kept[0]), kept[1]), "float", Rate.PIXEL)
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
        enabled = None
        if target is not None and target.enabled is not None and target.enabled.rate is Rate.FRAME:
            enabled = self.signal(self.joiner.join(target.enabled))
        curves = frozenset(name for name, is_curve in tables.items() if is_curve)
        return Pass(new, target, tuple(pictures.values()), tuple(tables), curves, tuple(slots), enabled)


def plan(outputs: Sequence[Value], keep: Sequence[Picture] = ()) -> Plan:
    """The passes and signals that give these outputs at every pixel. `keep`: pictures for later frames that nothing reads yet."""
    return _Planner(outputs, keep).plan()
