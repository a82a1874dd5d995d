"""The size at which a picture moves follows from how long its frames take."""

from __future__ import annotations

import time
from collections.abc import Iterable

import numpy as np
import pytest
from numpy.typing import NDArray

from sunglaze.core.camera.cameras import Size, moment_of
from sunglaze.core.effect.address import address
from sunglaze.core.effect.compiling import compile_effect
from sunglaze.core.effect.document import Effect, Layer
from sunglaze.core.effect.literals import Material
from sunglaze.core.engine.running import prepare
from sunglaze.core.moment.moment import Face, Moment, Reads
from sunglaze.core.targets.memory import Words, words
from sunglaze.server.rendering.clock import ViewClock
from sunglaze.server.rendering.messages import FRAME, Move, Reply, SetEffects
from sunglaze.server.rendering.pacing import SHORT_ENOUGH_FOR_SURE, STEPS, TILE_PATIENCE, TILE_SECONDS, TOO_LONG, Pace, Pacing
from sunglaze.server.rendering.viewing import AHEAD, Shown, Viewer


def shown() -> Shown:
    """An effect without layers."""
    effect = Effect(name="t")
    return Shown(effect, compile_effect(effect, Material()), Material(), None)


def played(pace: Pace, whole: float, frames: int, always: float = 0.004) -> list[int]:
    """Places of the sizes of so many frames of an effect that takes `whole` seconds at the full size, `always` of it at any."""
    sizes = []
    for _ in range(frames):
        sizes.append(pace.size)
        pace.took(always + (whole - always) * STEPS[pace.size] ** 2)
    return sizes


@pytest.mark.parametrize("always", [0.004, 0.012, 0.02])
@pytest.mark.parametrize("whole", [0.005, 0.02, 0.029, 0.035, 0.05, 0.08, 0.15, 0.4])
def test_it_settles_at_the_largest_size_that_keeps_up(whole: float, always: float) -> None:
    """Whatever part of a frame's time hangs on its size: where most did not, it had stayed at the smallest."""
    always = min(always, whole)
    sizes = played(Pace(), whole, 300, always)
    assert len(set(sizes[100:])) == 1, "the size goes to and fro"
    taken = [always + (whole - always) * step**2 for step in STEPS]
    assert taken[sizes[-1]] <= TOO_LONG or sizes[-1] == len(STEPS) - 1
    if sizes[-1]:
        assert taken[sizes[-1] - 1] > SHORT_ENOUGH_FOR_SURE * TOO_LONG, "it could be larger"


def test_it_grows_when_what_ran_beside_it_has_ended() -> None:
    """An effect whose frames take 14 ms at any size and 8 more at the full one, after three times as much."""
    pace = Pace()
    played(pace, 0.066, 100, 0.042)
    assert pace.size == len(STEPS) - 1
    played(pace, 0.022, 60, 0.014)
    assert pace.size == 0


def test_it_comes_back_when_the_processor_is_free_again() -> None:
    """Within a second of a light effect after a heavy one, and of a heavy hour after a light one."""
    pace = Pace()
    played(pace, 0.3, 100)
    assert pace.size == len(STEPS) - 1
    played(pace, 0.015, 30)
    assert pace.size == 0
    played(pace, 0.3, 15)
    assert pace.size == len(STEPS) - 1


def test_one_late_frame_changes_nothing() -> None:
    pace = Pace()
    played(pace, 0.018, 50)
    pace.took(0.07)
    assert pace.size == 0


@pytest.mark.parametrize("quick", [True, False])
def test_while_an_edit_is_built_frames_are_as_small_as_may_be(quick: bool) -> None:
    pacing = Pacing(paces={False: Pace(0), True: Pace(2)})
    assert pacing.size(quick) == (2 if quick else 0)
    pacing.building = True
    assert pacing.size(quick) == len(STEPS) - 1
    pacing.took(quick, 9.0)
    assert pacing.paces[quick].seconds == 0, "a frame beside a build says nothing"


def test_the_picture_grows_by_one_size_a_frame() -> None:
    pacing = Pacing(last_size=3)
    assert [pacing.size(quick=False) for _ in range(5)] == [2, 1, 0, 0, 0]
    pacing.building = True
    assert pacing.size(quick=False) == len(STEPS) - 1, "it becomes small at once"


@pytest.mark.parametrize("playing", [True, False])
def test_a_viewer_that_owes_answers_does_not_keep_the_thread_awake(playing: bool) -> None:
    """It asked to be looked after every millisecond."""
    viewer = Viewer(1, {"e": shown()}, clock=ViewClock(playing))
    assert viewer.next_due(viewer.clock.started + 0.05) == 0, "it has drawn nothing yet"
    viewer.unacknowledged[FRAME] = AHEAD
    assert viewer.next_due(viewer.clock.started + 0.05) >= 0.01


