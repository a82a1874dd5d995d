"""Print a pass as LLVM IR text: one fused loop over rows and columns, LANES pixels at a time.

The rules that keep it fast and safe are in docs/architecture.md: selects instead of branches; what is alike at all pixels is
computed once, and what is alike along a row once a row, as scalars; memory is touched only through the helpers of llvm_memory.py,
which hold every index inside; a float becomes an index only by `to_int`, which clamps by ordered compares.
"""

from __future__ import annotations

import struct
from dataclasses import dataclass
from typing import Literal

from sunglaze.core.language.expression import Rate, Value, ordered
from sunglaze.core.language.operations import OPERATIONS, Kind, single
from sunglaze.core.passes.planning import Sweep
from sunglaze.core.targets.llvm_memory import Memory
from sunglaze.core.targets.llvm_reads import DECLARED, LANES
from sunglaze.core.targets.scheduling import scheduled

PixelFormat = Literal["bytes", "floats"]
"""How the camera's and the frame's pictures lie in memory. bytes: one 32-bit word a pixel, RGBA in and BGRA out (as JPEG encoders
take it), alpha of the input being the person mask. floats: planes of float32, four in and three an output. All other pictures
are planes of float32. Rows are padded to a multiple of LANES."""

_SCALARS = {"float": "float", "int": "i32", "bool": "i1"}
_SUFFIX = {"float": "f32", "int": "i32"}

_HEAD = """
define void @kernel(ptr %pictures, ptr %dims, ptr noalias %out, ptr %slots, ptr %tables, ptr %sizes,
                    i64 %stride, i64 %plane, i64 %row0, i64 %row1, i64 %column0, i64 %column1, i32 %width, i32 %height) #0 {
entry:
"""
_LOOP = """
  br label %rows
rows:
  %y = phi i64 [ %row0, %entry ], [ %y.next, %row.end ]
  %more = icmp slt i64 %y, %row1
  br i1 %more, label %row, label %done
row:
  %first = mul i64 %y, %stride
  %y32 = trunc i64 %y to i32
"""
_COLUMNS = """
  br label %columns
columns:
  %x = phi i64 [ %column0, %row ], [ %x.next, %columns.end ]
  %at = add i64 %first, %x
  %x32 = trunc i64 %x to i32
"""
_TAIL = f"""
  br label %columns.end
columns.end:
  %x.next = add i64 %x, {LANES}
  %again = icmp slt i64 %x.next, %column1
  br i1 %again, label %columns, label %row.end
row.end:
  %y.next = add i64 %y, 1
  br label %rows
done:
  ret void
}}
attributes #0 = {{ "prefer-vector-width"="512" "min-legal-vector-width"="512" }}
"""
ENTRY, ROW, BODY = 0, 1, 2
"""Where a value is computed: once, once a row, or at the pixels; more is inside a loop's body."""


def _number(value: Value) -> str:
    """A constant as LLVM writes it: floats by the bits of their single-precision value widened to double."""
    plain = value.attribute[0]
    if value.kind == "bool":
        return "true" if plain else "false"
    if value.kind == "int":
        return str(plain)
    return "0x" + struct.pack(">d", single(plain)).hex().upper()


def _type(kind: str, wide: bool) -> str:
    return f"<{LANES} x {_SCALARS[kind]}>" if wide else _SCALARS[kind]


@dataclass(frozen=True)
class _Lines:
    """The Writer of one operation: where its text goes, and whether it is of vectors."""

    printer: Printer
    lines: list[str]
    wide: bool

    def type(self, kind: Kind) -> str:
        """The LLVM type of a kind: of one number, or of a group of lanes."""
        return _type(kind, self.wide)

    def emit(self, text: str) -> str:
        """Append an instruction; the register of what it gives."""
        return self.printer.emit(self.lines, text)

    def call(self, name: str, kind: Kind, *operands: str) -> str:
        """Append a call of an intrinsic of a kind; the register of what it gives."""
        return self.printer.call(self.lines, name, kind, list(operands), self.wide)

    def choose(self, condition: str, yes: str, no: str, kind: Kind) -> str:
        """Append a select between two registers of a kind."""
        shape = self.type(kind)
        return self.emit(f"select {self.type('bool')} {condition}, {shape} {yes}, {shape} {no}")

    def literal(self, kind: Kind, number: float) -> str:
        """A number of a kind as an operand."""
        text = f"{number:e}" if kind == "float" else ("true" if number else "false") if kind == "bool" else str(number)
        return f"splat ({_SCALARS[kind]} {text})" if self.wide else text


