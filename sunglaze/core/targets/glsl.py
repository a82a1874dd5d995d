"""Print a pass as a GLSL ES 3.00 fragment shader, which web/src/engine runs on the GPU.

Names: `pN` pictures, `person` the mask that goes with the camera's, `tN` tables and `nN` their steps, `u` and `w` the slots that
are floats and whole numbers, `size` what is drawn. Row 0 is at the top; the frame's own pass turns the canvas over, which
counts from below.
"""

from __future__ import annotations

import math
import struct
from typing import Any

from sunglaze.core.language.expression import Value, ordered
from sunglaze.core.language.operations import OPERATIONS, single
from sunglaze.core.passes.planning import Sweep

LARGEST_HALF = 65504.0
CURVE_WIDTH = 2048
"""Curves lie in rows of so many entries, since textures are bounded in width."""

_TYPES = {"float": "float", "int": "int", "bool": "bool"}
_DIVIDED = """int divided(int a, int b) {
  return b == 0 ? 0 : b == -1 ? -a : a / b;
}"""


def _number(value: Value) -> str:
    plain = value.attribute[0]
    if value.kind == "bool":
        return "true" if plain else "false"
    if value.kind == "int":
        return str(plain) if plain >= 0 else f"int({plain & 0xFFFFFFFF}u)"
    number = single(plain)
    if not math.isfinite(number):
        return f"uintBitsToFloat({struct.unpack('<I', struct.pack('<f', number))[0]}u)"
    text = f"{number:.9g}"
    return f"({text if '.' in text or 'e' in text else text + '.0'})"


def fragment_shader(one: Sweep) -> str:
    """The shader of a pass. `u` and `w` hold the slots of float_slots and int_slots, in order."""
    printer = _Printer(one)
    names = [printer.name(v) for v in printer.print_all(one.values)]
    if one.target is None:
        result = f"vec4(clamp(vec3({', '.join(names[-3:])}), 0.0, 1.0), 1.0)"
    else:
        result = f"vec4({', '.join([*names, *['0.0'] * (4 - len(names))])})"
        if not one.target.precise:
            # What half precision cannot hold would become infinite on some devices and not on others.
            result = f"clamp({result}, -{LARGEST_HALF}, {LARGEST_HALF})"
    return "\n".join([*_head(one), *printer.lines, f"  result = {result};", "}", ""])


def reads_person(one: Sweep) -> bool:
    """Whether a pass reads the person mask: cameras give it apart from their picture, whose alpha no decoder keeps."""
    text = one.text
    return any(f" {op} p{n}:4c 3 " in text for op in ("near", "fetch") for n in range(len(one.pictures)))


def slot_kinds(one: Sweep) -> list[str]:
    """The kind of each slot as its uses have it; slots that nothing reads are floats."""
    kinds = ["float"] * len(one.slots)
    stack = list(one.values)
    seen: set[int] = set()
    while stack:
        value = stack.pop()
        if id(value) in seen:
            continue
        seen.add(id(value))
        if value.op == "slot":
            kinds[value.attribute[0]] = value.kind
        stack.extend(value.arguments)
    return kinds


def slot_places(one: Sweep) -> list[int]:
    """For each slot its place in `u` (floats) or in `w` (the others)."""
    kinds = slot_kinds(one)
    return [sum((k == "float") == (kinds[n] == "float") for k in kinds[:n]) for n in range(len(kinds))]


def _head(one: Sweep) -> list[str]:
    kinds = slot_kinds(one)
    floats, ints = sum(k == "float" for k in kinds), sum(k != "float" for k in kinds)
    samplers = [f"uniform highp {'sampler2D' if name in one.curves else 'sampler3D'} t{n};" for n, name in enumerate(one.tables)]
    row = "int(gl_FragCoord.y)" if one.target is not None else "size.y - 1 - int(gl_FragCoord.y)"
    return [
        "#version 300 es",
        "precision highp float;",
        "precision highp int;",
        "uniform ivec2 size;",
        *[f"uniform highp sampler2D p{n};" for n in range(len(one.pictures))],
        *(["uniform highp sampler2D person;"] if reads_person(one) else []),
        # By fours: devices count in vectors of four, and an array of single numbers takes one for each.
        *([f"uniform vec4 u[{-(-floats // 4)}];"] if floats else []),
        *([f"uniform ivec4 w[{-(-ints // 4)}];"] if ints else []),
        *[f"uniform int n{n};" for n in range(len(one.tables))],
        *samplers,
        "out vec4 result;",
        *([_DIVIDED] if " idiv " in one.text else []),
        "vec4 held(highp sampler2D p, ivec2 at) {",
        "  return texelFetch(p, clamp(at, ivec2(0), textureSize(p, 0) - 1), 0);",
        "}",
        "void main() {",
        f"  ivec2 at = ivec2(int(gl_FragCoord.x), {row});",
    ]


