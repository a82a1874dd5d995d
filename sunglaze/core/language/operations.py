"""The language's operations, one record each: kinds, the rule on plain numbers that folds constants and runs signals, and how
NumPy, LLVM and GLSL write it. Adding one is adding a record here, and its rule to RULES in web/src/engine/signals.ts.
"""

from __future__ import annotations

import math
import struct
from collections.abc import Callable
from dataclasses import dataclass
from functools import partial
from typing import Any, Literal, Protocol

import numpy as np
from numpy.typing import NDArray

Kind = Literal["float", "int", "bool"]
Plain = float | int | bool
Array = NDArray[Any]
USUAL_CYCLES = 4


class Writer(Protocol):
    """Where LLVM's text of one operation goes. Names are of scalars, or of vectors of lanes, all of one width."""

    def type(self, kind: Kind) -> str:
        """The type of values of this kind."""
        ...

    def emit(self, text: str) -> str:
        """Write an instruction; the name of its result."""
        ...

    def call(self, name: str, kind: Kind, *operands: str) -> str:
        """Call one of LLVM's own functions on values of this kind."""
        ...

    def choose(self, condition: str, yes: str, no: str, kind: Kind) -> str:
        """Select between two values."""
        ...

    def literal(self, kind: Kind, number: float) -> str:
        """A number as an operand."""
        ...


@dataclass(frozen=True)
class Operation:
    """`fold`: on plain numbers, in double precision. `numpy`: on arrays, in single precision. `glsl`: an expression of {0}, {1},
    {2}. `llvm`: given a writer and the operands' names, the result's. `commutes`: its two arguments may change places. `cycles`:
    of a processor until the result is there, `busy`: until the next operation can begin (Agner Fog's tables, from memory)."""

    arguments: tuple[Kind, ...]
    result: Kind
    fold: Callable[..., Plain]
    numpy: Callable[..., Any]
    glsl: str
    llvm: Callable[..., str]
    commutes: bool = False
    cycles: int = USUAL_CYCLES
    busy: int = 1


def wrap32(x: int) -> int:
    """A whole number as 32 signed bits hold it."""
    x &= 0xFFFFFFFF
    return x - 0x1_0000_0000 if x & 0x8000_0000 else x


def single(number: str | Plain) -> float:
    """A number rounded to single precision, infinite where it is too large: what printers write."""
    try:
        return float(struct.unpack("<f", struct.pack("<f", float(number)))[0])
    except OverflowError:
        return math.copysign(math.inf, float(number))


def _div(a: float, b: float) -> float:
    if b == 0.0:
        return math.nan if a == 0.0 or math.isnan(a) else math.copysign(math.inf, a) * math.copysign(1.0, b)
    return a / b


