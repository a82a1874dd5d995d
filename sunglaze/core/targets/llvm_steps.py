"""The machine that runs tapes, as LLVM IR text: a function an operation, and one that goes through the steps.

What an operation does is printed by the printers of passes (llvm.py, llvm_memory.py); here is only where it takes its arguments
from. It is compiled once a process; unrolling its loops would take twice the time and win a tenth.
"""

from __future__ import annotations

from collections.abc import Sequence

from sunglaze.core.language.expression import Rate, Value
from sunglaze.core.language.operations import OPERATIONS, Kind
from sunglaze.core.language.pictures import ENLARGED
from sunglaze.core.passes.forming import Local
from sunglaze.core.targets.llvm import Printer
from sunglaze.core.targets.llvm_reads import DECLARED, IOTA, LANES
from sunglaze.core.targets.tape import (
    ARGUMENT,
    BLOCK,
    CHANNEL,
    FIELDS,
    NAMES,
    OUT,
    PAIRS,
    PLACE,
    READS,
    SECOND,
    THIRD,
    TO,
    WIDE,
)

_SEEN = ("x", "y", "groups", "stride", "plane", "pictures", "dims", "out", "tables", "sizes")
"""What every operation may ask for: 64-bit numbers, and pointers as such."""
_POINTERS = ("pictures", "dims", "out", "tables", "sizes")
_LOADED = {"float": "float", "int": "i32", "bool": "i32"}
_FACTS = 4
"""Numbers that say how a picture lies in memory (machine.py, Given)."""


def _lanes(kind: str) -> str:
    return f"<{LANES} x {_LOADED[kind]}>"


