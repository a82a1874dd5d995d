"""What is kept from frame to frame: the same at any frame rate, and at any size of the screen."""

from __future__ import annotations

import time
from collections.abc import Callable
from dataclasses import replace
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from numpy.typing import NDArray

from sunglaze.core.camera.cameras import screen_size
from sunglaze.core.camera.cast import Sitting, StandIn
from sunglaze.core.effect.compiling import Compiled, compile_effect
from sunglaze.core.effect.document import Effect, Layer
from sunglaze.core.effect.literals import Material
from sunglaze.core.effect.shipped import shipped
from sunglaze.core.engine import running
from sunglaze.core.engine.playback import Playback
from sunglaze.core.moment.moment import Moment, Reads, Screen, Source
from sunglaze.core.moment.rehearsal import Finger, Rehearsal, Rehearsed, Step
from sunglaze.core.passes.program import State
from sunglaze.core.targets import numpy as reference
from sunglaze.core.targets.fitting import Kept, fitted
from sunglaze.core.targets.memory import parts_of, planes
from sunglaze.store import effects
from sunglaze.store.database import open_database
from sunglaze.store.files import material_of

Picture = NDArray[np.uint8]
SIZE = screen_size("9:16", 90)
# Taps fall between the frames that slower screens show.
TAPS = Rehearsal(
    steps=tuple(Step(frame=n, touch=Finger(down=down)) for n, down in ((7, True), (10, False), (25, True), (28, False)))
)
SEEN = (12, 24, 30)


def of(kind: str, **values: Any) -> Compiled:
    return compile_effect(Effect(name="t", layers=[Layer(id="k", name="K", kind=kind, values=values)]), Material())


def shots(compiled: Compiled, source: Source, every: int) -> list[Picture]:
    """SEEN, where every n-th frame is drawn."""
    program, playback = compiled.program.final, Playback()
    shown = {
        n: playback.at(program, compiled.inputs, source, source.moment(n, program.reads)) for n in range(0, SEEN[-1] + 1, every)
    }
    return [parts_of(shown[n], SIZE[0])[..., :3].copy() for n in SEEN]


def differences(compiled: Compiled) -> float:
    """The largest mean difference of a picture at 15 and 10 frames a second from one at 30, of 255."""
    source = Rehearsed(StandIn(*SIZE, Sitting("kite-flyer", "talks")), TAPS)
    running.prepare(compiled.program.final, "bytes", quick=True)
    truth = shots(compiled, source, 1)
    assert any((truth[0] != other).any() for other in truth[1:]), "it moves"
    slower = [shots(compiled, source, every) for every in (2, 3)]
    return max(float(np.abs(a.astype(int) - b).mean()) for some in slower for a, b in zip(truth, some, strict=True))


@pytest.mark.parametrize(
    ("kind", "values"),
    [
        ("trails", {}),
        ("trails", {"how": "lighten", "grow": 1.03, "turn": 2.0}),
        ("trails", {"how": "darken", "length": 0.95}),
        ("freeze", {}),
        ("freeze", {"parts": 3, "flash": 0.8}),
        ("freeze", {"how": "while it holds"}),
        ("freeze", {"how": "for a time", "seconds": 0.4}),
    ],
)
def test_kept_pictures_are_the_same_at_any_frame_rate(kind: str, values: dict[str, Any]) -> None:
    """A trail had differed by 15 of 255 in the mean where every third frame was drawn."""
    assert differences(of(kind, **values)) == 0.0


@pytest.mark.slow
def test_every_layer_and_demo_effect_is_the_same_at_any_frame_rate(seeded: Path) -> None:
    every: dict[str, Compiled] = {}
    with open_database(seeded).begin() as session:
        for kept in effects.every(session):
            every[kept.id] = compile_effect(kept.effect, material_of(session, kept.effect))
    every |= {kind: of(kind) for kind in shipped()}
    moving = {name: one for name, one in every.items() if one.program.final.plan.kept or one.program.final.keeps}
    assert len(moving) > 25
    found = {name: differences(one) for name, one in moving.items()}
    assert {name: number for name, number in found.items() if number >= 0.5} == {}


@pytest.mark.parametrize("engine", [running.run, reference.run])
@pytest.mark.parametrize("how", ["mix", "lighten"])
def test_a_trail_fades_by_the_time_that_passed_where_no_picture_was_missed(engine: Callable[..., Any], how: str) -> None:
    """A phone has no picture of the frames that it left out: 0.8 a frame at 30 a second, whatever it draws."""
    compiled = of("trails", length=0.8, how=how)
    white, black = np.ones((4, 8, 3), np.float32), np.zeros((4, 8, 3), np.float32)
    for every in (1, 2, 3):
        state = State()
        for n in range(7):
            moment = Moment.of(white if n == 0 else black, n)
            if n % every:
                compiled.program.final.advance(moment, compiled.inputs, state, drawn=False)
            else:
                shown = engine(compiled.program.final, moment, compiled.inputs, state)[-1]
        assert shown == pytest.approx(np.full((4, 8, 3), 0.8**6), abs=1e-5), every


def test_a_jump_of_the_clock_finds_what_was_held_on_its_way() -> None:
    source, compiled = Rehearsed(StandIn(*SIZE, Sitting("kite-flyer", "talks")), TAPS), of("freeze")
    program = compiled.program.final
    played = shots(compiled, source, 1)[0]
    jumped = Playback().at(program, compiled.inputs, source, source.moment(24, program.reads))
    held = Playback().at(program, compiled.inputs, source, source.moment(7, program.reads))
    assert np.array_equal(parts_of(jumped, SIZE[0])[..., :3], played)
    assert np.array_equal(jumped, held)