def _idiv(a: int, b: int) -> int:
    """Towards zero, as processors do; 0 for a division by 0."""
    return 0 if b == 0 else wrap32(abs(a) // abs(b) * (1 if (a < 0) == (b < 0) else -1))


def _idiv_arrays(a: Array, b: Array) -> Array:
    a64, b64 = np.asarray(a, np.int64), np.asarray(b, np.int64)
    size = np.abs(a64) // np.where(b64 == 0, 1, np.abs(b64))
    signed = np.where((a64 < 0) == (b64 < 0), size, -size)
    return np.where(b64 == 0, 0, signed).astype(np.int32)


def _finite(rule: Callable[[float], float], a: float) -> float:
    return rule(a) if math.isfinite(a) else a


def _on_words(rule: Callable[[Array, Array], Array]) -> Callable[[Any, Any], Array]:
    """A rule on unsigned words, for whole numbers; NumPy's signed shifts would fill with the sign."""

    def on_words(a: Any, b: Any) -> Array:
        words = rule(np.asarray(a, np.int32).view(np.uint32), np.asarray(b, np.int32).view(np.uint32))
        return np.asarray(words, np.uint32).view(np.int32)

    return on_words


def _clamped(a: Any) -> Array:
    held = np.where(a > -1e9, np.where(a < 1e9, a, np.float32(1e9)), np.float32(-1e9))
    return np.asarray(held, np.float32).astype(np.int32)


def _instruction(name: str, kind: Kind, w: Writer, *operands: str) -> str:
    return w.emit(f"{name} {w.type(kind)} {', '.join(operands)}")


def _function(name: str, kind: Kind, w: Writer, *operands: str) -> str:
    return w.call(name, kind, *operands)


def _select(kind: Kind, w: Writer, condition: str, yes: str, no: str) -> str:
    return w.choose(condition, yes, no, kind)


def _conversion(name: str, given: Kind, made: Kind, w: Writer, a: str) -> str:
    return w.emit(f"{name} {w.type(given)} {a} to {w.type(made)}")


def _square_root(w: Writer, a: str) -> str:
    above = w.emit(f"fcmp ogt {w.type('float')} {a}, zeroinitializer")
    return w.call("sqrt", "float", w.choose(above, a, "zeroinitializer", "float"))


def _shift(name: str, w: Writer, a: str, far: str) -> str:
    held = w.emit(f"and {w.type('int')} {far}, {w.literal('int', 31)}")
    return w.emit(f"{name} {w.type('int')} {a}, {held}")


def _divided(w: Writer, a: str, b: str) -> str:
    """Whole-number division that never traps: by 0 gives 0, by -1 gives the wrapped negative."""
    ints, zero, one, minus = w.type("int"), *(w.literal("int", n) for n in (0, 1, -1))
    is_zero = w.emit(f"icmp eq {ints} {b}, {zero}")
    is_minus = w.emit(f"icmp eq {ints} {b}, {minus}")
    unsafe = w.emit(f"or {w.type('bool')} {is_zero}, {is_minus}")
    quotient = w.emit(f"sdiv {ints} {a}, {w.choose(unsafe, one, b, 'int')}")
    negative = w.emit(f"sub {ints} {zero}, {a}")
    return w.choose(is_zero, zero, w.choose(is_minus, negative, quotient, "int"), "int")


def _negated(w: Writer, a: str) -> str:
    return w.emit(f"xor {w.type('bool')} {a}, {w.literal('bool', 1)}")


def _truncated(w: Writer, a: str) -> str:
    for compare, limit in (("ogt", -1e9), ("olt", 1e9)):
        bound = w.literal("float", limit)
        a = w.choose(w.emit(f"fcmp {compare} {w.type('float')} {a}, {bound}"), a, bound, "float")
    return w.emit(f"fptosi {w.type('float')} {a} to {w.type('int')}")


def _float(name: str) -> Callable[..., str]:
    return partial(_instruction, name, "float")


def _int(name: str) -> Callable[..., str]:
    return partial(_instruction, name, "int")


_F: Kind = "float"
_I: Kind = "int"
_B: Kind = "bool"

OPERATIONS: dict[str, Operation] = {
    "add": Operation((_F, _F), _F, lambda a, b: a + b, np.add, "{0} + {1}", _float("fadd"), True),
    "sub": Operation((_F, _F), _F, lambda a, b: a - b, np.subtract, "{0} - {1}", _float("fsub")),
    "mul": Operation((_F, _F), _F, lambda a, b: a * b, np.multiply, "{0} * {1}", _float("fmul"), True),
    "div": Operation((_F, _F), _F, _div, np.divide, "{0} / {1}", _float("fdiv"), cycles=24, busy=10),
    "abs": Operation((_F,), _F, abs, np.abs, "abs({0})", partial(_function, "fabs", "float")),
    "floor": Operation(
        (_F,), _F, lambda a: _finite(lambda x: float(math.floor(x)), a), np.floor, "floor({0})",
        partial(_function, "floor", "float"),
    ),
    "sqrt": Operation(
        (_F,), _F, lambda a: math.sqrt(a) if a > 0 else 0.0, lambda a: np.sqrt(np.where(a > 0, a, np.float32(0))),
        "sqrt({0} > 0.0 ? {0} : 0.0)", _square_root, cycles=24, busy=12,
    ),
    "lt": Operation((_F, _F), _B, lambda a, b: a < b, np.less, "{0} < {1}", _float("fcmp olt")),
    "le": Operation((_F, _F), _B, lambda a, b: a <= b, np.less_equal, "{0} <= {1}", _float("fcmp ole")),
    "select": Operation(
        (_B, _F, _F), _F, lambda c, a, b: a if c else b, np.where, "{0} ? {1} : {2}", partial(_select, "float"), cycles=2
    ),
    "iadd": Operation((_I, _I), _I, lambda a, b: wrap32(a + b), np.add, "{0} + {1}", _int("add"), True),
    "isub": Operation((_I, _I), _I, lambda a, b: wrap32(a - b), np.subtract, "{0} - {1}", _int("sub")),
    "imul": Operation((_I, _I), _I, lambda a, b: wrap32(a * b), np.multiply, "{0} * {1}", _int("mul"), cycles=10, busy=2),
    "idiv": Operation((_I, _I), _I, _idiv, _idiv_arrays, "divided({0}, {1})", _divided),
    "imin": Operation((_I, _I), _I, min, np.minimum, "min({0}, {1})", partial(_function, "smin", "int")),
    "imax": Operation((_I, _I), _I, max, np.maximum, "max({0}, {1})", partial(_function, "smax", "int")),
    "iand": Operation((_I, _I), _I, lambda a, b: wrap32(a & b), np.bitwise_and, "{0} & {1}", _int("and")),
    "ior": Operation((_I, _I), _I, lambda a, b: wrap32(a | b), np.bitwise_or, "{0} | {1}", _int("or")),
    "ixor": Operation((_I, _I), _I, lambda a, b: wrap32(a ^ b), np.bitwise_xor, "{0} ^ {1}", _int("xor"), True),
    "shl": Operation(
        (_I, _I), _I, lambda a, b: wrap32(a << (b & 31)), _on_words(lambda a, b: a << (b & np.uint32(31))),
        "{0} << ({1} & 31)", partial(_shift, "shl"),
    ),
    "shr": Operation(
        (_I, _I), _I, lambda a, b: wrap32((a & 0xFFFFFFFF) >> (b & 31)), _on_words(lambda a, b: a >> (b & np.uint32(31))),
        "int(uint({0}) >> uint({1} & 31))", partial(_shift, "lshr"),
    ),
    "ilt": Operation((_I, _I), _B, lambda a, b: a < b, np.less, "{0} < {1}", _int("icmp slt")),
    "ieq": Operation((_I, _I), _B, lambda a, b: a == b, np.equal, "{0} == {1}", _int("icmp eq")),
    "iselect": Operation((_B, _I, _I), _I, lambda c, a, b: a if c else b, np.where, "{0} ? {1} : {2}", partial(_select, "int")),
    "and": Operation((_B, _B), _B, lambda a, b: a and b, np.logical_and, "{0} && {1}", partial(_instruction, "and", "bool")),
    "or": Operation((_B, _B), _B, lambda a, b: a or b, np.logical_or, "{0} || {1}", partial(_instruction, "or", "bool")),
    "not": Operation((_B,), _B, lambda a: not a, np.logical_not, "!{0}", _negated),
    "to_int": Operation(
        (_F,), _I, lambda a: int(min(a, 1e9)) if a > -1e9 else -1_000_000_000, _clamped,
        "int({0} > -1e9 ? ({0} < 1e9 ? {0} : 1e9) : -1e9)", _truncated,
    ),
    "to_float": Operation(
        (_I,), _F, float, lambda a: np.asarray(a).astype(np.float32), "float({0})", partial(_conversion, "sitofp", "int", "float")
    ),
    "bool_to_int": Operation(
        (_B,), _I, int, lambda a: np.asarray(a).astype(np.int32), "int({0})", partial(_conversion, "zext", "bool", "int")
    ),
    "float_bits": Operation(
        (_F,), _I, lambda a: int(struct.unpack("<i", struct.pack("<f", single(a)))[0]),
        lambda a: np.asarray(a, np.float32).view(np.int32), "floatBitsToInt({0})",
        partial(_conversion, "bitcast", "float", "int"),
    ),
    "bits_float": Operation(
        (_I,), _F, lambda a: float(struct.unpack("<f", struct.pack("<i", a))[0]),
        lambda a: np.asarray(a, np.int32).view(np.float32), "intBitsToFloat({0})",
        partial(_conversion, "bitcast", "int", "float"),
    ),
}  # fmt: skip
"""Whole numbers are of 32 bits and wrap; `idiv` goes towards zero and gives 0 for a division by 0; shifts take the last five
bits of how far, and `shr` fills with zeros. `float_bits` and `bits_float` reinterpret single precision. `to_int` truncates
towards zero after clamping to +-1e9 by ordered compares; NaN gives -1e9, never a trap."""


def folded(rule: Operation, arguments: list[Plain]) -> Plain:
    """An operation on plain numbers; infinite where they are too large."""
    try:
        return rule.fold(*arguments)
    except OverflowError:
        return math.inf
