"""Time: closed forms, the 1-euro filter at several frame rates, events, kept pictures."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
import pytest

from sunglaze.core.effect.compiling import compile_effect
from sunglaze.core.effect.document import Effect, Layer
from sunglaze.core.effect.literals import Material
from sunglaze.core.engine.playback import Playback
from sunglaze.core.language.expression import Value, constant
from sunglaze.core.language.pictures import CAMERA, colour_here
from sunglaze.core.language.vector import number, to_float
from sunglaze.core.moment.moment import Clock, Moment, Reads
from sunglaze.core.nodes import time
from sunglaze.core.nodes.node import Scene, in_scene
from sunglaze.core.passes.program import State, uniform
from sunglaze.core.passes.signals import SignalProgram
from tests.engines import drawn, readable
from tests.layers import fill


def play(rule: Callable[[Value], Value], inputs: list[float], rate: float = 30.0) -> np.ndarray:
    """A rule of one changing number, frame by frame."""
    with in_scene(Scene(colour_here(CAMERA), path="test")):
        program = SignalProgram([rule(uniform("x"))])
    cells: dict[str, float] = {}
    moments = [Moment(Clock(n, n / rate, 1 / rate, 3)) for n in range(len(inputs))]
    return np.array([float(program.run(moment, {"x": x}, cells)[0]) for moment, x in zip(moments, inputs, strict=True)])


@pytest.mark.parametrize("rate", [15, 24, 30, 60])
@pytest.mark.parametrize("seconds", [0.1, 0.5, 2.0])
def test_following_is_the_first_order_lag_at_any_frame_rate(rate: int, seconds: float) -> None:
    """Closed form: after a jump from 0 to 1, 1 - exp(-t / seconds)."""
    count = 2 * rate
    seen = play(lambda x: time.follow(x, constant(seconds)), [0.0, *[1.0] * count], rate)
    t = np.arange(count + 1) / rate
    assert np.abs(seen - (1 - np.exp(-t / seconds))).max() < 1e-5
    assert play(lambda x: time.follow(x, constant(0.0)), [3.0, 5.0]).tolist() == [3.0, 5.0]


def euro(samples: np.ndarray, rate: float, least: float, beta: float) -> np.ndarray:
    """Casiez, Roussel and Vogel (2012), algorithm 1, written out; the derivative's cutoff is 1 hertz."""

    def share(cutoff: float) -> float:
        return float(1 - np.exp(-2 * np.pi * cutoff / rate))  # the exact share; the paper has its first approximation

    found, speed = [float(samples[0])], 0.0
    for x in samples[1:]:
        # The paper's text smooths the raw difference to the last smoothed value, as the authors' code does.
        slope = (x - found[-1]) * rate
        speed += share(1.0) * (slope - speed)
        found.append(found[-1] + share(least + beta * abs(speed)) * (x - found[-1]))
    return np.array(found)


def test_one_euro_is_the_papers_filter() -> None:
    rng = np.random.default_rng(1)
    samples = np.cumsum(rng.normal(size=300)) * 0.1
    for rate, least, beta in ((30, 1.0, 0.1), (60, 0.5, 1.0)):
        seen = play(lambda x, m=least, b=beta: time.one_euro(x, constant(m), constant(b)), samples.tolist(), rate)
        assert np.abs(seen - euro(samples, rate, least, beta)).max() < 1e-5


def test_one_euro_gives_the_same_motion_from_15_to_60_frames() -> None:
    """Within 2 % of the path's length on ramps and steps (check-values.md)."""
    for path in (lambda t: np.clip(t - 0.5, 0, 1), lambda t: (t > 0.5).astype(float)):
        runs = {}
        for rate in (15, 24, 30, 60):
            t = np.arange(int(3 * rate)) / rate
            seen = play(lambda x: time.one_euro(x, constant(1.0), constant(0.05)), path(t).tolist(), rate)
            runs[rate] = np.interp(np.arange(1.0, 2.8, 0.1), t, seen)
        off = {rate: float(np.abs(runs[rate] - runs[60]).max()) for rate in (15, 24, 30)}
        print(off)
        assert max(off.values()) < 0.02


EVENTS = [0, 0, 1, 1, 0, 1, 0, 0, 1, 1, 1, 0]


