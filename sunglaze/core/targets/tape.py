"""Write a pass as a tape: a row of whole numbers a step, for the machine of core/engine/stepping.py.

A tape is there in a small part of the time that machine code takes, and runs at a third to half of its speed: an edit is seen by
it. A step does one operation for a block of pixels of a row, from registers to a register. Registers hold a block of 32-bit
words, or one group of lanes where all pixels of the block have the same.
"""

from __future__ import annotations

import struct
from collections import Counter
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, field
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from sunglaze.core.language.expression import Rate, Value, needed
from sunglaze.core.language.loops import Body, whole
from sunglaze.core.language.operations import OPERATIONS, single
from sunglaze.core.language.pictures import ENLARGED
from sunglaze.core.passes.forming import Local
from sunglaze.core.passes.planning import Sweep
from sunglaze.core.targets.llvm import PixelFormat
from sunglaze.core.targets.llvm_reads import LANES

BLOCK = 288
"""Pixels a step: what some hundred registers take stays in the second cache."""
FIELDS = 16
"""Whole numbers a step: the operation; -1 where it is done for the block, 0 for one group; where the result goes; four
arguments, each with how far its next group lies; a picture's or table's place, and a channel; two more results, or a step to go
to. Nothing that takes four arguments has a place."""
WIDE, OUT, ARGUMENT, PLACE, CHANNEL, SECOND, THIRD, TO = 1, 2, 3, 9, 10, 11, 12, 13

READS = ("near", "fetch")
PAIRS = (
    ("mul", "add", 0), ("mul", "sub", 0), ("mul", "sub", 1), ("mul", "mul", 0), ("add", "mul", 0), ("sub", "mul", 0),
    ("add", "add", 0), ("lt", "select", 0), ("le", "select", 0), ("imul", "iadd", 0), ("shr", "ixor", 0),
)  # fmt: skip
"""Two operations at a time: the first, whose result nothing else reads, the second, and which of its arguments that is."""
_PAIRS, _FIRSTS, _SECONDS = frozenset(PAIRS), {first for first, _, _ in PAIRS}, {second for _, second, _ in PAIRS}
NAMES = (
    *OPERATIONS, *(f"{first}_{second}_{place}" for first, second, place in PAIRS),
    "copy", "x", "y", "cube", "curve", "store_plane", "store_word", "go", "go_unless_less",
    *(f"{read}_floats" for read in READS), *(f"{read}_word_{channel}" for read in READS for channel in range(4)),
    *(f"enlarged_{by}_{right}_{down}" for by in ENLARGED for right in (0, 1) for down in (0, 1)),
)  # fmt: skip
_SHARED = {"const", "loop", "state", "outer", "turn", "after", "cube", "curve"}
"""Values whose registers are not theirs alone."""
CODES = {name: n for n, name in enumerate(NAMES)}


class Register(NamedTuple):
    """Where a value is: its first word, words from group to group (0 where all have the same), whether no pixel decides it."""

    at: int
    step: int
    fixed: bool


@dataclass(frozen=True)
class Tape:
    """`once`: so many steps are done before the rows. `memory`: the registers, with constants in place. `leaves`: where a run
    puts what it knows before it begins (operation and attribute as in the language)."""

    steps: NDArray[np.int32]
    once: int
    memory: NDArray[np.int32]
    leaves: tuple[tuple[int, str, tuple[object, ...], str], ...]


def word(number: float, kind: str) -> int:
    """A number as the 32 bits of a register."""
    return int(struct.unpack("<i", struct.pack("<f", single(number)))[0]) if kind == "float" else int(number)


