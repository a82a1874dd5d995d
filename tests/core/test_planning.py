"""Which pictures are passes of their own: what one pass alone reads, where it is drawn, is computed there."""

from __future__ import annotations

import pytest

from sunglaze.core.language import vector as v
from sunglaze.core.language.expression import Value, constant, needed
from sunglaze.core.language.loops import repeat, whole
from sunglaze.core.language.pictures import CAMERA, Picture, colour_here, computed, here, near, passes_only_if, picture_of, sample
from sunglaze.core.language.vector import Vec
from sunglaze.core.nodes.filters import gaussian
from sunglaze.core.passes.planning import MOST_READ
from sunglaze.core.passes.program import Inputs, Program, source, uniform
from tests.ways import assert_same, picture


def squared(channel: int = 0, **more: object) -> Picture:
    one = near(CAMERA, channel)
    return computed([one * one], **more)  # type: ignore[arg-type]


def grey(value: Value) -> Program:
    return Program((Vec(value, 0.0, 0.0),))


def passes(program: Program) -> int:
    return len(program.plan.passes)


def test_a_picture_that_one_pass_reads_where_it_is_drawn_is_computed_there() -> None:
    program = grey(near(squared(), 0) + 1.0)
    assert passes(program) == 1
    assert program.plan.passes[0].pictures == (CAMERA,)
    assert_same(program, picture(5, 40))


def test_a_chain_of_such_pictures_is_one_pass() -> None:
    once = squared()
    twice = computed([near(once, 0) * 0.5])
    program = grey(near(computed([near(twice, 0) - 1.0]), 0) * near(CAMERA, 1))
    assert passes(program) == 1
    assert_same(program, picture(5, 40))


@pytest.mark.parametrize("right", [1, -2])
def test_one_that_is_read_beside_is_a_pass(right: int) -> None:
    program = grey(near(squared(), 0) + near(squared(), 0, right))
    assert passes(program) == 2
    assert_same(program, picture(5, 40))


def test_a_loop_takes_it_from_outside() -> None:
    """It is not computed anew in each turn."""
    small = squared()
    total = repeat(whole(4), 8, [constant(0.0)], lambda n, s: [s[0] + near(small, 0) * v.to_float(n)])[0]
    body = next(value for value in needed([total]) if value.op == "loop").attribute[2]
    assert all(value.op != "near" for value in needed(body.results))
    assert passes(grey(total)) == 1
    assert_same(grey(total), picture(5, 40))


def test_one_that_a_loop_reads_beside_is_a_pass() -> None:
    small = squared()
    total = repeat(whole(4), 8, [constant(0.0)], lambda n, s: [s[0] + near(small, 0, n)])[0]
    assert passes(grey(total)) == 2
    assert_same(grey(total), picture(5, 40))


def test_one_that_two_passes_read_is_a_pass() -> None:
    """Else both would compute it."""
    once = squared()
    moved = sample(picture_of(v.rgba(Vec(near(once, 0) * 3.0, 0.5, 0.5), 1.0)), here() + 0.01)
    program = grey(moved.r + near(once, 0))
    assert passes(program) == 3
    assert_same(program, picture(12, 40))


def test_pictures_of_another_size_and_kept_ones_stay_passes() -> None:
    assert passes(grey(colour_here(squared(reduce=2)).r)) == 2
    assert passes(grey(near(squared(keeps="k"), 0))) == 2


def test_what_makes_a_smaller_picture_reads_a_whole_one() -> None:
    """A pixel of the half picture stands for another place than one of the whole."""
    half = computed([near(squared(), 0)], reduce=2)
    assert passes(grey(colour_here(half).r)) == 3


def soft_by_amount(reach: float) -> Program:
    amount = uniform("amount")
    with passes_only_if(amount > 0.0):
        soft = colour_here(gaussian(CAMERA, v.value(reach)))
    return Program((v.mix3(source(), soft.rgb, amount),))


@pytest.mark.parametrize("amount", [0.0, 0.4, 1.0])
def test_the_last_pass_of_a_blur_is_joined_with_what_follows(amount: float) -> None:
    """In frames that do not need it, its loop has no turn."""
    program = soft_by_amount(2.5)
    assert passes(program) == 3
    assert_same(program, picture(20, 50), Inputs({"amount": amount}))


def test_a_loop_that_both_read_keeps_its_turns() -> None:
    """A layer that is off holds the turns of what is computed for it, not of what the picture itself shows."""
    total = repeat(whole(4), 8, [constant(0.0)], lambda n, s: [s[0] + near(CAMERA, 0, n)])[0]
    with passes_only_if(uniform("amount") > 0.0):
        held = near(computed([total * 0.5]), 0)
    program = grey(total + held * uniform("amount"))
    assert passes(program) == 1
    for amount in (0.0, 1.0):
        assert_same(program, picture(6, 50), Inputs({"amount": amount}))


def test_much_work_is_left_out_where_a_layer_is_off() -> None:
    value = near(CAMERA, 0)
    for n in range(60):
        value = value * value + near(CAMERA, n % 3)
    with passes_only_if(uniform("amount") > 0.0):
        held = near(computed([value]), 0)
    assert passes(grey(near(CAMERA, 1) + held * uniform("amount"))) == 2


def test_a_pass_never_reads_more_pictures_than_a_gpu_takes() -> None:
    moved = [sample(picture_of(v.rgba(source() * (0.1 * n), 1.0)), here() + 0.01 * n).r for n in range(1, 30)]
    parts = [computed([sum(moved[n : n + 5], constant(0.0))]) for n in range(0, 29, 5)]
    total = near(parts[0], 0)
    for part in parts[1:]:
        total = total + near(part, 0)
    program = grey(total)
    assert max(len(one.pictures) for one in program.plan.passes) <= MOST_READ
    assert_same(program, picture(9, 33))
