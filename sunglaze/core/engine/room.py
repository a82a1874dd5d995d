"""Memory that drawing keeps from frame to frame."""

from __future__ import annotations

import operator
from collections.abc import Sequence
from dataclasses import dataclass, field

import numpy as np

from sunglaze.core.engine.boxes import Part
from sunglaze.core.engine.kernel import Kernel
from sunglaze.core.engine.machine import Operands
from sunglaze.core.language.pictures import Picture
from sunglaze.core.material.still import Still
from sunglaze.core.passes.planning import Sweep
from sunglaze.core.passes.program import Floats, Program
from sunglaze.core.passes.reach import NOTHING, Box
from sunglaze.core.targets.memory import Surface, memory, padded, planes

Key = tuple[int, str]
"""A pass's place, and its picture's name and size."""


@dataclass(frozen=True, eq=False)
class Drawn:
    """What a pass was drawn from: the words in its slots, the pictures and tables that it read, and what of it was drawn."""

    slots: bytes
    sources: tuple[object, ...]
    part: Part | None

    def is_same(self, other: Drawn | None) -> bool:
        """Whether drawing it again would give the same."""
        if other is None or (self.slots, self.part) != (other.slots, other.part):
            return False
        return all(map(operator.is_, self.sources, other.sources))


@dataclass(frozen=True, eq=False)
class Known:
    """What a pass read last: `pictures` with their columns, and tables."""

    one: Sweep
    pictures: Sequence[tuple[Surface, int]]
    tables: Sequence[Floats]
    stride: int
    operands: Operands

    def is_of(self, one: Sweep, pictures: Sequence[tuple[Surface, int]], tables: Sequence[Floats], stride: int) -> bool:
        """Whether the pass reads these now: pictures and tables as Kernel.operands takes them, (rows, columns) and so on."""
        if self.one is not one or self.stride != stride:
            return False
        same = all(a[0] is b[0] and a[1] == b[1] for a, b in zip(self.pictures, pictures, strict=True))
        return same and all(map(operator.is_, self.tables, tables))


@dataclass
class Room:
    """Memory of passes, kept from frame to frame, by place of the pass; and given pictures as planes. `filled`: the part outside
    of which a pass's picture or a mesh's is 0. `drawn`: of passes that hang on nothing but what is given, from what they were.
    `known`: what each pass read last, by its place."""

    surfaces: dict[Key, Surface] = field(default_factory=dict)
    given: dict[str, tuple[Still, Surface, int]] = field(default_factory=dict)
    meshes: dict[str, Surface] = field(default_factory=dict)
    filled: dict[Key | str, Box] = field(default_factory=dict)
    drawn: dict[Key, Drawn] = field(default_factory=dict)
    known: dict[int, Known] = field(default_factory=dict)

    def keep_to(self, program: Program) -> None:
        """Let go of what an edit left behind."""
        for key in [key for key in self.surfaces if key[0] >= len(program.plan.passes)]:
            self._let_go(key)
        for place in [place for place in self.known if place >= len(program.plan.passes)]:
            del self.known[place]
        plan = program.plan
        wanted = {picture.name for picture in program.given}
        wanted |= {one.target.name for one in plan.uploads} | {one.target.name for one in plan.copies}
        for name in self.given.keys() - wanted:
            del self.given[name]
        for name in self.meshes.keys() - {one.target.name for one in program.plan.meshes}:
            del self.meshes[name]
            self.filled.pop(name, None)

    def _let_go(self, key: Key) -> None:
        del self.surfaces[key]
        self.filled.pop(key, None)
        self.drawn.pop(key, None)

    def operands(
        self, place: int, made: Kernel, pictures: Sequence[tuple[Surface, int]], tables: Sequence[Floats], stride: int
    ) -> Operands:
        """What a pass reads: most of it is in the same memory from frame to frame. Pictures, (rows, columns) or (channels, rows,
        columns), and tables, (n, n, n, 4) or (n, 4), as Kernel.operands takes them. Raises what that raises."""
        known = self.known.get(place)
        if known is None or not known.is_of(made.shape, pictures, tables, stride):
            operands = made.operands(pictures, tables, stride)
            self.known[place] = known = Known(made.shape, pictures, tables, stride, operands)
        return known.operands

    def planes_of(self, picture: Picture, still: Still) -> tuple[Surface, int]:
        """What is given for a picture as planes, converted when it is another one than last time; and its columns."""
        known = self.given.get(picture.name)
        if known is None or not known[0].is_same(still):
            pixels = still.frame()
            into = known[1] if known is not None and known[2] == pixels.shape[1] else None
            self.given[picture.name] = known = (still, planes(pixels, picture.channels, into), pixels.shape[1])
        return known[1], known[2]

    def mesh(self, name: str, rows: int, columns: int) -> Surface:
        """Memory for what a mesh is drawn into: (4, rows, padded)."""
        shape = (4, rows, padded(columns))
        if name not in self.meshes or self.meshes[name].shape != shape:
            self.meshes[name] = memory(shape, np.float32)
            self.filled[name] = NOTHING
        return self.meshes[name]

    def sweep(self, one: Sweep, key: Key, size: tuple[int, int]) -> Surface:
        """Memory for what a pass gives (values, rows, padded), all 0 where it is new."""
        if key not in self.surfaces:
            # One picture of a place and size at a time: what an edit left behind goes.
            for old in [k for k in self.surfaces if k[0] == key[0]]:
                self._let_go(old)
            self.surfaces[key] = memory((len(one.values), size[1], padded(size[0])), np.float32)
        return self.surfaces[key]

    def cleared(self, key: Key, now: Box) -> None:
        """Make a pass's picture 0 where it was not before it is drawn in a box."""
        before = self.filled.get(key, NOTHING)
        if not before.empty:
            right = padded(before.right)
            self.surfaces[key][:, before.top : before.bottom, before.left : right] = 0
        self.filled[key] = now