@dataclass
class _Writer:
    pixels: PixelFormat
    once: list[tuple[int, ...]] = field(default_factory=list)
    steps: list[tuple[int, ...]] = field(default_factory=list)
    held: dict[int, Register] = field(default_factory=dict)
    alive: list[Value] = field(default_factory=list)
    end: int = 0
    first: dict[int, Value] = field(default_factory=dict)
    into: dict[int, Register] = field(default_factory=dict)
    free: list[int] = field(default_factory=list)
    constants: dict[int, Register] = field(default_factory=dict)
    leaves: list[tuple[int, str, tuple[object, ...], str]] = field(default_factory=list)
    bound: dict[tuple[str, tuple[object, ...]], Register] = field(default_factory=dict)
    loops: dict[int, list[Register]] = field(default_factory=dict)
    entries: dict[tuple[object, ...], list[Register]] = field(default_factory=dict)

    def narrow(self, fixed: bool) -> Register:
        """A new register of one group of lanes, alike at all pixels; `fixed`: set once before the first step."""
        at, self.end = self.end, self.end + LANES
        return Register(at, 0, fixed)

    def block(self) -> Register:
        """A register of a block of pixels, one that is free again where there is one."""
        if self.free:
            return Register(self.free.pop(), LANES, False)
        at, self.end = self.end, self.end + BLOCK
        return Register(at, LANES, False)

    def of(self, value: Value) -> Register:
        """The register that holds a value."""
        return self.held[id(value)] if value.op != "const" else self.constant(value)

    def constant(self, value: Value) -> Register:
        """The register of a constant; equal ones share it."""
        bits = word(value.attribute[0], value.kind)
        if bits not in self.constants:
            self.constants[bits] = self.narrow(True)
        return self.constants[bits]

    def step(
        self, name: str, out: Register | None, arguments: Iterable[Register] = (), place: int = 0, channel: int = 0,
        more: tuple[int, int] = (0, 0), to: int = 0, wide: bool | None = None,
    ) -> None:  # fmt: skip
        """Append a step: an operation by its name, to where, of which registers. `place`, `channel`, `more`: what else it
        reads; `to`: the step it may jump to; `wide`: whether it runs over a block, by default as what it gives."""
        given = [number for a in arguments for number in (a.at, a.step)]
        given += [0] * (PLACE - ARGUMENT - len(given))
        given += [place, channel] if len(given) == PLACE - ARGUMENT else []
        is_wide = bool(out and out.step) if wide is None else wide
        steps = self.once if out is not None and out.fixed else self.steps
        steps.append((CODES[name], -int(is_wide), out.at if out else 0, *given, *more, to, 0, 0))

    def values(self, values: Sequence[Value], order: Sequence[Value]) -> list[Value]:
        """Steps of these values and of all that they need, which is `order`. Registers of blocks go back when their last reader
        is done."""
        results, held = list(values), self.held
        self.alive += order
        readers = Counter([id(a) for v in order for a in v.arguments])
        readers.update([id(v) for v in results])
        only = {id(a): v for v in order if v.op in _SECONDS for a in v.arguments if readers[id(a)] == 1}
        for result in results:
            only.pop(id(result), None)
        for value in order:
            if value.op == "const":
                continue
            if value.op in _FIRSTS and id(value) in only and self.waits(value, only[id(value)]):
                continue
            first = self.first.pop(id(value), None)
            taken: Iterable[Value] = value.arguments
            if first is not None:
                taken = [*first.arguments, *(a for a in value.arguments if a is not first)]
            arguments = [held[id(a)] if a.op != "const" else self.constant(a) for a in taken if a.op != "loop"]
            if value.op == "loop":
                self.loop(value)
            for a in taken:
                readers[id(a)] -= 1
                if not readers[id(a)] and a.op not in _SHARED and held[id(a)].step:
                    self.free.append(held[id(a)].at)
            if first is not None:
                place = 0 if OPERATIONS[value.op].commutes else value.arguments.index(first)
                held[id(value)] = self.into.get(id(value)) or self.block()
                self.step(f"{first.op}_{value.op}_{place}", held[id(value)], arguments)
            elif value.op != "loop":
                held[id(value)] = self.value(value, arguments)
        return results

    def waits(self, value: Value, reader: Value) -> bool:
        """Whether a value is computed together with its only reader."""
        if id(reader) in self.first or any(id(a) not in self.held for a in value.arguments if a.op != "const"):
            return False
        place = 0 if OPERATIONS[reader.op].commutes else next(n for n, a in enumerate(reader.arguments) if a is value)
        if (value.op, reader.op, place) not in _PAIRS or not any(self.of(a).step for a in value.arguments):
            return False
        self.first[id(reader)] = value
        return True

    def value(self, value: Value, arguments: list[Register]) -> Register:
        """Write the steps of one value, whose arguments are in registers; the register of what it gives."""
        op, attribute = value.op, value.attribute
        if op in ("turn", "state", "outer"):
            return self.bound[str(op), tuple(attribute)]
        if op == "after":
            return self.loops[id(value.arguments[0])][int(attribute[0])]
        if op in ("slot", "target", "table_size", "picture_size"):
            out = self.narrow(True)
            self.leaves.append((out.at, op, attribute, value.kind))
            return out
        if op in ("cube", "curve"):
            return self.entry(value, arguments)[int(attribute[1])]
        if op == "pixel":
            name, out = ("x", self.block()) if attribute[0] == 0 else ("y", self.narrow(False))
            self.step(name, out)
            return out
        if op in READS or op == "enlarged":
            local: Local = attribute[0]
            as_words = local.is_camera and self.pixels == "bytes"
            name = f"{op}_word_{attribute[1]}" if as_words else f"{op}_floats"
            if op == "enlarged":
                name = f"enlarged_{local.reduce}_{attribute[2]}_{attribute[3]}"
            out = self.block()
            self.step(name, out, arguments, local.place, attribute[1])
            return out
        wide, fixed = any(a.step for a in arguments), all(a.fixed for a in arguments)
        out = self.into.get(id(value)) or (self.block() if wide else self.narrow(fixed))
        self.step(op, out, arguments)
        return out

    def entry(self, value: Value, arguments: list[Register]) -> list[Register]:
        """Three channels of a table's entry, read at once. They keep their registers: equal indices are read once."""
        place = value.attribute[0]
        key = (value.op, place, *map(id, value.arguments))
        if key not in self.entries:
            found = self.entries[key] = [self.block(), self.block(), self.block()]
            self.step(value.op, found[0], arguments, place, more=(found[1].at, found[2].at))
        return self.entries[key]

    def loop(self, value: Value) -> None:
        """Write a loop: its start, the steps of a turn, and the jump back."""
        most, count, body = value.attribute
        start, outer = value.arguments[1 : 1 + count], value.arguments[1 + count :]
        least, turns = self.narrow(False), self.narrow(False)
        self.step("imax", least, [self.of(value.arguments[0]), self.of(whole(0))])
        self.step("imin", turns, [least, self.of(whole(most))])
        turn = self.narrow(False)
        self.step("copy", turn, [self.of(whole(0))])
        states = [self.block() if r.rate is Rate.PIXEL else self.narrow(False) for r in body.results]
        for state, first in zip(states, start, strict=True):
            self.step("copy", state, [self.of(first)])
        self.bound["turn", (body.depth,)] = turn
        self.bound |= {("state", (body.depth, k)): state for k, state in enumerate(states)}
        # What no turn changes is the same in the first turn as before it.
        self.bound |= {("outer", (body.depth, k)): self.of(taken)._replace(fixed=False) for k, taken in enumerate(outer)}
        begin = len(self.steps)
        self.step("go_unless_less", None, [turn, turns])
        known, self.entries = self.entries, {}
        within = self.put_into_states(body, states)
        results = self.values(body.results, needed(body.results))
        self.entries = known
        following = [self.of(result) for result in results]
        # A state that becomes another one is put aside, lest it is overwritten before it is read.
        aside = {
            n: self.block() if f.step else self.narrow(False) for n, f in enumerate(following) if f in states and n not in within
        }
        for n, copy in aside.items():
            self.step("copy", copy, [following[n]])
        for n, state in enumerate(states):
            if n not in within:
                self.step("copy", state, [aside.get(n, following[n])])
        self.step("iadd", turn, [turn, self.of(whole(1))])
        self.step("go", None, to=begin)
        self.steps[begin] = (*self.steps[begin][:TO], len(self.steps), 0, 0)
        self.free += [copy.at for copy in aside.values() if copy.step]
        ended = {id(r): r for n, r in enumerate(results) if r.op not in _SHARED and n not in within}.values()
        self.free += [self.held[id(r)].at for r in ended if self.held[id(r)].step]
        self.loops[id(value)] = states

    def put_into_states(self, body: Body, states: list[Register]) -> set[int]:
        """Sums and the like are written where they are read: results that alone read their own state, and that nothing else
        reads, of an operation on lanes that all of the state has. Gives their places."""
        order = needed(body.results)
        readers = Counter([id(a) for v in order for a in v.arguments] + [id(r) for r in body.results])
        own = {v.attribute[1]: v for v in order if v.op == "state" and v.attribute[0] == body.depth}
        found = set()
        for n, result in enumerate(body.results):
            state = own.get(n)
            if state is None or result.op not in OPERATIONS or readers[id(result)] != 1 or readers[id(state)] != 1:
                continue
            if any(a is state for a in result.arguments) and result.rate is state.rate:
                self.into[id(result)] = states[n]
                found.add(n)
        return found

    def store(self, one: Sweep, results: list[Value]) -> None:
        """Write what a pass gives into its picture, as words or planes."""
        given = [self.of(result) for result in results]
        if one.target is None and self.pixels == "bytes":
            for output in range(0, len(given), 3):
                self.step("store_word", None, given[output : output + 3], channel=output // 3, wide=True)
        else:
            for channel, register in enumerate(given):
                self.step("store_plane", None, [register], channel=channel, wide=True)

    def finish(self) -> Tape:
        """The tape: its steps, those that run once first, and its memory with the constants set."""
        memory = np.zeros(self.end, np.int32)
        for bits, register in self.constants.items():
            memory[register.at : register.at + LANES] = bits
        shift = len(self.once)
        steps = np.array([*self.once, *self.steps], np.int32).reshape(-1, FIELDS)
        steps[:, TO] += shift
        return Tape(steps, shift, memory, tuple(self.leaves))


def tape(one: Sweep, pixels: PixelFormat) -> Tape:
    """The steps of a pass."""
    writer = _Writer(pixels)
    writer.store(one, writer.values(one.values, one.order))
    return writer.finish()
