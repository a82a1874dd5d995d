"""The size at which a picture moves follows from how long its frames take."""

from __future__ import annotations

import time
from collections.abc import Iterable

import numpy as np
import pytest
from numpy.typing import NDArray

from sunglaze.core.camera.cameras import moment_of
from sunglaze.core.effect.compiling import compile_effect
from sunglaze.core.effect.document import Effect, Layer
from sunglaze.core.effect.literals import Material
from sunglaze.core.engine.running import prepare
from sunglaze.core.moment.moment import Face, Moment, Reads
from sunglaze.core.targets.memory import Words, words
from sunglaze.server.rendering.messages import FRAME, SetEffects
from sunglaze.server.rendering.viewing import (
    AHEAD,
    SHORT_ENOUGH,
    STEPS,
    TILE_PATIENCE,
    TILE_SECONDS,
    TOO_LONG,
    Pace,
    Shown,
    Viewer,
)


def played(pace: Pace, whole: float, frames: int, always: float = 0.004) -> list[int]:
    """Places of the sizes of so many frames of an effect that takes `whole` seconds at the full size, `always` of it at any."""
    sizes = []
    for _ in range(frames):
        sizes.append(pace.size)
        pace.took(always + (whole - always) * STEPS[pace.size] ** 2)
    return sizes


@pytest.mark.parametrize("whole", [0.005, 0.02, 0.029, 0.035, 0.05, 0.08, 0.15, 0.4])
def test_it_settles_at_a_size_that_keeps_up(whole: float) -> None:
    sizes = played(Pace(), whole, 300)
    assert len(set(sizes[100:])) == 1, "the size goes to and fro"
    taken = 0.004 + (whole - 0.004) * STEPS[sizes[-1]] ** 2
    assert taken <= TOO_LONG or sizes[-1] == len(STEPS) - 1
    if sizes[-1]:
        larger = 0.004 + (whole - 0.004) * STEPS[sizes[-1] - 1] ** 2
        assert larger > SHORT_ENOUGH * TOO_LONG, "it could be larger"


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
    viewer = Viewer(1)
    viewer.paces = {False: Pace(0), True: Pace(2)}
    assert viewer._size(quick) == (2 if quick else 0)
    viewer.building = True
    assert viewer._size(quick) == len(STEPS) - 1


def test_the_picture_grows_by_one_size_a_frame() -> None:
    viewer = Viewer(1, last_size=3)
    assert [viewer._size(quick=False) for _ in range(5)] == [2, 1, 0, 0, 0]
    viewer.building = True
    assert viewer._size(quick=False) == len(STEPS) - 1, "it becomes small at once"


@pytest.mark.parametrize("playing", [True, False])
def test_a_viewer_that_owes_answers_does_not_keep_the_thread_awake(playing: bool) -> None:
    """It asked to be looked after every millisecond."""
    viewer = Viewer(1, playing=playing)
    assert viewer.next_due(viewer._start + 0.05) == 0, "it has shown nothing yet"
    viewer.unacknowledged[FRAME] = AHEAD
    assert viewer.next_due(viewer._start + 0.05) >= 0.01


def test_tiles_give_way_to_frames_but_not_for_ever() -> None:
    viewer = Viewer(1)
    tick = viewer._start + 10
    viewer.last_tiles, viewer.tiles_took = tick - TILE_SECONDS - 0.01, 0.02
    assert viewer._tiles_due(tick + 0.005), "they are done before the next frame"
    assert not viewer._tiles_due(tick + 0.02)
    viewer.last_tiles = tick - TILE_SECONDS - TILE_PATIENCE
    assert viewer._tiles_due(tick + 0.02), "nobody waits longer"
    viewer.last_tiles = tick
    assert not viewer._tiles_due(tick + 0.005), "they were there a moment ago"


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

    def regions(self, _number: int, _names: Iterable[str]) -> dict[str, NDArray[np.uint8]]:
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
    viewer = Viewer(1)
    viewer.show({"t": Shown(effect, compiled, Material(), SlowCamera(0.06))}, SetEffects(1, {"t": effect}), viewer._start)
    sizes = []
    for n in range(12):
        viewer.unacknowledged[FRAME] = 0
        viewer.produce(viewer._start + (n + 1) / 15, lambda reply: sizes.append(reply.header.get("width")))
    assert [size for size in sizes if size is not None][-1] == 540