@pytest.mark.parametrize("playing", [True, False])
@pytest.mark.parametrize("small", [True, False])
def test_a_viewer_that_gets_no_frames_does_not_keep_the_thread_awake(playing: bool, small: bool) -> None:
    """A list, which gets a print alone; or one that waits for its first effect. A core was busy with asking what is due."""
    viewer = Viewer(1, {"e": shown()} if small else {}, small, clock=ViewClock(playing))
    assert viewer.dirty
    assert viewer.next_due(viewer.clock.started + 0.05) >= 0.01


def test_tiles_give_way_to_frames_but_not_for_ever() -> None:
    pacing, clock = Pacing(), ViewClock()

    def due(now: float) -> bool:
        return pacing.tiles_due(now, clock, dirty=True, at_once=False)

    tick = clock.started + 10
    pacing.last_tiles, pacing.tiles_took = tick - TILE_SECONDS - 0.01, 0.02
    assert due(tick + 0.005), "they are done before the next frame"
    assert not due(tick + 0.02)
    pacing.last_tiles = tick - TILE_SECONDS - TILE_PATIENCE
    assert due(tick + 0.02), "nobody waits longer"
    pacing.last_tiles = tick
    assert not due(tick + 0.005), "they were there a moment ago"


def test_the_clock_goes_on_from_where_it_was_held() -> None:
    """At half of the speed fifteen frames a second; held, it stands; moved, it goes on from there."""
    clock = ViewClock(started=100.0)
    assert clock.frame(102.0) == 60
    clock.set(102.0, None, 0.5, None)
    assert clock.frame(104.0) == 90
    clock.set(104.0, False, None, None)
    assert clock.frame(110.0) == 90
    clock.set(110.0, True, None, 7)
    assert (clock.frame(110.0), clock.frame(112.0)) == (7, 37)
    assert clock.tick(37) == pytest.approx(112.0)


class SlowCamera:
    """A still camera that takes long to make each frame, as the stand-in does on a screen that nobody has asked for before."""

    width, height, length = 54, 96, 30

    def __init__(self, seconds: float) -> None:
        self.seconds = seconds

    def frame(self, _number: int) -> Words:
        time.sleep(self.seconds)
        return words(np.full((self.height, self.width, 3), 90, np.uint8), None)

    def sized(self, width: int, height: int) -> SlowCamera:
        self.width, self.height = width, height
        return self

    def regions(self, _number: int, _names: Iterable[str], _size: Size | None = None) -> dict[str, NDArray[np.uint8]]:
        return {}

    def faces(self, _number: int) -> list[Face]:
        return []

    def moment(self, number: int, reads: Reads) -> Moment:
        return moment_of(self, number, reads)


def test_a_slow_camera_makes_no_picture_smaller() -> None:
    """At 16:9 three light layers had moved at 320 by 180: the frames of the stand-in, made whole at any size, were counted."""
    effect = Effect(name="t", layers=[Layer(id="f", name="f", kind="fill", opacity=0.5)])
    compiled = compile_effect(effect, Material())
    prepare(compiled.program.final, "bytes")

    def width_in_the_end() -> int:
        viewer = Viewer(1)
        viewer.show(
            {"t": Shown(effect, compiled, Material(), SlowCamera(0.06))}, SetEffects(1, {"t": effect}), viewer.clock.started
        )
        sizes = []
        for n in range(12):
            viewer.unacknowledged[FRAME] = 0
            viewer.produce(viewer.clock.started + (n + 1) / 15, lambda reply: sizes.append(reply.header.get("width")))
        return int([size for size in sizes if size is not None][-1])

    # Where others keep the machine busy, drawing itself may take too long now and then; the camera would each time.
    assert 540 in (width_in_the_end() for _ in range(5))


def test_a_move_does_not_say_that_an_effect_before_it_is_built() -> None:
    """A blend mode was chosen and opacity turned at once: a frame of the old blend was taken for the answer to both."""
    viewer, frames = Viewer(1), list[Reply]()

    def frame() -> tuple[int, float]:
        """Which serial a frame says it shows, and the opacity that it was drawn with."""
        viewer.unacknowledged[FRAME], viewer.dirty = 0, True
        viewer.produce(viewer.clock.started + len(frames) + 1, frames.append)
        return int(frames[-1].header["serial"]), viewer.shown["e"].effect.layers[0].opacity

    effect = Effect(name="t", layers=[Layer(id="f", name="f", kind="fill")])
    built = Shown(effect, compile_effect(effect, Material()), Material(), None)
    viewer.show({"e": built}, SetEffects(1, {"e": effect}, serial=1), viewer.clock.started)
    assert frame()[0] == 1
    viewer.pacing.building = True
    viewer.move(Move(1, address("f", "layer:opacity"), 0.25, 3), viewer.clock.started)
    assert frame() == (1, 0.25)
    # One that was overtaken, then the one that was waited for: the move is made again on each.
    for serial, building, wanted in ((2, True, 2), (2, False, 3)):
        viewer.pacing.building = building
        viewer.show({"e": built}, SetEffects(1, {"e": effect}, serial=serial), viewer.clock.started)
        assert frame() == (wanted, 0.25)
    viewer.move(Move(1, address("f", "layer:opacity"), 0.5, 4), viewer.clock.started)
    assert frame() == (4, 0.5)
