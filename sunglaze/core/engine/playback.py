"""Playing a program frame by frame: state goes from frame to frame, and survives edits, since cells are kept by node.

Frames may be asked for again (after a control moved), left out (a display slower than 30 a second), or out of order.
"""

from __future__ import annotations

import time
from collections.abc import Callable
from dataclasses import dataclass, field

from sunglaze.core.engine.room import Room
from sunglaze.core.engine.running import draw
from sunglaze.core.moment.moment import Moment, Source
from sunglaze.core.passes.program import Inputs, Program, State
from sunglaze.core.targets.fitting import Kept
from sunglaze.core.targets.memory import Surface

FARTHEST_BACK = 300
"""So many frames are stepped through at most when the clock jumps: ten seconds of state."""
DRAWN_BACK = 60
"""So many of them are drawn where every one leaves its mark in a kept picture: two seconds of trails."""


@dataclass
class Playback:
    """What is remembered between frames of one program at one size."""

    state: State = field(default_factory=State)
    room: Room = field(default_factory=Room)
    frame: int = -1
    goes_on: Callable[[], None] = lambda: None
    """Told of each frame that is stepped through."""
    left_out: int = 0
    """How many frames of the last two seconds' were not stepped through at a jump of the clock, for want of time."""
    _left_at: int = 0
    _before: State = field(default_factory=State)

    def at(self, program: Program, inputs: Inputs, source: Source, moment: Moment, most: float | None = None) -> Surface:
        """The outputs in a moment, as `draw` gives them. `source` gives the moments that were missed since the last one; stepping
        through them takes `most` seconds, where that is given: what does not fit in is left out, the latest last."""
        frame = moment.clock.frame
        if not self._left_at <= frame <= self._left_at + DRAWN_BACK:
            self.left_out = 0
        if frame == self.frame:
            self.state = self._before.copy()
        else:
            if frame < self.frame or frame > self.frame + FARTHEST_BACK:
                self.state = State()
                self.frame = max(-1, frame - FARTHEST_BACK - 1)
            began, stepped, missed = time.monotonic(), 0, self.frame + 1
            turned: frozenset[str] = frozenset()
            while missed < frame:
                # Far back, what leaves its mark in every frame does so once; what does it now and then, each time.
                turned = self._miss(program, inputs, source, missed, turned if frame - missed > DRAWN_BACK else frozenset())
                self.goes_on()
                stepped, missed, spent = stepped + 1, missed + 1, time.monotonic() - began
                if most is not None and spent > most / 2:
                    goes_on_at = max(missed, frame - int(stepped * (most - spent) / spent))
                    self.left_out, self._left_at, missed, most = goes_on_at - missed, frame, goes_on_at, None
            self.frame = frame
            self._before = self.state.copy()
        return draw(program, moment, inputs, self.state, self.room)

    def _miss(self, program: Program, inputs: Inputs, source: Source, frame: int, known: frozenset[str]) -> frozenset[str]:
        """A frame that nobody saw: state goes on over it. It is drawn where something that it shows is kept from then on.
        `known`: cells for which it need not be. Gives the cells that turned in it."""
        before = State(dict(self.state.cells), self.state.kept, dict(self.state.faces)) if program.plan.kept else None
        _pass(program, inputs, source, frame, self.state)
        turned = program.signals.turned
        if before is not None and turned - known:
            self.state = before
            draw(program, source.moment(frame, program.reads), inputs, before, self.room)
        return turned

    def stages_at(self, program: Program, inputs: Inputs, moment: Moment, large: State) -> list[Surface]:
        """Every output as words, for small screens; all state is that of another playback, which shows the effect large."""
        columns, rows = moment.screen.columns, moment.screen.rows
        kept = {name: Kept(one.at(columns, rows), columns).copy() for name, one in large.kept.items()}
        self.state = State(dict(large.cells), kept, dict(large.faces))
        self.frame = moment.clock.frame
        out = draw(program, moment, inputs, self.state, self.room, threads=1)
        return [out[first : first + rows] for first in range(0, out.shape[0], rows)]


def _pass(program: Program, inputs: Inputs, source: Source, frame: int, state: State) -> None:
    """Advance state cells over a frame that nobody saw."""
    program.advance(source.moment(frame, program.reads.numbers), inputs, state, drawn=False)


def played_to(program: Program, inputs: Inputs, source: Source, frame: int) -> Playback:
    """A playback in which all state was run from frame 0 to the one before this."""
    playback = Playback()
    for number in range(frame):
        if program.plan.kept:
            playback.at(program, inputs, source, source.moment(number, program.reads))
        else:
            _pass(program, inputs, source, number, playback.state)
            playback.frame = number
    return playback


def play_to(program: Program, inputs: Inputs, source: Source, frame: int) -> Surface:
    """The outputs in a frame with all state run from frame 0."""
    playback = played_to(program, inputs, source, frame)
    return playback.at(program, inputs, source, source.moment(frame, program.reads))