class _Operation:
    """One function: `entry` before the groups of lanes, the printer's lines for each."""

    def __init__(self, name: str, kinds: Sequence[Kind] = (), as_words: bool = False) -> None:
        self.name = name
        self.printer = Printer("bytes" if as_words else "floats")
        self.lines, self.entry = self.printer.lines, self.printer.entry
        self.arguments = [Value("argument", (), (name, n), kind, Rate.PIXEL) for n, kind in enumerate(kinds)]

    def fact(self, name: str) -> str:
        """The register of a fact of the run, one of _SEEN."""
        kind = "ptr" if name in _POINTERS else "i64"
        at = self.printer.emit(self.entry, f"getelementptr i64, ptr %seen, i64 {_SEEN.index(name)}")
        return self.printer.emit(self.entry, f"load {kind}, ptr {at}")

    def field(self, place: int) -> str:
        """The register of one of the step's fields, as 64 bits."""
        at = self.printer.emit(self.entry, f"getelementptr i32, ptr %step, i64 {place}")
        narrow = self.printer.emit(self.entry, f"load i32, ptr {at}")
        return self.printer.emit(self.entry, f"sext i32 {narrow} to i64")

    def take(self, n: int) -> None:
        """Argument n on the lanes, for each group."""
        kind = self.arguments[n].kind
        base, step = self.field(ARGUMENT + 2 * n), self.field(ARGUMENT + 2 * n + 1)
        far = self.printer.emit(self.lines, f"mul i64 %g, {step}")
        place = self.printer.emit(self.lines, f"add i64 {base}, {far}")
        at = self.printer.emit(self.lines, f"getelementptr i32, ptr %memory, i64 {place}")
        name = self.printer.emit(self.lines, f"load {_lanes(kind)}, ptr {at}, align 64")
        if kind == "bool":
            name = self.printer.emit(self.lines, f"icmp ne {_lanes(kind)} {name}, zeroinitializer")
        self.printer.names[id(self.arguments[n])] = name, True, 1

    def take_scalar(self, n: int) -> str:
        """Argument n where all pixels have the same."""
        at = self.printer.emit(self.entry, f"getelementptr i32, ptr %memory, i64 {self.field(ARGUMENT + 2 * n)}")
        name = self.printer.emit(self.entry, f"load i32, ptr {at}")
        self.printer.names[id(self.arguments[n])] = name, False, 0
        return name

    def done(self, name: str, arguments: Sequence[Value]) -> str:
        """What an operation of the language gives on the lanes."""
        value = Value(name, tuple(arguments), (), OPERATIONS[name].result, Rate.PIXEL)
        return self.printer.operation(value, self.lines, True)

    def wide(self, n: int) -> str:
        """The register of argument n as a group of lanes."""
        return self.printer.wide(self.arguments[n])

    def give(self, name: str, kind: Kind, field: int = OUT) -> None:
        """Store a group of lanes into the block that a field of the step names; truth values as 0 and 1."""
        if kind == "bool":
            name = self.printer.emit(self.lines, f"zext <{LANES} x i1> {name} to {_lanes(kind)}")
        far = self.printer.emit(self.lines, f"mul i64 %g, {LANES}")
        place = self.printer.emit(self.lines, f"add i64 {self.field(field)}, {far}")
        at = self.printer.emit(self.lines, f"getelementptr i32, ptr %memory, i64 {place}")
        self.lines.append(f"  store {_lanes(kind)} {name}, ptr {at}, align 64")

    def here(self) -> None:
        """Where the group's first pixel lies, by the names that the printers use."""
        x, y, stride = self.fact("x"), self.fact("y"), self.fact("stride")
        far = self.printer.emit(self.lines, f"mul i64 %g, {LANES}")
        self.lines.append(f"  %x = add i64 {x}, {far}")
        self.lines.append("  %x32 = trunc i64 %x to i32")
        self.entry.append(f"  %y32 = trunc i64 {y} to i32")
        first = self.printer.emit(self.entry, f"mul i64 {y}, {stride}")
        self.lines.append(f"  %at = add i64 {first}, %x")

    def one_picture(self, as_words: bool) -> None:
        """The step's picture, from its channel's plane on, as the only one there is."""
        place = self.field(PLACE)
        far = self.printer.emit(self.entry, f"mul i64 {place}, {_FACTS}")
        self.entry.append(f"  %dims = getelementptr i64, ptr {self.fact('dims')}, i64 {far}")
        at = self.printer.emit(self.entry, f"getelementptr ptr, ptr {self.fact('pictures')}, i64 {place}")
        data = self.printer.emit(self.entry, f"load ptr, ptr {at}")
        if not as_words:
            plane = self.printer.emit(self.entry, "getelementptr i64, ptr %dims, i64 3")
            size = self.printer.emit(self.entry, f"load i64, ptr {plane}")
            shift = self.printer.emit(self.entry, f"mul i64 {size}, {self.field(CHANNEL)}")
            data = self.printer.emit(self.entry, f"getelementptr float, ptr {data}, i64 {shift}")
        self.entry += ["  %pictures = alloca ptr", f"  store ptr {data}, ptr %pictures"]

    def one_table(self) -> None:
        """Point `%tables` and `%sizes` at the table that the step names."""
        place = self.field(PLACE)
        self.entry.append(f"  %tables = getelementptr ptr, ptr {self.fact('tables')}, i64 {place}")
        self.entry.append(f"  %sizes = getelementptr i32, ptr {self.fact('sizes')}, i64 {place}")

    def target(self) -> None:
        """The plane or picture to fill, as the first one."""
        shift = self.printer.emit(self.entry, f"mul i64 {self.fact('plane')}, {self.field(CHANNEL)}")
        self.entry.append(f"  %out = getelementptr i32, ptr {self.fact('out')}, i64 {shift}")
        self.entry.append("  %plane = add i64 0, 0")

    def text(self) -> str:
        """The whole function: over the groups of a block, or once where the step is not wide; it ends with the next step's
        address."""
        more = self.printer.emit(self.entry, f"sub i64 {self.fact('groups')}, 1")
        held = self.printer.emit(self.entry, f"and i64 {more}, {self.field(WIDE)}")
        groups = self.printer.emit(self.entry, f"add i64 {held}, 1")
        return "\n".join([
            f"define internal ptr @do_{self.name}(ptr noalias %memory, ptr noalias %step, ptr noalias %seen) #0 {{", "entry:",
            *self.entry, "  br label %columns", "columns:", "  %g = phi i64 [ 0, %entry ], [ %g.next, %columns ]",
            *self.lines, "  %g.next = add i64 %g, 1", f"  %again = icmp slt i64 %g.next, {groups}",
            "  br i1 %again, label %columns, label %done, !llvm.loop !0", "done:",
            f"  %following = getelementptr i32, ptr %step, i64 {FIELDS}", "  ret ptr %following", "}",
        ])  # fmt: skip


def _plain(name: str) -> _Operation:
    rule = OPERATIONS[name]
    made = _Operation(name, rule.arguments)
    for n in range(len(rule.arguments)):
        made.take(n)
    made.give(made.done(name, made.arguments), rule.result)
    return made


