"""How printed code touches memory: pixels near by and anywhere, table entries, and what is stored. Every index is held inside.

Each read is printed once for a place, and reads that lie together are printed together, so that one branch is enough for them.
Reads inside a loop's body belong to that body.
"""

from __future__ import annotations

import operator
import struct
from collections.abc import Sequence
from typing import TYPE_CHECKING

import numpy as np

from sunglaze.core.language.expression import Value
from sunglaze.core.targets import llvm_reads as reads
from sunglaze.core.targets.llvm_reads import BOOLS, FLOATS, INTS, IOTA, LANES

if TYPE_CHECKING:
    from sunglaze.core.passes.forming import Local
    from sunglaze.core.targets.llvm import Printer

RECIPROCAL = float(np.float32(1 / 255))


def _splat(number: float) -> str:
    """A single-precision number on the lanes, by the bits of its double."""
    return f"splat (float 0x{struct.pack('>d', number).hex().upper()})"


_Known = tuple[dict[tuple[object, ...], str], dict[tuple[object, ...], tuple[str, str, str]], list[Value]]


class Memory:
    """The reads and stores of one printing."""

    def __init__(self, printer: Printer) -> None:
        self.p = printer
        self.helpers: dict[str, str] = {}
        self.expected: list[Value] = []
        self.entry_names: dict[tuple[object, ...], str] = {}
        self.reads: dict[tuple[object, ...], str] = {}
        self.entries: dict[tuple[object, ...], tuple[str, str, str]] = {}

    def enter(self) -> _Known:
        """Begin a loop's body: what was read outside is known inside, but not the other way round."""
        kept = self.reads, self.entries, self.expected
        self.reads, self.entries, self.expected = dict(self.reads), dict(self.entries), []
        return kept

    def leave(self, kept: _Known) -> None:
        """End a loop's body that `enter` began."""
        self.reads, self.entries, self.expected = kept

    def expect(self, order: Sequence[Value]) -> None:
        """What will be read in the part that is printed next, in any order."""
        self.expected = [value for value in order if value.op in ("near", "fetch")]

    def once(self, key: tuple[object, ...], text: str) -> str:
        """A line before the rows, printed the first time it is asked for."""
        if key not in self.entry_names:
            self.entry_names[key] = self.p.emit(self.p.entry, text)
        return self.entry_names[key]

    def columns(self) -> str:
        """The columns of the lanes."""
        first = self.once_here(("first",), f"insertelement {INTS} poison, i32 %x32, i32 0")
        spread = self.once_here(("spread",), f"shufflevector {INTS} {first}, {INTS} poison, {reads.SPREAD}")
        return self.once_here(("columns",), f"add {INTS} {spread}, {IOTA}")

    def fact(self, place: int, which: int) -> str:
        """Columns, rows, stride and plane of a picture: 64-bit numbers, four a picture."""
        address = self.once(("dim", place, which), f"getelementptr i64, ptr %dims, i64 {4 * place + which}")
        return self.once(("fact", place, which), f"load i64, ptr {address}")

    def dimension(self, local: Local, axis: int) -> str:
        """Columns (0) or rows (1) of a picture, i32, before the rows."""
        return self.once(("size", local.place, axis), f"trunc i64 {self.fact(local.place, axis)} to i32")

    def data(self, local: Local) -> str:
        """A picture's first address, before the rows."""
        slot = self.once(("at", local.place), f"getelementptr ptr, ptr %pictures, i64 {local.place}")
        return self.once(("data", local.place), f"load ptr, ptr {slot}")

    def words(self, local: Local) -> bool:
        """Whether a picture is of words of four bytes."""
        return local.is_camera and self.p.pixels == "bytes"

    def plane(self, local: Local, channel: int) -> str:
        """Where a channel's plane begins."""
        if self.words(local) or channel == 0:
            return self.data(local)
        far = self.once(("far", local.place, channel), f"mul i64 {self.fact(local.place, 3)}, {channel}")
        return self.once(("plane", local.place, channel), f"getelementptr float, ptr {self.data(local)}, i64 {far}")

    def part(self, word: str, channel: int) -> str:
        """One of a word's four bytes as 0 to 1."""
        lines = self.p.lines
        part = self.p.emit(lines, f"lshr {INTS} {word}, splat (i32 {8 * channel})") if channel else word
        byte = self.p.emit(lines, f"and {INTS} {part}, splat (i32 255)")
        number = self.p.emit(lines, f"sitofp {INTS} {byte} to {FLOATS}")
        # n / 255 rounded correctly, by the rounded reciprocal and one correction: a division takes several times as long.
        near = self.p.emit(lines, f"fmul {FLOATS} {number}, {_splat(RECIPROCAL)}")
        rest = self.p.call(lines, "fma", "float", [near, "splat (float -2.55e+02)", number], True)
        return self.p.call(lines, "fma", "float", [rest, _splat(RECIPROCAL), near], True)

    def near(self, local: Local, channel: int, right: Value, down: Value) -> str:
        """Write the read of a channel some pixels from here; the vector's name."""
        words = self.words(local)
        dx = self.p.scalar(right)
        key = ("near", local.place, dx, self.p.scalar(down), None if words else channel)
        if key not in self.reads:
            if dx == "0":
                # Rows are as long in memory as the drawn picture's; what lies behind their last pixel is never seen.
                row = self.row_near(local, channel, down)
                at = self.p.emit(self.p.lines, f"getelementptr i32, ptr {row}, i64 %x")
                self.reads[key] = self.p.emit(self.p.lines, f"load {INTS if words else FLOATS}, ptr {at}, align 4")
            else:
                self.near_together(local, dx, {key: (channel, down)})
        return self.channel(key, channel) if words else self.reads[key]

    def near_together(self, local: Local, dx: str, wanted: dict[tuple[object, ...], tuple[int, Value]]) -> None:
        """Read what is wanted, and with it all else that lies as far to the side and whose row is known by now."""
        words = self.words(local)
        for other in self.expected:
            if other.op == "near" and other.attribute[0].place == local.place and all(map(self.p.is_known, other.arguments)):
                right, down = other.arguments
                key = ("near", local.place, self.p.scalar(right), self.p.scalar(down), None if words else other.attribute[1])
                if key[2] == dx and key not in self.reads:
                    wanted[key] = other.attribute[1], down
        rows = [f"ptr {self.row_near(local, channel, down)}" for channel, down in wanted.values()]
        x = self.p.emit(self.p.lines, f"add i32 %x32, {dx}")
        name, text = reads.near(words, len(rows))
        self.read_by(name, text, words, [*rows, f"i32 {x}", f"i32 {self.dimension(local, 0)}"], list(wanted))

    def row_near(self, local: Local, channel: int, down: Value) -> str:
        """Write the offset of a row near by, held inside; its name, once for each row."""
        dy = self.p.scalar(down)
        y = "%y32" if dy == "0" else self.once_here(("y", dy), f"add i32 %y32, {dy}")
        return self.row(local, self.plane(local, channel), y, f"near {dy}")

    def once_here(self, key: tuple[object, ...], text: str) -> str:
        """A line in the part that is printed, the first time it is asked for."""
        if key not in self.reads:
            self.reads[key] = self.p.emit(self.p.lines, text)
        return self.reads[key]

    def read_by(self, name: str, text: str, words: bool, arguments: Sequence[str], keys: Sequence[tuple[object, ...]]) -> None:
        """Call a helper that reads as many pictures' rows as there are keys."""
        self.helpers[name] = text
        shape = reads.several(words, len(keys))
        found = self.p.emit(self.p.lines, f"call {shape} @{name}({', '.join(arguments)})")
        for n, key in enumerate(keys):
            one = found if len(keys) == 1 else self.p.emit(self.p.lines, f"extractvalue {shape} {found}, {n}")
            self.reads[key] = one

    def enlarged(self, local: Local, channel: int, right: int, down: int) -> str:
        """A smaller picture's pixel left of each lane's place, or `right` of it, above it, or `down`.

        Pixels of a row are read once and dealt out: a block of lanes begins at a whole pixel of the smaller picture.
        """
        lines, by = self.p.lines, local.reduce
        key: tuple[object, ...] = ("enlarged", local.place, channel, down)
        if key not in self.reads:
            twice = self.p.emit(lines, "mul i32 %y32, 2")
            above = self.p.emit(lines, f"add i32 {twice}, {1 + by}")
            at = self.p.emit(lines, f"sdiv i32 {above}, {2 * by}")
            y = self.p.emit(lines, f"add i32 {at}, {down - 1}")
            row = self.row(local, self.plane(local, channel), y, f"down {down}")
            first = self.p.emit(lines, f"sdiv i32 %x32, {by}")
            x = self.p.emit(lines, f"sub i32 {first}, 1")
            width = self.dimension(local, 0)
            name, text = reads.near(False, 1)
            self.read_by(name, text, False, [f"ptr {row}", f"i32 {x}", f"i32 {width}"], [key])
        dealt = (*key, right)
        if dealt not in self.reads:
            places = ", ".join(f"i32 {(2 * lane + 1 + by) // (2 * by) + right}" for lane in range(LANES))
            held = self.reads[key]
            self.reads[dealt] = self.p.emit(lines, f"shufflevector {FLOATS} {held}, {FLOATS} poison, {INTS} <{places}>")
        return self.reads[dealt]

    def row(self, local: Local, base: str, y: str, known: str) -> str:
        """Where row `y`, held inside the picture, begins; `known`: what tells this row from others."""
        lines = self.p.lines
        key = ("row", local.place, known)
        if key not in self.reads:
            held = self.held_once(lines, y, local)
            wide = self.p.emit(lines, f"sext i32 {held} to i64")
            self.reads[key] = self.p.emit(lines, f"mul i64 {wide}, {self.fact(local.place, 2)}")
        far = self.reads[key]
        return self.p.emit(lines, f"getelementptr {'i32' if self.words(local) else 'float'}, ptr {base}, i64 {far}")

    def channel(self, key: tuple[object, ...], channel: int) -> str:
        """Write a channel taken out of words; the vector's name, 0 to 1."""
        part = (*key, "part", channel)
        if part not in self.reads:
            self.reads[part] = self.part(self.reads[key], channel)
        return self.reads[part]

    def held(self, index: str, last: str) -> str:
        """An index on the lanes, held to 0 and `last` (on the lanes)."""
        key = ("held", index, last)
        if key not in self.reads:
            above = self.p.call(self.p.lines, "smax", "int", [index, "zeroinitializer"], True)
            self.reads[key] = self.p.call(self.p.lines, "smin", "int", [above, last], True)
        return self.reads[key]

    def spread_once(self, key: tuple[object, ...], name: str) -> str:
        """A whole number on the lanes, before the rows."""
        if key not in self.entry_names:
            self.entry_names[key] = self.p.spread(self.p.entry, name, "int")
        return self.entry_names[key]

    def fetch(self, local: Local, channel: int, column: Value, row: Value) -> str:
        """Write the read of a channel at any pixel, held inside; the vector's name."""
        words = self.words(local)
        places = self.places(local, self.p.wide(column), row)
        key: tuple[object, ...] = ("fetch", places, None if words else channel)
        if key not in self.reads:
            wanted = {key: channel}
            for other in self.expected if not words else ():
                picture, also = other.attribute
                here = picture.place == local.place and all(map(operator.is_, other.arguments, (column, row)))
                if here and other.op == "fetch":
                    wanted.setdefault(("fetch", places, also), also)
            planes = [f"ptr {self.plane(local, c)}" for c in wanted.values()]
            name, text = reads.fetch(words, len(planes))
            self.read_by(name, text, words, [*planes, f"{INTS} {places}"], list(wanted))
        return self.channel(key, channel) if words else self.reads[key]

    def places(self, local: Local, column: str, row: Value) -> str:
        """Write the offsets of pixels at these columns and rows, held inside; the vector's name."""
        key = ("places", local.place, column, id(row))
        if key not in self.reads:
            x = self.held(column, self.spread_once(("edges", local.place, 0), self.last(local, 0)))
            self.reads[key] = self.p.emit(self.p.lines, f"add {INTS} {self.row_begins(local, row)}, {x}")
        return self.reads[key]

    def last(self, local: Local, axis: int) -> str:
        """The last column (0) or row (1) of a picture, i32, before the rows."""
        return self.once(("edge", local.place, axis), f"sub i32 {self.dimension(local, axis)}, 1")

    def row_begins(self, local: Local, row: Value) -> str:
        """How far behind a plane's first pixel the row of each lane begins."""
        stride = self.once(("stride", local.place), f"trunc i64 {self.fact(local.place, 2)} to i32")
        if self.p.is_wide(row):
            y = self.held(self.p.wide(row), self.spread_once(("edges", local.place, 1), self.last(local, 1)))
            return self.p.emit(self.p.lines, f"mul {INTS} {y}, {self.spread_once(('strides', local.place), stride)}")
        lines = self.p.lines_of(self.p.home(row))
        held = self.held_once(lines, self.p.scalar(row), local)
        return self.p.spread(lines, self.p.emit(lines, f"mul i32 {held}, {stride}"), "int")

    def held_once(self, lines: list[str], row: str, local: Local) -> str:
        """One row for all lanes, held inside the picture."""
        above = self.p.call(lines, "smax", "int", [row, "0"], False)
        return self.p.call(lines, "smin", "int", [above, self.last(local, 1)], False)

    def table_size(self, place: int) -> str:
        """Steps along an edge of a table, i32, before the rows."""
        address = self.once(("sized", place), f"getelementptr i32, ptr %sizes, i64 {place}")
        return self.once(("steps", place), f"load i32, ptr {address}")

    def table(self, place: int, indices: tuple[str, ...]) -> tuple[str, str, str]:
        """Three channels of a table's entries: one 16-byte read a lane, then a transposition."""
        key = (place, *indices)
        if key in self.entries:
            return self.entries[key]
        slot = self.once(("table", place), f"getelementptr ptr, ptr %tables, i64 {place}")
        data = self.once(("entries", place), f"load ptr, ptr {slot}")
        steps = self.spread_once(("all steps", place), self.table_size(place))
        last = self.once(("last entry", place), f"sub {INTS} {steps}, splat (i32 1)")
        inside = [self.held(index, last) for index in indices]
        at = inside[-1]
        lines = self.p.lines
        for index in reversed(inside[:-1]):
            row = self.p.emit(lines, f"mul {INTS} {at}, {steps}")
            at = self.p.emit(lines, f"add {INTS} {row}, {index}")
        entries = []
        for lane in range(LANES):
            one = self.p.emit(lines, f"extractelement {INTS} {at}, i32 {lane}")
            address = self.p.emit(lines, f"getelementptr [4 x float], ptr {data}, i32 {one}")
            entries.append(self.p.emit(lines, f"load <4 x float>, ptr {address}, align 16"))
        self.entries[key] = self.transposed(entries)
        return self.entries[key]

    def transposed(self, rows: list[str]) -> tuple[str, str, str]:
        """Red, green and blue on the lanes, from an entry of four a lane: four by four, then put together two by two."""

        def shuffle(a: str, b: str, places: tuple[int, ...], width: int = 4) -> str:
            indices = ", ".join(f"i32 {p}" for p in places)
            shape = f"<{width} x float>"
            return self.p.emit(self.p.lines, f"shufflevector {shape} {a}, {shape} {b}, <{len(places)} x i32> <{indices}>")

        parts: list[list[str]] = []
        for n in range(0, LANES, 4):
            a, b, c, d = rows[n : n + 4]
            low1, high1 = shuffle(a, b, (0, 4, 1, 5)), shuffle(a, b, (2, 6, 3, 7))
            low2, high2 = shuffle(c, d, (0, 4, 1, 5)), shuffle(c, d, (2, 6, 3, 7))
            ends = (0, 1, 4, 5), (2, 3, 6, 7)
            parts.append([shuffle(low1, low2, ends[0]), shuffle(low1, low2, ends[1]), shuffle(high1, high2, ends[0])])
        width = 4
        while len(parts) > 1:
            pairs = zip(parts[::2], parts[1::2], strict=True)
            parts = [[shuffle(a[c], b[c], tuple(range(2 * width)), width) for c in range(3)] for a, b in pairs]
            width *= 2
        red, green, blue = parts[0]
        return red, green, blue

    def store_plane(self, channel: int, name: str) -> None:
        """Write the store of a vector of floats into a plane of what is filled."""
        lines = self.p.lines
        step = self.p.emit(lines, f"mul i64 %plane, {channel}")
        place = self.p.emit(lines, f"add i64 %at, {step}")
        address = self.p.emit(lines, f"getelementptr float, ptr %out, i64 {place}")
        lines.append(f"  store {FLOATS} {name}, ptr {address}, align 4")

    def store_word(self, output: int, channels: list[str]) -> None:
        """A colour held to 0 to 1 as bytes, blue first; NaN gives 0."""
        lines, word = self.p.lines, "splat (i32 -16777216)"
        for c, name in enumerate(channels):
            above = self.p.emit(lines, f"fcmp ogt {FLOATS} {name}, zeroinitializer")
            low = self.p.emit(lines, f"select {BOOLS} {above}, {FLOATS} {name}, {FLOATS} zeroinitializer")
            below = self.p.emit(lines, f"fcmp olt {FLOATS} {low}, splat (float 1.0)")
            held = self.p.emit(lines, f"select {BOOLS} {below}, {FLOATS} {low}, {FLOATS} splat (float 1.0)")
            scaled = self.p.emit(lines, f"fmul {FLOATS} {held}, splat (float 2.55e+02)")
            rounded = self.p.emit(lines, f"fadd {FLOATS} {scaled}, splat (float 0.5)")
            byte = self.p.emit(lines, f"fptosi {FLOATS} {rounded} to {INTS}")
            part = self.p.emit(lines, f"shl {INTS} {byte}, splat (i32 {16 - 8 * c})") if c < 2 else byte
            word = self.p.emit(lines, f"or {INTS} {word}, {part}")
        place = self.p.emit(lines, f"mul i64 %plane, {output}")
        at = self.p.emit(lines, f"add i64 %at, {place}")
        address = self.p.emit(lines, f"getelementptr i32, ptr %out, i64 {at}")
        lines.append(f"  store {INTS} {word}, ptr {address}, align 4")
