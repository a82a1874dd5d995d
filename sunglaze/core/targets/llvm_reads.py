"""Helpers of printed code that read LANES pixels of several rows or planes at once, in LLVM's text.

Where the pixels lie side by side inside the picture they are loads; across a row's end, loads of what is inside; else each lane's
is read from its own place. The branch is alike for all lanes and all rows, so reads that lie together ask once.
"""

from __future__ import annotations

LANES = 32
"""Pixels at a time. Four registers of AVX2 or two of AVX-512: with fewer, most operations wait for the one before."""
FLOATS, INTS, BOOLS = f"<{LANES} x float>", f"<{LANES} x i32>", f"<{LANES} x i1>"
IOTA = f"<{', '.join(f'i32 {n}' for n in range(LANES))}>"
SPREAD = f"<{LANES} x i32> zeroinitializer"

_SHORT = {FLOATS: f"v{LANES}f32", INTS: f"v{LANES}i32"}
DECLARED = tuple(
    line
    for kind, short in _SHORT.items()
    for line in (
        f"declare {kind} @llvm.masked.load.{short}.p0(ptr, i32, {BOOLS}, {kind})",
        f"declare {kind} @llvm.masked.gather.{short}.v{LANES}p0(<{LANES} x ptr>, i32, {BOOLS}, {kind})",
    )
)


def several(words: bool, count: int) -> str:
    """What a helper that reads `count` rows gives."""
    kind = INTS if words else FLOATS
    return kind if count == 1 else f"{{ {', '.join([kind] * count)} }}"


def _way(label: str, words: bool, rows: list[list[str]]) -> str:
    """A way through a helper that gives what each row's last line names `%read`."""
    shape, kind = several(words, len(rows)), INTS if words else FLOATS
    lines, given = [f"{label}:"], "poison"
    for n, row in enumerate(rows):
        lines += [line.replace("%.", f"%{label}{n}.") for line in row]
        if len(rows) > 1:
            lines.append(f"%{label}{n}.all = insertvalue {shape} {given}, {kind} %{label}{n}.read, {n}")
            given = f"%{label}{n}.all"
    return "\n  ".join([*lines, f"ret {shape} {given if len(rows) > 1 else f'%{label}0.read'}"])


def _head(name: str, words: bool, count: int, more: str) -> str:
    rows = ", ".join(f"ptr %from{n}" for n in range(count))
    return f"define internal {several(words, count)} @{name}({rows}, {more}) alwaysinline {{"


def near(words: bool, count: int) -> tuple[str, str]:
    """Name and text of a helper that reads LANES neighbours of rows of one width, from a column on; held at the rows' ends."""
    kind, lane = (INTS, "i32") if words else (FLOATS, "float")
    name = f"near_{'words' if words else 'floats'}_{count}"
    inside, across = [], []
    for n in range(count):
        at = f"%.at = getelementptr {lane}, ptr %from{n}, i64 %x64"
        inside.append([at, f"%.read = load {kind}, ptr %.at, align 4"])
        across.append([
            at,
            f"%.some = call {kind} @llvm.masked.load.{_SHORT[kind]}.p0(ptr %.at, i32 4, {BOOLS} %among, {kind} zeroinitializer)",
            f"%.first = load {lane}, ptr %from{n}, align 4",
            f"%.end = getelementptr {lane}, ptr %from{n}, i32 %last",
            f"%.final = load {lane}, ptr %.end, align 4",
            f"%.first1 = insertelement {kind} poison, {lane} %.first, i32 0",
            f"%.firsts = shufflevector {kind} %.first1, {kind} poison, {SPREAD}",
            f"%.final1 = insertelement {kind} poison, {lane} %.final, i32 0",
            f"%.finals = shufflevector {kind} %.final1, {kind} poison, {SPREAD}",
            f"%.held = select {BOOLS} %left, {kind} %.firsts, {kind} %.some",
            f"%.read = select {BOOLS} %right, {kind} %.finals, {kind} %.held",
        ])  # fmt: skip
    text = f"""
{_head(name, words, count, "i32 %x, i32 %width")}
  %most = sub i32 %width, {LANES}
  %low = icmp sge i32 %x, 0
  %high = icmp sle i32 %x, %most
  %inside = and i1 %low, %high
  %x64 = sext i32 %x to i64
  br i1 %inside, label %fast, label %outside
outside:
  %last = sub i32 %width, 1
  %one = insertelement {INTS} poison, i32 %x, i32 0
  %all = shufflevector {INTS} %one, {INTS} poison, {SPREAD}
  %columns = add {INTS} %all, {IOTA}
  %last1 = insertelement {INTS} poison, i32 %last, i32 0
  %lasts = shufflevector {INTS} %last1, {INTS} poison, {SPREAD}
  %left = icmp slt {INTS} %columns, zeroinitializer
  %right = icmp sgt {INTS} %columns, %lasts
  %away = or {BOOLS} %left, %right
  %among = xor {BOOLS} %away, splat (i1 true)
  br label %slow
{_way("fast", words, inside)}
{_way("slow", words, across)}
}}"""
    return name, text


def fetch(words: bool, count: int) -> tuple[str, str]:
    """Name and text of a helper that reads LANES places inside planes of one picture: as fast where they follow each other, and
    nearly so where they are every second one, as where a picture is made smaller."""
    kind, lane = (INTS, "i32") if words else (FLOATS, "float")
    name = f"fetch_{'words' if words else 'floats'}_{count}"
    following, second, apart = [], [], []
    evens = ", ".join(f"i32 {2 * n}" if n < LANES // 2 else f"i32 {2 * n + 1}" for n in range(LANES))
    for n in range(count):
        following.append([f"%.at = getelementptr {lane}, ptr %from{n}, i32 %first", f"%.read = load {kind}, ptr %.at, align 4"])
        # The later half ends with the last place that is wanted, so nothing behind it is read.
        second.append([
            f"%.at = getelementptr {lane}, ptr %from{n}, i32 %first",
            f"%.then = getelementptr {lane}, ptr %.at, i32 {LANES - 1}",
            f"%.low = load {kind}, ptr %.at, align 4",
            f"%.high = load {kind}, ptr %.then, align 4",
            f"%.read = shufflevector {kind} %.low, {kind} %.high, {INTS} <{evens}>",
        ])  # fmt: skip
        apart.append([
            f"%.at = getelementptr {lane}, ptr %from{n}, {INTS} %places",
            f"%.read = call {kind} @llvm.masked.gather.{_SHORT[kind]}.v{LANES}p0(<{LANES} x ptr> %.at, i32 4, "
            f"{BOOLS} splat (i1 true), {kind} poison)",
        ])  # fmt: skip
    text = f"""
{_head(name, words, count, f"{INTS} %places")}
  %first = extractelement {INTS} %places, i32 0
  %one = insertelement {INTS} poison, i32 %first, i32 0
  %all = shufflevector {INTS} %one, {INTS} poison, {SPREAD}
  %line = add {INTS} %all, {IOTA}
  %same = icmp eq {INTS} %places, %line
  %bits = bitcast {BOOLS} %same to i{LANES}
  %follow = icmp eq i{LANES} %bits, -1
  br i1 %follow, label %fast, label %other
other:
  %line2 = add {INTS} %line, {IOTA}
  %same2 = icmp eq {INTS} %places, %line2
  %bits2 = bitcast {BOOLS} %same2 to i{LANES}
  %follow2 = icmp eq i{LANES} %bits2, -1
  br i1 %follow2, label %half, label %slow
{_way("fast", words, following)}
{_way("half", words, second)}
{_way("slow", words, apart)}
}}"""
    return name, text
