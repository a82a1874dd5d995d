"""What is computed once a frame: while controls stand still, only what hangs on the clock, with the numbers of computing all."""

from __future__ import annotations

import math
import re
from pathlib import Path

import numpy as np
import pytest

from sunglaze.core.language import functions as f
from sunglaze.core.language.expression import advance, leaf, record
from sunglaze.core.language.moments import moment
from sunglaze.core.language.operations import OPERATIONS
from sunglaze.core.moment.moment import Clock, Moment
from sunglaze.core.passes.program import uniform
from sunglaze.core.passes.signals import SignalProgram
from tests.signals import random_signals


def test_frames_with_few_moves_are_those_of_a_new_program_each_time() -> None:
    """A program that has never run has nothing to keep."""
    rng = np.random.default_rng(4)
    values = random_signals(uniform("x"), uniform("y"))
    kept, afresh = {}, {}
    program, given = SignalProgram(values), {"x": 0.2, "y": 0.7}
    for frame in range(300):
        if rng.random() < 0.1:
            given = {"x": float(rng.random()), "y": float(rng.random())}
        now = Moment(Clock.at(frame, 5))
        assert program.run(now, given, kept) == SignalProgram(values).run(now, given, afresh)
        assert kept == afresh


def test_a_control_that_moves_is_seen_at_once() -> None:
    gain = uniform("gain")
    program = SignalProgram([gain * 2.0, f.sin(gain) + moment("time")])
    for gain_now, time in ((0.5, 0.0), (0.5, 1.0), (0.75, 1.0), (0.5, 1.0), (-0.5, 2.0)):
        found = program.run(Moment(Clock(seconds=time)), {"gain": gain_now}, {})
        assert found[0] == 2 * gain_now
        assert found[1] == pytest.approx(math.sin(gain_now) + time, abs=1e-6)


def test_nothing_and_minus_nothing_are_two() -> None:
    """They compare equal, and 1 / x tells them apart."""
    program = SignalProgram([record("div", 1.0, uniform("x"))])
    assert [program.run(Moment(), {"x": x}, {})[0] for x in (0.0, -0.0, 0.0)] == [math.inf, -math.inf, math.inf]


def test_what_is_no_number_does_not_stay() -> None:
    program = SignalProgram([uniform("x") + 1.0])
    first, then = (program.run(Moment(), {"x": x}, {})[0] for x in (math.nan, 2.0))
    assert math.isnan(first)
    assert then == 3.0


def test_cells_count_though_nothing_moves() -> None:
    count = advance("c", 0.0, leaf("cell", "c", 0.0) + uniform("step"))
    program = SignalProgram([count])
    cells: dict[str, float] = {}
    assert [program.run(Moment(), {"step": 0.5}, cells)[0] for _ in range(4)] == [0.5, 1.0, 1.5, 2.0]
    assert program.run(Moment(), {"step": 0.5}, {"c": 10.0})[0] == 10.5


def test_whole_numbers_and_conditions_are_kept_as_such() -> None:
    program = SignalProgram([record("iadd", uniform("n", "int"), 1), record("not", uniform("on", "bool"))])
    for n, on in ((3, 1.0), (3, 0.0), (4.0, 0.0)):
        assert program.run(Moment(), {"n": n, "on": on}, {}) == [int(n) + 1, not on]


def test_an_input_that_is_missing_is_named() -> None:
    with pytest.raises(KeyError, match="gain"):
        SignalProgram([uniform("gain") * 2.0]).run(Moment(), {}, {})


def test_the_browser_knows_the_same_operations() -> None:
    text = Path("web/src/engine/signals.ts").read_text()
    rules = text[text.index("const RULES") : text.index("\n}\n", text.index("const RULES"))]
    assert set(re.findall(r"^  (\w+): ", rules, re.MULTILINE)) == set(OPERATIONS)
