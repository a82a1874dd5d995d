"""Passes that a frame can do without: which are left out, and that the picture is to the last bit what the reference gives, which
knows nothing of plans and computes everything."""

from __future__ import annotations

import pytest

from sunglaze.core.effect.compiling import compile_effect
from sunglaze.core.effect.document import Effect, Layer
from sunglaze.core.effect.literals import Material
from sunglaze.core.language import vector as v
from sunglaze.core.language.expression import Value
from sunglaze.core.language.moments import moment
from sunglaze.core.language.pictures import CAMERA, colour_here, computed, earlier, near
from sunglaze.core.language.vector import Vec
from sunglaze.core.moment.moment import Moment
from sunglaze.core.nodes.filters import blurred
from sunglaze.core.passes.gating import never
from sunglaze.core.passes.program import Inputs, Program, State, uniform
from tests.ways import assert_same, picture

A, B = uniform("a"), uniform("b")


def beside(by: int) -> Value:
    """What a pass of its own holds two pixels away."""
    one = near(CAMERA, by % 3)
    return near(computed([one * one * (0.5 + by)]), 0, 2)


def left_out(program: Program, **uniforms: float) -> int:
    """How many passes a frame does without."""
    seen = Moment.of(picture(4, 8))
    numbers = program.advance(seen, Inputs(uniforms), State())
    return sum(one.enabled is not None and not numbers[one.enabled] for one in program.plan.passes)


CASES: dict[str, tuple[Value, dict[tuple[float, float], int]]] = {
    "mixed by a number": (v.mix(near(CAMERA, 0), beside(1), A), {(0, 1): 1, (1, 0): 0, (-0.5, 0): 0}),
    "mixed by a mask of a strength": (
        v.mix(near(CAMERA, 0), beside(1), near(CAMERA, 2) * A * B), {(0, 1): 1, (1, 0): 1, (1, 1): 0},
    ),
    "read by two": (beside(1) * A + beside(1) * B, {(0, 0): 0, (0, 1): 0, (1, 1): 0}),
    "read by two by one": (beside(1) * A + beside(1) * A * near(CAMERA, 1), {(0, 0): 1, (1, 0): 0}),
    "not chosen": (v.select(A > 0.5, beside(1), beside(2)), {(1, 0): 1, (0, 0): 1}),
    "one behind another": (
        near(computed([beside(1) + near(CAMERA, 1)]), 0, 1) * A + beside(2), {(0, 0): 2, (1, 0): 0},
    ),
    "one behind two": (
        near(computed([beside(1) + near(CAMERA, 1)]), 0, 1) * A + beside(1) * B, {(0, 0): 1, (0, 1): 1, (1, 0): 0},
    ),
    "added": (beside(1) + A, {(0, 0): 0}),
    "both sides of one choice": (v.select(near(CAMERA, 0) > A, beside(1), beside(2)), {(0, 0): 0, (1, 0): 0}),
}  # fmt: skip


@pytest.mark.parametrize("name", CASES)
def test_what_comes_to_nothing_is_left_out_and_nothing_else(name: str) -> None:
    value, wanted = CASES[name]
    program = Program((Vec(value, near(CAMERA, 1), 0.0),))
    for (a, b), count in wanted.items():
        assert left_out(program, a=a, b=b) == count, (a, b)
        assert_same(program, picture(6, 40), Inputs({"a": a, "b": b}))


def test_what_the_next_frame_reads_is_always_made() -> None:
    kept = computed([near(CAMERA, 0) * 0.5 + near(earlier("k", 1), 0) * 0.5], keeps="k")
    program = Program((Vec(near(kept, 0) * A, near(CAMERA, 1), 0.0),))
    assert len(program.plan.passes) == 2
    assert left_out(program, a=0.0) == 0


def test_a_loop_that_is_computed_where_it_is_read_has_no_turn() -> None:
    """A blur's last pass is joined with what follows it; so is its gate."""
    soft = blurred(CAMERA, v.value(3.0), "exact")
    program = Program((v.mix3(colour_here(CAMERA).rgb, soft.rgb, A),))
    loops = [one for one in program.plan.passes[-1].order if one.op == "loop"]
    assert len(loops) == 1
    seen = Moment.of(picture(4, 8))
    turns = loops[0].arguments[0]
    for amount, wanted in ((0.0, True), (0.5, False)):
        numbers = program.advance(seen, Inputs({"a": amount}), State())
        found = numbers[program.plan.passes[-1].slots[turns.attribute[0]]]
        assert (found == 0) is wanted
        assert_same(program, picture(12, 40), Inputs({"a": amount}))


def test_a_retouch_does_without_what_stands_at_nothing() -> None:
    """Spots and shadows under the eyes are off to begin with: a median of two passes; a wide blur of three and where it is."""
    layer = Layer(id="l", name="l", kind="even-skin")
    program = compile_effect(Effect(name="t", layers=[layer]), Material()).program.final
    plain = dict.fromkeys(program.uniforms, 0.0)
    strong = plain | {"l.layer:opacity": 1.0, "l.strength": 0.25}
    spots = next(name for name in program.uniforms if "spots" in name)
    tired = next(name for name in program.uniforms if "under" in name or "tired" in name)
    assert left_out(program, **strong) - left_out(program, **(strong | {spots: 0.5})) == 2
    assert left_out(program, **strong) - left_out(program, **(strong | {tired: 0.5})) == 4
    assert left_out(program, **plain) == len(program.plan.passes) - 1


@pytest.mark.parametrize(
    ("condition", "a", "wanted"),
    [
        (A > 0.5, 0.0, True),
        (A > 0.5, 1.0, False),
        ((A > 0.5) & (moment("time") > 1.0), 0.0, True),
        ((A > 0.5) & (moment("time") > 1.0), 1.0, False),
        ((A > 0.5) | (moment("time") > 1.0), 0.0, False),
        (A * moment("time") > 0.0, 0.0, True),
        (v.select(A > 0.5, moment("time"), 0.0) > 0.0, 0.0, True),
        (moment("time") > 0.0, 0.0, False),
        (moment("dial:d") > 0.0, 0.0, False),
    ],
)
def test_what_no_moment_can_bring_about_is_told(condition: Value, a: float, wanted: bool) -> None:
    """As logic has it: of and, one side that fails is enough; of or, both."""
    assert never(condition, {"a": a}) is wanted
