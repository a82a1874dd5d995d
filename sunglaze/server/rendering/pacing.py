"""How often, and at which size, a viewer gets pictures: so that a moving one keeps its beat on the processor that there is."""

from __future__ import annotations

from dataclasses import dataclass, field

from sunglaze.core.moment.moment import RATE
from sunglaze.server.rendering.clock import ViewClock

SOONEST, SOONEST_IN_GESTURE = 0.6 / RATE, 1.1 / RATE
"""Least seconds between frames."""
GESTURE_SECONDS = 0.1
TILE_SECONDS, TILE_SECONDS_IN_GESTURE = 0.2, 0.4
TILE_PATIENCE = 0.4
"""Seconds that tiles wait, once they are due, for a time in which they do not hold up the next frame."""
STEPS = (1.0, 2 / 3, 1 / 2, 1 / 3)
"""Sizes of the moving picture, as parts of the screen's; an effect that takes too long shows smaller, a paused one never."""
TOO_LONG, TOO_LONG_BY_STEPS = 0.030, 0.020
"""Seconds a frame takes from which the next smaller size is taken, by machine code and by steps: beside these, machine code is
being made."""
SHORT_ENOUGH, SHORT_ENOUGH_FOR_SURE = 0.6, 0.8
"""The part of them that a frame of the next larger size may be expected to take where it is tried: by a guess, and once it is
known what a frame takes at any size."""
ALWAYS = 0.004
"""Seconds that a frame takes at any size, until that is known."""
SETTLED = 5
"""Frames at a size by which it is known what they take."""


@dataclass
class Pace:
    """The place of a size among STEPS, and seconds that a frame takes at it, of which `always` at any. `frames`: so many were
    shown at this size, which took `together`; `before`: the place of the size before, and seconds there."""

    size: int = 0
    most: float = TOO_LONG
    seconds: float = 0.0
    always: float = ALWAYS
    is_sure: bool = False
    frames: int = 0
    together: float = 0.0
    before: tuple[int, float] | None = None

    def took(self, seconds: float) -> None:
        """Choose the size of the next moving frames by how long the last ones took."""
        self.seconds = seconds if not self.seconds else 0.8 * self.seconds + 0.2 * seconds
        self.frames, self.together = self.frames + 1, self.together + seconds
        if self.frames == SETTLED:
            self._learn()
        to = self.size
        if self.seconds > self.most:
            to = min(to + 1, len(STEPS) - 1)
        elif to and self.frames >= SETTLED:
            enough = SHORT_ENOUGH_FOR_SURE if self.is_sure else SHORT_ENOUGH
            to -= self._expected(to - 1) < enough * self.most
        if to != self.size:
            self.before = self.size, self.seconds
            self.seconds, self.size, self.frames, self.together = self._expected(to), to, 0, 0.0

    def _learn(self) -> None:
        """What a frame takes at any size, by what it takes at two."""
        if self.before is not None:
            then, now = STEPS[self.before[0]] ** 2, STEPS[self.size] ** 2
            taken = self.together / self.frames
            found = (taken * then - self.before[1] * now) / (then - now)
            self.always, self.is_sure = min(max(found, 0.0), taken), True

    def _expected(self, size: int) -> float:
        """What a frame of another size will take, until it was measured."""
        always = min(self.always, self.seconds)
        return always + (self.seconds - always) * (STEPS[size] / STEPS[self.size]) ** 2


@dataclass
class Pacing:
    """When frames and tiles were sent, and what follows. `building`: an edit is being built, which has the processor meanwhile.

    Steps take longer than machine code: they have a pace of their own.
    """

    building: bool = False
    last_size: int = 0
    last_frame: float = 0.0
    last_tiles: float = 0.0
    tiles_took: float = 0.0
    last_change: float = 0.0
    paces: dict[bool, Pace] = field(default_factory=lambda: {False: Pace(), True: Pace(2, TOO_LONG_BY_STEPS)})

    def soonest(self, now: float) -> float:
        """Least seconds between frames."""
        return SOONEST_IN_GESTURE if self.building or now - self.last_change < GESTURE_SECONDS else SOONEST

    def size(self, quick: bool) -> int:
        """The place among STEPS of the moving picture's size: the smallest while an edit is being built. It grows by one step a
        frame, since a frame that takes much longer than the one before comes late. `quick`: it is taken in steps."""
        wanted = len(STEPS) - 1 if self.building else self.paces[quick].size
        self.last_size = max(wanted, self.last_size - 1)
        return self.last_size

    def took(self, quick: bool, seconds: float) -> None:
        """A moving frame took so long; while an edit is built, that says nothing."""
        if not self.building:
            self.paces[quick].took(seconds)

    def tiles_due(self, now: float, clock: ViewClock, dirty: bool, at_once: bool) -> bool:
        """Whether tiles should be sent. `dirty`: something has changed; `at_once`: they hold up no frame."""
        seldom = TILE_SECONDS_IN_GESTURE if now - self.last_change < GESTURE_SECONDS else TILE_SECONDS
        if now - self.last_tiles <= seldom or not (dirty or clock.playing):
            return False
        if at_once or not clock.playing or now - self.last_tiles > seldom + TILE_PATIENCE:
            return True
        return now + self.tiles_took < clock.tick(clock.frame(now) + 1)