def _pair(first: str, second: str, place: int) -> _Operation:
    """The first's result as an argument of the second; arguments of the first come first."""
    one, other = OPERATIONS[first], OPERATIONS[second]
    rest = [kind for n, kind in enumerate(other.arguments) if n != place]
    made = _Operation(f"{first}_{second}_{place}", (*one.arguments, *rest))
    for n in range(len(made.arguments)):
        made.take(n)
    count = len(one.arguments)
    between = Value("argument", (), ("between",), one.result, Rate.PIXEL)
    made.printer.names[id(between)] = made.done(first, made.arguments[:count]), True, 1
    given = made.arguments[count:]
    made.give(made.done(second, [*given[:place], between, *given[place:]]), other.result)
    return made


def _places() -> list[_Operation]:
    x, y, copy = _Operation("x"), _Operation("y"), _Operation("copy", ("int",))
    x.here()
    spread = x.printer.spread(x.lines, "%x32", "int")
    x.give(x.printer.emit(x.lines, f"add <{LANES} x i32> {spread}, {IOTA}"), "int")
    y.here()
    y.give(y.printer.spread(y.lines, "%y32", "int"), "int")
    copy.take(0)
    copy.give(copy.wide(0), "int")
    return [x, y, copy]


def _reading(name: str, read: str, channel: int, as_words: bool) -> _Operation:
    made = _Operation(name, ("int", "int"), as_words)
    made.one_picture(as_words)
    made.here()
    local = Local(0, 4, as_words)
    if read == "near":
        made.take_scalar(0)
        made.take_scalar(1)
        found = made.printer.memory.near(local, channel, *made.arguments)
    else:
        made.take(0)
        made.take(1)
        found = made.printer.memory.fetch(local, channel, *made.arguments)
    made.give(found, "float")
    return made


def _enlarged(by: int, right: int, down: int) -> _Operation:
    made = _Operation(f"enlarged_{by}_{right}_{down}")
    made.one_picture(False)
    made.here()
    made.give(made.printer.memory.enlarged(Local(0, 4, False, by), 0, right, down), "float")
    return made


def _table(name: str, axes: int) -> _Operation:
    kinds: list[Kind] = ["int"] * axes
    made = _Operation(name, kinds)
    made.one_table()
    for n in range(axes):
        made.take(n)
    channels = made.printer.memory.table(0, tuple(made.wide(n) for n in range(axes)))
    for channel, field in zip(channels, (OUT, SECOND, THIRD), strict=True):
        made.give(channel, "float", field)
    return made


def _storing() -> list[_Operation]:
    plane, words = _Operation("store_plane", ("float",)), _Operation("store_word", ("float",) * 3)
    for made in (plane, words):
        made.here()
        made.target()
        for n in range(len(made.arguments)):
            made.take(n)
    plane.printer.memory.store_plane(0, plane.wide(0))
    words.printer.memory.store_word(0, [words.wide(n) for n in range(3)])
    return [plane, words]


