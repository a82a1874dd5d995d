"""Splitting a pass that asks for more than WebGL 2 promises of every device: samplers, and vectors of uniforms.

What is computed in the pass is walked from what it reads upwards; values that hang on as much as one pass may ask for become a
picture of their own, which the pass then reads in their place.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from sunglaze.core.language.expression import Rate, Value
from sunglaze.core.language.pictures import Picture, computed
from sunglaze.core.passes.forming import Context, Form, pictures_read

MOST_SAMPLERS = 15
"""WebGL 2 promises sixteen; the person mask, which comes apart from the camera, is the sixteenth."""
MOST_SLOTS = 640
"""Numbers that come once a frame. WebGL 2 promises 224 vectors of four; the printer packs four into each, floats and whole
numbers apart, and each table has its size in one more."""
CHANNELS = 4


def asks_too_much(one: Form) -> bool:
    """Whether some device may be unable to run the pass."""
    return samplers(one) > MOST_SAMPLERS or len(one.signals) > MOST_SLOTS


def samplers(one: Form) -> int:
    """How many textures the pass reads."""
    return len(one.pictures) + len(one.tables)


@dataclass(frozen=True)
class _Needs:
    """What a value hangs on within its pass, a bit each."""

    samplers: int = 0
    slots: int = 0

    def __or__(self, other: _Needs) -> _Needs:
        return _Needs(self.samplers | other.samplers, self.slots | other.slots)

    @property
    def much(self) -> tuple[int, int]:
        """How many samplers and slots."""
        return self.samplers.bit_count(), self.slots.bit_count()


def cut(values: Sequence[Value], context: Context) -> Picture | None:
    """A picture of what these values are computed from that takes as much off their pass as goes; none where nothing does."""
    walk = _Walk(context)
    for value in values:
        walk.needs(value)
    whole = [walk.found[value.digest] for value in values]
    best: tuple[int, tuple[Value, ...]] | None = None
    for group in walk.groups():
        needs = _Needs()
        for value in group:
            needs |= walk.found[value.digest]
        sampled, slotted = needs.much
        if needs in whole or sampled > MOST_SAMPLERS or slotted > MOST_SLOTS or (sampled < 2 and slotted < MOST_SLOTS // 8):
            continue
        gain = MOST_SLOTS * sampled + slotted * MOST_SAMPLERS
        if best is None or gain >= best[0]:
            best = gain, group
    return computed(best[1], precise=True) if best else None


class _Walk:
    """What each value hangs on, by its digest, in the order in which values need each other."""

    def __init__(self, context: Context) -> None:
        self.context = context
        self.found: dict[bytes, _Needs] = {}
        self.order: list[Value] = []
        self.bits: dict[str, int] = {}

    def bit(self, name: str) -> int:
        """The bit that stands for something by its name."""
        return 1 << self.bits.setdefault(name, len(self.bits))

    def needs(self, root: Value) -> None:
        """Find what a value hangs on, and all that it is computed from."""
        stack = [root]
        while stack:
            value = stack[-1]
            if value.digest in self.found:
                stack.pop()
                continue
            waiting = [one for one in self.inner(value) if one.digest not in self.found]
            if waiting:
                stack.extend(waiting)
                continue
            total = self.own(value)
            for one in self.inner(value):
                total |= self.found[one.digest]
            self.found[value.digest] = total
            self.order.append(value)

    def inner(self, value: Value) -> Sequence[Value]:
        """What a value is computed from within its pass, through stages and joined pictures."""
        context = self.context
        if value.op == "const" or value.rate is Rate.FRAME or value.digest in context.stored:
            return ()
        if value.op == "stage":
            return (context.stages[value.attribute[0]][value.attribute[1]],)
        if value.op == "near" and value.attribute[0].name in context.within:
            return (context.within[value.attribute[0].name][value.attribute[1]],)
        return value.arguments

    def own(self, value: Value) -> _Needs:
        """What a value asks for by itself."""
        context = self.context
        if value.op == "const":
            return _Needs()
        if value.digest in context.stored:
            return _Needs(samplers=self.bit(context.stored[value.digest][0].name))
        if value.rate is Rate.FRAME:
            return _Needs(slots=self.bit(f"slot {value.digest.hex()}"))
        if value.op in ("cube", "curve", "table_size"):
            return _Needs(samplers=self.bit(f"table {value.attribute[0]}"))
        total = _Needs()
        for picture in pictures_read(value):
            if picture.name not in context.within:
                total |= _Needs(samplers=self.bit(picture.name))
        return total

    def groups(self) -> list[tuple[Value, ...]]:
        """Values that could be a picture together: the parts of a stage, or what hangs on just the same things and is not itself
        needed by another such value."""
        stages: dict[str, list[Value]] = {}
        alike: dict[_Needs, dict[bytes, Value]] = {}
        for value in self.order:
            if value.kind != "float" or value.rate is not Rate.PIXEL or value.digest in self.context.stored:
                continue
            if value.op == "stage":
                stages.setdefault(str(value.attribute[0]), []).append(value)
            elif value.arguments:
                mine = alike.setdefault(self.found[value.digest], {})
                for argument in value.arguments:
                    mine.pop(argument.digest, None)
                mine[value.digest] = value
        found = [tuple(list(mine.values())[-CHANNELS:]) for mine in alike.values()]
        return [*found, *(tuple(parts) for parts in stages.values())]
