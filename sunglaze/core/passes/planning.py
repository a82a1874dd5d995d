"""Planning: from outputs to passes and signals.

Every picture that is sampled becomes a pass, in the order in which they need each other. A pass that would compute anew what an
earlier one stored reads it instead. A picture that one pass alone reads, and only where it is drawn, is computed there and no
pass of its own. Values that change once a frame leave the passes: they are the signal program, and what passes need of it reaches
them as slots.
"""

from __future__ import annotations

import hashlib
import operator
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from functools import cached_property
from threading import Lock

from cachetools import FIFOCache, cached

from sunglaze.core.language.expression import Rate, Value, listing, needed, record
from sunglaze.core.language.pictures import Picture, Vertices
from sunglaze.core.passes.forming import Context, Form, form, part
from sunglaze.core.passes.gating import Gates, all_of, needed_where
from sunglaze.core.passes.splitting import MOST_SLOTS, asks_too_much, cut, samplers


@dataclass(frozen=True, eq=False)
class Sweep:
    """One sweep over pixels. `target`: the picture it fills, none for the last pass, which gives the frame.

    `order`: all values, arguments first, as `values` need them. `slots`: for each slot its place among the plan's signals.
    `tables`: names. `enabled`: place of a signal, or none. `beside`: places of the pictures that are read near the drawn pixel;
    they are of the drawn picture's size.
    """

    values: tuple[Value, ...]
    order: tuple[Value, ...]
    target: Picture | None
    pictures: tuple[Picture, ...]
    tables: tuple[str, ...]
    curves: frozenset[str]
    slots: tuple[int, ...]
    enabled: int | None = None
    beside: frozenset[int] = frozenset()

    @cached_property
    def text(self) -> str:
        """The values as text, one a line."""
        return listing(self.values)

    @cached_property
    def key(self) -> str:
        """Equal for passes that compute the same from inputs that are given in the same way: a pass's clear form computes what
        another pass does, and is given more."""
        given = [(one.source, one.channels, n in self.beside) for n, one in enumerate(self.pictures)]
        told = [name in self.curves for name in self.tables], len(self.slots)
        text = f"{[value.digest for value in self.values]}|{self.target is None}|{given}|{told}"
        return hashlib.sha256(text.encode()).hexdigest()


@dataclass(frozen=True, eq=False)
class Upload:
    """This frame's picture of a sequence becomes one that sweeps read. `shows`: place of the signal that says which; `soon`: of
    the one that says which comes next."""

    target: Picture
    shows: int
    soon: int


@dataclass(frozen=True, eq=False)
class Copy:
    """A smaller copy of a still or a sequence becomes a picture that sweeps read: the one that suits the pixels over which the
    larger one is seen, of which `wide` is the signal's place."""

    target: Picture
    of: Picture
    wide: int


@dataclass(frozen=True, eq=False)
class Mesh:
    """Triangles drawn into a picture with a depth buffer. `numbers`: places of the signals that move its vertices."""

    target: Picture
    vertices: Vertices
    numbers: tuple[int, ...]


@dataclass(frozen=True)
class Plan:
    """`signals`: what is computed once a frame, in order. The kinds of passes run in the order in which they stand here, each in
    its own order, the frame's sweep last."""

    signals: tuple[Value, ...]
    uploads: tuple[Upload, ...]
    copies: tuple[Copy, ...]
    meshes: tuple[Mesh, ...]
    passes: tuple[Sweep, ...]

    @cached_property
    def kept(self) -> dict[str, Picture]:
        """Pictures that the next frame reads, by id."""
        return {p.target.keeps: p.target for p in self.passes if p.target is not None and p.target.keeps}


MOST_READ = 12
"""Pictures and tables that a pass reads where another was drawn into it; splitting.py has what WebGL 2 promises."""
LITTLE_WORK = 40
"""Operations a pixel that may be computed for nothing while a layer is off, rather than to store and read a picture."""


