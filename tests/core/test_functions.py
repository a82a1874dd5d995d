"""Functions that are polynomials in the language's own operations: against NumPy in double precision, and on hostile numbers."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
import pytest

from sunglaze.core.language import functions as f
from sunglaze.core.language.expression import Value
from sunglaze.core.language.pictures import CAMERA, near
from sunglaze.core.language.vector import Vec
from sunglaze.core.passes.program import Inputs, Program
from tests.engines import drawn

HOSTILE = np.array([np.nan, np.inf, -np.inf, 0.0, -0.0, 3e38, -3e38, 1e-40, -1e-40, 1.0, -1.0, 0.5], np.float32)


def on(rule: Callable[..., Value], *inputs: np.ndarray) -> np.ndarray:
    """A rule of one or two numbers on all of some, by machine code or steps."""
    channels = [*inputs, *[np.zeros_like(inputs[0])] * (3 - len(inputs))]
    picture = np.stack(channels, axis=-1)[None].astype(np.float32)
    program = Program((Vec(rule(*(near(CAMERA, c) for c in range(len(inputs)))), 0.0, 0.0),))
    return drawn(program, picture, Inputs())[0][0, :, 0].astype(float)


ONE = {
    "exp": (f.exp, np.linspace(-80, 80, 4001), np.exp, 1e-6),
    "log": (f.log, np.geomspace(1e-30, 1e30, 4001), np.log, 1e-6),
    "sin": (f.sin, np.linspace(-3000, 3000, 4001), np.sin, 2e-6),
    "cos": (f.cos, np.linspace(-3000, 3000, 4001), np.cos, 2e-6),
    "tan": (f.tan, np.linspace(-1.5, 1.5, 4001), np.tan, 3e-6),
    "fifth root below one": (lambda a: f.inverse_root(a, 5), np.geomspace(1e-8, 1e9, 6001), lambda a: a ** (-1 / 5), 1e-6),
    "sixth root below one": (lambda a: f.inverse_root(a, 6), np.geomspace(1e-8, 1e9, 6001), lambda a: a ** (-1 / 6), 1e-6),
}


@pytest.mark.parametrize("name", ONE)
def test_functions_are_numpys(name: str) -> None:
    """Relative to what is larger than one; roots everywhere."""
    rule, numbers, wanted, bound = ONE[name]
    single = numbers.astype(np.float32)
    want = wanted(single.astype(float))
    scale = np.abs(want) if "root" in name or name == "exp" else np.maximum(1, np.abs(want))
    assert (np.abs(on(rule, single) - want) / scale).max() < bound


@pytest.mark.parametrize("n", [5, 6])
def test_roots_are_alike_over_every_power_of_two(n: int) -> None:
    """The first guess is by the exponent's bits: its error comes round with them."""
    single = np.concatenate([np.linspace(1, 2, 500) * 2.0**k for k in range(-20, 21)]).astype(np.float32)
    error = np.abs(on(lambda a: f.inverse_root(a, n), single) * single.astype(float) ** (1 / n) - 1).reshape(41, -1).max(axis=1)
    assert error.max() < 1e-6


@pytest.mark.parametrize("b", [-2.0, -0.5, 0.0, 1 / 3, 1.0, 2.2, 5.0])
def test_powers_are_numpys(b: float) -> None:
    single = np.geomspace(1e-3, 1e3, 2001).astype(np.float32)
    want = single.astype(float) ** np.float32(b)
    assert (np.abs(on(lambda a: f.power(a, b), single) - want) / want).max() < 3e-6


def test_angles_are_numpys() -> None:
    turn = np.linspace(-np.pi, np.pi, 3001)[1:-1]
    x, y = np.cos(turn).astype(np.float32), np.sin(turn).astype(np.float32)
    assert np.abs(on(f.atan2, y, x) - np.arctan2(y.astype(float), x.astype(float))).max() < 2e-6
    assert on(f.atan2, np.zeros(1), np.zeros(1))[0] == 0.0


@pytest.mark.parametrize("name", ["exp", "log", "sin", "cos", "tan"])
def test_no_number_but_none_gives_none(name: str) -> None:
    found = on(ONE[name][0], HOSTILE)
    assert np.isfinite(found[~np.isnan(HOSTILE)]).all()


def test_powers_of_what_is_not_above_nothing() -> None:
    assert on(lambda a: f.power(a, 2.0), np.array([0.0, -1.0, -np.inf])).tolist() == [0.0, 0.0, 0.0]
    assert on(lambda a: f.power(a, 0.0), np.array([0.0, -1.0, 5.0])).tolist() == [1.0, 1.0, 1.0]