_JUMPS = f"""
define internal ptr @do_go(ptr %memory, ptr %step, ptr %seen) #0 {{
  %at = getelementptr i32, ptr %step, i64 {TO}
  %far = load i32, ptr %at
  %tape = call ptr @tape_of(ptr %seen)
  %first = sext i32 %far to i64
  %words = mul i64 %first, {FIELDS}
  %there = getelementptr i32, ptr %tape, i64 %words
  ret ptr %there
}}
define internal ptr @do_go_unless_less(ptr %memory, ptr %step, ptr %seen) #0 {{
  %a.at = getelementptr i32, ptr %step, i64 {ARGUMENT}
  %a.far = load i32, ptr %a.at
  %a.place = getelementptr i32, ptr %memory, i32 %a.far
  %a = load i32, ptr %a.place
  %b.at = getelementptr i32, ptr %step, i64 {ARGUMENT + 2}
  %b.far = load i32, ptr %b.at
  %b.place = getelementptr i32, ptr %memory, i32 %b.far
  %b = load i32, ptr %b.place
  %less = icmp slt i32 %a, %b
  br i1 %less, label %on, label %away
on:
  %following = getelementptr i32, ptr %step, i64 {FIELDS}
  ret ptr %following
away:
  %there = call ptr @do_go(ptr %memory, ptr %step, ptr %seen)
  ret ptr %there
}}
define internal ptr @tape_of(ptr %seen) alwaysinline {{
  %at = getelementptr i64, ptr %seen, i64 {len(_SEEN)}
  %tape = load ptr, ptr %at
  ret ptr %tape
}}
"""
_RUN = f"""
define internal void @sweep(ptr %memory, ptr %from, ptr %end, ptr %seen) #0 {{
entry:
  br label %steps
steps:
  %step = phi ptr [ %from, %entry ], [ %following, %one ]
  %over = icmp uge ptr %step, %end
  br i1 %over, label %done, label %one
one:
  %operation = load i32, ptr %step
  %place = sext i32 %operation to i64
  %slot = getelementptr ptr, ptr @operations, i64 %place
  %function = load ptr, ptr %slot
  %following = call ptr %function(ptr %memory, ptr %step, ptr %seen)
  br label %steps
done:
  ret void
}}
define void @kernel(ptr %tape, i64 %once, i64 %count, ptr %memory, ptr %pictures, ptr %dims, ptr %out, ptr %tables, ptr %sizes,
                    i64 %stride, i64 %plane, i64 %row0, i64 %row1, i64 %column0, i64 %column1) #0 {{
entry:
  %seen = alloca [{len(_SEEN) + 1} x i64]
{{facts}}
  %columns = sub i64 %column1, %column0
  %above = add i64 %columns, {BLOCK - 1}
  %blocks.row = sdiv i64 %above, {BLOCK}
  %row.groups = sdiv i64 %columns, {LANES}
  %rounded = add i64 %row.groups, %blocks.row
  %up = sub i64 %rounded, 1
  %groups.usual = sdiv i64 %up, %blocks.row
  %usual = mul i64 %groups.usual, {LANES}
  %once.words = mul i64 %once, {FIELDS}
  %often = getelementptr i32, ptr %tape, i64 %once.words
  %words = mul i64 %count, {FIELDS}
  %end = getelementptr i32, ptr %tape, i64 %words
  call void @sweep(ptr %memory, ptr %tape, ptr %often, ptr %seen)
  br label %rows
rows:
  %y = phi i64 [ %row0, %entry ], [ %y.next, %row.end ]
  %more = icmp slt i64 %y, %row1
  br i1 %more, label %row, label %done
row:
  store i64 %y, ptr %at.y
  br label %blocks
blocks:
  %x = phi i64 [ %column0, %row ], [ %x.next, %blocks ]
  store i64 %x, ptr %at.x
  %left = sub i64 %column1, %x
  %few = icmp slt i64 %left, %usual
  %pixels = select i1 %few, i64 %left, i64 %usual
  %groups = sdiv i64 %pixels, {LANES}
  store i64 %groups, ptr %at.groups
  call void @sweep(ptr %memory, ptr %often, ptr %end, ptr %seen)
  %x.next = add i64 %x, %usual
  %again = icmp slt i64 %x.next, %column1
  br i1 %again, label %blocks, label %row.end
row.end:
  %y.next = add i64 %y, 1
  br label %rows
done:
  ret void
}}
attributes #0 = {{ "prefer-vector-width"="512" "min-legal-vector-width"="512" }}
!0 = distinct !{{ !0, !1 }}
!1 = !{{ !"llvm.loop.unroll.disable" }}
"""


def _facts() -> str:
    lines = [f"  %at.{name} = getelementptr i64, ptr %seen, i64 {n}" for n, name in enumerate([*_SEEN, "tape"])]
    given = [f"  store {'i64' if n in ('stride', 'plane') else 'ptr'} %{n}, ptr %at.{n}" for n in (*_SEEN[3:], "tape")]
    return "\n".join([*lines, "  store i64 1, ptr %at.groups", *given])


def machine_text() -> str:
    """The module: `kernel` runs a tape for rows row0 to row1 and columns column0 to column1 of a picture."""
    made = (
        [_plain(name) for name in OPERATIONS]
        + [_pair(*pair) for pair in PAIRS]
        + _places()
        + _storing()
        + [_table("cube", 3), _table("curve", 1)]
    )
    for read in READS:
        made.append(_reading(f"{read}_floats", read, 0, False))
        made += [_reading(f"{read}_word_{channel}", read, channel, True) for channel in range(4)]
    made += [_enlarged(by, right, down) for by in ENLARGED for right in (0, 1) for down in (0, 1)]
    declared = sorted({*DECLARED, *(line for one in made for line in one.printer.declared)})
    helpers = {name: text for one in made for name, text in one.printer.memory.helpers.items()}
    table = ", ".join(f"ptr @do_{name}" for name in NAMES)
    operations = f"@operations = internal constant [{len(NAMES)} x ptr] [{table}]"
    texts = [one.text() for one in made]
    return "\n".join([*declared, *helpers.values(), operations, *texts, _JUMPS, _RUN.replace("{facts}", _facts())])