class _Planner:
    def __init__(self, outputs: Sequence[Value], keep: Sequence[Picture], stages: Mapping[str, Sequence[Value]]) -> None:
        self.outputs, self.stages = outputs, stages
        self.pictures: dict[str, Picture] = {}
        self.uploads: dict[str, Picture] = {}
        self.copies: dict[str, Picture] = {}
        self.meshes: dict[str, Picture] = {}
        self.cells: dict[bytes, Value] = {}
        self.signals: dict[bytes, int] = {}
        self.values: list[Value] = []
        self.cuts: dict[str, Picture] = {}
        self.find(outputs, keep)

    def find(self, outputs: Sequence[Value], keep: Sequence[Picture]) -> None:
        """Put every picture that is read behind all that it reads itself. Long chains of passes are no recursion."""
        begun: set[str] = set()
        seen: set[str] = set()
        stack: list[Picture | str] = [*reversed(keep), ""]
        while stack:
            one = stack.pop()
            if isinstance(one, Picture):
                self.outside_sweeps(one)
                if not one.values or one.name in self.pictures:
                    continue
                if one.name in begun:
                    self.pictures[one.name] = one
                    continue
                begun.add(one.name)
                stack.append(one)
                values: Sequence[Value] = one.values
            elif one in seen:
                continue
            else:
                seen.add(one)
                values = self.stages[one] if one else outputs
            own = part(values)
            self.cells |= {cell.digest: cell for cell in own.cells}
            stack.extend(reversed(own.needs))

    def outside_sweeps(self, picture: Picture) -> None:
        """Note a picture that is no sweep's: a mesh's, a sequence's, or a copy and what it is of."""
        if picture.of is not None and picture.wide is not None:
            self.copies[picture.name] = picture
            self.cells |= {cell.digest: cell for cell in part([picture.wide]).cells}
            self.outside_sweeps(picture.of)
        if picture.vertices is not None:
            self.meshes[picture.name] = picture
            self.cells |= {cell.digest: cell for cell in part(picture.vertices.numbers).cells}
        if picture.shows is not None and picture.soon is not None:
            self.uploads[picture.name] = picture
            self.cells |= {cell.digest: cell for cell in part([picture.shows, picture.soon]).cells}

    def signal(self, value: Value) -> int:
        """The place of a value among the plan's signals, where equal ones are one."""
        if value.digest not in self.signals:
            self.signals[value.digest] = len(self.values)
            self.values.append(value)
        return self.signals[value.digest]

    def plan(self) -> Plan:
        """The whole plan."""
        kept = [name for name, one in self.pictures.items() if one.keeps]
        forms = self.forms({})
        joined = self.read_by_one(forms, needed_where(forms, kept))
        if joined:
            forms = self.forms(joined)
        where = needed_where(forms, kept)
        passes = tuple(
            self.one_pass(one, self.pictures.get(name) or self.cuts.get(name), where.get(name, {})) for name, one in forms.items()
        )
        uploads = tuple(
            Upload(one, self.signal(one.shows), self.signal(one.soon))
            for one in self.uploads.values()
            if one.shows is not None and one.soon is not None
        )
        copies = tuple(
            Copy(one, one.of, self.signal(one.wide))
            for one in self.copies.values()
            if one.of is not None and one.wide is not None
        )
        meshes = tuple(
            Mesh(one, one.vertices, tuple(self.signal(number) for number in one.vertices.numbers))
            for one in self.meshes.values()
            if one.vertices is not None
        )
        # State cells are advanced though no pass may need them in this frame.
        for cell in self.cells.values():
            self.signal(cell)
        return Plan(tuple(self.values), uploads, copies, meshes, passes)

    def forms(self, joined: Mapping[str, Value | None]) -> dict[str, Form]:
        """Every pass by its picture's name, the frame's last under none; `joined`: pictures that have no pass of their own, and
        where they are needed."""
        context = Context(self.stages)
        found: dict[str, Form] = {}
        self.cuts = {}
        for name, picture in self.pictures.items():
            if name in joined:
                context.within[name] = gated(picture, joined[name])
                continue
            found[name] = self.fitting(picture.values, context, picture.reduce == 1, found)
            if picture.reduce == 1 and picture.enabled is None:
                for channel, value in enumerate(picture.values):
                    if value.rate is Rate.PIXEL and (value.arguments or value.op == "stage"):
                        context.stored.setdefault(value.digest, (picture, channel))
                context.storing.append(name)
        found[""] = self.fitting(self.outputs, context, True, found)
        return found

    def fitting(self, values: Sequence[Value], context: Context, same_size: bool, found: dict[str, Form]) -> Form:
        """A pass that every device can run; parts of it become pictures that are put among those `found` before it."""
        one = form(values, context, same_size)
        while same_size and asks_too_much(one):
            picture = cut(values, context)
            if picture is None or picture.name in self.cuts:
                break
            self.cuts[picture.name] = picture
            found[picture.name] = form(picture.values, context, True)
            for channel, value in enumerate(picture.values):
                context.stored.setdefault(value.digest, (picture, channel))
            context.storing.append(picture.name)
            one = form(values, context, same_size)
        return one

    def read_by_one(self, forms: dict[str, Form], where: Mapping[str, Gates]) -> dict[str, Value | None]:
        """Pictures that are better computed where they are read, and where they are needed."""
        readers: dict[str, list[str]] = {}
        for by, one in forms.items():
            for read in one.pictures:
                readers.setdefault(read.name, []).append(by)
        reads = {name: samplers(one) for name, one in forms.items()}
        slots = {name: len(one.signals) for name, one in forms.items()}
        chosen: dict[str, Value | None] = {}
        for name, picture in self.pictures.items():
            if len(readers.get(name, [])) != 1 or picture.reduce != 1 or picture.keeps:
                continue
            by = readers[name][0]
            reader = self.pictures.get(by)
            if name in forms[by].elsewhere or (reader is not None and reader.reduce != 1):
                continue
            shut = {digest: gate for digest, gate in where.get(name, {}).items() if digest not in where.get(by, {})}
            alike = (picture.enabled is None or (reader is not None and reader.enabled is picture.enabled)) and not shut
            together = reads[by] - 1 + reads[name]
            fits = together <= MOST_READ and slots[by] + slots[name] <= MOST_SLOTS
            if fits and (alike or forms[name].work <= LITTLE_WORK):
                chosen[name] = all_of(shut, picture.enabled)
                reads[by] = together
                slots[by] += slots[name]
        return chosen

    def one_pass(self, one: Form, target: Picture | None, where: Gates) -> Sweep:
        """A form as a sweep that fills `target`, none for the frame; `where`: what must hold for it to be needed."""
        told = target.enabled if target is not None else None
        needed_if = all_of(where, told if told is not None and told.rate is Rate.FRAME else None)
        enabled = None if needed_if is None else self.signal(needed_if)
        pictures = tuple(self.pictures.get(p.name, p) for p in one.pictures)
        slots = tuple(self.signal(s) for s in one.signals)
        return Sweep(one.values, one.order, target, pictures, one.tables, one.curves, slots, enabled, one.beside)