def test_events() -> None:
    held = [float(e) for e in EVENTS]
    flips = play(lambda x: number(time.toggle(x > 0.5, constant(False, "bool"))), held)
    assert flips.tolist() == [0, 0, 1, 1, 1, 0, 0, 0, 1, 1, 1, 1]
    other = play(lambda x: number(time.toggle(x > 0.5, constant(True, "bool"))), held)
    assert (other == 1 - flips).all()
    counts = play(lambda x: to_float(time.count(x > 0.5, constant(0, "int"))), held)
    assert counts.tolist() == [0, 0, 1, 1, 1, 2, 2, 2, 3, 3, 3, 3]
    round_again = play(lambda x: to_float(time.count(x > 0.5, constant(2, "int"))), held)
    assert round_again.tolist() == [0, 0, 1, 1, 1, 0, 0, 0, 1, 1, 1, 1]
    since = play(lambda x: time.since(x > 0.5), held)
    assert np.abs(since[2:] * 30 - [0, 1, 2, 0, 1, 2, 0, 1, 2, 3]).max() < 1e-6
    assert since[0] > 500
    kept = play(lambda x: time.hold(x, x > 0.5), [0.1, 0.2, 0.9, 0.8, 0.3])
    assert kept.tolist() == [0.1, 0.2, 0.2, 0.2, 0.3]


def test_pulses_ramps_and_wandering() -> None:
    frames = [0.0] * 121
    t = np.arange(121) / 30
    there = play(lambda x: time.pulse(constant(0.0), constant(2.0), constant(2.0), "back and forth", constant(0.0)), frames)
    assert np.abs(there - 2 * (1 - np.abs((t / 2 % 1) * 2 - 1))).max() < 1e-6
    again = play(lambda x: time.pulse(constant(0.0), constant(1.0), constant(2.0), "loop", constant(0.25)), frames)
    assert np.abs(again - (t / 2 + 0.25) % 1).max() < 1e-6
    smooth = play(lambda x: time.pulse(constant(0.0), constant(1.0), constant(2.0), "smooth", constant(0.0)), frames)
    assert np.abs(smooth - (0.5 - np.cos(np.pi * t) / 2)).max() < 1e-5
    ramp = play(lambda x: time.time_ramp(constant(1.0), constant(3.0), constant(2.0), constant(0.5), "linear", None), frames)
    assert np.abs(ramp - np.clip(1 + (t - 0.5), 1, 3)).max() < 1e-5
    strays = play(lambda x: time.wander(constant(-1.0), constant(1.0), constant(0.5), constant(1, "int")), [0.0] * 900)
    assert strays.min() >= -1
    assert strays.max() <= 1
    assert np.ptp(strays) > 1
    assert np.abs(np.diff(strays)).max() < 0.15


def layered(kind: str, **values: object) -> Effect:
    return Effect(name="t", layers=[Layer(id="l", name="x", kind=kind, values=values)])


def test_trails_keep_earlier_frames_the_same_on_both_ways() -> None:
    compiled = compile_effect(layered("trails", length=0.5), Material())
    program, states = compiled.program.final, (State(), State())
    pictures = [np.full((12, 16, 4), x, np.float32) for x in (0.0, 1.0, 1.0, 1.0)]
    want = 0.0
    for n, picture in enumerate(pictures):
        ours = drawn(program, picture, compiled.inputs, states[0], n)[0]
        theirs = readable(program, picture, compiled.inputs, states[1], n)[0]
        # Half of the last picture stays each thirtieth of a second; the first frame has none before it.
        want = picture[0, 0, 0] if n == 0 else 0.5 * picture[0, 0, 0] + 0.5 * want
        assert np.abs(ours - want).max() < 1e-5
        assert np.abs(ours - theirs).max() < 1e-5


def test_a_frame_asked_for_again_is_the_same_and_state_survives_an_edit() -> None:
    from sunglaze.core.camera.cast import StandIn

    camera = StandIn(90, 160)
    before = layered("trails", length=0.9)
    after = before.model_copy(update={"layers": [*before.layers, fill("tint", "#ff0000", blend="multiply", opacity=0.0)]})
    playback, other = Playback(), Playback()

    def at(of: Playback, effect: Effect, n: int) -> np.ndarray:
        compiled = compile_effect(effect, Material())
        return of.at(compiled.program.final, compiled.inputs, camera, camera.moment(n, Reads()))

    for n in range(8):
        once = at(playback, before, n).copy()
        assert np.array_equal(at(playback, before, n), once)
        at(other, before, n)
    edited = at(playback, after, 8)
    assert np.array_equal(edited, at(other, before, 8))
    # A playback that begins here steps through what it missed; one that forgot it shows another picture.
    assert np.array_equal(at(Playback(), after, 8), edited)
    forgotten = at(Playback(frame=7), after, 8)
    assert np.abs(forgotten.view(np.uint8).astype(int) - edited.view(np.uint8)).max() > 10
