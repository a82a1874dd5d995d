"""How printed code touches memory: pixels near by and anywhere, table entries, and what is stored. Every index is held inside.

Each read is printed once for a place and used for all channels. Reads inside a loop's body belong to that body.
"""

from __future__ import annotations

import struct
from typing import TYPE_CHECKING

import numpy as np

from sunglaze.core.shading.expression import Value

if TYPE_CHECKING:
    from sunglaze.core.shading.planning import Local
    from sunglaze.core.shading.printers.llvm import Printer

LANES = 32
"""Pixels at a time. Four registers of AVX2 or two of AVX-512: with fewer, most operations wait for the one before."""
FLOATS, INTS, BOOLS = f"<{LANES} x float>", f"<{LANES} x i32>", f"<{LANES} x i1>"
IOTA = f"<{', '.join(f'i32 {n}' for n in range(LANES))}>"
_SPREAD = f"<{LANES} x i32> zeroinitializer"


RECIPROCAL = float(np.float32(1 / 255))


def _splat(number: float) -> str:
    """A single-precision number on the lanes, by the bits of its double."""
    return f"splat (float 0x{struct.pack('>d', number).hex().upper()})"


def lanes(width: int) -> int:
    """Pixels that a row takes in memory."""
    return -(-width // LANES) * LANES


def _near(name: str, kind: str, lane: str) -> str:
    """A helper that reads LANES neighbours of a row from any column on: at once where all are inside, else one by one."""
    return f"""
define internal {kind} @near_{name}(ptr %row, i32 %x, i32 %width) alwaysinline {{
  %end = add i32 %x, {LANES}
  %low = icmp sge i32 %x, 0
  %high = icmp sle i32 %end, %width
  %inside = and i1 %low, %high
  br i1 %inside, label %fast, label %slow
fast:
  %x64 = sext i32 %x to i64
  %at = getelementptr {lane}, ptr %row, i64 %x64
  %together = load {kind}, ptr %at, align 4
  ret {kind} %together
slow:
  %one = insertelement {INTS} poison, i32 %x, i32 0
  %all = shufflevector {INTS} %one, {INTS} poison, {_SPREAD}
  %columns = add {INTS} %all, {IOTA}
  %last = sub i32 %width, 1
  %last1 = insertelement {INTS} poison, i32 %last, i32 0
  %lasts = shufflevector {INTS} %last1, {INTS} poison, {_SPREAD}
  %above = call {INTS} @llvm.smax.v{LANES}i32({INTS} %columns, {INTS} zeroinitializer)
  %held = call {INTS} @llvm.smin.v{LANES}i32({INTS} %above, {INTS} %lasts)
  %places = getelementptr {lane}, ptr %row, {INTS} %held
  %apart = call {kind} @llvm.masked.gather.v{LANES}{"f32" if lane == "float" else "i32"}.v{LANES}p0(<{LANES} x ptr> %places,
      i32 4, {BOOLS} splat (i1 true), {kind} poison)
  ret {kind} %apart
}}"""


def _fetch(name: str, kind: str, lane: str) -> str:
    """A helper that reads LANES places inside a picture: at once where they follow each other, as shifted pictures' do."""
    return f"""
define internal {kind} @fetch_{name}(ptr %picture, {INTS} %places) alwaysinline {{
  %first = extractelement {INTS} %places, i32 0
  %one = insertelement {INTS} poison, i32 %first, i32 0
  %all = shufflevector {INTS} %one, {INTS} poison, {_SPREAD}
  %line = add {INTS} %all, {IOTA}
  %same = icmp eq {INTS} %places, %line
  %bits = bitcast {BOOLS} %same to i{LANES}
  %follow = icmp eq i{LANES} %bits, -1
  br i1 %follow, label %fast, label %slow
fast:
  %at = getelementptr {lane}, ptr %picture, i32 %first
  %together = load {kind}, ptr %at, align 4
  ret {kind} %together
slow:
  %each = getelementptr {lane}, ptr %picture, {INTS} %places
  %apart = call {kind} @llvm.masked.gather.v{LANES}{"f32" if lane == "float" else "i32"}.v{LANES}p0(<{LANES} x ptr> %each,
      i32 4, {BOOLS} splat (i1 true), {kind} poison)
  ret {kind} %apart
}}"""


HELPERS = "\n".join([
    f"declare {INTS} @llvm.smax.v{LANES}i32({INTS}, {INTS})",
    f"declare {INTS} @llvm.smin.v{LANES}i32({INTS}, {INTS})",
    f"declare {FLOATS} @llvm.masked.gather.v{LANES}f32.v{LANES}p0(<{LANES} x ptr>, i32, {BOOLS}, {FLOATS})",
    f"declare {INTS} @llvm.masked.gather.v{LANES}i32.v{LANES}p0(<{LANES} x ptr>, i32, {BOOLS}, {INTS})",
    _near("floats", FLOATS, "float"),
    _near("words", INTS, "i32"),
    _fetch("floats", FLOATS, "float"),
    _fetch("words", INTS, "i32"),
])  # fmt: skip


class Memory:
    """The reads and stores of one printing."""

    def __init__(self, printer: Printer) -> None:
        self.p = printer
        self.used = False
        self.entry_names: dict[tuple[object, ...], str] = {}
        self.reads: dict[tuple[object, ...], str] = {}
        self.entries: dict[tuple[object, ...], tuple[str, str, str]] = {}

    def enter(self) -> tuple[dict[tuple[object, ...], str], dict[tuple[object, ...], tuple[str, str, str]]]:
        """Begin a loop's body: what was read outside is known inside, but not the other way round."""
        kept = self.reads, self.entries
        self.reads, self.entries = dict(self.reads), dict(self.entries)
        return kept

    def leave(self, kept: tuple[dict[tuple[object, ...], str], dict[tuple[object, ...], tuple[str, str, str]]]) -> None:
        self.reads, self.entries = kept

    def once(self, key: tuple[object, ...], text: str) -> str:
        """A line before the rows, printed the first time it is asked for."""
        if key not in self.entry_names:
            self.entry_names[key] = self.p.emit(self.p.entry, text)
        return self.entry_names[key]

    def pixel(self, axis: int) -> str:
        key = ("pixel", axis)
        if key not in self.reads:
            lines = self.p.lines
            name = self.p.spread(lines, "%x32" if axis == 0 else "%y32", "int")
            self.reads[key] = self.p.emit(lines, f"add {INTS} {name}, {IOTA}") if axis == 0 else name
        return self.reads[key]

    def fact(self, place: int, which: int) -> str:
        """Columns, rows, stride and plane of a picture: 64-bit numbers, four a picture."""
        address = self.once(("dim", place, which), f"getelementptr i64, ptr %dims, i64 {4 * place + which}")
        return self.once(("fact", place, which), f"load i64, ptr {address}")

    def dimension(self, local: Local, axis: int) -> str:
        return self.once(("size", local.place, axis), f"trunc i64 {self.fact(local.place, axis)} to i32")

    def data(self, local: Local) -> str:
        slot = self.once(("at", local.place), f"getelementptr ptr, ptr %pictures, i64 {local.place}")
        return self.once(("data", local.place), f"load ptr, ptr {slot}")

    def words(self, local: Local) -> bool:
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
        self.used = True
        words = self.words(local)
        dx, dy = self.p.scalar(right), self.p.scalar(down)
        key: tuple[object, ...] = ("near", local.place, dx, dy, None if words else channel)
        if key not in self.reads:
            base = self.plane(local, channel)
            y = "%y32" if dy == "0" else self.p.emit(self.p.lines, f"add i32 %y32, {dy}")
            row = self.row(local, base, y, f"near {dy}")
            kind, name = (INTS, "words") if words else (FLOATS, "floats")
            if dx == "0":
                # Rows are as long in memory as the drawn picture's; what lies behind their last pixel is never seen.
                at = self.p.emit(self.p.lines, f"getelementptr i32, ptr {row}, i64 %x")
                self.reads[key] = self.p.emit(self.p.lines, f"load {kind}, ptr {at}, align 4")
            else:
                x = self.p.emit(self.p.lines, f"add i32 %x32, {dx}")
                width = self.dimension(local, 0)
                self.reads[key] = self.p.emit(self.p.lines, f"call {kind} @near_{name}(ptr {row}, i32 {x}, i32 {width})")
        return self.channel(key, channel) if words else self.reads[key]

    def enlarged(self, local: Local, channel: int, right: int, down: int) -> str:
        """A smaller picture's pixel left of each lane's place, or `right` of it, above it, or `down`.

        Pixels of a row are read once and dealt out: a block of lanes begins at a whole pixel of the smaller picture.
        """
        self.used = True
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
            self.reads[key] = self.p.emit(lines, f"call {FLOATS} @near_floats(ptr {row}, i32 {x}, i32 {width})")
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
            last = self.once(("last", local.place), f"sub i32 {self.dimension(local, 1)}, 1")
            above = self.p.call(lines, "smax", "int", [y, "0"], False)
            held = self.p.call(lines, "smin", "int", [above, last], False)
            wide = self.p.emit(lines, f"sext i32 {held} to i64")
            self.reads[key] = self.p.emit(lines, f"mul i64 {wide}, {self.fact(local.place, 2)}")
        far = self.reads[key]
        return self.p.emit(lines, f"getelementptr {'i32' if self.words(local) else 'float'}, ptr {base}, i64 {far}")

    def channel(self, key: tuple[object, ...], channel: int) -> str:
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

    def fetch(self, local: Local, channel: int, column: str, row: str) -> str:
        self.used = True
        words = self.words(local)
        key: tuple[object, ...] = ("fetch", local.place, column, row, None if words else channel)
        if key not in self.reads:
            places = self.places(local, column, row)
            base = self.plane(local, channel)
            kind, name = (INTS, "words") if words else (FLOATS, "floats")
            self.reads[key] = self.p.emit(self.p.lines, f"call {kind} @fetch_{name}(ptr {base}, {INTS} {places})")
        return self.channel(key, channel) if words else self.reads[key]

    def places(self, local: Local, column: str, row: str) -> str:
        key = ("places", local.place, column, row)
        if key not in self.reads:
            lasts = []
            for axis in (0, 1):
                last = self.once(("edge", local.place, axis), f"sub i32 {self.dimension(local, axis)}, 1")
                lasts.append(self.spread_once(("edges", local.place, axis), last))
            stride = self.once(("stride", local.place), f"trunc i64 {self.fact(local.place, 2)} to i32")
            strides = self.spread_once(("strides", local.place), stride)
            x, y = self.held(column, lasts[0]), self.held(row, lasts[1])
            down = self.p.emit(self.p.lines, f"mul {INTS} {y}, {strides}")
            self.reads[key] = self.p.emit(self.p.lines, f"add {INTS} {down}, {x}")
        return self.reads[key]

    def table_size(self, place: int) -> str:
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
            low = self.p.choose(lines, above, name, "zeroinitializer", "float", True)
            below = self.p.emit(lines, f"fcmp olt {FLOATS} {low}, splat (float 1.0)")
            held = self.p.choose(lines, below, low, "splat (float 1.0)", "float", True)
            scaled = self.p.emit(lines, f"fmul {FLOATS} {held}, splat (float 2.55e+02)")
            rounded = self.p.emit(lines, f"fadd {FLOATS} {scaled}, splat (float 0.5)")
            byte = self.p.emit(lines, f"fptosi {FLOATS} {rounded} to {INTS}")
            part = self.p.emit(lines, f"shl {INTS} {byte}, splat (i32 {16 - 8 * c})") if c < 2 else byte
            word = self.p.emit(lines, f"or {INTS} {word}, {part}")
        place = self.p.emit(lines, f"mul i64 %plane, {output}")
        at = self.p.emit(lines, f"add i64 %at, {place}")
        address = self.p.emit(lines, f"getelementptr i32, ptr %out, i64 {at}")
        lines.append(f"  store {INTS} {word}, ptr {address}, align 4")