class Printer:
    """State of one printing. `home` says where a scalar was computed."""

    def __init__(self, pixels: PixelFormat) -> None:
        self.pixels = pixels
        self.entry: list[str] = []
        self.row: list[str] = []
        self.lines: list[str] = []
        self.block = "columns"
        self.depth = BODY
        self.declared: set[str] = set()
        self.names: dict[int, tuple[str, bool, int]] = {}
        self.leaves: dict[tuple[str, tuple[object, ...]], tuple[str, bool, int]] = {}
        self.splats: dict[str, str] = {}
        self.loops: dict[int, list[tuple[str, bool]]] = {}
        self.alive: list[Value] = []
        self.memory = Memory(self)
        self.count = 0

    def emit(self, lines: list[str], text: str) -> str:
        """Write an instruction; the name of its result."""
        self.count += 1
        lines.append(f"  %v{self.count} = {text}")
        return f"%v{self.count}"

    def lines_of(self, home: int) -> list[str]:
        """The lines of a value's home: before the rows, before the columns, or where printing is."""
        return (self.entry, self.row)[home] if home < BODY else self.lines

    def call(self, lines: list[str], name: str, kind: str, operands: list[str], wide: bool) -> str:
        """Write a call of one of LLVM's own functions, which is declared; the name of its result."""
        shape = _type(kind, wide)
        suffix = (f"v{LANES}" if wide else "") + _SUFFIX[kind]
        self.declared.add(f"declare {shape} @llvm.{name}.{suffix}({', '.join([shape] * len(operands))})")
        return self.emit(lines, f"call {shape} @llvm.{name}.{suffix}({', '.join(f'{shape} {o}' for o in operands)})")

    def wide(self, value: Value) -> str:
        """The value on all lanes; scalars are spread over them where they were computed."""
        if value.op == "const":
            return f"splat ({_type(value.kind, False)} {_number(value)})"
        name, is_wide, home = self.names[id(value)]
        if is_wide:
            return name
        if name in self.splats:
            return self.splats[name]
        found = self.spread(self.lines_of(home), name, value.kind)
        if home < BODY:
            self.splats[name] = found
        return found

    def spread(self, lines: list[str], name: str, kind: str) -> str:
        """Write a scalar onto all lanes; the vector's name."""
        shape, scalar = _type(kind, True), _type(kind, False)
        one = self.emit(lines, f"insertelement {shape} poison, {scalar} {name}, i32 0")
        return self.emit(lines, f"shufflevector {shape} {one}, {shape} poison, <{LANES} x i32> zeroinitializer")

    def scalar(self, value: Value) -> str:
        """The name of a value that is no vector."""
        if value.op == "const":
            return _number(value)
        name, is_wide, _ = self.names[id(value)]
        assert not is_wide, value.op
        return name

    def print_all(self, values: tuple[Value, ...]) -> list[Value]:
        """Print values and all that they need, in the order in which few wait; gives the joined ones."""
        order, places = ordered(values)
        self.alive += order  # names are kept by identity
        self.memory.expect(order)
        for value in scheduled(order):
            if value.op != "const":
                self.names[id(value)] = self.value(value)
        return [order[p] for p in places]

    def value(self, value: Value) -> tuple[str, bool, int]:
        """The name of a value, whether it has lanes, and its home."""
        if value.op in ("turn", "state", "outer"):
            return self.leaves[value.op, value.attribute]
        if value.op == "slot":
            return self.slot(value), False, ENTRY
        if value.op == "target":
            return ("%width", "%height")[value.attribute[0]], False, ENTRY
        if value.op == "table_size":
            return self.memory.table_size(value.attribute[0]), False, ENTRY
        if value.op == "picture_size":
            return self.memory.dimension(value.attribute[0], value.attribute[1]), False, ENTRY
        if value.op == "pixel":
            return ("%y32", False, ROW) if value.attribute[0] else (self.memory.columns(), True, BODY)
        if value.op == "near":
            right, down = value.arguments
            return self.memory.near(value.attribute[0], value.attribute[1], right, down), True, self.depth
        if value.op == "enlarged":
            return self.memory.enlarged(*value.attribute), True, self.depth
        if value.op == "fetch":
            column, row = value.arguments
            return self.memory.fetch(value.attribute[0], value.attribute[1], column, row), True, self.depth
        if value.op in ("cube", "curve"):
            indices = tuple(self.wide(a) for a in value.arguments)
            return self.memory.table(value.attribute[0], indices)[value.attribute[1]], True, self.depth
        if value.op == "loop":
            return self.loop(value)
        if value.op == "after":
            (name, is_wide) = self.loops[id(value.arguments[0])][value.attribute[0]]
            return name, is_wide, self.depth
        wide = any(self.is_wide(a) for a in value.arguments)
        home = max((self.home(a) for a in value.arguments), default=ENTRY)
        return self.operation(value, self.lines_of(home), wide), wide, home if home < BODY else self.depth

    def is_known(self, value: Value) -> bool:
        """Whether a value has been printed."""
        return value.op == "const" or id(value) in self.names

    def is_wide(self, value: Value) -> bool:
        """Whether a printed value has lanes."""
        return value.op != "const" and self.names[id(value)][1]

    def home(self, value: Value) -> int:
        """Where a printed value was computed."""
        return ENTRY if value.op == "const" else self.names[id(value)][2]

    def slot(self, value: Value) -> str:
        """Write the read of a number that comes once a frame; its name."""
        address = self.emit(self.entry, f"getelementptr i32, ptr %slots, i64 {value.attribute[0]}")
        if value.kind == "bool":
            word = self.emit(self.entry, f"load i32, ptr {address}")
            return self.emit(self.entry, f"icmp ne i32 {word}, 0")
        return self.emit(self.entry, f"load {_SCALARS[value.kind]}, ptr {address}")

    def operation(self, value: Value, lines: list[str], wide: bool) -> str:
        """Write an operation of the language, of vectors where `wide`; the name of its result."""
        operands = [self.wide(a) if wide else self.scalar(a) for a in value.arguments]
        return OPERATIONS[value.op].llvm(_Lines(self, lines, wide), *operands)

    def loop(self, value: Value) -> tuple[str, bool, int]:
        """A counted loop inside the row; its states are phi nodes, scalars where they are alike at all pixels."""
        most, states, body = value.attribute
        count, start, outer = value.arguments[0], value.arguments[1 : 1 + states], value.arguments[1 + states :]
        wides = [result.rate is Rate.PIXEL for result in body.results]
        initial = [self.wide(s) if w else self.scalar(s) for s, w in zip(start, wides, strict=True)]
        low = self.call(self.lines, "smax", "int", [self.scalar(count), "0"], False)
        turns = self.call(self.lines, "smin", "int", [low, str(most)], False)
        self.count += 1
        tag, before = f"loop{self.count}", self.block
        self.lines += [f"  br label %{tag}", f"{tag}:"]
        outside, self.lines, self.block = self.lines, [], f"{tag}.turn"
        self.depth += 1
        self.leaves["turn", (body.depth,)] = (f"%{tag}.n", False, self.depth)
        for k, wide in enumerate(wides):
            self.leaves["state", (body.depth, k)] = (f"%{tag}.s{k}", wide, self.depth)
        for k, taken in enumerate(outer):
            if taken.op == "const":
                name = _number(taken), False, ENTRY
            else:
                name = self.names[id(taken)]
            self.leaves["outer", (body.depth, k)] = name
        keep = self.memory.enter()
        ends = self.print_all(body.results)
        following = [self.wide(e) if w else self.scalar(e) for e, w in zip(ends, wides, strict=True)]
        self.memory.leave(keep)
        inside, self.lines = self.lines, outside
        last = self.block
        self.lines.append(f"  %{tag}.n = phi i32 [ 0, %{before} ], [ %{tag}.next, %{last} ]")
        for k, wide in enumerate(wides):
            shape = _type(start[k].kind, wide)
            self.lines.append(f"  %{tag}.s{k} = phi {shape} [ {initial[k]}, %{before} ], [ {following[k]}, %{last} ]")
        self.lines += [
            f"  %{tag}.go = icmp slt i32 %{tag}.n, {turns}",
            f"  br i1 %{tag}.go, label %{tag}.turn, label %{tag}.end",
            f"{tag}.turn:",
            *inside,
            f"  %{tag}.next = add i32 %{tag}.n, 1",
            f"  br label %{tag}",
            f"{tag}.end:",
        ]
        self.block = f"{tag}.end"
        self.depth -= 1
        self.loops[id(value)] = [(f"%{tag}.s{k}", w) for k, w in enumerate(wides)]
        return "", False, self.depth

    def finish(self) -> str:
        """The whole module's text."""
        helpers = self.memory.helpers.values()
        declared = sorted({*self.declared, *(DECLARED if helpers else ())})
        return "\n".join([*declared, *helpers, _HEAD, *self.entry, _LOOP, *self.row, _COLUMNS, *self.lines, _TAIL])


def assembly(one: Sweep, pixels: PixelFormat) -> str:
    """The module's text: one function `kernel`, for rows row0 to row1 of a picture, and
    columns column0 to column1, which are whole groups of lanes."""
    printer = Printer(pixels)
    names = [printer.wide(v) for v in printer.print_all(one.values)]
    if one.target is None and pixels == "bytes":
        for output in range(0, len(names), 3):
            printer.memory.store_word(output // 3, names[output : output + 3])
    else:
        for channel, name in enumerate(names):
            printer.memory.store_plane(channel, name)
    return printer.finish()
