"""The clock of a viewer: which frame is due, playing at a speed or held."""

from __future__ import annotations

import time
from dataclasses import dataclass, field

from sunglaze.core.moment.moment import RATE


@dataclass
class ViewClock:
    """Times are seconds of `time.monotonic`. `loop`: after so many frames it begins anew; 0 for never."""

    playing: bool = True
    speed: float = 1.0
    started: float = field(default_factory=time.monotonic)
    held_at: int = 0
    loop: int = 0

    def frame(self, now: float) -> int:
        """The frame that the clock stands at."""
        if not self.playing:
            return self.held_at
        frame = int((now - self.started) * RATE * self.speed)
        if self.loop and frame >= self.loop:
            # Every turn begins at its own first frame, so ticks need to know nothing of it.
            self.started += frame // self.loop * self.loop / (RATE * self.speed)
            frame %= self.loop
        return frame

    def tick(self, frame: int) -> float:
        """When a frame begins."""
        return self.started + frame / (RATE * self.speed)

    def set(self, now: float, playing: bool | None, speed: float | None, frame: int | None) -> None:
        """Play or hold, at a speed, from a frame on; what is none stays as it is."""
        at = self.frame(now) if frame is None else max(0, frame)
        self.speed = speed or self.speed
        self.held_at, self.started = at, now - at / (RATE * self.speed)
        self.playing = self.playing if playing is None else playing
