"""Tapes of steps: each operation, pairs, loops and row lengths against the NumPy reference, and against machine code."""

from __future__ import annotations

import numpy as np
import pytest

from sunglaze.core.engine.kernel import Kernel
from sunglaze.core.engine.machine import Run, machine_code
from sunglaze.core.engine.running import is_quick, prepare
from sunglaze.core.language import vector as v
from sunglaze.core.language.expression import Value, constant, record
from sunglaze.core.language.loops import repeat, whole
from sunglaze.core.language.operations import OPERATIONS
from sunglaze.core.language.pictures import CAMERA, computed, enlarged, fetch, near
from sunglaze.core.language.vector import Vec
from sunglaze.core.passes.program import Program, uniform
from sunglaze.core.targets.llvm import assembly
from sunglaze.core.targets.tape import CODES, PAIRS, tape
from tests.engines import drawn, readable
from tests.ways import INPUTS, as_number, assert_same, given, picture, seen_by_steps


@pytest.mark.parametrize("name", sorted(OPERATIONS))
def test_each_operation_does_what_the_reference_does(name: str) -> None:
    value = record(name, *(given(kind, n) for n, kind in enumerate(OPERATIONS[name].arguments)))
    if name == "bits_float":
        value = record(name, record("float_bits", given("float", 1)))
    assert_same(Program((Vec(as_number(value), 0.0, 0.0),)), picture(9, 70))


@pytest.mark.parametrize(("first", "second", "place"), PAIRS)
def test_two_operations_of_which_one_feeds_the_other_are_one_step(first: str, second: str, place: int) -> None:
    one, other = OPERATIONS[first].arguments, OPERATIONS[second].arguments
    inner = record(first, *(given(kind, n) for n, kind in enumerate(one)))
    arguments = [inner if n == place else given(kind, n + len(one)) for n, kind in enumerate(other)]
    program = Program((Vec(as_number(record(second, *arguments)), 0.0, 0.0),))
    used = tape(program.plan.passes[-1], "floats").steps[:, 0]
    assert CODES[f"{first}_{second}_{place}"] in used
    assert_same(program, picture(9, 70))


def test_what_is_read_twice_is_kept_until_its_last_reader() -> None:
    """A sum and each of its parts: a register given back too early would show."""
    a, b, c = (given("float", n) for n in range(3))
    product = a * b
    total = product + c
    assert_same(Program((Vec(total * product, (total - product) * c, v.maximum(total, a) + product),)), picture(7, 300))


def test_states_of_a_loop_that_change_places() -> None:
    """Fibonacci's numbers from two numbers of the pixel, and a state that becomes another's old value."""

    def turn(n: Value, states: tuple[Value, ...]) -> list[Value]:
        low, high, _ = states
        return [high, low + high, low * v.to_float(n)]

    parts = repeat(whole(9), 20, [given("float", 0), given("float", 1), constant(0.0)], turn)
    assert_same(Program((Vec(*parts),)), picture(5, 290))


def test_loops_in_loops_with_sums_that_read_neighbours() -> None:
    def inner(n: Value) -> Value:
        return repeat(v.to_int(uniform("u") * 5.0), 8, [constant(0.0)], lambda m, s: [s[0] + near(CAMERA, 0, m, n) * 0.5])[0]

    total = repeat(whole(3), 8, [constant(0.0), constant(1.0)], lambda n, s: [s[0] + inner(n), s[1] * 0.75])
    assert_same(Program((Vec(total[0], total[1], given("float", 2)),)), picture(40, 60))


def test_a_loop_without_turns_gives_what_it_started_with() -> None:
    parts = repeat(v.to_int(uniform("u") - 5.0), 8, [given("float", 0)], lambda n, s: [s[0] * 3.0])
    assert_same(Program((Vec(parts[0], 0.0, 0.0),)), picture(3, 33))


@pytest.mark.parametrize("columns", [1, 31, 32, 33, 287, 289, 600])
def test_rows_of_any_length(columns: int) -> None:
    """Blocks of a row are of about equal length; the last one may be shorter. Reads from pictures of several sizes."""
    small = computed([near(CAMERA, 0) * 0.5], reduce=4)
    moved = fetch(CAMERA, 1, v.to_int(v.to_float(v.value(given("int", 0)))), whole(2))
    assert_same(Program((Vec(near(CAMERA, 0, -2, 1), enlarged(small)[0], moved),)), picture(37, columns))


def test_bytes_by_steps_and_by_machine_code() -> None:
    """The camera as 32-bit words; numbers beyond 0 to 1 and what is no number, as a byte."""
    one = Program(
        (Vec(near(CAMERA, 0) * 1.5, near(CAMERA, 2) - 0.25, near(CAMERA, 1) / (near(CAMERA, 3) - near(CAMERA, 3))),)
    ).plan.passes[0]
    words = np.random.default_rng(8).integers(0, 2**32, (12, 320), dtype=np.uint32)
    made = []
    for code in (None, machine_code(assembly(one, "bytes"))):
        out = np.zeros((12, 320), np.uint32)
        way = Kernel(one, "bytes", code)
        way.run(Run(way.operands([(words, 300)], [], out.shape[-1]), out, np.zeros(1, np.int32), (300, 12)))
        made.append(out[:, :300])
    assert np.array_equal(made[0], made[1])
    assert len(np.unique(made[0])) > 1000


def test_machine_code_takes_the_place_of_steps() -> None:
    program = Program((Vec(given("float", 4), 0.0, 0.0),))
    seen_by_steps(program, picture(4, 40))
    prepare(program, "floats")
    assert not is_quick(program, "floats")
    np.testing.assert_allclose(drawn(program, picture(4, 40), INPUTS)[0], readable(program, picture(4, 40), INPUTS)[0])
