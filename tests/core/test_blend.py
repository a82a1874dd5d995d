"""Blend modes against the formulas of W3C Compositing and Blending Level 1, written out anew here per colour."""

from __future__ import annotations

import math
from collections.abc import Callable

import numpy as np
import pytest

from sunglaze.core.effect.compiling import compile_effect
from sunglaze.core.effect.document import Effect
from sunglaze.core.effect.literals import Material
from sunglaze.core.language.pictures import CAMERA, near
from sunglaze.core.language.vector import Vec
from sunglaze.core.nodes.blend import MODES, composite
from sunglaze.core.passes.program import Inputs, Program, uniform
from tests.engines import readable
from tests.layers import fill

Three = tuple[float, float, float]


def dodge(b: float, s: float) -> float:
    return 0 if b == 0 else 1 if s == 1 else min(1, b / (1 - s))


def burn(b: float, s: float) -> float:
    return 1 if b == 1 else 0 if s == 0 else 1 - min(1, (1 - b) / s)


def hard(b: float, s: float) -> float:
    return b * 2 * s if s <= 0.5 else b + (2 * s - 1) - b * (2 * s - 1)


def soft(b: float, s: float) -> float:
    if s <= 0.5:
        return b - (1 - 2 * s) * b * (1 - b)
    d = ((16 * b - 12) * b + 4) * b if b <= 0.25 else math.sqrt(b)
    return b + (2 * s - 1) * (d - b)


SEPARABLE: dict[str, Callable[[float, float], float]] = {
    "normal": lambda b, s: s,
    "multiply": lambda b, s: b * s,
    "screen": lambda b, s: b + s - b * s,
    "overlay": lambda b, s: hard(s, b),
    "darken": min,
    "lighten": max,
    "color-dodge": dodge,
    "color-burn": burn,
    "hard-light": hard,
    "soft-light": soft,
    "difference": lambda b, s: abs(b - s),
    "exclusion": lambda b, s: b + s - 2 * b * s,
    # common practice, no source
    "subtract": lambda b, s: max(b - s, 0.0),
    "divide": lambda b, s: 1.0 if s == 0 else min(b / s, 1.0),
}


def lum(c: Three) -> float:
    return 0.3 * c[0] + 0.59 * c[1] + 0.11 * c[2]


def set_lum(c: Three, level: float) -> Three:
    d = level - lum(c)
    r = [x + d for x in c]
    mean, low, high = lum((r[0], r[1], r[2])), min(r), max(r)
    if low < 0:
        r = [mean + (x - mean) * mean / (mean - low) for x in r]
    if high > 1:
        r = [mean + (x - mean) * (1 - mean) / (high - mean) for x in r]
    return r[0], r[1], r[2]


def sat(c: Three) -> float:
    return max(c) - min(c)


def set_sat(c: Three, s: float) -> Three:
    order = sorted(range(3), key=lambda n: c[n])
    out = [0.0, 0.0, 0.0]
    if c[order[2]] > c[order[0]]:
        out[order[1]] = (c[order[1]] - c[order[0]]) * s / (c[order[2]] - c[order[0]])
        out[order[2]] = s
    return out[0], out[1], out[2]


WHOLE: dict[str, Callable[[Three, Three], Three]] = {
    "hue": lambda b, s: set_lum(set_sat(s, sat(b)), lum(b)),
    "saturation": lambda b, s: set_lum(set_sat(b, sat(s)), lum(b)),
    "color": lambda b, s: set_lum(s, lum(b)),
    "luminosity": lambda b, s: set_lum(b, lum(s)),
}

LAYERS = ["#000000", "#ffffff", "#808080", "#ff0000", "#a8420d", "#03fe7c", "#404040"]


def backdrops() -> np.ndarray:
    corners = np.array([[r, g, b] for r in (0, 0.25, 1) for g in (0, 0.5, 1) for b in (0, 0.75, 1)])
    return np.concatenate([corners, np.random.default_rng(0).random((101, 3))])[None].astype(np.float32)


def run(mode: str, colour: str, opacity: float) -> np.ndarray:
    effect = Effect(name="t", layers=[fill("a", colour, blend=mode, opacity=opacity)])
    compiled = compile_effect(effect, Material())
    return readable(compiled.program.final, backdrops(), compiled.inputs)[0]


def test_all_sixteen_modes_plus_subtract_and_divide() -> None:
    assert set(MODES) == {*SEPARABLE, *WHOLE, "plus"}
    assert len(MODES) == 19


@pytest.mark.parametrize("mode", MODES)
@pytest.mark.parametrize("opacity", [1.0, 0.35])
def test_against_the_specification(mode: str, opacity: float) -> None:
    for colour in LAYERS:
        s = tuple(int(colour[n : n + 2], 16) / 255 for n in (1, 3, 5))
        ours = run(mode, colour, opacity)[0]
        for b, got in zip(backdrops()[0].astype(float), ours, strict=True):
            if mode == "plus":
                want = [min(1, x + y * opacity) for x, y in zip(b, s, strict=True)]
            else:
                mixed = (
                    [SEPARABLE[mode](x, y) for x, y in zip(b, s, strict=True)] if mode in SEPARABLE else WHOLE[mode](tuple(b), s)  # type: ignore[arg-type]
                )
                want = [(1 - opacity) * x + opacity * y for x, y in zip(b, mixed, strict=True)]
            # hue and saturation divide by small spreads: single precision leaves some 1e-5 there
            assert np.abs(got - want).max() < 2e-5, (mode, colour, b.tolist())


@pytest.mark.parametrize("mode", MODES)
def test_opacity_zero_leaves_every_pixel(mode: str) -> None:
    assert np.array_equal(run(mode, "#a8420d", 0.0), backdrops())


@pytest.mark.parametrize("mode", MODES)
def test_the_result_is_within_0_and_1_to_the_bit(mode: str) -> None:
    """The next layer relies on it. Tried beside 0, 1 and the places where rules change."""
    rng = np.random.default_rng(3)
    ends = [1 - n * 2**-24 for n in range(9)] + [n * 2**-24 for n in range(9)] + [1e-10, 1e-42]
    middle = [part + n * 2**-25 for part in (0.25, 1 / 3, 0.5) for n in range(-2, 3)]
    some = rng.choice(np.array([*ends, *middle], np.float32), (200, 300, 3))
    camera = np.where(rng.random((200, 300, 3)) < 0.7, some, rng.random((200, 300, 3), np.float32))
    below, layer = (Vec(*(near(CAMERA, c, right) for c in range(3))) for right in (0, 1))
    program = Program((composite(mode, below, layer, uniform("alpha")),))
    for alpha in (1.0, 0.35, 1e-7, 1 - 2**-24, 2 / 3):
        got = readable(program, camera, Inputs({"alpha": alpha}))[0]
        assert got.min() >= 0.0
        assert got.max() <= 1.0
