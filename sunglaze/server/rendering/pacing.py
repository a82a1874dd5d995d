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
TOO_LONG, TOO_LONG_BY_STEPS, SHORT_ENOUGH, ALWAYS = 0.030, 0.020, 0.6, 0.004
"""Seconds a frame takes from which the next smaller size is taken, by machine code and by steps: beside these, machine code is
being made. The part of them at which the next larger size may be tried. Seconds that a frame takes at any size."""


@dataclass
class Pace:
    """The place of a size among STEPS, and seconds that a frame takes at it."""

    size: int = 0
    most: float = TOO_LONG
    seconds: float = 0.0

    def took(self, seconds: float) -> None:
        """Choose the size of the next moving frames by how long the last ones took."""
        self.seconds = seconds if not self.seconds else 0.8 * self.seconds + 0.2 * seconds
        to = self.size
        if self.seconds > self.most:
            to = min(to + 1, len(STEPS) - 1)
        elif to and self._expected(to - 1) < SHORT_ENOUGH * self.most:
            to -= 1
        self.seconds, self.size = self._expected(to), to

    def _expected(self, size: int) -> float:
        """What a frame of another size will take, until it was measured."""
        return ALWAYS + max(0.0, self.seconds - ALWAYS) * (STEPS[size] / STEPS[self.size]) ** 2


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