def _gated_key(picture: Picture, condition: Value | None) -> tuple[str, bytes]:
    return picture.name, b"" if condition is None else condition.digest


@cached(FIFOCache(256), key=_gated_key, lock=Lock())
def gated(picture: Picture, condition: Value | None) -> Sequence[Value]:
    """What a picture holds, by loops without a turn in frames that do not need it; the latest are kept."""
    if condition is None or condition.rate is not Rate.FRAME:
        return picture.values
    return _without_turns(picture.values, condition)


def _without_turns(values: Sequence[Value], condition: Value) -> Sequence[Value]:
    held: dict[int, Value] = {}
    for value in needed(values):
        arguments = [held[id(a)] for a in value.arguments]
        if value.op == "loop":
            arguments[0] = record("iselect", condition, arguments[0], 0)
        same = all(map(operator.is_, arguments, value.arguments))
        held[id(value)] = value if same else Value(value.op, tuple(arguments), value.attribute, value.kind, value.rate)
    return [held[id(v)] for v in values]


def plan(outputs: Sequence[Value], keep: Sequence[Picture] = (), stages: Mapping[str, Sequence[Value]] | None = None) -> Plan:
    """The passes and signals that give these outputs at every pixel. `keep`: pictures for later frames that nothing reads yet.
    `stages`: what the leaves `stage` stand for, by name."""
    return _Planner(outputs, keep, stages or {}).plan()