def test_a_long_jump_finds_what_was_held_behind_a_trail() -> None:
    """A trail leaves its mark in every frame; what is frozen far back, behind one that fades quickly, is found all the same."""
    layers = [
        Layer(id="t", name="T", kind="trails", values={"length": 0.3}),
        Layer(id="f", name="F", kind="freeze"),
    ]
    compiled = compile_effect(Effect(name="t", layers=layers), Material())
    tap = Rehearsal(steps=(Step(frame=17, touch=Finger(down=True)), Step(frame=20, touch=Finger(down=False))))
    source, program = Rehearsed(StandIn(*SIZE, Sitting("kite-flyer", "talk")), tap), compiled.program.final
    playback = Playback()
    for frame in range(18):
        held = playback.at(program, compiled.inputs, source, source.moment(frame, program.reads))
    jumped = Playback().at(program, compiled.inputs, source, source.moment(150, program.reads))
    # Of the trail before the tap one frame in the row was left out.
    off = np.abs(parts_of(jumped, SIZE[0])[..., :3].astype(int) - parts_of(held, SIZE[0])[..., :3])
    other = Playback().at(program, compiled.inputs, source, source.moment(10, program.reads))
    assert off.mean() < 0.5
    assert np.abs(parts_of(other, SIZE[0])[..., :3].astype(int) - parts_of(held, SIZE[0])[..., :3]).mean() > 2


def test_the_first_frame_counts_though_nobody_saw_it() -> None:
    program = of("trails").program.final
    program.advance(Moment.of(np.zeros((4, 8, 3), np.float32), 0), of("trails").inputs, State(), drawn=False)
    assert program.signals.turned


# ---- sizes ----
def test_what_is_kept_fills_a_screen_of_another_shape_from_its_middle() -> None:
    """A ramp stays one, by whatever way it is made larger or smaller."""
    down, across = np.mgrid[:160, :90].astype(np.float32)
    picture = np.stack([across, down, np.full_like(down, 7)], axis=-1)
    assert fitted(picture, 90, 160) is picture
    half = fitted(picture, 45, 80)
    assert half[40, 10] == pytest.approx([20.5, 80.5, 7])
    double = fitted(picture, 180, 320)
    assert double[101, 61] == pytest.approx([30.25, 50.25, 7])
    wide = fitted(picture, 160, 90)
    # 51 rows are left of 160, from row 55 on.
    assert wide.shape == (90, 160, 3)
    assert wide[45, 80, 0] == pytest.approx(44.8, abs=0.5)
    assert wide[0, 80, 1] == pytest.approx(55, abs=0.6)
    assert wide[89, 80, 1] == pytest.approx(104, abs=0.6)


def test_kept_planes_are_copied_whole() -> None:
    one = Kept(planes(np.full((4, 6, 3), 0.5, np.float32)), 6)
    other = one.copy()
    other.surface[:] = 0
    assert one.at(6, 4) is one.surface
    assert (one.at(6, 4)[:, :, :6] == 0.5).all()
    assert one.at(3, 2).shape[:2] == (3, 2)


TOUCHED = Rehearsal(steps=(Step(frame=2, touch=Finger(down=True)), Step(frame=4, touch=Finger(down=False))))


class Still:
    """A camera of one colour that changes with the frame; a finger is down for two frames from frame 2 on."""

    def __init__(self, columns: int, rows: int) -> None:
        self.screen = Screen(columns, rows)

    def moment(self, frame: int, _: Reads) -> Moment:
        picture = np.full((self.screen.rows, self.screen.columns, 4), 255, np.uint8)
        picture[..., 0] = 40 + frame
        return replace(TOUCHED.at(Moment.of(picture, frame)), screen=self.screen)


@pytest.mark.parametrize("sizes", [((36, 64), (18, 32)), ((18, 32), (36, 64)), ((36, 64), (64, 36)), ((64, 36), (20, 20))])
def test_what_is_frozen_stays_so_when_the_screen_becomes_another(sizes: tuple[tuple[int, int], tuple[int, int]]) -> None:
    """It had turned black."""
    compiled, playback = of("freeze"), Playback()
    program = compiled.program.final
    for frame in range(8):
        columns, rows = sizes[frame > 4]
        camera = Still(columns, rows)
        seen = playback.at(program, compiled.inputs, camera, camera.moment(frame, program.reads))
        red = parts_of(seen, columns)[..., 2]
        assert (red == (42 if frame >= 2 else 40 + frame)).all(), frame
        tile = Still(9, 16)
        small = Playback().stages_at(compiled.program, compiled.inputs, tile.moment(frame, program.reads), playback.state)
        assert (parts_of(small[-1], 9)[..., 2] == red[0, 0]).all(), "tiles show what is shown large"


def test_what_was_left_out_for_want_of_time_is_counted_for_two_seconds() -> None:
    compiled = of("trails", length=0.9)
    program, source = compiled.program.final, StandIn(*SIZE)
    playback = Playback(goes_on=lambda: time.sleep(0.02))

    def draw(frame: int, most: float | None) -> int:
        playback.at(program, compiled.inputs, source, source.moment(frame, program.reads), most)
        return playback.left_out

    draw(0, None)
    assert draw(20, None) == 0, "whoever looks at a frame waits for all of it"
    left = draw(220, 0.2)
    assert 100 < left < 199
    # It is said as long as somebody may see it.
    assert draw(221, 0.2) == draw(270, None) == left
    assert draw(290, None) == 0
