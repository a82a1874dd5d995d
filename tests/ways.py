"""One program by steps, by machine code and by the NumPy reference: to the last bit the same."""

from __future__ import annotations

import numpy as np

from sunglaze.core.engine import kernel as kernels
from sunglaze.core.engine.running import is_quick, prepare
from sunglaze.core.language import vector as v
from sunglaze.core.language.expression import Value, record
from sunglaze.core.language.operations import Kind
from sunglaze.core.language.pictures import CAMERA, near
from sunglaze.core.passes.program import Inputs, Program
from tests.engines import drawn, readable

INPUTS = Inputs({"u": 0.7})


def picture(rows: int, columns: int, seed: int = 2) -> np.ndarray:
    return np.random.default_rng(seed).normal(size=(rows, columns, 3)).astype(np.float32)


def given(kind: Kind, n: int) -> Value:
    """Something that differs from pixel to pixel."""
    number = near(CAMERA, n % 3, n, 0)
    if kind == "bool":
        return number < 0.25
    return v.to_int(number * 50.0) if kind == "int" else number


def as_number(value: Value) -> Value:
    """Without rounding: whole numbers are taken apart so that floats hold them."""
    if value.kind == "bool":
        value = record("bool_to_int", value)
    if value.kind == "int":
        return v.to_float(record("iand", value, 0xFFFF)) + v.to_float(record("shr", value, 16)) * 0.5
    return value


def seen_by_steps(program: Program, camera: np.ndarray, inputs: Inputs = INPUTS) -> np.ndarray:
    kernels._cache.clear()
    out = drawn(program, camera, inputs)[0]
    assert is_quick(program.final, "floats")
    return out


def assert_same(program: Program, camera: np.ndarray, inputs: Inputs = INPUTS) -> None:
    """To the last bit: all ways compute what the language says, in its order, in single precision."""
    want = readable(program, camera, inputs)[0]
    np.testing.assert_array_equal(seen_by_steps(program, camera, inputs), want)
    prepare(program, "floats")
    np.testing.assert_array_equal(drawn(program, camera, inputs)[0], want)