class _Printer:
    def __init__(self, one: Sweep) -> None:
        self.one = one
        self.kinds, self.places = slot_kinds(one), slot_places(one)
        self.lines: list[str] = []
        self.names: dict[int, str] = {}
        self.leaves: dict[tuple[str, tuple[object, ...]], str] = {}
        self.reads: dict[str, str] = {}
        self.loops: dict[int, str] = {}
        self.alive: list[Value] = []
        self.count = 0
        self.indent = "  "

    def fresh(self) -> str:
        """A name that nothing has yet."""
        self.count += 1
        return f"v{self.count}"

    def name(self, value: Value) -> str:
        """How an expression calls a value that was printed."""
        return _number(value) if value.op == "const" else self.names[id(value)]

    def print_all(self, values: tuple[Value, ...]) -> list[Value]:
        """Print what values are computed from, a statement each; the values as they are in that order."""
        order, places = ordered(values)
        self.alive += order  # names are kept by identity
        for value in order:
            if value.op == "const":
                continue
            text = self.text(value, [self.name(a) for a in value.arguments])
            if value.op in ("turn", "state", "outer", "slot", "loop", "after"):
                self.names[id(value)] = text
                continue
            name = self.names[id(value)] = self.fresh()
            self.lines.append(f"{self.indent}{_TYPES[value.kind]} {name} = {text};")
        return [order[p] for p in places]

    def read(self, text: str) -> str:
        """A texel, read once for all its channels."""
        if text not in self.reads:
            self.count += 1
            self.reads[text] = f"e{self.count}"
            self.lines.append(f"{self.indent}vec4 e{self.count} = {text};")
        return self.reads[text]

    def text(self, value: Value, arguments: list[str]) -> str:
        """The expression of one value, of its arguments' names."""
        place: Any = value.attribute[0] if value.attribute else 0
        match value.op:
            case "turn" | "state" | "outer":
                return self.leaves[value.op, value.attribute]
            case "slot":
                index = self.places[place]
                packed = f"[{index // 4}].{'xyzw'[index % 4]}"
                if self.kinds[place] == "float":
                    return f"u{packed}"
                return f"(w{packed} != 0)" if value.kind == "bool" else f"w{packed}"
            case "target":
                return f"size[{place}]"
            case "pixel":
                return f"at[{place}]"
            case "picture_size":
                return f"textureSize(p{place.place}, 0)[{value.attribute[1]}]"
            case "table_size":
                return f"n{place}"
            case "near" | "fetch":
                to = f"ivec2({arguments[0]}, {arguments[1]})"
                if value.op == "near":
                    to = "at" if arguments == ["0", "0"] else f"at + {to}"
                if place.is_camera and value.attribute[1] == 3:
                    return f"{self.read(f'held(person, {to})')}[0]"
                return f"{self.read(f'held(p{place.place}, {to})')}[{value.attribute[1]}]"
            case "enlarged":
                channel, right, down = value.attribute[1:]
                by = place.reduce
                to = f"(2 * at + {1 + by}) / {2 * by} + ivec2({right - 1}, {down - 1})"
                return f"{self.read(f'held(p{place.place}, {to})')}[{channel}]"
            case "cube" | "curve":
                return f"{self.read(self.entry(value.op, place, arguments))}[{value.attribute[1]}]"
            case "loop":
                return self.loop(value, arguments)
            case "after":
                return f"{self.loops[id(value.arguments[0])]}{place}"
        return OPERATIONS[value.op].glsl.format(*arguments)

    def entry(self, op: str, table: int, arguments: list[str]) -> str:
        """A read of a table's entry; places outside of the table are held to it."""
        inside = [f"clamp({a}, 0, n{table} - 1)" for a in arguments]
        if op == "cube":
            return f"texelFetch(t{table}, ivec3({', '.join(inside)}), 0)"
        return f"texelFetch(t{table}, ivec2({inside[0]} % {CURVE_WIDTH}, {inside[0]} / {CURVE_WIDTH}), 0)"

    def loop(self, value: Value, arguments: list[str]) -> str:
        """Print a loop; the name that its states' names begin with."""
        most, states, body = value.attribute
        self.count += 1
        tag = f"s{self.count}_"
        for k, start in enumerate(arguments[1 : 1 + states]):
            self.lines.append(f"{self.indent}{_TYPES[body.results[k].kind]} {tag}{k} = {start};")
            self.leaves["state", (body.depth, k)] = f"{tag}{k}"
        for k, name in enumerate(arguments[1 + states :]):
            self.leaves["outer", (body.depth, k)] = name
        self.leaves["turn", (body.depth,)] = f"{tag}n"
        turns = f"clamp({arguments[0]}, 0, {most})"
        self.lines.append(f"{self.indent}for (int {tag}n = 0; {tag}n < {turns}; {tag}n++) {{")
        kept, self.reads, outside = self.reads, dict(self.reads), self.indent
        self.indent += "  "
        ends = [self.name(v) for v in self.print_all(body.results)]
        # All results are there before the first state changes.
        for k, end in enumerate(ends):
            self.lines.append(f"{self.indent}{_TYPES[body.results[k].kind]} {tag}e{k} = {end};")
        self.lines += [f"{self.indent}{tag}{k} = {tag}e{k};" for k in range(states)]
        self.indent, self.reads = outside, kept
        self.lines.append(f"{self.indent}}}")
        self.loops[id(value)] = tag
        return tag
