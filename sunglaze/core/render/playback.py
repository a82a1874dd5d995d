"""Playing an effect frame by frame: state goes from frame to frame, and survives edits, since cells are kept by node.

Frames may be asked for again (after a control moved), left out (a display slower than 30 a second), or out of order.
"""

from __future__ import annotations

from dataclasses import dataclass, field

from sunglaze.core.camera.cameras import Camera
from sunglaze.core.effect.compiling import Compiled
from sunglaze.core.render.frames import Regions, passed, regions_for, render, stages
from sunglaze.core.render.kernel import Words
from sunglaze.core.render.machine import Surface
from sunglaze.core.render.running import Room
from sunglaze.core.shading.program import State

FARTHEST_BACK = 300
"""So many frames are stepped through at most when the clock jumps: ten seconds of state."""


@dataclass
class Playback:
    """What is remembered between frames of one effect at one size."""

    state: State = field(default_factory=State)
    room: Room = field(default_factory=Room)
    frame: int = -1
    _before: State = field(default_factory=State)

    def at(self, compiled: Compiled, camera: Words, width: int, frame: int, regions: Regions | None = None) -> Words:
        """The effect's picture as words, BGRA."""
        self._go_to(compiled, frame, width, camera.shape[0])
        return render(compiled, camera, width, frame, self.state, self.room, regions)

    def stages_at(
        self, compiled: Compiled, camera: Words, width: int, frame: int, cells: dict[str, float], regions: Regions | None = None
    ) -> list[Words]:
        """The picture after each layer; state cells are those of another playback, which shows the effect large."""
        self.state.cells = dict(cells)
        self.frame = frame
        return stages(compiled, camera, width, frame, self.state, self.room, regions)

    def _go_to(self, compiled: Compiled, frame: int, width: int, rows: int) -> None:
        if frame == self.frame:
            self.state = _copy(self._before)
            return
        if frame < self.frame or frame > self.frame + FARTHEST_BACK:
            self.state = State()
            self.frame = max(-1, frame - FARTHEST_BACK - 1)
        for missed in range(self.frame + 1, frame):
            passed(compiled, self.state, missed, width, rows)
        self.frame = frame
        self._before = _copy(self.state)


def _copy(state: State) -> State:
    kept: dict[str, Surface] = {name: surface.copy() for name, surface in state.kept.items()}
    return State(dict(state.cells), kept)


def play_to(compiled: Compiled, camera: Camera, width: int, frame: int) -> Words:
    """The picture of a frame with all state run from frame 0."""
    playback = Playback()
    program = compiled.program.final
    if program.plan.kept:
        for number in range(frame):
            playback.at(compiled, camera.frame(number), width, number, regions_for(program, camera, number))
    else:
        words = camera.frame(0)
        for number in range(frame):
            passed(compiled, playback.state, number, width, words.shape[0])
        playback.frame = frame - 1
    return playback.at(compiled, camera.frame(frame), width, frame, regions_for(program, camera, frame))
